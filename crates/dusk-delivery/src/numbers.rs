//! The numbers that a target has given to records, kept beside the mapping: children refer to their parents by them, and
//! later batches to what is there.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use crate::{SentRecords, Told, ToldRecords};
use dusk_evidence::{Error, Result};
use dusk_files::{Held, guarded, unguarded};

/// The folder of these lists, beside the mapping.
const FOLDER: &str = "numbers";

/// What a list of numbers came to.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct NumbersKept {
    /// Numbers that are new.
    pub new: u64,
    /// Numbers that a record had already.
    pub same: u64,
    /// Records that had another number before.
    pub other: u64,
}

/// Where the numbers for a mapping's records are.
pub fn numbers_path(mapping: &Path) -> PathBuf {
    let stem =
        mapping.file_stem().map_or_else(|| "mapping".into(), |stem| stem.to_string_lossy().into_owned());
    mapping.with_file_name(FOLDER).join(format!("{stem}.csv"))
}

/// Keeps the numbers that a target gave to the records of a batch. `keys` are the names of the fields that are part of
/// the key, `number` that of the field, or the word, for the number.
///
/// # Errors
/// [`Error::Request`] where the list is not one of these; [`Error::File`] when it cannot be written.
pub fn keep_numbers(
    path: &Path,
    (keys, number): (&[&str], &str),
    (sent, told): (&SentRecords, &ToldRecords),
    (batch, day): (&str, &str),
) -> Result<NumbersKept> {
    let mut kept = NumbersKept::default();
    let is_numbered = |at: &usize| {
        !told.number(*at).is_empty() && matches!(told.get(*at), Told::Said(said) if said.is_in())
    };
    let numbered: Vec<usize> = (0..sent.len()).filter(is_numbered).collect();
    if numbered.is_empty() || keys.is_empty() {
        return Ok(kept);
    }
    let held = Held::file(path)?;
    let header: Vec<&str> = keys.iter().copied().chain([number, "batch", "on"]).collect();
    let mut list = read(path, &header, keys.len())?;
    for at in numbered {
        let Some(record) = sent.get(at) else { continue };
        let parts: Vec<String> = split_key(record.key, keys.len());
        let given = told.number(at).to_owned();
        match list.get(&parts) {
            Some(known) if known.first() == Some(&given) => kept.same += 1,
            Some(_) => kept.other += 1,
            None => kept.new += 1,
        }
        list.insert(parts, vec![given, batch.to_owned(), day.to_owned()]);
    }
    let wrong = |error: csv::Error| Error::Invariant(error.to_string());
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(&header).map_err(wrong)?;
    for (key, rest) in &list {
        writer.write_record(key.iter().chain(rest).map(|cell| guarded(cell).into_owned())).map_err(wrong)?;
    }
    held.write(&writer.into_inner().map_err(|error| Error::Invariant(error.to_string()))?)?;
    Ok(kept)
}

/// The parts of a key as people read it. A part that holds the sign between them stays with the last.
fn split_key(key: &str, parts: usize) -> Vec<String> {
    key.splitn(parts.max(1), " + ").map(str::to_owned).collect()
}

fn read(path: &Path, header: &[&str], keys: usize) -> Result<BTreeMap<Vec<String>, Vec<String>>> {
    if !path.exists() {
        return Ok(BTreeMap::new());
    }
    let damaged = |why: &str| {
        Error::Request(format!(
            "{} is not a list of numbers for these records: {why}\n  put it aside, and read the answers again with dusk answer --replace",
            path.display()
        ))
    };
    let mut reader = csv::Reader::from_path(path).map_err(|error| damaged(&error.to_string()))?;
    if !reader.headers().is_ok_and(|found| found == header) {
        return Err(damaged("its columns are others"));
    }
    let mut list = BTreeMap::new();
    for record in reader.records() {
        let record = record.map_err(|error| damaged(&error.to_string()))?;
        let mut cells: Vec<String> = record.iter().map(|cell| unguarded(cell).into_owned()).collect();
        let rest = cells.split_off(keys.min(cells.len()));
        list.insert(cells, rest);
    }
    Ok(list)
}
