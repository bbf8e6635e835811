//! Rows found again by what stewards have of them months later: a key, or a line of what was uploaded.

use std::path::Path;

use serde::{Deserialize, Serialize};

use crate::written::rows::{HEADER, ROWS};
use crate::{NotSent, PastBatch, Place, Ready, Sent, Sink};
use dusk_evidence::{Error, Result, Row, SourceId};
use dusk_files::{OutputFile, unguarded};
use dusk_sources::Progress;
use dusk_values::fold;

/// A line of a batch's `rows.csv`.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct ListedRow {
    /// The source.
    pub source: String,
    /// The row there.
    pub row: u64,
    /// What became of it: "sent", "not sent", "rejected", "merged", "left out"; "removed" for a record of the target that
    /// it is told to remove, whose source is the target's list.
    pub outcome: String,
    /// The key of its record as people read it.
    pub key: String,
    /// The upload file that it is in.
    pub file: String,
    /// The line, or the row of the sheet, on which it begins there.
    pub line: Option<u64>,
    /// Its number among the records there, from 1.
    pub record: Option<u64>,
    /// The row into whose record it went.
    pub into: String,
    /// The hash of what a record that was sent says.
    pub content: Option<u32>,
}

/// How well a key is the one that is looked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum KeyMatch {
    /// A part of it is.
    Part,
    /// It is.
    Whole,
}

/// Whether a key, whose parts stand between " + ", is the one that is looked for. Case and blanks do not count.
pub fn key_match(key: &str, wanted: &str) -> Option<KeyMatch> {
    const BETWEEN: &str = " + ";
    let wanted = fold(wanted);
    if fold(key) == wanted {
        return (!wanted.is_empty()).then_some(KeyMatch::Whole);
    }
    let is_part = key.contains(BETWEEN) && key.split(BETWEEN).any(|part| fold(part) == wanted);
    is_part.then_some(KeyMatch::Part)
}

impl PastBatch {
    /// The rows of the batch, in their order; nothing where it was made before batches listed them.
    ///
    /// # Errors
    /// [`Error::File`] when the list cannot be read; [`Error::Source`] where somebody has damaged it.
    pub fn listed_rows(&self) -> Result<Option<impl Iterator<Item = Result<ListedRow>>>> {
        let path = self.path.join(ROWS);
        if !path.is_file() {
            return Ok(None);
        }
        self.refuse_edited_rows(&path)?;
        let mut reader = csv::Reader::from_path(&path).map_err(|error| damaged(&path, &error.to_string()))?;
        if !reader.headers().is_ok_and(|headers| headers == HEADER.as_slice()) {
            return Err(damaged(&path, "its headings are others"));
        }
        Ok(Some(reader.into_deserialize().map(move |row: csv::Result<ListedRow>| {
            let mut row = row.map_err(|error| damaged(&path, &error.to_string()))?;
            for cell in [&mut row.source, &mut row.key, &mut row.file, &mut row.into] {
                *cell = unguarded(cell).into_owned();
            }
            Ok(row)
        })))
    }

    /// A list that was cut short or edited would say of a record that it was never sent.
    fn refuse_edited_rows(&self, path: &Path) -> Result<()> {
        let Ok(receipt) = &self.receipt else { return Ok(()) };
        let written = receipt.outputs.iter().find(|output| output.file == ROWS);
        match written {
            Some(written) if OutputFile::of_file(path, ROWS, 0)?.blake3 != written.blake3 => {
                Err(damaged(path, "somebody has edited it, or it was cut short"))
            }
            _ => Ok(()),
        }
    }

    /// The rows whose key is the one that is looked for: as a whole, or else in a part of it.
    ///
    /// # Errors
    /// As [`PastBatch::listed_rows`].
    pub fn rows_with_key(&self, wanted: &str) -> Result<Vec<ListedRow>> {
        let mut found = Vec::new();
        for row in self.listed_rows()?.into_iter().flatten() {
            let row = row?;
            found.extend(key_match(&row.key, wanted).map(|matched| (matched, row)));
        }
        let best = found.iter().map(|(matched, _)| *matched).max();
        Ok(found.into_iter().filter(|(matched, _)| Some(*matched) == best).map(|(_, row)| row).collect())
    }

    /// The row whose record stands on a line of an upload file, which may be any of its lines.
    ///
    /// # Errors
    /// As [`PastBatch::listed_rows`]; [`Error::Request`] for a line without a record.
    pub fn row_at(&self, file: &str, line: u64) -> Result<Option<ListedRow>> {
        let mut found: Option<ListedRow> = None;
        let (mut first, mut is_last) = (None, true);
        for row in self.listed_rows()?.into_iter().flatten() {
            let row = row?;
            let Some(begins) = row.line.filter(|_| row.file == file) else { continue };
            first = first.or(Some(begins));
            if begins > line {
                is_last = false;
                break;
            }
            found = Some(row);
        }
        let path = self.path.join("upload").join(file);
        match (found, first) {
            (None, Some(first)) => Err(Error::Request(format!(
                "line {line} of {file} is above its first record, which begins on line {first}"
            ))),
            (Some(row), _) if is_last && row.line != Some(line) && lines_of(&path)? < line => {
                Err(Error::Request(format!(
                    "{file} has no line {line}; its last record, of row {} of {}, begins on line {}",
                    row.row,
                    row.source,
                    row.line.unwrap_or_default()
                )))
            }
            (found, _) => Ok(found),
        }
    }
}

/// How many lines a text has; none where it is no text, as a workbook, or is not there any more.
fn lines_of(path: &Path) -> Result<u64> {
    if !path.is_file() || path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("xlsx")) {
        return Ok(0);
    }
    let bytes = std::fs::read(path).map_err(Error::reading(path))?;
    Ok(memchr::memchr_iter(b'\n', &bytes).count() as u64)
}

fn damaged(path: &Path, why: &str) -> Error {
    Error::Source {
        source_name: path.display().to_string(),
        says: format!("is not as it was written: {why}"),
        hint: "put it back from a copy of the batch; dusk batches says which files were edited".into(),
    }
}

/// Rows of the sources with a key, and the key of each.
#[derive(Debug, Default)]
pub struct FoundByKey {
    /// The rows whose whole key it is.
    pub whole: Vec<(SourceId, Row, String)>,
    /// Those of which it is a part of the key.
    pub part: Vec<(SourceId, Row, String)>,
}

impl FoundByKey {
    /// Runs the job and looks for a key.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub fn find(ready: &Ready<'_>, wanted: &str, progress: &Progress<'_>) -> Result<Self> {
        let mut finder = KeyFinder { wanted, found: Self::default() };
        ready.run(&mut finder, progress)?;
        Ok(finder.found)
    }
}

struct KeyFinder<'w> {
    wanted: &'w str,
    found: FoundByKey,
}

impl KeyFinder<'_> {
    fn look_at(&mut self, place: Place, key: &str) {
        let rows = match key_match(key, self.wanted) {
            Some(KeyMatch::Whole) => &mut self.found.whole,
            Some(KeyMatch::Part) => &mut self.found.part,
            None => return,
        };
        // The records of one row follow one another.
        if rows.last().is_none_or(|(source, row, _)| (*source, *row) != (place.source, place.row)) {
            rows.push((place.source, place.row, key.to_owned()));
        }
    }
}

impl Sink for KeyFinder<'_> {
    fn lists_rows(&self) -> bool {
        true
    }

    fn accepted(&mut self, sent: &Sent<'_>) -> Result<()> {
        self.look_at(sent.place, sent.key);
        Ok(())
    }

    fn not_sent(&mut self, place: Place, key: &str, _: &NotSent) -> Result<()> {
        self.look_at(place, key);
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::{KeyMatch, key_match};

    #[test]
    fn a_key_is_found_as_a_whole_or_by_a_part() {
        assert_eq!(key_match("000117 + A1", "000117 + a1"), Some(KeyMatch::Whole));
        assert_eq!(key_match("000117 + A1", " a 1"), Some(KeyMatch::Part));
        assert_eq!(key_match("North pier", "north  PIER"), Some(KeyMatch::Whole));
        assert_eq!(key_match("North pier", "north"), None);
        assert_eq!(key_match("", " "), None);
    }
}
