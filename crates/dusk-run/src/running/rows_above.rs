//! What stands above the rows of each block, in the columns that are filled down: told by whoever reads the blocks.

use dusk_conforming::{Above, AboveCells, Bound, Plan, Shape};
use dusk_evidence::{Id as _, SourceId};
use dusk_sources::{Block, Source};

/// What stands above the block that is read next.
pub(crate) struct RowsAbove<'r> {
    sources: &'r [Source],
    columns: &'r [Vec<Bound>],
    above: AboveCells<'r>,
    source: SourceId,
}

impl<'r> RowsAbove<'r> {
    /// Above the first row, for a plan whose columns these are in each source.
    pub(crate) fn new(plan: &'r Plan<'r>, sources: &'r [Source], columns: &'r [Vec<Bound>]) -> Self {
        Self { sources, columns, above: AboveCells::new(plan), source: SourceId::FIRST }
    }

    /// Says what stands above a block of this source, and goes on below it.
    pub(crate) fn begin(&mut self, id: SourceId, block: &Block, says: &mut Vec<Above>) {
        let (source, columns) = (self.sources.get(id.index()), self.columns.get(id.index()));
        let (false, Some(source), Some(columns)) = (self.above.is_empty(), source, columns) else { return };
        if id != self.source {
            self.source = id;
            self.above.clear();
        }
        says.clear();
        says.extend_from_slice(self.above.all());
        let shape = Shape::of(source, id, columns);
        let mut rows = block.rows(&source.dialect);
        while let Some(row) = rows.next() {
            self.above.pass(&row, &shape);
        }
    }
}
