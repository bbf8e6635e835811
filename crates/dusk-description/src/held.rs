//! What the target holds already, as far as the fields need it that may be set only once.

use std::path::{Path, PathBuf};

use super::Field;
use dusk_evidence::{ById, Error, FieldId, Result, Row};
use dusk_sources::each_row;

/// The records that a target holds.
#[derive(Debug, Default)]
pub struct Held {
    /// The file, beside the description.
    pub path: PathBuf,
    /// The fields of the key, by their places.
    pub key: Vec<FieldId>,
    /// The fields that may be set only once, by their places.
    pub once: Vec<FieldId>,
    /// Each record: its row, the texts of its key, and those of the fields that may be set only once.
    pub records: Vec<(Row, Vec<String>, Vec<String>)>,
}

impl Held {
    /// Reads an export of what the target holds, whose columns have the headings of the upload or the
    /// names of the fields.
    ///
    /// # Errors
    /// [`Error::File`] and [`Error::Source`] when it cannot be read; [`Error::Request`] when it lacks a column.
    pub fn read(path: &Path, fields: &ById<FieldId, Field>) -> Result<Self> {
        let places = |wanted: &dyn Fn(&Field) -> bool| -> Vec<FieldId> {
            fields.with_ids().filter(|(_, field)| wanted(field)).map(|(place, _)| place).collect()
        };
        let (key, once) = (places(&|field| field.key), places(&|field| field.set_once));
        if key.is_empty() {
            return Err(Error::Request(
                "no field is part of the key, so no record can be found again".into(),
            ));
        }
        let names: Vec<[&str; 2]> = key
            .iter()
            .chain(&once)
            .filter_map(|place| fields.get(*place))
            .map(|field| [field.heading(), field.name.as_str()])
            .collect();
        let columns: Vec<&[&str]> = names.iter().map(|names| names.as_slice()).collect();
        let mut records = Vec::new();
        each_row(path, &columns, |row, cells| {
            let (keys, values) = cells.split_at(key.len().min(cells.len()));
            let owned = |cells: &[&str]| cells.iter().map(|cell| (*cell).to_owned()).collect();
            records.push((row, owned(keys), owned(values)));
        })?;
        Ok(Self { path: path.to_path_buf(), key, once, records })
    }
}
