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
        push_spooled(&mut self.line, kind, text);
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

/// Appends a cell to a row that is spooled, quoted where it holds what parts cells and rows.
pub fn push_spooled(line: &mut String, kind: CellKind, text: &str) {
    line.push_str(kind.mark());
    let mut text = std::borrow::Cow::Borrowed(text);
    if text.contains(cell_kind::is_mark) {
        text = text.replace(cell_kind::is_mark, "\u{fffd}").into();
    }
    if text.contains(['\u{1e}', '\u{1f}', '\n', '\r']) {
        // A line break inside a cell is written alike by all programs that read it.
        let text = text.replace("\r\n", "\n").replace("_x000D_\n", "\n").replace('\u{1e}', "\u{1e}\u{1e}");
        line.push('\u{1e}');
        line.push_str(&text);
        line.push('\u{1e}');
    } else {
        line.push_str(&text);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn spooled(cells: &[(u32, u32, &str)], most: u64) -> Result<String, String> {
        let mut out = Vec::new();
        let mut writer = SpoolWriter::new(&mut out, most);
        let done = cells
            .iter()
            .try_for_each(|(row, column, text)| writer.cell(*row, *column, CellKind::Text, text))
            .and_then(|()| writer.finish());
        done.map_err(|refusal| refusal.says).map(|()| String::from_utf8(out).unwrap())
    }

    #[test]
    fn cells_keep_their_places_and_what_would_part_them_is_quoted() {
        let cells = [(0, 1, "b"), (2, 0, "two\r\nlines"), (2, 2, "a\u{1f}b\u{1e}")];
        let expected = "\u{1f}b\n\n\u{1e}two\nlines\u{1e}\u{1f}\u{1f}\u{1e}a\u{1f}b\u{1e}\u{1e}\u{1e}\n";
        assert_eq!(spooled(&cells, 1_000).as_deref(), Ok(expected));
        assert_eq!(
            spooled(&[(0, 0, "\u{fdd0}x")], 1_000).as_deref(),
            Ok("\u{fffd}x\n"),
            "no mark from outside"
        );
    }

    #[test]
    fn nothing_goes_beyond_a_sheet_or_back_or_on_without_end() {
        let long = "x".repeat(LONGEST_CELL + 1);
        let longest = "x".repeat(LONGEST_CELL);
        let row: Vec<(u32, u32, &str)> = (0..4).map(|column| (0, column, longest.as_str())).collect();
        for (cells, says) in [
            (vec![(1_048_576, 0, "x")], "row 1048577"),
            (vec![(0, 16_384, "x")], "column 16385"),
            (vec![(1, 0, "x"), (0, 0, "y")], "not in order"),
            (vec![(0, 2, "x"), (0, 1, "y")], "not in order"),
            (vec![(0, 0, long.as_str())], "several million characters"),
            (row, "several million characters"),
            (vec![(900, 0, "x")], "unpacks to far more"),
        ] {
            let refused = spooled(&cells, 500).unwrap_err();
            assert!(refused.contains(says), "{refused}");
        }
    }
}
