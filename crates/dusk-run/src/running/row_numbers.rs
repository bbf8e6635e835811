//! The number of every row in a whole batch, from which its source and its row are found again without a list.

use dusk_evidence::{Error, Id as _, Result, Row, SourceId};

/// Numbers rows in their order, whichever source they are from.
#[derive(Debug, Default)]
pub(crate) struct RowNumbers {
    /// For each source, the number of its first row, and that row.
    starts: Vec<(u32, Row)>,
    passed: u64,
}

impl RowNumbers {
    /// So many rows are done with.
    pub(crate) fn pass(&mut self, rows: u64) {
        self.passed += rows;
    }

    /// The number of a row, from 0.
    ///
    /// # Errors
    /// [`Error::Request`] for more rows than are told apart.
    pub(crate) fn number(&mut self, source: SourceId, row: Row) -> Result<u32> {
        while self.starts.len() <= source.index() {
            let next = u32::try_from(self.passed).map_err(|_| too_many_rows())?;
            self.starts.push((next, row));
        }
        let (start, first) = self.starts.get(source.index()).copied().unwrap_or((0, row));
        u32::try_from(u64::from(start) + (row.0 - first.0)).map_err(|_| too_many_rows())
    }

    /// The row with a number.
    pub(crate) fn row_of(&self, number: u32) -> (SourceId, Row) {
        let place = self.starts.iter().rposition(|(start, _)| *start <= number).unwrap_or(0);
        let (start, first) = self.starts.get(place).copied().unwrap_or((0, Row(1)));
        (SourceId::new(place), Row(first.0 + u64::from(number - start)))
    }
}

pub(crate) fn too_many_rows() -> Error {
    Error::Request("a batch cannot have more than 4,294,967,295 rows; run the sources one by one".into())
}
