//! What a worker gave for each record that it accepted, one after the other.

use crate::RowFate;
use dusk_conforming::{Judged, KeyHash};
use dusk_description::RecordShare;
use dusk_evidence::{Error, FieldId, Result};

/// How much is given for each accepted record.
#[derive(Debug, Clone, Copy)]
pub(crate) struct GivenShape {
    /// The upload files are divided by a value.
    pub(crate) is_split: bool,
    /// How many fields name files.
    pub(crate) files: usize,
    /// How many rules there are over many records.
    pub(crate) shares: usize,
    /// In how many fields no value may come twice.
    pub(crate) unique: usize,
}

/// What a worker gave for each record that it accepted, one after the other.
pub(crate) struct GivenRecords<'t> {
    pub(crate) shares: std::vec::Drain<'t, Option<RecordShare>>,
    pub(crate) files: std::vec::IntoIter<String>,
    pub(crate) splits: std::vec::IntoIter<String>,
    pub(crate) unique: std::vec::IntoIter<Option<KeyHash>>,
}

/// What a worker gave for one accepted record.
pub(crate) struct GivenRecord {
    /// The value by which upload files are divided, where they are.
    pub(crate) split: Option<String>,
    /// The files that it names, one for each field of files.
    pub(crate) files: Vec<String>,
    /// Its share in each rule over many records.
    pub(crate) shares: Vec<Option<RecordShare>>,
    /// Its values that may not come twice.
    pub(crate) unique: Vec<Option<KeyHash>>,
}

impl GivenRecords<'_> {
    /// What was given for the next accepted record.
    pub(crate) fn next_of(&mut self, shape: GivenShape, fate: &RowFate) -> Result<GivenRecord> {
        if fate.judged != Judged::Accepted {
            return Err(Error::Invariant(format!("row {} was not accepted by its worker", fate.row)));
        }
        let record = GivenRecord {
            split: self.splits.next(),
            files: self.files.by_ref().take(shape.files).collect(),
            shares: self.shares.by_ref().take(shape.shares).collect(),
            unique: self.unique.by_ref().take(shape.unique).collect(),
        };
        let is_whole = record.split.is_some() == shape.is_split
            && record.files.len() == shape.files
            && record.shares.len() == shape.shares
            && record.unique.len() == shape.unique;
        if is_whole {
            Ok(record)
        } else {
            Err(Error::Invariant(format!("what goes with row {} was lost", fate.row)))
        }
    }

    /// What was given for the accepted records of a row.
    pub(crate) fn take_of(
        &mut self,
        shape: GivenShape,
        fates: &[RowFate],
        out: &mut Vec<GivenRecord>,
    ) -> Result<()> {
        out.clear();
        for fate in fates.iter().filter(|fate| fate.judged == Judged::Accepted) {
            out.push(self.next_of(shape, fate)?);
        }
        Ok(())
    }

    /// Passes over what was given for records that do not go in.
    pub(crate) fn skip(&mut self, shape: GivenShape, fates: &[RowFate]) -> Result<()> {
        let mut accepted = fates.iter().filter(|fate| fate.judged == Judged::Accepted);
        accepted.try_for_each(|fate| self.next_of(shape, fate).map(|_| ()))
    }
}

/// Why a row that is right by itself does not go in.
pub(crate) enum MetAgain {
    /// An earlier one is the same held record.
    Record { first: u32 },
    /// An earlier one has a value that may not come twice.
    Value { field: FieldId, first: u32 },
    /// The table that is loaded refuses it.
    Refused { table: String, says: String },
    /// The target refused it when a batch sent it, and it says the same still.
    RefusedBefore { batch: String, says: String },
    /// A batch sent its row under another key.
    OtherKey { batch: String, key: String },
}
