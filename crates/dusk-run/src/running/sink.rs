//! Who takes the results of a run.

use crate::Again;
use dusk_conforming::{ChangeKey, Single};
use dusk_evidence::{Finding, Result, Row, SourceId};
use dusk_memory::RecordHash;
use dusk_sources::{Patch, RowCells};

/// Takes the results of a run, in the order of the rows.
pub(crate) trait Sink {
    /// An accepted record, as it stands in the upload file, and the value by which files are split.
    fn accepted(&mut self, _record: &[u8], _split: &str) -> Result<()> {
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

/// Where a record is: its source, from 0, and its row.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) struct Place {
    pub(crate) source: SourceId,
    pub(crate) row: Row,
}

/// Takes nothing: the totals and causes of the run are enough.
#[derive(Debug)]
pub(crate) struct Nowhere;

impl Sink for Nowhere {}
