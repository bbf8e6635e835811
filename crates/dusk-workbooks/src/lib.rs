//! One sheet of a workbook becomes rows of cells.
//!
//! The sheet is read once, cell by cell, into a temporary delimited file of the program's own, so
//! that everything after it works as for any other source: in blocks, as often as needed, in little
//! memory. Its rows keep the sheet's numbers, and cells keep what they are ([`CellKind`]).

mod cell_kind;
mod container;
mod error_words;
mod formulas;
mod marks;
mod reader;
mod value;

use std::path::Path;

use serde::Serialize;

pub use cell_kind::{
    ABOVE_UNKNOWN, CellKind, FROM_ABOVE, MOST_GROUPS, group_mark, group_of, is_mark, without_marks,
};
pub use container::{Container, container_of};
pub use formulas::formulas;
pub use marks::column_letters;

use dusk_evidence::Refusal;

/// Which sheet of a workbook.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum SheetChoice {
    /// By its name.
    Name(String),
    /// By its number, from 1.
    Number(u64),
}

/// What was noticed about the workbook and its sheet.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize)]
pub struct WorkbookFacts {
    /// What kind of file it is: xlsx, xlsb, xls or ods.
    pub format: &'static str,
    /// The sheet that is read.
    pub sheet: String,
    /// Every sheet, and whether it is hidden.
    pub sheets: Vec<(String, bool)>,
    /// True when day counts begin in 1904.
    pub from_1904: bool,
    /// Rows that are hidden, as ranges; they are read like all others.
    pub hidden_rows: Vec<(u64, u64)>,
    /// Merged cells, as ranges like B2:B5; only the first cell of each holds the value.
    pub merged: Vec<String>,
    /// How many cells hold each kind of value.
    pub kinds: Vec<(&'static str, u64)>,
    /// How many numbers have leading zeros by their display format only.
    pub zeros_by_format: u64,
}

impl WorkbookFacts {
    /// How many rows are hidden.
    pub fn hidden_count(&self) -> u64 {
        self.hidden_rows.iter().map(|(first, last)| last - first + 1).sum()
    }
}

/// A sheet as a delimited file of the program's own.
#[derive(Debug)]
pub struct Spooled {
    /// The file, which goes away with this.
    pub file: tempfile::NamedTempFile,
    /// What was noticed about the workbook.
    pub facts: WorkbookFacts,
}

/// What parts the cells of a spooled sheet, and what quotes them: the information separators of ASCII, which
/// are made for this.
pub const SPOOL_MARKS: (&str, &str) = ("\u{1f}", "\u{1e}");

/// The most that a spooled sheet may take, in bytes.
const MOST_SPOOLED: u64 = 4 << 30;

/// Reads the chosen sheet of the workbook at `path`.
///
/// # Errors
/// A [`Refusal`] when it is damaged, protected or absurdly large, or has no such sheet.
pub fn spool(path: &Path, container: Container, sheet: Option<&SheetChoice>) -> Result<Spooled, Refusal> {
    // A damaged file can lead the reading library into a panic, which ends this thread only.
    let read = std::thread::scope(|scope| {
        std::thread::Builder::new()
            .name(READING_THREAD.into())
            .spawn_scoped(scope, || reader::read(path, container, sheet))
            .map(|thread| thread.join())
    });
    match read {
        Ok(Ok(spooled)) => spooled,
        Ok(Err(_)) => Err(damaged("its cells contradict one another")),
        Err(error) => Err(Refusal::new(format!("cannot be read: {error}"), "")),
    }
}

/// The name of the thread that reads workbooks; a panic there is a damaged file, and is said as one.
pub const READING_THREAD: &str = "workbook";

fn damaged(what: &str) -> Refusal {
    Refusal::new(
        format!("is a damaged workbook: {what}"),
        "open it in a spreadsheet program, save it again under another name, and use that file",
    )
}

/// Writes the rows of a spooled sheet.
struct SpoolWriter<W> {
    out: W,
    row: u64,
    column: u32,
    written: u64,
    line: String,
}

impl<W: std::io::Write> SpoolWriter<W> {
    fn new(out: W) -> Self {
        Self { out, row: 1, column: 0, written: 0, line: String::new() }
    }

    /// Appends a cell; `row` and `column` count from 0 and never go back.
    fn cell(&mut self, row: u32, column: u32, kind: CellKind, text: &str) -> Result<(), Refusal> {
        let row = u64::from(row) + 1;
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
        if self.written > MOST_SPOOLED {
            return Err(Refusal::new(
                "has a sheet whose used range is absurdly large",
                "delete the empty rows and columns beyond the table, or copy the table into a new workbook",
            ));
        }
        self.out.write_all(self.line.as_bytes()).map_err(|error| {
            Refusal::new(
                format!("cannot be unpacked into the temporary folder: {error}"),
                "free some space there",
            )
        })?;
        self.line.clear();
        (self.row, self.column) = (self.row + 1, 0);
        Ok(())
    }

    fn finish(mut self) -> Result<(), Refusal> {
        if !self.line.is_empty() {
            self.end_row()?;
        }
        self.out.flush().map_err(|error| Refusal::new(format!("cannot be unpacked: {error}"), ""))
    }
}
