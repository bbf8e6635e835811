//! The statements that put rows into a table, change them and take them out, in the SQL that databases share.

use dusk_evidence::{Error, Result};

use super::Operation;

/// A statement, and the places of the cells that it takes.
#[derive(Debug)]
pub(crate) struct Statement {
    pub(crate) sql: String,
    pub(crate) takes: Vec<usize>,
}

/// The statements for one table.
#[derive(Debug)]
pub(crate) struct Statements {
    insert: Statement,
    update: Statement,
    remove: Statement,
}

/// A name in SQL.
pub(crate) fn quoted(name: &str) -> String {
    format!("\"{}\"", name.replace('"', "\"\""))
}

impl Statements {
    /// For these columns of a table, found again by those of the key. `mark` writes what stands for a cell, counted
    /// from 1.
    pub(crate) fn of(table: &str, columns: &[&str], key: &[&str], mark: &dyn Fn(usize) -> String) -> Self {
        let table = quoted(table);
        let all: Vec<usize> = (0..columns.len()).collect();
        let is_key = |place: &usize| columns.get(*place).is_some_and(|name| key.contains(name));
        let (by, others): (Vec<usize>, Vec<usize>) = all.iter().copied().partition(is_key);
        let name = |place: &usize| columns.get(*place).map_or_else(String::new, |name| quoted(name));
        let equal = |places: &[usize], first: usize, between: &str| {
            let each = places.iter().zip(first..).map(|(place, number)| format!("{} = {}", name(place), mark(number)));
            each.collect::<Vec<_>>().join(between)
        };
        let names = all.iter().map(name).collect::<Vec<_>>().join(", ");
        let marks = (1..=columns.len()).map(mark).collect::<Vec<_>>().join(", ");
        let insert = format!("INSERT INTO {table} ({names}) VALUES ({marks})");
        let set = equal(&others, 1, ", ");
        let found = equal(&by, others.len() + 1, " AND ");
        // Where the key is all there is, a changed record cannot be.
        let set = if set.is_empty() { equal(&by, 1, ", ") } else { set };
        let remove = format!("DELETE FROM {table} WHERE {}", equal(&by, 1, " AND "));
        Self {
            insert: Statement { sql: insert, takes: all },
            update: Statement {
                sql: format!("UPDATE {table} SET {set} WHERE {found}"),
                takes: others.iter().chain(&by).copied().collect(),
            },
            remove: Statement { sql: remove, takes: by },
        }
    }

    pub(crate) fn of_operation(&self, operation: Operation) -> &Statement {
        match operation {
            Operation::Insert => &self.insert,
            Operation::Update => &self.update,
            Operation::Remove => &self.remove,
        }
    }

    /// A row that is changed or taken out is one row, and there.
    pub(crate) fn refuse_other_than_one(
        &self,
        operation: Operation,
        rows: u64,
        (table, number, cells): (&str, u64, &[&str]),
    ) -> Result<()> {
        let done = match operation {
            Operation::Insert => return Ok(()),
            Operation::Update => "changed",
            Operation::Remove => "removed",
        };
        if rows == 1 {
            return Ok(());
        }
        let by = self.remove.takes.iter().filter_map(|place| cells.get(*place).copied());
        Err(Error::Request(format!(
            "record {number} was to be {done} in {table}, and {rows} of its rows have the key \"{}\"; nothing was written\n  compare with the table itself: write table = \"…\" under [holds]",
            by.collect::<Vec<_>>().join(" + ")
        )))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_row_is_found_by_its_key_alone() {
        let statements = Statements::of("v", &["id", "day", "kg"], &["id", "day"], &|place| format!("${place}"));
        let update = statements.of_operation(Operation::Update);
        assert_eq!(update.sql, "UPDATE \"v\" SET \"kg\" = $1 WHERE \"id\" = $2 AND \"day\" = $3");
        assert_eq!(update.takes, [2, 0, 1]);
        let wrong = statements.refuse_other_than_one(Operation::Remove, 2, ("v", 7, &["H1", "2026-05-01", "3"]));
        assert!(wrong.unwrap_err().to_string().contains("\"H1 + 2026-05-01\""));
    }
}
