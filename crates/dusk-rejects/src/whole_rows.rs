//! Whether a row that came back is whole, and its cells stand where they stood: a file that was cut off, or a cell that
//! was taken out, looks like cells that somebody cleared.

use super::changed_cell::ChangedCell;
use dusk_decisions::ExportedRow;
use dusk_evidence::{Id as _, Problems};
use dusk_sources::{RowCells, Source};

/// What to do about a file that is not whole.
pub(super) const WHOLE: &str = "save it once more as a whole, or edit rejects.xlsx instead";

/// Refuses a row with cells beyond the headings, and one whose quotes do not close: its cells stand elsewhere than
/// they did.
pub(super) fn refuse_shifted(source: &Source, row: &RowCells<'_>, problems: &mut Problems) {
    let (width, at) = (source.columns.len(), row.row());
    let mut refuse = |says: String| {
        problems.at(&source.name, None, says).hint(WHOLE);
    };
    if !row.is_closed() {
        refuse(format!("row {at}: a quoted cell in it does not end"));
    } else if row.cells().skip(width).any(|cell| !cell.trim().is_empty()) {
        refuse(format!("row {at} has {} cells, and there are {width} headings", row.len()));
    }
}

/// The heading from which on the changed cells of a row hold what their neighbours held, all of them on the same
/// side: a cell was taken out or put in, and nobody meant to change them. Two cells alone may have been exchanged.
pub(super) fn shifted_from<'c>(
    changes: &'c [ChangedCell],
    source: &Source,
    row: &ExportedRow,
) -> Option<&'c str> {
    const FEWEST: usize = 3;
    let column = |change: &ChangedCell| source.column(&change.column).map(|column| column.index());
    let held = |column: Option<usize>| column.and_then(|at| row.cells.get(at)).map_or("", String::as_str);
    let from = |step: fn(usize) -> Option<usize>| {
        let moved = |change: &&ChangedCell| {
            let was = held(column(change).and_then(step));
            !was.is_empty() && was == change.now && was != change.was
        };
        let moved: Vec<&ChangedCell> = changes.iter().filter(moved).collect();
        // The one that is left over may hold anything.
        let is_shift = moved.len() >= FEWEST && moved.len() + 2 >= changes.len();
        if is_shift { moved.first().map(|change| change.column.as_str()) } else { None }
    };
    from(|at| at.checked_add(1)).or_else(|| from(|at| at.checked_sub(1)))
}
