//! What stands above a blank cell, where the mapping fills columns down.
//!
//! Blocks of rows are conformed in parallel, so what stands above a block's first row is found by
//! whoever reads the blocks in order, with the same code.

use super::clean::is_blank;
use super::plan::Plan;
use super::shape::Shape;
use dusk_evidence::Slot;
use dusk_sources::RowCells;

/// The last cell of a column that was not blank.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub enum Above {
    /// There is none.
    #[default]
    Nothing,
    /// It holds this, with its mark.
    Text(String),
    /// The row above could not be told into cells.
    Unknown,
}

/// The columns that are filled down, and what stands above in each.
#[derive(Debug)]
pub struct AboveCells<'p> {
    /// Each column, and the words that are blank in it.
    columns: Vec<(Slot, &'p [String])>,
    above: Vec<Above>,
}

impl<'p> AboveCells<'p> {
    /// The columns that a plan fills down, with nothing above them.
    pub fn new(plan: &'p Plan<'p>) -> Self {
        let columns: Vec<(Slot, &'p [String])> =
            plan.fields.iter().filter_map(|field| Some((field.filled_from?, field.blank))).collect();
        let above = vec![Above::Nothing; columns.len()];
        Self { columns, above }
    }

    /// True where no column is filled down.
    pub fn is_empty(&self) -> bool {
        self.columns.is_empty()
    }

    /// What stands above in every column.
    pub fn all(&self) -> &[Above] {
        &self.above
    }

    /// Begins below these cells.
    pub(crate) fn start(&mut self, above: &[Above]) {
        self.above.clear();
        self.above.extend_from_slice(above);
    }

    /// Begins a new source.
    pub fn clear(&mut self) {
        self.above.fill(Above::Nothing);
    }

    /// Goes on below this row.
    pub fn pass(&mut self, row: &RowCells<'_>, shape: &Shape<'_>) {
        if self.columns.is_empty() || row.is_blank() || shape.no_record(row).is_some() {
            return;
        }
        let whole = shape.is_whole(row);
        for ((slot, blank), above) in self.columns.iter().zip(&mut self.above) {
            if !whole {
                *above = Above::Unknown;
                continue;
            }
            let cell = shape.cell(row, *slot);
            if !is_blank(cell, blank) {
                *above = Above::Text(cell.to_owned());
            }
        }
    }

    /// What stands above in the column of this heading.
    pub(super) fn of(&self, slot: Slot) -> &Above {
        let place = self.columns.iter().position(|(column, _)| *column == slot);
        place.and_then(|place| self.above.get(place)).unwrap_or(&Above::Nothing)
    }
}
