//! Databases with typed tables: what a table is made of, for drafting a description.
//!
//! [`Database`] is the small interface that each kind of database joins; [`open`] finds out which it is.

mod changes;
mod checks;
mod script;
mod sqlite;
mod statements;

use std::io::Write;
use std::path::Path;

use dusk_evidence::{Error, Result};

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

    /// The rules between the columns of a table.
    ///
    /// # Errors
    /// When it cannot be read.
    fn rules(&self, table: &str) -> Result<Vec<TableRule>>;

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
    match sqlite::open(path)? {
        Some(database) => Ok(Some(database)),
        None => script::open(path),
    }
}

/// What is done with a row of a table.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Operation {
    /// It is put in.
    Insert,
    /// The row of the same key is changed.
    Update,
    /// The row of the same key is taken out.
    Remove,
}

/// Rows on their way into a table that is there already, in one transaction: dropped before it is
/// committed, it leaves nothing behind.
pub trait TableLoad: Send {
    /// The table and where it is, as people say it.
    fn name(&self) -> String;

    /// Does with a row what is to be done; blank cells become nulls.
    ///
    /// # Errors
    /// When the table refuses the row, or has not the one row that is to be changed.
    fn take(&mut self, operation: Operation, cells: &[&str]) -> Result<()>;

    /// Makes the rows stay; gives back how many there are.
    ///
    /// # Errors
    /// When the database cannot keep them; then none of them stays.
    fn commit(self: Box<Self>) -> Result<u64>;
}

/// Begins to fill these columns of a table; by those of the key rows are found again.
///
/// # Errors
/// [`Error::Request`](dusk_evidence::Error::Request) when the database, the table or a column is not there.
pub fn load(path: &Path, table: &str, columns: &[&str], key: &[&str]) -> Result<Box<dyn TableLoad>> {
    sqlite::load(path, table, columns, key)
}

/// Copies the rows of a table as delimited text (RFC 4180, UTF-8) with a header: of these columns, those that the table
/// has. Gives back how many rows there are.
///
/// # Errors
/// [`Error::Request`](dusk_evidence::Error::Request) when the database or the table is not there, or has none of the
/// columns.
pub fn copy_table(database: &Path, table: &str, columns: &[&str], out: &mut dyn Write) -> Result<u64> {
    let mut writer = csv::Writer::from_writer(out);
    let wrong = |error: csv::Error| Error::writing(Path::new("the temporary folder"))(error.into());
    let mut rows: u64 = 0;
    sqlite::each_row(database, table, columns, &mut |cells| {
        rows += 1;
        writer.write_record(cells).map_err(wrong)
    })?;
    writer.flush().map_err(Error::writing(Path::new("the temporary folder")))?;
    Ok(rows.saturating_sub(1))
}

/// A database as people say it: a file, or a server without what only its user may know.
pub fn shown(database: &Path) -> String {
    database.display().to_string()
}
