//! SQLite, by the library of its makers.

use std::io::Read as _;
use std::path::{Path, PathBuf};

use rusqlite::types::ValueRef;
use rusqlite::{Connection, OpenFlags};

use super::changes::{Spelling, Statement, Statements, quoted};
use super::{
    Database, LoadTable, LoadedRows, Operation, TableColumn, TableLoad, TableRule, known_table, load_columns,
    script,
};
use dusk_evidence::{Error, Result};
use dusk_values::Decimal;

/// What every SQLite file begins with.
const FIRST_BYTES: &[u8] = b"SQLite format 3\0";

#[derive(Debug)]
struct Sqlite {
    path: PathBuf,
    connection: Connection,
}

pub(super) fn open(path: &Path) -> Result<Option<Box<dyn Database>>> {
    let mut head = Vec::new();
    let file = std::fs::File::open(path).map_err(Error::reading(path))?;
    file.take(FIRST_BYTES.len() as u64).read_to_end(&mut head).map_err(Error::reading(path))?;
    if head != FIRST_BYTES {
        return Ok(None);
    }
    let flags = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX;
    let connection = Connection::open_with_flags(path, flags).map_err(broken(path))?;
    Ok(Some(Box::new(Sqlite { path: path.to_path_buf(), connection })))
}

fn broken(path: &Path) -> impl Fn(rusqlite::Error) -> Error {
    let name = path.display().to_string();
    move |error| Error::Source {
        source_name: name.clone(),
        says: format!("is a database that cannot be read: {error}"),
        hint: "check that it was copied completely, and that no other program is writing to it".into(),
    }
}

impl Sqlite {
    fn list<T>(
        &self,
        sql: &str,
        parameters: &[&str],
        read: impl Fn(&rusqlite::Row<'_>) -> rusqlite::Result<T>,
    ) -> Result<Vec<T>> {
        let broken = broken(&self.path);
        let mut statement = self.connection.prepare(sql).map_err(&broken)?;
        let rows = statement.query_map(rusqlite::params_from_iter(parameters), read).map_err(&broken)?;
        rows.collect::<rusqlite::Result<Vec<T>>>().map_err(broken)
    }

    /// The names of the columns of a table that has to be there.
    fn known_columns(&self, table: &str) -> Result<Vec<String>> {
        let tables = self.tables()?;
        let table = known_table(&tables, table, &self.path.display().to_string())?;
        Ok(self.described(table)?.into_iter().map(|column| column.name).collect())
    }

    /// The columns of a table, as far as the database itself describes them.
    fn described(&self, table: &str) -> Result<Vec<TableColumn>> {
        let mut columns = self.list(
            "SELECT name, type, \"notnull\", dflt_value, pk FROM pragma_table_info(?1) ORDER BY cid",
            &[table],
            |row| {
                Ok(TableColumn {
                    name: row.get(0)?,
                    declared: row.get(1)?,
                    not_null: row.get(2)?,
                    default: row.get(3)?,
                    key: row.get::<_, i64>(4)? > 0,
                    // Such a column is the number of the row, which the database gives.
                    computed: row.get::<_, i64>(4)? > 0
                        && row.get::<_, String>(1)?.eq_ignore_ascii_case("integer"),
                    ..TableColumn::default()
                })
            },
        )?;
        let references = self.list(
            "SELECT \"from\", \"table\", \"to\" FROM pragma_foreign_key_list(?1)",
            &[table],
            |row| Ok((row.get::<_, String>(0)?, row.get::<_, String>(1)?, row.get::<_, Option<String>>(2)?)),
        )?;
        for (from, other, to) in references {
            let to = match to {
                Some(to) => to,
                // Left out, it is the other table's key.
                None => self
                    .list("SELECT name FROM pragma_table_info(?1) WHERE pk = 1", &[&other], |row| row.get(0))?
                    .into_iter()
                    .next()
                    .unwrap_or_default(),
            };
            if let Some(column) = columns.iter_mut().find(|column| column.name.eq_ignore_ascii_case(&from)) {
                column.refers_to = Some((other, to));
            }
        }
        Ok(columns)
    }

    /// The statement that made a table.
    fn made(&self, table: &str) -> Result<Option<String>> {
        let sql = "SELECT sql FROM sqlite_master WHERE type = 'table' AND name = ?1";
        let made = self.list(sql, &[table], |row| row.get::<_, Option<String>>(0))?;
        Ok(made.into_iter().flatten().next())
    }
}

impl Database for Sqlite {
    fn tables(&self) -> Result<Vec<String>> {
        let sql = "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY rowid";
        self.list(sql, &[], |row| row.get(0))
    }

    fn columns(&self, table: &str) -> Result<Vec<TableColumn>> {
        let mut columns = self.described(table)?;
        if let Some(made) = self.made(table)? {
            script::put_checks(&made, &mut columns)?;
        }
        Ok(columns)
    }

    fn rules(&self, table: &str) -> Result<Vec<TableRule>> {
        Ok(self.made(table)?.map(|made| script::rules_of(&made)).unwrap_or_default())
    }

    fn rows(&self, table: &str, columns: &[&str], most: usize) -> Result<Vec<Vec<Option<String>>>> {
        let wanted = columns.iter().map(|column| quoted(column)).collect::<Vec<_>>().join(", ");
        let sql = format!("SELECT {wanted} FROM {} ORDER BY rowid LIMIT {most}", quoted(table));
        self.list(&sql, &[], |row| (0..columns.len()).map(|place| row.get_ref(place).map(text_of)).collect())
    }

    fn query(&self, query: &str, columns: &[&str]) -> Result<Vec<Vec<Option<String>>>> {
        let shown = self.path.display();
        let statement = self.connection.prepare(query).map_err(|error| {
            Error::Request(format!("the query is not one that {shown} understands: {error}"))
        })?;
        // What gives no columns is not a query, and is never run. A column in quotes that is not there would be a text.
        let names: Vec<String> = statement.column_names().map(str::to_owned).collect();
        if names.is_empty() || !statement.readonly() {
            return Err(Error::Request(format!(
                "what is given as the query of {shown} does not only read rows"
            )));
        }
        let mut places = Vec::new();
        for column in columns {
            let place = names.iter().position(|name| name.eq_ignore_ascii_case(column)).ok_or_else(|| {
                let known = names.join(", ");
                Error::Request(format!("the query of {shown} has no column \"{column}\"; it has {known}"))
            })?;
            places.push(place);
        }
        drop(statement);
        self.list(query, &[], |row| places.iter().map(|place| row.get_ref(*place).map(text_of)).collect())
    }
}

/// Hands on the headings of these columns, those that the table has, and then each of its rows; nothing is a blank text.
pub(super) fn each_row(
    path: &Path,
    table: &str,
    columns: &[&str],
    take: &mut dyn FnMut(&[String]) -> Result<()>,
) -> Result<()> {
    let shown = path.display();
    if !path.is_file() {
        return Err(Error::Request(format!(
            "the database {shown} is not there; [holds] database names one that is"
        )));
    }
    let flags = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX;
    let connection = Connection::open_with_flags(path, flags).map_err(broken(path))?;
    let reader = Sqlite { path: path.to_path_buf(), connection };
    let known = reader.known_columns(table)?;
    let is_there = |column: &&&str| known.iter().any(|name| name.eq_ignore_ascii_case(column));
    let there: Vec<String> = columns.iter().filter(is_there).map(|column| (*column).to_owned()).collect();
    if there.is_empty() {
        return Err(Error::Request(format!(
            "the table {table} of {shown} does not have any of the upload's columns; it has {}",
            known.join(", ")
        )));
    }
    take(&there)?;
    let wanted = there.iter().map(|column| quoted(column)).collect::<Vec<_>>().join(", ");
    let sql = format!("SELECT {wanted} FROM {} ORDER BY rowid", quoted(table));
    let broken = broken(path);
    let mut statement = reader.connection.prepare(&sql).map_err(&broken)?;
    let mut rows = statement.query([]).map_err(&broken)?;
    let mut cells = Vec::new();
    while let Some(row) = rows.next().map_err(&broken)? {
        cells.clear();
        for place in 0..there.len() {
            cells.push(text_of(row.get_ref(place).map_err(&broken)?).unwrap_or_default());
        }
        take(&cells)?;
    }
    Ok(())
}

/// A value as text; nothing for null.
fn text_of(value: ValueRef<'_>) -> Option<String> {
    match value {
        ValueRef::Null => None,
        ValueRef::Integer(number) => Some(number.to_string()),
        ValueRef::Real(number) => Some(number.to_string()),
        ValueRef::Text(text) => Some(String::from_utf8_lossy(text).into_owned()),
        ValueRef::Blob(_) => Some("(bytes)".to_owned()),
    }
}

/// Rows on their way into a table. The transaction is the connection's, and ends with it.
struct Load {
    path: PathBuf,
    connection: Connection,
    statements: Statements,
    table: String,
    /// For each cell, its column's name where the column makes numbers of texts.
    numeric: Vec<Option<String>>,
    /// The name of the batch, where a column takes it.
    batch: Option<String>,
    rows: LoadedRows,
}

/// What stands for a cell in a statement.
struct Marks;

impl Spelling for Marks {
    fn mark(&self, number: usize, _: usize) -> String {
        format!("?{number}")
    }
}

pub(super) fn load(wanted: &LoadTable<'_>) -> Result<Box<dyn TableLoad>> {
    let path = wanted.database;
    let shown = path.display();
    if !path.is_file() {
        return Err(Error::Request(format!(
            "the database {shown} is not there; [upload] database names one that is"
        )));
    }
    let flags = OpenFlags::SQLITE_OPEN_READ_WRITE | OpenFlags::SQLITE_OPEN_NO_MUTEX;
    let connection = Connection::open_with_flags(path, flags).map_err(broken(path))?;
    let reader = Sqlite { path: path.to_path_buf(), connection };
    let tables = reader.tables()?;
    let table = known_table(&tables, wanted.table, &shown.to_string())?;
    let described = reader.described(table)?;
    let columns = load_columns(wanted, &described, &format!("the table {table} of {shown}"))?;
    let numeric = columns.iter().map(|column| {
        let column = described.iter().find(|known| known.name == column.name)?;
        makes_numbers(&column.declared).then(|| column.name.clone())
    });
    let numeric: Vec<Option<String>> = numeric.collect();
    let connection = reader.connection;
    connection.execute_batch("PRAGMA foreign_keys = ON; BEGIN IMMEDIATE").map_err(broken(path))?;
    Ok(Box::new(Load {
        path: path.to_path_buf(),
        connection,
        statements: Statements::of(table, columns),
        table: table.to_owned(),
        numeric,
        batch: wanted.batch.map(|(_, name)| name.to_owned()),
        rows: LoadedRows::default(),
    }))
}

/// Whether a column of this declared type makes numbers of texts ("Determination Of Column Affinity" in
/// the documentation of SQLite).
fn makes_numbers(declared: &str) -> bool {
    let declared = declared.to_ascii_uppercase();
    let has = |words: &[&str]| words.iter().any(|word| declared.contains(word));
    has(&["INT"]) || !declared.is_empty() && !has(&["CHAR", "CLOB", "TEXT", "BLOB"])
}

/// Whether a text loses something when it is kept as a number: leading zeros, a plus, an exponent, or
/// digits behind the fifteenth.
fn changes_as_number(text: &str) -> bool {
    let figures = text.trim_start_matches(['-', '+']);
    let is_number =
        text.trim().parse::<f64>().is_ok() && figures.starts_with(|c: char| c.is_ascii_digit() || c == '.');
    let zeros = figures.len() > 1 && figures.starts_with('0') && !figures.starts_with("0.");
    let digits = figures.trim_start_matches(['0', '.']).bytes().filter(u8::is_ascii_digit).count();
    is_number && (zeros || text.starts_with('+') || digits > 15 || Decimal::parse(text).is_none())
}

impl Load {
    /// Does with a row what is to be done; gives back why the table refuses it.
    fn run(&mut self, operation: Operation, cells: &[&str]) -> Option<String> {
        let batch = self.batch.clone();
        let cells: Vec<&str> = cells.iter().copied().chain(batch.as_deref()).collect();
        for (cell, column) in cells.iter().zip(&self.numeric) {
            if let Some(column) = column.as_ref().filter(|_| changes_as_number(cell)) {
                return Some(format!("the column {column} keeps numbers, and would change \"{cell}\""));
            }
        }
        let Statement { sql, takes } = self.statements.for_row(operation, &cells, &Marks);
        let value = |place: &usize| cells.get(*place).filter(|cell| !cell.is_empty());
        // Text is brought into the column's own type by the database; what that would change was refused.
        let values = rusqlite::params_from_iter(takes.iter().map(value));
        match self.connection.prepare_cached(&sql).and_then(|mut statement| statement.execute(values)) {
            Ok(rows) => self.statements.not_one(operation, rows as u64, &cells),
            Err(error) => Some(error.to_string()),
        }
    }
}

impl TableLoad for Load {
    fn name(&self) -> String {
        format!("the table {} of {}", self.table, self.path.display())
    }

    fn take(&mut self, rows: &[(Operation, Vec<&str>)]) -> Result<Option<String>> {
        self.connection.execute_batch("SAVEPOINT one_row").map_err(broken(&self.path))?;
        let refused = rows.iter().find_map(|(operation, cells)| self.run(*operation, cells));
        if refused.is_some() {
            self.connection.execute_batch("ROLLBACK TO one_row").map_err(broken(&self.path))?;
        } else {
            rows.iter().for_each(|(operation, _)| self.rows.count(*operation));
        }
        self.connection.execute_batch("RELEASE one_row").map_err(broken(&self.path))?;
        Ok(refused)
    }

    fn rows(&self) -> LoadedRows {
        self.rows
    }

    fn commit(self: Box<Self>) -> Result<LoadedRows> {
        self.connection.execute_batch("COMMIT").map_err(broken(&self.path))?;
        Ok(self.rows)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_table_demands_is_read() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("t.db");
        let connection = Connection::open(&path).unwrap();
        connection
            .execute_batch(
                "CREATE TABLE kind (code TEXT PRIMARY KEY, label TEXT);
                 CREATE TABLE visit (
                   \"id no\" INTEGER PRIMARY KEY,
                   kind TEXT NOT NULL REFERENCES kind,
                   mark TEXT CHECK (mark IN ('a', 'it''s')),
                   frames INTEGER CHECK (frames BETWEEN 1 AND 40),
                   weight REAL DEFAULT 2 CHECK (weight >= 0.5),
                   framesx INT CHECK (length(framesx) < 3)
                 );
                 INSERT INTO kind VALUES ('A', NULL);",
            )
            .unwrap();
        let database = super::open(&path).unwrap().unwrap();
        assert_eq!(database.tables().unwrap(), ["kind", "visit"]);
        let columns = database.columns("visit").unwrap();
        let column = |name: &str| columns.iter().find(|column| column.name == name).unwrap();
        assert!(column("id no").key && column("kind").not_null);
        assert_eq!(column("kind").refers_to, Some(("kind".into(), "code".into())));
        assert_eq!(column("mark").among, ["a", "it's"]);
        assert_eq!(column("frames").limits, (Some("1".into()), Some("40".into())));
        assert_eq!(
            (column("weight").limits.0.as_deref(), column("weight").default.as_deref()),
            (Some("0.5"), Some("2"))
        );
        assert_eq!(column("framesx").limits, (None, None));
        assert_eq!(database.rows("kind", &["code", "label"], 5).unwrap(), [[Some("A".to_owned()), None]]);
        assert!(super::open(folder.path()).is_err(), "a folder is no database");
    }

    #[test]
    fn a_load_that_is_not_committed_leaves_nothing() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("t.db");
        let connection = Connection::open(&path).unwrap();
        connection.execute_batch("CREATE TABLE t (a TEXT UNIQUE, n NUMERIC, b TEXT DEFAULT 'none')").unwrap();
        let count =
            || connection.query_row("SELECT count(*) FROM t", [], |row| row.get::<_, i64>(0)).unwrap();
        let wanted = |table: &'static str, columns: &'static [&'static str]| LoadTable {
            database: &path,
            table,
            columns,
            key: &["a"],
            batch: None,
        };
        let mut dropped = super::load(&wanted("T", &["a", "N"])).unwrap();
        assert_eq!(dropped.take(&[(Operation::Insert, vec!["x", "1.50"])]).unwrap(), None);
        drop(dropped);
        assert_eq!(count(), 0);
        let mut kept = super::load(&wanted("t", &["a", "n", "b"])).unwrap();
        assert_eq!(kept.take(&[(Operation::Insert, vec!["x", "1.50", ""])]).unwrap(), None);
        assert_eq!(kept.take(&[(Operation::Insert, vec!["", "", "own"])]).unwrap(), None);
        for changed in ["000117", "1e5", "12345678901234567", "+3"] {
            let refused = kept.take(&[(Operation::Insert, vec![changed, changed, ""])]).unwrap().unwrap();
            assert!(refused.contains("the column n keeps numbers"), "{refused}");
        }
        let twice = kept.take(&[(Operation::Insert, vec!["x", "2", ""])]).unwrap().unwrap();
        assert!(twice.contains("UNIQUE"), "{twice}");
        let none = kept.take(&[(Operation::Update, vec!["y", "2", ""])]).unwrap().unwrap();
        assert!(none.starts_with("0 of its rows have the key \"y\""), "{none}");
        assert_eq!(kept.take(&[(Operation::Update, vec!["x", "1.75", "new"])]).unwrap(), None);
        assert_eq!(kept.commit().unwrap(), LoadedRows { inserted: 2, updated: 1, removed: 0 });
        let read: (String, f64, String) = connection
            .query_row("SELECT a, n, b FROM t WHERE a IS NOT NULL", [], |row| {
                Ok((row.get(0)?, row.get(1)?, row.get(2)?))
            })
            .unwrap();
        assert_eq!((count(), read), (2, ("x".into(), 1.75, "new".into())));
        let wrong = |database: &Path, column: &str| {
            let table = LoadTable { database, table: "t", columns: &[column], key: &[], batch: None };
            super::load(&table).err().unwrap().to_string()
        };
        assert!(wrong(&path, "aa").contains("did you mean a?"));
        assert!(wrong(&folder.path().join("none.db"), "a").contains("is not there"));
    }
}
