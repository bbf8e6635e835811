//! Databases with typed tables: what a table is made of, for drafting a description.
//!
//! [`Database`] is the small interface that each kind of database joins; [`open`] finds out which it is.

mod changes;
#[cfg(feature = "sql")]
mod checks;
#[cfg_attr(not(feature = "sql"), path = "no_script.rs")]
mod script;
#[cfg_attr(not(feature = "postgres"), path = "no_server.rs")]
mod server;
mod sqlite;
#[cfg(feature = "sql")]
mod statements;

use std::io::Write;
use std::path::Path;

use dusk_evidence::{Error, Result};
use dusk_values::nearest;

use changes::LoadColumn;
pub use server::{know_password, shown};

/// What a column of a table is.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct TableColumn {
    /// Its name.
    pub name: String,
    /// Its type as it was declared: `VARCHAR(6)`.
    pub declared: String,
    /// True when it may not be null.
    pub not_null: bool,
    /// True when it is part of the primary key.
    pub key: bool,
    /// What it holds where nothing is given.
    pub default: Option<String>,
    /// The only values that it may hold, where the table says so.
    pub among: Vec<String>,
    /// The smallest and the largest number, where the table says so.
    pub limits: (Option<String>, Option<String>),
    /// Numbers that it has to be more than, and less than.
    pub beyond: (Option<String>, Option<String>),
    /// A regular expression for the whole of its text.
    pub pattern: Option<String>,
    /// At most so many characters, by a check beside its type.
    pub longest: Option<u64>,
    /// True when no value may come twice.
    pub unique: bool,
    /// True when the database fills it by itself.
    pub computed: bool,
    /// What its makers say of it.
    pub comments: Vec<String>,
    /// The table and the column whose values it refers to.
    pub refers_to: Option<(String, String)>,
}

/// A rule between the columns of a table.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TableRule {
    /// What it is called; empty where it has no name.
    pub name: String,
    /// What must hold: in the language of descriptions, or in SQL where that has no words for it.
    pub must: String,
}

/// A database that is open for reading.
pub trait Database {
    /// The names of its tables, in their order.
    ///
    /// # Errors
    /// When it cannot be read.
    fn tables(&self) -> Result<Vec<String>>;

    /// The columns of a table, in their order.
    ///
    /// # Errors
    /// When it cannot be read.
    fn columns(&self, table: &str) -> Result<Vec<TableColumn>>;

    /// At most `most` rows of a table with these columns, as text; nothing for null.
    ///
    /// # Errors
    /// When it cannot be read.
    fn rows(&self, table: &str, columns: &[&str], most: usize) -> Result<Vec<Vec<Option<String>>>>;

    /// The rows that a query gives, with these of its columns as text; nothing for null. Nothing is ever changed by it.
    ///
    /// # Errors
    /// When it is not a query, or has no such column; when the database cannot be read.
    fn query(&self, query: &str, columns: &[&str]) -> Result<Vec<Vec<Option<String>>>>;

    /// The rules between the columns of a table.
    ///
    /// # Errors
    /// When it cannot be read.
    fn rules(&self, table: &str) -> Result<Vec<TableRule>>;

    /// Whether rows can be put into it.
    fn takes_rows(&self) -> bool {
        true
    }

    /// What stands in front of its tables for people to read.
    fn notes(&self) -> &[String] {
        &[]
    }

    /// What of it could not be read, with the places.
    fn unread(&self) -> &[String] {
        &[]
    }
}

/// Opens the database at `path` for reading, or the script that makes one; nothing for a file that is neither.
///
/// # Errors
/// [`Error::File`](dusk_evidence::Error::File) and [`Error::Source`](dusk_evidence::Error::Source) when it cannot be read.
pub fn open(path: &Path) -> Result<Option<Box<dyn Database>>> {
    if is_server(path) {
        return server::open(path).map(Some);
    }
    match sqlite::open(path)? {
        Some(database) => Ok(Some(database)),
        None => script::open(path),
    }
}

/// A script of more bytes than this is a copy of all data, and none that describes a target.
const MOST_SCRIPT_BYTES: u64 = 64 << 20;

/// The bytes of a script that makes tables; nothing for a file that is none.
fn script_bytes(path: &Path) -> Result<Option<Vec<u8>>> {
    if std::fs::metadata(path).map_err(Error::reading(path))?.len() > MOST_SCRIPT_BYTES {
        return Ok(None);
    }
    let bytes = std::fs::read(path).map_err(Error::reading(path))?;
    let makes = regex::bytes::Regex::new(r"(?i-u)\bcreate\s+(?:[a-z]+\s+){0,3}table\b");
    Ok(makes.is_ok_and(|makes| makes.is_match(&bytes)).then_some(bytes))
}

/// What is done with a row of a table.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Operation {
    /// It is put in.
    Insert,
    /// The row of the same key is changed.
    Update,
    /// The row of the same key is taken out.
    Remove,
}

/// How many rows of a table were put in, changed and taken out.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct LoadedRows {
    /// Put in.
    pub inserted: u64,
    /// Changed.
    pub updated: u64,
    /// Taken out.
    pub removed: u64,
}

impl LoadedRows {
    pub(crate) fn count(&mut self, operation: Operation) {
        match operation {
            Operation::Insert => self.inserted += 1,
            Operation::Update => self.updated += 1,
            Operation::Remove => self.removed += 1,
        }
    }
}

/// A table that rows go into.
#[derive(Debug, Clone, Copy)]
pub struct LoadTable<'t> {
    /// The database: a file, or where its server is.
    pub database: &'t Path,
    /// The table.
    pub table: &'t str,
    /// The columns that are given.
    pub columns: &'t [&'t str],
    /// Those by which a row is found again.
    pub key: &'t [&'t str],
    /// A column that holds the name of the batch that a row came with, and that name.
    pub batch: Option<(&'t str, &'t str)>,
}

/// Rows on their way into a table that is there already, in one transaction: dropped before it is
/// committed, it leaves nothing behind.
pub trait TableLoad: Send {
    /// The table and where it is, as people say it.
    fn name(&self) -> String;

    /// Does with rows that belong together what is to be done; blank cells become nulls. Gives back why the table
    /// refuses one of them, where it does; then none of them has changed anything.
    ///
    /// # Errors
    /// When the database cannot go on.
    fn take(&mut self, rows: &[(Operation, Vec<&str>)]) -> Result<Option<String>>;

    /// How many rows were taken so far.
    fn rows(&self) -> LoadedRows;

    /// Makes the rows stay.
    ///
    /// # Errors
    /// When the database cannot keep them; then none of them stays.
    fn commit(self: Box<Self>) -> Result<LoadedRows>;
}

/// Whether a database is reached by way of a server, and is no file.
pub fn is_server(database: &Path) -> bool {
    database.to_str().is_some_and(|text| text.contains("://"))
}

/// Begins to change a table.
///
/// # Errors
/// [`Error::Request`] when the database, the table or a column is not there.
pub fn load(table: &LoadTable<'_>) -> Result<Box<dyn TableLoad>> {
    if is_server(table.database) { server::load(table) } else { sqlite::load(table) }
}

/// Copies the rows of a table as delimited text (RFC 4180, UTF-8) with a header: of these columns, those that the table
/// has. Gives back how many rows there are.
///
/// # Errors
/// [`Error::Request`] when the database or the table is not there, or has none of the columns.
pub fn copy_table(database: &Path, table: &str, columns: &[&str], out: &mut dyn Write) -> Result<u64> {
    let mut writer = csv::Writer::from_writer(out);
    let wrong = |error: csv::Error| Error::writing(Path::new("the temporary folder"))(error.into());
    let mut rows: u64 = 0;
    let mut take = |cells: &[String]| {
        rows += 1;
        writer.write_record(cells).map_err(wrong)
    };
    if is_server(database) {
        server::each_row(database, table, columns, &mut take)?;
    } else {
        sqlite::each_row(database, table, columns, &mut take)?;
    }
    writer.flush().map_err(Error::writing(Path::new("the temporary folder")))?;
    Ok(rows.saturating_sub(1))
}

/// The columns of an upload as a table has them.
///
/// # Errors
/// [`Error::Request`] for a column that the table does not have.
pub(crate) fn load_columns(
    wanted: &LoadTable<'_>,
    described: &[TableColumn],
    table: &str,
) -> Result<Vec<LoadColumn>> {
    let all = wanted.columns.iter().copied().chain(wanted.batch.map(|(column, _)| column));
    let mut columns = Vec::new();
    for name in all {
        let found =
            described.iter().find(|column| column.name.eq_ignore_ascii_case(name)).ok_or_else(|| {
                let known = || described.iter().map(|column| column.name.as_str());
                let hint = nearest(name, known()).map_or_else(
                    || format!("there are {}", known().collect::<Vec<_>>().join(", ")),
                    |near| format!("did you mean {near}?"),
                );
                Error::Request(format!("{table} has no column \"{name}\"; {hint}"))
            })?;
        columns.push(LoadColumn {
            name: found.name.clone(),
            is_key: wanted.key.contains(&name),
            has_default: found.default.is_some() || found.computed,
        });
    }
    Ok(columns)
}

/// The names of tables, of which one has to be there.
pub(crate) fn known_table<'k>(tables: &'k [String], table: &str, database: &str) -> Result<&'k str> {
    tables.iter().find(|known| known.eq_ignore_ascii_case(table)).map(String::as_str).ok_or_else(|| {
        Error::Request(format!("{database} has no table \"{table}\"; there are {}", tables.join(", ")))
    })
}
