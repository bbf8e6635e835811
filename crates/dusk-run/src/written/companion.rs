//! `companion.csv`: columns that the target has no field for, handed on beside the upload with the record that each is of.

use std::iter::Peekable;
use std::path::Path;

use super::rows::ROWS;
use crate::Ready;
use dusk_evidence::{ColumnId, Error, Result};
use dusk_files::{Output, OutputFile, guarded};
use dusk_sources::{CellKind, Source};

/// The name of the list.
const COMPANION: &str = "companion.csv";

/// What the list has of each record before its columns.
const FIRST: [&str; 3] = ["key", "file", "record"];

/// A row that was sent, as the list of rows has it.
struct SentRow {
    source: String,
    row: u64,
    first: [String; 3],
}

/// Writes the columns that the mapping hands on, for each record that is sent; nothing where it hands on none. The list of
/// rows in the folder is whole by now.
///
/// # Errors
/// [`Error::File`] where a file cannot be read or written.
pub(super) fn write(ready: &Ready<'_>, folder: &Path) -> Result<Option<OutputFile>> {
    let columns = &ready.job.mapping.hand_on;
    if columns.is_empty() {
        return Ok(None);
    }
    let mut output = Output::create(folder, COMPANION)?;
    let headings = FIRST.into_iter().chain(columns.iter().map(String::as_str));
    output.append(&line_of(headings)?)?;
    let mut sent = sent_rows(&folder.join(ROWS))?.peekable();
    for source in ready.job.sources {
        of_source(source, columns, &mut sent, &mut output)?;
    }
    output.finish().map(Some)
}

/// Walks through a source beside the rows that were sent, which are in the same order.
fn of_source(
    source: &Source,
    columns: &[String],
    sent: &mut Peekable<impl Iterator<Item = Result<SentRow>>>,
    output: &mut Output,
) -> Result<()> {
    let gone = |name: &String| Error::Invariant(format!("the column {name} is not there any more"));
    let places: Vec<ColumnId> =
        columns.iter().map(|name| source.column(name).ok_or_else(|| gone(name))).collect::<Result<_>>()?;
    let mut walk = source.walk()?;
    while let Some(mut rows) = walk.more()? {
        while let Some(row) = rows.next() {
            let is_here = |sent: &Result<SentRow>| {
                sent.as_ref().is_ok_and(|sent| sent.row == row.row().0 && sent.source == source.name)
            };
            while let Some(record) = sent.next_if(is_here) {
                let record = record?;
                let cells = places.iter().map(|place| CellKind::of(row.cell(*place)).1.trim());
                output.append(&line_of(record.first.iter().map(String::as_str).chain(cells))?)?;
                output.rows += 1;
            }
        }
    }
    Ok(())
}

fn sent_rows(path: &Path) -> Result<impl Iterator<Item = Result<SentRow>> + use<>> {
    let shown = path.to_path_buf();
    let wrong = move |error: csv::Error| Error::reading(&shown)(std::io::Error::other(error));
    let mut reader = csv::Reader::from_path(path).map_err(&wrong)?;
    let cell = |record: &csv::StringRecord, place: usize| {
        let text = record.get(place).unwrap_or_default();
        text.strip_prefix('\'').filter(|plain| guarded(plain) == text).unwrap_or(text).to_owned()
    };
    let read = move |record: csv::Result<csv::StringRecord>| {
        let record = record.map_err(&wrong)?;
        let row = record.get(1).and_then(|row| row.parse().ok()).unwrap_or_default();
        let first = [3, 4, 6].map(|place| cell(&record, place));
        let is_sent = record.get(2) == Some("sent");
        Ok(is_sent.then(|| SentRow { source: cell(&record, 0), row, first }))
    };
    let mut records = std::iter::from_fn(move || {
        let mut record = csv::StringRecord::new();
        match reader.read_record(&mut record) {
            Ok(true) => Some(Ok(record)),
            Ok(false) => None,
            Err(error) => Some(Err(error)),
        }
    });
    Ok(std::iter::from_fn(move || {
        loop {
            match read(records.next()?) {
                Ok(None) => {}
                Ok(Some(sent)) => return Some(Ok(sent)),
                Err(error) => return Some(Err(error)),
            }
        }
    }))
}

fn line_of<'c>(cells: impl Iterator<Item = &'c str>) -> Result<Vec<u8>> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    let guarded: Vec<String> = cells.map(|cell| guarded(cell).into_owned()).collect();
    writer.write_record(&guarded).map_err(|error| Error::Invariant(error.to_string()))?;
    writer.into_inner().map_err(|error| Error::Invariant(error.to_string()))
}
