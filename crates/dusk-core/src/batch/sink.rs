//! Who takes the results of a run.

use crate::Result;
use crate::conform::NewChange;
use crate::finding::Finding;
use crate::source::{Row, RowCells};

/// Takes the results of a run, in the order of the rows.
pub(super) trait Sink {
    /// An accepted record, as it stands in the upload file.
    fn accepted(&mut self, _record: &[u8]) -> Result<()> {
        Ok(())
    }

    /// A rejected row with its findings.
    fn rejected(&mut self, _source: usize, _row: &RowCells<'_>, _findings: &[Finding]) -> Result<()> {
        Ok(())
    }

    /// A finding, whether it rejects or not.
    fn finding(&mut self, _finding: &Finding) -> Result<()> {
        Ok(())
    }

    /// A change that a worker meets for the first time; its number is the worker's next.
    fn new_change(&mut self, _worker: usize, _change: NewChange) -> Result<()> {
        Ok(())
    }

    /// An accepted record's cell was changed as the worker's change of that number says.
    fn changed(&mut self, _worker: usize, _number: u32, _source: usize, _row: Row) -> Result<()> {
        Ok(())
    }

    /// The worker numbers anew from here.
    fn renumbered(&mut self, _worker: usize) -> Result<()> {
        Ok(())
    }
}

/// Takes nothing: the totals and causes of the run are enough.
#[derive(Debug)]
pub(super) struct Nowhere;

impl Sink for Nowhere {}
