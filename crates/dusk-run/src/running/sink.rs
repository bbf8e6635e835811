//! Who takes the results of a run.

use crate::Again;
use dusk_conforming::{ChangeKey, Difference, Single};
use dusk_database::TableLoad;
use dusk_description::Standing;
use dusk_evidence::{EarlierRecord, Finding, Result, Row, SourceId};
use dusk_held::{HeldRecord, HeldRecords};
use dusk_memory::RecordHash;
use dusk_sources::{Patch, RowCells};

/// Takes the results of a run, in the order of the rows.
pub(crate) trait Sink {
    /// An accepted record that is sent.
    fn accepted(&mut self, _sent: &Sent<'_>) -> Result<()> {
        Ok(())
    }

    /// Whether what became of each row is wanted, with its key.
    fn lists_rows(&self) -> bool {
        false
    }

    /// Whether it is wanted what the sent records come to, field by field.
    fn adds_up(&self) -> bool {
        false
    }

    /// What became of a row, or of a record of it, that is not sent.
    fn not_sent(&mut self, _place: Place, _key: &str, _why: &NotSent) -> Result<()> {
        Ok(())
    }

    /// By what an accepted record that has a key is known.
    fn record(&mut self, _record: RecordHash) -> Result<()> {
        Ok(())
    }

    /// The last batch had an accepted record with this key already.
    fn again(&mut self, _place: Place, _key: &str, _again: Again) -> Result<()> {
        Ok(())
    }

    /// An accepted record beside those that the target holds.
    fn compared(&mut self, _compared: &Compared<'_>) -> Result<()> {
        Ok(())
    }

    /// Whether held records are wanted that no row has.
    fn lists_gone(&self) -> bool {
        false
    }

    /// A held record that no row has, and whether the target is told to remove it.
    fn gone(&mut self, _held: &HeldRecords, _record: &HeldRecord, _is_removed: bool) -> Result<()> {
        Ok(())
    }

    /// Whether the target may be told to remove records.
    fn takes_removals(&self) -> bool {
        false
    }

    /// A record that is to be removed.
    fn removal(&mut self, _removal: &Removal<'_>) -> Result<()> {
        Ok(())
    }

    /// Whether records are tried in the table that is loaded.
    fn tries_table(&self) -> bool {
        false
    }

    /// The name of the batch that is made.
    fn batch(&self) -> &str {
        "not sent"
    }

    /// The table, with all records in it; where nobody keeps it, nothing stays.
    fn loaded(&mut self, _table: Box<dyn TableLoad>) -> Result<()> {
        Ok(())
    }

    /// A rejected row with its findings.
    fn rejected(&mut self, _source: SourceId, _row: &RowCells<'_>, _findings: &[Finding]) -> Result<()> {
        Ok(())
    }

    /// A finding, whether it rejects or not.
    fn finding(&mut self, _finding: &Finding) -> Result<()> {
        Ok(())
    }

    /// A change that a worker meets for the first time; its number is the worker's next.
    fn new_change(&mut self, _worker: usize, _change: ChangeKey) -> Result<()> {
        Ok(())
    }

    /// An accepted record's cells were changed as the worker's changes of these numbers say.
    fn changed(&mut self, _worker: usize, _numbers: &[u32], _place: Place) -> Result<()> {
        Ok(())
    }

    /// An accepted record's cell was changed in a way that has no number.
    fn changed_once(&mut self, _change: &Single, _place: Place) -> Result<()> {
        Ok(())
    }

    /// Cells of an accepted row were corrected.
    fn corrected(&mut self, _place: Place, _cells: &[Patch]) -> Result<()> {
        Ok(())
    }
}

/// An accepted record that is sent.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Sent<'r> {
    pub(crate) place: Place,
    /// Its key as people read it, where rows are listed.
    pub(crate) key: &'r str,
    /// The record as it stands in the upload file.
    pub(crate) record: &'r [u8],
    /// The value by which the files are divided.
    pub(crate) split: &'r str,
    /// The hash of what it says, where rows are listed.
    pub(crate) content: u32,
}

/// A held record that the target is told to remove.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Removal<'r> {
    /// The list that has it, and its row there.
    pub(crate) list: &'r str,
    pub(crate) row: Row,
    /// Its key as people read it.
    pub(crate) key: &'r str,
    /// As it stands in the upload file.
    pub(crate) record: &'r [u8],
    /// The value by which the files are divided.
    pub(crate) split: &'r str,
}

/// Why a row is not sent.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum NotSent {
    /// It is right, and is among those that need not be sent, as one that the target holds as it is.
    Accepted,
    /// It was rejected.
    Rejected,
    /// It went into the record of another row.
    Merged(Option<EarlierRecord>),
    /// It holds no record, or is kept out.
    LeftOut,
}

/// An accepted record beside those that the target holds.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Compared<'r> {
    pub(crate) place: Place,
    /// The key as people read it; nothing for one that is the same.
    pub(crate) key: &'r str,
    pub(crate) standing: Standing,
    pub(crate) differences: &'r [Difference],
    pub(crate) is_sent: bool,
    /// The last batch had its key already.
    pub(crate) is_again: bool,
}

/// Where a record is: its source, from 0, and its row.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) struct Place {
    pub(crate) source: SourceId,
    pub(crate) row: Row,
}

/// Takes nothing: the totals and causes of the run are enough.
#[derive(Debug, Default)]
pub(crate) struct Nowhere {
    /// What the records come to, field by field, is wanted as well.
    pub(crate) adds_up: bool,
}

impl Sink for Nowhere {
    fn adds_up(&self) -> bool {
        self.adds_up
    }

    fn tries_table(&self) -> bool {
        true
    }
}
