//! Several kinds of row in one export, each with a mapping of its own: which mapping takes a row, and which rows none or
//! several take.

use crate::{NotSent, Place, Ready, Sent, Sink, Summary};
use dusk_evidence::{Finding, Id as _, Kind, Result, Row, SourceId};
use dusk_sources::Progress;

/// How many rows are kept as examples.
const SHOWN: usize = 6;

/// What a mapping does with each row: the flags of [`TAKEN`] and [`OF_ANOTHER_KIND`], by source and row.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct RowsTaken {
    rows: Vec<Vec<u8>>,
}

const TAKEN: u8 = 1;
const OF_ANOTHER_KIND: u8 = 2;
const TAKEN_TWICE: u8 = 4;

/// Rows that no mapping takes, or more than one.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct RowsAmiss {
    /// How many there are.
    pub count: u64,
    /// The first of them.
    pub first: Vec<(SourceId, Row)>,
}

impl RowsAmiss {
    fn note(&mut self, source: usize, row: usize) {
        self.count += 1;
        if self.first.len() < SHOWN {
            self.first.push((SourceId::new(source), Row(row as u64)));
        }
    }
}

impl RowsTaken {
    fn mark(&mut self, source: SourceId, row: Row, flag: u8) {
        let (source, Ok(row)) = (source.index(), usize::try_from(row.0)) else { return };
        if self.rows.len() <= source {
            self.rows.resize_with(source + 1, Vec::new);
        }
        let Some(rows) = self.rows.get_mut(source) else { return };
        if rows.len() <= row {
            rows.resize(row + 1, 0);
        }
        if let Some(flags) = rows.get_mut(row) {
            *flags |= flag;
        }
    }

    /// How many rows are taken.
    pub fn count(&self) -> u64 {
        self.rows.iter().flatten().filter(|flags| **flags & TAKEN != 0).count() as u64
    }

    /// Puts what another mapping does with the same rows beside it.
    pub fn join(&mut self, other: &Self) {
        for (source, theirs) in other.rows.iter().enumerate() {
            for (row, flags) in theirs.iter().enumerate().filter(|(_, flags)| **flags != 0) {
                let is_double = flags & TAKEN != 0 && self.flags(source, row) & TAKEN != 0;
                let flag = flags | if is_double { TAKEN_TWICE } else { 0 };
                self.mark(SourceId::new(source), Row(row as u64), flag);
            }
        }
    }

    fn flags(&self, source: usize, row: usize) -> u8 {
        self.rows.get(source).and_then(|rows| rows.get(row)).copied().unwrap_or(0)
    }

    /// The rows that hold a record by no mapping, and those that do by more than one.
    pub fn amiss(&self) -> (RowsAmiss, RowsAmiss) {
        let (mut by_none, mut by_several) = (RowsAmiss::default(), RowsAmiss::default());
        for (source, rows) in self.rows.iter().enumerate() {
            for (row, flags) in rows.iter().enumerate() {
                if flags & TAKEN_TWICE != 0 {
                    by_several.note(source, row);
                } else if flags & (TAKEN | OF_ANOTHER_KIND) == OF_ANOTHER_KIND {
                    by_none.note(source, row);
                }
            }
        }
        (by_none, by_several)
    }
}

impl Sink for RowsTaken {
    fn lists_rows(&self) -> bool {
        true
    }

    fn tries_table(&self) -> bool {
        true
    }

    fn accepted(&mut self, sent: &Sent<'_>) -> Result<()> {
        self.mark(sent.place.source, sent.place.row, TAKEN);
        Ok(())
    }

    fn not_sent(&mut self, place: Place, _key: &str, why: &NotSent) -> Result<()> {
        if *why != NotSent::LeftOut {
            self.mark(place.source, place.row, TAKEN);
        }
        Ok(())
    }

    fn finding(&mut self, finding: &Finding) -> Result<()> {
        if finding.fault.kind() == Kind::NotKept {
            self.mark(finding.source, finding.row, OF_ANOTHER_KIND);
        }
        Ok(())
    }
}

impl Ready<'_> {
    /// Checks every row, and tells which of them the mapping takes.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub fn check_kinds(&self, progress: &Progress<'_>) -> Result<(RowsTaken, Summary)> {
        let mut taken = RowsTaken::default();
        let summary = self.run(&mut taken, progress)?;
        Ok((taken, summary))
    }
}
