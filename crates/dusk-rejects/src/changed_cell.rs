//! A cell that somebody changed, from the moment it is found to the correction that it becomes.

use dusk_decisions::{Correction, RowHash};
use dusk_evidence::{Row, SourceId};
use dusk_sources::{Source, cannot_hold};

/// A cell that was changed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ChangedCell {
    /// The source, by its place among those compared.
    pub source: SourceId,
    /// The row of the source.
    pub row: Row,
    /// What the row is recognised by.
    pub print: RowHash,
    /// The heading of the column.
    pub column: String,
    /// What the source has.
    pub was: String,
    /// What was to be read before: what the source has, or an earlier correction.
    pub before: String,
    /// What is to be read from now on.
    pub now: String,
}

impl ChangedCell {
    /// Why its new value cannot stand in a source; nothing where it can.
    pub fn cannot_stand_in(&self, source: &Source) -> Option<&'static str> {
        cannot_hold(&self.now, &source.dialect)
    }

    /// The correction that it comes to.
    pub fn correction(&self, by: &str, on: &str, note: &str) -> Correction {
        Correction {
            row: self.row,
            column: self.column.clone(),
            was: self.was.clone(),
            now: self.now.clone(),
            by: by.to_owned(),
            on: on.to_owned(),
            note: note.to_owned(),
            print: Some(self.print),
        }
    }
}
