//! The table that is loaded: every record is tried in it, and what it refuses is rejected.

use dusk_database::{LoadTable, Operation, TableLoad};
use dusk_description::{Field, Standing, Target, UploadFormat, cells_of};
use dusk_evidence::{Error, FieldId, Result};

/// Begins a transaction on the table that a target is; nothing where it is none.
pub(crate) fn open_table(target: &Target, batch: &str) -> Result<Option<Box<dyn TableLoad>>> {
    let UploadFormat::Database { path, table, batch_column } = &target.upload.format else { return Ok(None) };
    let wanted = LoadTable {
        database: path,
        table,
        columns: &target.headings(),
        key: &key_headings(target),
        batch: batch_column.as_deref().map(|column| (column, batch)),
    };
    dusk_database::load(&wanted).map(Some)
}

/// The columns by which a record is found again in a table.
fn key_headings(target: &Target) -> Vec<&str> {
    let given: Vec<&str> = target
        .fields
        .iter()
        .filter(|field| field.given_by_target && field.is_sent())
        .map(Field::heading)
        .collect();
    if !given.is_empty() {
        return given;
    }
    let found_by = target.holds.as_ref().map_or(&[][..], |holds| holds.found_by.as_slice());
    let is_key = |(id, field): &(FieldId, &Field)| match target.holds {
        Some(_) => found_by.contains(id),
        None => field.key,
    };
    target.fields.with_ids().filter(is_key).map(|(_, field)| field.heading()).collect()
}

/// What is done with a record, by what it is beside the held ones.
pub(crate) fn operation(standing: Option<Standing>) -> Operation {
    match standing {
        Some(Standing::Changed | Standing::Same) => Operation::Update,
        Some(Standing::New) | None => Operation::Insert,
    }
}

/// The cells of a record that goes into a table.
pub(crate) fn cells_in(record: &[u8]) -> Result<Vec<&str>> {
    cells_of(record).ok_or_else(|| Error::Invariant("the cells of a record are mixed up".into()))
}
