//! The statements that put rows into a table, change them and take them out, in the SQL that databases share.

use hashbrown::HashMap;

use super::Operation;

/// A statement, and the places of the cells that it takes.
#[derive(Debug, Clone)]
pub(crate) struct Statement {
    pub(crate) sql: String,
    pub(crate) takes: Vec<usize>,
}

/// A column of the upload as a table has it.
#[derive(Debug, Clone)]
pub(crate) struct LoadColumn {
    pub(crate) name: String,
    /// Rows are found again by it.
    pub(crate) is_key: bool,
    /// The table fills it where nothing is given.
    pub(crate) has_default: bool,
}

/// How a database writes what a statement takes, and what it gives back.
pub(crate) trait Spelling {
    /// The mark of the cell with this number, from 1, for a column.
    fn mark(&self, number: usize, column: usize) -> String;

    /// What a statement ends with that takes these columns, each with the number of its cell.
    fn ending(&self, _takes: &[usize]) -> String {
        String::new()
    }
}

/// The statements for one table, each made when it is needed for the first time.
#[derive(Debug)]
pub(crate) struct Statements {
    table: String,
    columns: Vec<LoadColumn>,
    made: HashMap<(Operation, Vec<usize>), Statement>,
}

/// A name in SQL.
pub(crate) fn quoted(name: &str) -> String {
    // A schema stands before its table with a point between them.
    let part = |name: &str| format!("\"{}\"", name.replace('"', "\"\""));
    name.split('.').map(part).collect::<Vec<_>>().join(".")
}

impl Statements {
    pub(crate) fn of(table: &str, columns: Vec<LoadColumn>) -> Self {
        Self { table: quoted(table), columns, made: HashMap::new() }
    }

    /// The columns by which rows are found again.
    fn key(&self) -> Vec<usize> {
        let key = self.columns.iter().enumerate().filter(|(_, column)| column.is_key);
        key.map(|(place, _)| place).collect()
    }

    /// The statement for a row, and the cells that it takes.
    pub(crate) fn for_row(
        &mut self,
        operation: Operation,
        cells: &[&str],
        spelling: &dyn Spelling,
    ) -> Statement {
        let takes = match operation {
            // What is blank and has a default is left to the table.
            Operation::Insert => {
                let is_given =
                    |(cell, column): (&&str, &LoadColumn)| !(cell.is_empty() && column.has_default);
                let given = cells.iter().zip(&self.columns).map(is_given).enumerate();
                given.filter(|(_, is_given)| *is_given).map(|(place, _)| place).collect()
            }
            Operation::Update | Operation::Remove => Vec::new(),
        };
        if let Some(known) = self.made.get(&(operation, takes.clone())) {
            return known.clone();
        }
        let made = self.make(operation, takes.clone(), spelling);
        self.made.insert((operation, takes), made.clone());
        made
    }

    fn make(&self, operation: Operation, given: Vec<usize>, spelling: &dyn Spelling) -> Statement {
        let table = &self.table;
        let name =
            |place: &usize| self.columns.get(*place).map_or_else(String::new, |column| quoted(&column.name));
        let equal = |places: &[usize], first: usize, between: &str| {
            let each = places.iter().zip(first..);
            let each =
                each.map(|(place, number)| format!("{} = {}", name(place), spelling.mark(number, *place)));
            each.collect::<Vec<_>>().join(between)
        };
        let key = self.key();
        match operation {
            Operation::Insert => {
                let names = given.iter().map(name).collect::<Vec<_>>().join(", ");
                let marks = (1..).zip(&given).map(|(number, place)| spelling.mark(number, *place));
                let marks = marks.collect::<Vec<_>>().join(", ");
                let ending = spelling.ending(&given);
                let sql = if given.is_empty() {
                    format!("INSERT INTO {table} DEFAULT VALUES")
                } else {
                    format!("INSERT INTO {table} ({names}) VALUES ({marks}){ending}")
                };
                Statement { sql, takes: given }
            }
            Operation::Update => {
                let others: Vec<usize> =
                    (0..self.columns.len()).filter(|place| !key.contains(place)).collect();
                let set = if others.is_empty() { equal(&key, 1, ", ") } else { equal(&others, 1, ", ") };
                let found = equal(&key, others.len() + 1, " AND ");
                let takes: Vec<usize> = others.into_iter().chain(key).collect();
                let ending = spelling.ending(&takes);
                Statement { sql: format!("UPDATE {table} SET {set} WHERE {found}{ending}"), takes }
            }
            Operation::Remove => {
                let found = equal(&key, 1, " AND ");
                Statement { sql: format!("DELETE FROM {table} WHERE {found}"), takes: key }
            }
        }
    }

    /// Why a row was not changed or taken out, where there is not the one row of its key.
    pub(crate) fn not_one(&self, operation: Operation, rows: u64, cells: &[&str]) -> Option<String> {
        if operation == Operation::Insert || rows == 1 {
            return None;
        }
        let key = self.key();
        let by = key.iter().filter_map(|place| cells.get(*place).copied()).collect::<Vec<_>>().join(" + ");
        Some(format!("{rows} of its rows have the key \"{by}\", and one of them should change"))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    struct Dollars;

    impl Spelling for Dollars {
        fn mark(&self, number: usize, _: usize) -> String {
            format!("${number}")
        }
    }

    #[test]
    fn a_row_is_found_by_its_key_alone_and_defaults_are_the_tables() {
        let column = |name: &str, is_key, has_default| LoadColumn { name: name.into(), is_key, has_default };
        let columns = vec![column("id", true, true), column("day", true, false), column("kg", false, true)];
        let mut statements = Statements::of("a.v", columns);
        let update = statements.for_row(Operation::Update, &["H1", "D", "3"], &Dollars);
        assert_eq!(update.sql, "UPDATE \"a\".\"v\" SET \"kg\" = $1 WHERE \"id\" = $2 AND \"day\" = $3");
        assert_eq!(update.takes, [2, 0, 1]);
        let insert = statements.for_row(Operation::Insert, &["", "D", ""], &Dollars);
        assert_eq!(
            (insert.sql.as_str(), insert.takes),
            ("INSERT INTO \"a\".\"v\" (\"day\") VALUES ($1)", vec![1])
        );
        let insert = statements.for_row(Operation::Insert, &["7", "D", ""], &Dollars);
        assert_eq!(insert.takes, [0, 1]);
        let why = statements.not_one(Operation::Remove, 2, &["H1", "2026-05-01", "3"]);
        assert!(why.unwrap().contains("\"H1 + 2026-05-01\""));
    }
}
