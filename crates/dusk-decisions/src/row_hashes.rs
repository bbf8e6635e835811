//! What the rows of a source are recognised by.

use super::RowHash;
use dusk_evidence::{ById, ColumnId, Id as _};
use dusk_sources::{CellHash, Patch, RowCells, Source, without_marks};

/// What stands in the place of a heading for the cells beyond the last one.
pub const BEYOND: &str = "beyond the header";

/// Reckons the hashes of a source's rows.
#[derive(Debug, Clone)]
pub struct RowHashes {
    columns: ById<ColumnId, ColumnHash>,
    beyond: CellHash,
    /// What stands between the cells beyond the header.
    between: String,
}

#[derive(Debug, Clone, Copy)]
struct ColumnHash {
    cells: CellHash,
    used: bool,
    key: bool,
}

impl RowHashes {
    /// Of rows of `source`. The cells under the headings `used` are those that matter, those under `keys`
    /// tell which record a row is.
    pub fn of(source: &Source, used: &[String], keys: &[&str]) -> Self {
        let column = |heading: &String| ColumnHash {
            cells: CellHash::under(heading),
            used: used.contains(heading),
            key: keys.contains(&heading.as_str()),
        };
        Self {
            columns: source.columns.iter().map(column).collect(),
            beyond: CellHash::under(BEYOND),
            between: if source.dialect.is_sheet() { " " } else { source.dialect.delimiter() }.to_owned(),
        }
    }

    /// The column after the last, which stands for what is beyond the header.
    pub fn beyond(&self) -> ColumnId {
        ColumnId::new(self.columns.len())
    }

    /// What a row has in a column, without marks and white space at its ends; the column after the last
    /// stands for what is beyond the header.
    pub fn cell(&self, row: &RowCells<'_>, column: ColumnId) -> String {
        let width = self.columns.len();
        if column.index() < width {
            return without_marks(row.cell(column)).trim().to_owned();
        }
        let beyond: Vec<_> = row.cells().skip(width).map(without_marks).collect();
        if beyond.iter().all(|cell| cell.trim().is_empty()) {
            return String::new();
        }
        beyond.join(&self.between).trim().to_owned()
    }

    /// The hash of a row.
    pub fn row(&self, row: &RowCells<'_>) -> RowHash {
        self.each_cell(row, &mut Vec::new())
    }

    /// The hash of a row; `each` gets those of its cells, and last that of what is beyond the header.
    pub fn each_cell(&self, row: &RowCells<'_>, each: &mut Vec<u64>) -> RowHash {
        let mut print = RowHash::default();
        each.clear();
        for (id, column) in self.columns.with_ids() {
            let own = column.cells.of(row.cell(id));
            each.push(own);
            print.all = print.all.wrapping_add(own);
            if column.used {
                print.used = print.used.wrapping_add(own);
            }
            if column.key {
                print.key = print.key.wrapping_add(own);
            }
        }
        if row.len() > self.columns.len() {
            let own = self.beyond.of(&self.cell(row, self.beyond()));
            each.push(own);
            print.all = print.all.wrapping_add(own);
            print.used = print.used.wrapping_add(own);
        }
        print
    }

    /// The hash of a cell in a column.
    pub fn of_cell(&self, column: ColumnId, text: &str) -> u64 {
        self.columns.get(column).map_or(self.beyond, |column| column.cells).of(text)
    }

    /// The hash of a row as its source has it, from that of the row with these cells corrected.
    pub fn as_exported(&self, print: RowHash, patches: &[Patch]) -> RowHash {
        patches.iter().fold(print, |print, patch| {
            let change =
                self.of_cell(patch.column, &patch.was).wrapping_sub(self.of_cell(patch.column, &patch.now));
            let column = self.columns.get(patch.column);
            let add = |sum: u64, counts: bool| if counts { sum.wrapping_add(change) } else { sum };
            RowHash {
                all: add(print.all, true),
                used: add(print.used, column.is_none_or(|column| column.used)),
                key: add(print.key, column.is_some_and(|column| column.key)),
            }
        })
    }

    /// Whether a column tells which record a row is.
    pub fn is_key(&self, column: ColumnId) -> bool {
        self.columns.get(column).is_some_and(|column| column.key)
    }

    /// The part of a row's hashes that does not depend on some of its cells.
    pub fn without(&self, print: RowHash, cells: impl Iterator<Item = (ColumnId, u64)>) -> (u64, u64) {
        let (mut all, mut used) = (print.all, print.used);
        for (place, own) in cells {
            all = all.wrapping_sub(own);
            if self.columns.get(place).is_none_or(|column| column.used) {
                used = used.wrapping_sub(own);
            }
        }
        (all, used)
    }
}
