//! Rows of a source looked up by their numbers or by what they hold, as the file has them.

use std::collections::{BTreeMap, BTreeSet};

use hashbrown::HashMap;

use super::{RowHash, RowHashes};
use dusk_evidence::Result;
use dusk_sources::{Source, without_marks};

/// A row as the file has it, without corrections.
#[derive(Debug, Clone)]
pub struct ExportedRow {
    /// What it is recognised by.
    pub print: RowHash,
    /// Its cells, without marks, one for each column, and last what is beyond the header.
    pub cells: Vec<String>,
}

/// Which rows are looked up.
#[derive(Debug, Clone, Default)]
pub struct WantedRows {
    /// The numbers of rows.
    pub numbers: BTreeSet<u64>,
    /// Hashes of all cells.
    pub prints: BTreeSet<u64>,
}

/// Rows that were found.
#[derive(Debug, Default)]
pub struct FoundRows {
    /// Each row that was found, by its number.
    pub at: BTreeMap<u64, ExportedRow>,
    /// Where the rows of each print that was asked for are.
    pub by_print: HashMap<u64, Vec<u64>>,
}

/// Looks rows up in a source.
pub fn find_rows(source: &Source, prints: &RowHashes, wanted: &WantedRows) -> Result<FoundRows> {
    let mut found = FoundRows::default();
    if wanted.numbers.is_empty() && wanted.prints.is_empty() {
        return Ok(found);
    }
    let width = source.columns.len();
    let mut walk = source.walk_as_exported()?;
    while let Some(mut rows) = walk.more()? {
        while let Some(row) = rows.next() {
            let number = row.row().0;
            let print = prints.row(&row);
            let is_alike = wanted.prints.contains(&print.all);
            if is_alike {
                found.by_print.entry(print.all).or_default().push(number);
            }
            if is_alike || wanted.numbers.contains(&number) {
                let cells = (0..width).map(|place| without_marks(row.nth(place)).into_owned());
                let cells = cells.chain([prints.cell(&row, prints.beyond())]).collect();
                found.at.insert(number, ExportedRow { print, cells });
            }
        }
    }
    Ok(found)
}

/// The row of a source with this number, as the file has it; nothing where it has no such record.
///
/// # Errors
/// Whatever stops reading.
pub fn exported_row(source: &Source, prints: &RowHashes, number: u64) -> Result<Option<ExportedRow>> {
    let wanted = WantedRows { numbers: BTreeSet::from([number]), prints: BTreeSet::new() };
    Ok(find_rows(source, prints, &wanted)?.at.remove(&number))
}

/// Whether a source has the record of the row with this print more than once, as the file has it.
///
/// # Errors
/// Whatever stops reading.
pub fn is_double(source: &Source, prints: &RowHashes, print: RowHash) -> Result<bool> {
    let mut walk = source.walk_as_exported()?;
    let mut met = 0;
    while let Some(mut rows) = walk.more()? {
        while let Some(row) = rows.next() {
            met += u64::from(prints.row(&row).record() == print.record());
            if met > 1 {
                return Ok(true);
            }
        }
    }
    Ok(false)
}
