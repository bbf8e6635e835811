//! Where something stands in a source. Rows and lines are different types, so that one can never
//! pass for the other.

use std::fmt;

use serde::Serialize;

/// The number of a row as a spreadsheet program shows it: the first row of the file is 1, rows
/// above the header and blank rows count, and a cell with line breaks in it is still one row.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct Row(pub u64);

/// The number of a physical line in a text file, from 1. A line break inside a quoted cell
/// begins a new line but not a new row.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct Line(pub u64);

impl Line {
    /// The first line of a file.
    pub const FIRST: Self = Self(1);
}

impl Row {
    /// This row, with its line beside it where the two numbers differ: "17", "17 (line 19)".
    pub fn with_line(self, line: Line) -> String {
        if self.0 == line.0 { self.to_string() } else { format!("{self} (line {line})") }
    }
}

impl fmt::Display for Row {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.0.fmt(f)
    }
}

impl fmt::Display for Line {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.0.fmt(f)
    }
}
