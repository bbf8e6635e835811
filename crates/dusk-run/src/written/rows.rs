//! `rows.csv`: what became of every row, and where in the upload it stands.

use std::path::Path;

use super::upload::UploadPlace;
use crate::{NotSent, Place, Ready, Removal, Sent};
use dusk_evidence::{EarlierRecord, Id as _, Result};
use dusk_files::{Output, OutputFile, guarded};

/// The name of the list.
pub(crate) const ROWS: &str = "rows.csv";

/// The columns of the list.
pub(crate) const HEADER: [&str; 9] =
    ["source", "row", "outcome", "key", "file", "line", "record", "into", "content"];

/// The list being written: a line for each row, or for each record of one that makes several.
#[derive(Debug)]
pub(crate) struct RowsList {
    output: Output,
    /// The names of the sources as cells.
    sources: Vec<Vec<u8>>,
    line: Vec<u8>,
}

impl RowsList {
    pub(crate) fn create(folder: &Path, ready: &Ready<'_>) -> Result<Self> {
        let mut output = Output::create(folder, ROWS)?;
        output.append((HEADER.join(",") + "\n").as_bytes())?;
        let cell = |name: &str| {
            let mut cell = Vec::new();
            push_cell(name, &mut cell);
            cell
        };
        let sources = ready.job.sources.iter().map(|source| cell(&source.name)).collect();
        Ok(Self { output, sources, line: Vec::new() })
    }

    /// A record that is sent, and where it stands.
    pub(crate) fn sent(&mut self, sent: &Sent<'_>, at: UploadPlace<'_>) -> Result<()> {
        self.begin(sent.place, "sent", sent.key);
        push_cell(at.file, &mut self.line);
        for number in [at.line, at.record] {
            self.line.push(b',');
            self.push_number(number);
        }
        self.line.extend_from_slice(b",,");
        self.push_number(u64::from(sent.content));
        self.end()
    }

    /// A held record that the target is told to remove: it has no row in the export, and its row in the target's list.
    pub(crate) fn removed(&mut self, removal: &Removal<'_>, at: UploadPlace<'_>) -> Result<()> {
        self.line.clear();
        push_cell(removal.list, &mut self.line);
        self.line.push(b',');
        self.push_number(removal.row.0);
        self.line.extend_from_slice(b",removed,");
        push_cell(removal.key, &mut self.line);
        self.line.push(b',');
        push_cell(at.file, &mut self.line);
        for number in [at.line, at.record] {
            self.line.push(b',');
            self.push_number(number);
        }
        self.line.extend_from_slice(b",,");
        self.end()
    }

    /// A row that is not sent.
    pub(crate) fn not_sent(&mut self, place: Place, key: &str, why: &NotSent) -> Result<()> {
        let (outcome, into) = match why {
            NotSent::Accepted => ("not sent", None),
            NotSent::Rejected => ("rejected", None),
            NotSent::LeftOut => ("left out", None),
            NotSent::Merged(into) => ("merged", into.as_ref()),
        };
        self.begin(place, outcome, key);
        self.line.extend_from_slice(b",,,");
        match into {
            None => {}
            Some(EarlierRecord::SameRow) => self.line.extend_from_slice(b"the same row"),
            Some(EarlierRecord::Row(row)) => push_cell(&format!("row {row}"), &mut self.line),
            Some(EarlierRecord::RowOf(row, source)) => {
                push_cell(&format!("row {row} of {source}"), &mut self.line);
            }
        }
        self.line.push(b',');
        self.end()
    }

    fn begin(&mut self, place: Place, outcome: &str, key: &str) {
        self.line.clear();
        self.line.extend_from_slice(self.sources.get(place.source.index()).map_or(&[], Vec::as_slice));
        self.line.push(b',');
        self.push_number(place.row.0);
        self.line.push(b',');
        self.line.extend_from_slice(outcome.as_bytes());
        self.line.push(b',');
        push_cell(key, &mut self.line);
        self.line.push(b',');
    }

    fn push_number(&mut self, number: u64) {
        self.line.extend_from_slice(itoa::Buffer::new().format(number).as_bytes());
    }

    fn end(&mut self) -> Result<()> {
        self.line.push(b'\n');
        self.output.rows += 1;
        self.output.append(&self.line)
    }

    pub(crate) fn finish(self) -> Result<OutputFile> {
        self.output.finish()
    }
}

/// Appends a cell (RFC 4180), guarded against programs that would run it.
fn push_cell(text: &str, line: &mut Vec<u8>) {
    // Most keys are letters and digits, and need no closer look.
    if text.bytes().all(|byte| byte.is_ascii_alphanumeric() || matches!(byte, b' ' | b'.' | b'_')) {
        line.extend_from_slice(text.as_bytes());
        return;
    }
    let text = guarded(text);
    if text.bytes().any(|byte| matches!(byte, b',' | b'"' | b'\n' | b'\r')) {
        line.push(b'"');
        line.extend_from_slice(text.replace('"', "\"\"").as_bytes());
        line.push(b'"');
    } else {
        line.extend_from_slice(text.as_bytes());
    }
}
