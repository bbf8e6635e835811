//! The rows of a sheet on their way into a delimited file of the program's own.

use std::io::Write;

use super::cell_kind::{self, CellKind};
use super::damaged;
use super::limits::{LONGEST_CELL, LONGEST_ROW, MOST_COLUMNS, MOST_ROWS, too_far, too_large, too_long};
use dusk_evidence::Refusal;

/// Writes the rows of a spooled sheet.
pub(super) struct SpoolWriter<W> {
    out: W,
    /// The row that is being written, from 1.
    pub(super) row: u64,
    column: u32,
    written: u64,
    /// How much may be written.
    most: u64,
    line: String,
}

impl<W: Write> SpoolWriter<W> {
    /// Writes at most so many bytes.
    pub(super) fn new(out: W, most: u64) -> Self {
        Self { out, row: 1, column: 0, written: 0, most, line: String::new() }
    }

    /// Appends a cell; `row` and `column` count from 0 and never go back.
    pub(super) fn cell(&mut self, row: u32, column: u32, kind: CellKind, text: &str) -> Result<(), Refusal> {
        let row = u64::from(row) + 1;
        if row > MOST_ROWS || column >= MOST_COLUMNS {
            return Err(too_far(row, u64::from(column) + 1));
        }
        if text.len() > LONGEST_CELL || self.line.len() + text.len() > LONGEST_ROW {
            return Err(too_long(row));
        }
        if row < self.row || row == self.row && column < self.column {
            return Err(damaged(&format!("the cells of row {row} are not in order")));
        }
        while self.row < row {
            self.end_row()?;
        }
        while self.column < column {
            self.line.push('\u{1f}');
            self.column += 1;
        }
        self.line.push_str(kind.mark());
        let mut text = std::borrow::Cow::Borrowed(text);
        if text.contains(cell_kind::is_mark) {
            text = text.replace(cell_kind::is_mark, "\u{fffd}").into();
        }
        if text.contains(['\u{1e}', '\u{1f}', '\n', '\r']) {
            // A line break inside a cell is written alike by all programs that read it.
            let text =
                text.replace("\r\n", "\n").replace("_x000D_\n", "\n").replace('\u{1e}', "\u{1e}\u{1e}");
            self.line.push('\u{1e}');
            self.line.push_str(&text);
            self.line.push('\u{1e}');
        } else {
            self.line.push_str(&text);
        }
        Ok(())
    }

    fn end_row(&mut self) -> Result<(), Refusal> {
        self.line.push('\n');
        self.written += self.line.len() as u64;
        if self.written > self.most {
            return Err(too_large());
        }
        self.out.write_all(self.line.as_bytes()).map_err(|error| super::not_unpacked(&error))?;
        self.line.clear();
        (self.row, self.column) = (self.row + 1, 0);
        Ok(())
    }

    /// Writes what is left.
    pub(super) fn finish(mut self) -> Result<(), Refusal> {
        if !self.line.is_empty() {
            self.end_row()?;
        }
        self.out.flush().map_err(|error| super::not_unpacked(&error))
    }
}
