//! What a worker gave for each record that it accepted, one after the other.

use super::ordered::OrderedEnd;
use crate::RowFate;
use dusk_conforming::{Judged, KeyHash};
use dusk_description::RecordShare;
use dusk_evidence::{Error, Result};

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
    pub(crate) fn next_of(&mut self, end: &OrderedEnd<'_, '_>, fate: &RowFate) -> Result<GivenRecord> {
        if fate.judged != Judged::Accepted {
            return Err(Error::Invariant(format!("row {} was not accepted by its worker", fate.row)));
        }
        let record = GivenRecord {
            split: self.splits.next(),
            files: self.files.by_ref().take(end.file_fields.len()).collect(),
            shares: self.shares.by_ref().take(end.tallies.len()).collect(),
            unique: self.unique.by_ref().take(end.unique.len()).collect(),
        };
        let is_split = end.ready.job.target.upload.split_by.is_some();
        let is_whole = record.split.is_some() == is_split
            && record.files.len() == end.file_fields.len()
            && record.shares.len() == end.tallies.len()
            && record.unique.len() == end.unique.len();
        if is_whole {
            Ok(record)
        } else {
            Err(Error::Invariant(format!("what goes with row {} was lost", fate.row)))
        }
    }

    /// What was given for the accepted records of a row.
    pub(crate) fn take_of(
        &mut self,
        end: &OrderedEnd<'_, '_>,
        fates: &[RowFate],
        out: &mut Vec<GivenRecord>,
    ) -> Result<()> {
        out.clear();
        for fate in fates.iter().filter(|fate| fate.judged == Judged::Accepted) {
            out.push(self.next_of(end, fate)?);
        }
        Ok(())
    }

    /// Passes over what was given for records that do not go in.
    pub(crate) fn skip(&mut self, end: &OrderedEnd<'_, '_>, fates: &[RowFate]) -> Result<()> {
        let mut accepted = fates.iter().filter(|fate| fate.judged == Judged::Accepted);
        accepted.try_for_each(|fate| self.next_of(end, fate).map(|_| ()))
    }
}
