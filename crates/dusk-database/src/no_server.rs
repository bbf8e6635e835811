//! Databases that are servers, where this program was built without them.

use std::path::Path;

use dusk_evidence::{Error, Result};

use super::{Database, LoadTable, TableLoad};

fn without<T>(database: &Path) -> Result<T> {
    Err(Error::Request(format!(
        "{}: this dusk was built without PostgreSQL; build it with its usual features (cargo install --path crates/dusk)",
        shown(database)
    )))
}

pub(super) fn open(database: &Path) -> Result<Box<dyn Database>> {
    without(database)
}

pub(super) fn load(table: &LoadTable<'_>) -> Result<Box<dyn TableLoad>> {
    without(table.database)
}

pub(super) fn each_row(
    database: &Path,
    _: &str,
    _: &[&str],
    _: &mut dyn FnMut(&[String]) -> Result<()>,
) -> Result<()> {
    without(database)
}

/// A database as people say it.
pub fn shown(database: &Path) -> String {
    database.display().to_string()
}

/// Says how the password of a server is found; nothing here asks for one.
pub fn know_password(_: fn(&str) -> Option<String>) {}
