//! Comma-separated lists that a steward keeps beside the settings: code lists and crosswalks.
//!
//! They come back from spreadsheet programs, so a byte order mark, semicolons instead of commas
//! and any line end are taken as they are; the header names the columns in any order.

use std::path::Path;

use dusk_evidence::{Error, Line, Problems, Result};
use dusk_sources::{Dialect, Rows};

/// A list with its header checked.
#[derive(Debug)]
pub struct List {
    /// The file as the steward knows it.
    pub name: String,
    /// The rows below the header; blank ones are left out.
    pub rows: Vec<ListRow>,
}

/// One row of a list: a cell per known column, in the order in which they were asked for.
#[derive(Debug)]
pub struct ListRow {
    /// The line on which the row begins.
    pub line: Line,
    cells: Vec<String>,
}

impl ListRow {
    /// The cell in the known column at `index`, trimmed; empty where the list has no such column.
    pub fn cell(&self, index: usize) -> &str {
        self.untrimmed(index).trim()
    }

    /// The same with the white space at its ends.
    pub fn untrimmed(&self, index: usize) -> &str {
        self.cells.get(index).map_or("", String::as_str)
    }
}

/// Where each column stands that a list must or may have; nothing where its header is wrong.
fn places_of(
    name: &str,
    header: &[String],
    required: &[&str],
    optional: &[&str],
    problems: &mut Problems,
) -> Option<Vec<Option<usize>>> {
    let known: Vec<&str> = required.iter().chain(optional).copied().collect();
    let mut places = vec![None; known.len()];
    let before = problems.len();
    for (place, heading) in header.iter().enumerate() {
        match known.iter().position(|name| name == heading) {
            Some(column) => match places.get_mut(column) {
                Some(Some(_)) => {
                    problems.at(name, Some(Line::FIRST), format!("has two columns \"{heading}\""));
                }
                Some(empty) => *empty = Some(place),
                None => {}
            },
            None => problems
                .at(name, Some(Line::FIRST), format!("does not know the column \"{heading}\""))
                .suggest(heading, known.iter().copied()),
        }
    }
    for (column, _) in required.iter().zip(&places).filter(|(_, place)| place.is_none()) {
        problems.at(name, Some(Line::FIRST), format!("has no column \"{column}\""));
    }
    (problems.len() == before).then_some(places)
}

impl List {
    /// Reads the list at `path`. `required` columns must be in its header, `optional` ones may be.
    ///
    /// Returns nothing when the file cannot be made out; everything wrong is added to `problems`.
    ///
    /// # Errors
    /// [`Error::File`] when the file is there but cannot be read.
    pub fn read(
        path: &Path,
        required: &[&str],
        optional: &[&str],
        problems: &mut Problems,
    ) -> Result<Option<Self>> {
        let name = path.display().to_string();
        let bytes = std::fs::read(path).map_err(Error::reading(path))?;
        let text = match std::str::from_utf8(&bytes) {
            Ok(text) => text.strip_prefix('\u{feff}').unwrap_or(text),
            Err(wrong) => {
                let before = bytes.get(..wrong.valid_up_to()).unwrap_or_default();
                let line = Line(1 + memchr::memchr_iter(b'\n', before).count() as u64);
                problems
                    .at(&name, Some(line), "holds bytes that are not UTF-8")
                    .hint("save the list as \"CSV UTF-8\" in your spreadsheet program");
                return Ok(None);
            }
        };
        Ok(Self::from_text(&name, text, required, optional, problems))
    }

    /// Reads a list that is in memory already.
    pub fn from_text(
        name: &str,
        text: &str,
        required: &[&str],
        optional: &[&str],
        problems: &mut Problems,
    ) -> Option<Self> {
        let first_line = text.lines().next().unwrap_or_default();
        let delimiter = if first_line.contains(';') && !first_line.contains(',') { ";" } else { "," };
        let dialect = Dialect::new(delimiter, "\"");
        let mut rows = Rows::new(text, &dialect);
        let Some(header) = rows.next() else {
            problems
                .at(name, None, "is empty")
                .hint(format!("its first line must be {}", required.join(",")));
            return None;
        };
        let header: Vec<String> = header.cells().map(|cell| cell.trim().to_lowercase()).collect();
        let places = places_of(name, &header, required, optional, problems)?;
        let mut list = Self { name: name.to_owned(), rows: Vec::new() };
        while let Some(row) = rows.next() {
            let line = row.line();
            if !row.is_closed() {
                problems.at(name, Some(line), "opens a quote that is never closed");
                break;
            }
            if row.is_blank() {
                continue;
            }
            if row.len() > header.len() {
                problems
                    .at(name, Some(line), format!("has {} cells under {} headings", row.len(), header.len()))
                    .hint("put quotes around a value that holds the delimiter");
                continue;
            }
            let cells = places
                .iter()
                .map(|place| place.map_or(String::new(), |place| row.nth(place).to_owned()))
                .collect();
            list.rows.push(ListRow { line, cells });
        }
        Some(list)
    }
}
