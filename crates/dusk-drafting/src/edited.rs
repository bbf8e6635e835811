//! A description as it stands in its file: tables, names and values, beside what people wrote around them.

use std::path::Path;

use toml_edit::{ArrayOfTables, DocumentMut, Item, Table};

use dusk_evidence::{Error, Line, Problems, Result};

/// A description's file as TOML whose comments and order are kept.
///
/// # Errors
/// [`Error::File`] when it cannot be read; [`Error::Problems`] when it is no TOML.
pub(super) fn parsed(path: &Path) -> Result<DocumentMut> {
    let text = std::fs::read_to_string(path).map_err(Error::reading(path))?;
    text.parse().map_err(|error: toml_edit::TomlError| {
        let mut problems = Problems::default();
        let before = error.span().and_then(|span| text.get(..span.start)).unwrap_or_default();
        let line = Line(1 + memchr::memchr_iter(b'\n', before.as_bytes()).count() as u64);
        problems.at(&path.display().to_string(), Some(line), error.message().trim());
        Error::Problems(problems)
    })
}

/// A value without the comment and the spaces around it.
pub(super) fn value_of(item: &Item) -> String {
    match item.as_value() {
        // A text may be quoted in two ways.
        Some(toml_edit::Value::String(text)) => format!("\"{}\"", text.value()),
        Some(value) => {
            let mut value = value.clone();
            value.decor_mut().clear();
            value.to_string()
        }
        None => item.to_string(),
    }
}

/// A table of the description.
pub(super) fn table<'d>(document: &'d DocumentMut, name: &str) -> Option<&'d Table> {
    document.get(name).and_then(Item::as_table)
}

/// Its tables of this name.
pub(super) fn tables<'d>(document: &'d DocumentMut, name: &str) -> Option<&'d ArrayOfTables> {
    document.get(name).and_then(Item::as_array_of_tables)
}

/// The name that a table gives its field.
pub(super) fn name_of(table: &Table) -> Option<&str> {
    table.get("name").and_then(Item::as_str)
}
