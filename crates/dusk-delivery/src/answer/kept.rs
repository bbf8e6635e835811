//! An answer as it stays with the batch: what is known of every record that was sent.

use std::path::Path;

use super::told::{Told, ToldRecords};
use crate::{BatchEvent, Happened, SentRecords, events};
use dusk_evidence::{Error, Result};
use dusk_files::{Held, OutputFile, guarded, unguarded};

/// The columns of the list.
const HEADER: [&str; 10] =
    ["source", "row", "key", "file", "line", "record", "outcome", "reason", "number", "content"];

/// What the list of the n-th answer is called.
fn name_of(number: usize) -> String {
    format!("answer-{number}.csv")
}

/// Writes what is known of every record now; gives back the name and the hash of the list.
pub(crate) fn keep(
    held: &Held,
    batch: &Path,
    events: &[BatchEvent],
    (sent, told): (&SentRecords, &ToldRecords),
) -> Result<OutputFile> {
    let before = events.iter().filter(|event| event.what == Happened::Answered).count();
    let name = name_of(before + 1);
    let wrong = |error: csv::Error| Error::Invariant(error.to_string());
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(HEADER).map_err(wrong)?;
    for (at, record) in sent.iter().enumerate() {
        let numbers = [record.row.0, record.line, record.record].map(|number| number.to_string());
        let [row, line, number] = &numbers;
        let content = record.content.to_string();
        let cells = [
            record.source,
            row,
            record.key,
            record.file,
            line,
            number,
            told.get(at).word(),
            told.reason(at),
            told.number(at),
            &content,
        ];
        writer.write_record(cells.map(|cell| guarded(cell).into_owned())).map_err(wrong)?;
    }
    let bytes = writer.into_inner().map_err(|error| Error::Invariant(error.to_string()))?;
    let path = batch.join(&name);
    held.with(&path)?.write(&bytes)?;
    OutputFile::of_file(&path, &name, sent.len() as u64)
}

/// What is known of every record of a batch, as its last answer says; nothing where there was none.
///
/// # Errors
/// [`Error::Source`] where the list was edited or is gone.
pub fn kept_answer(batch: &Path, sent: &SentRecords) -> Result<Option<ToldRecords>> {
    let events = events(batch)?;
    let Some(event) = events.iter().rfind(|event| event.what == Happened::Answered) else { return Ok(None) };
    let path = batch.join(&event.file);
    let damaged = |why: &str| Error::Source {
        source_name: path.display().to_string(),
        says: format!("is not as it was written: {why}"),
        hint: "put it back from a copy of the batch, or read the answer again with dusk answer --replace"
            .into(),
    };
    if !path.is_file() {
        return Err(damaged("it is gone"));
    }
    if OutputFile::of_file(&path, &event.file, 0)?.blake3 != event.blake3 {
        return Err(damaged("somebody has edited it, or it was cut short"));
    }
    let mut reader = csv::Reader::from_path(&path).map_err(|error| damaged(&error.to_string()))?;
    let mut told = ToldRecords::of(sent.len());
    for (at, record) in reader.records().enumerate() {
        let record = record.map_err(|error| damaged(&error.to_string()))?;
        let cell =
            |place: usize| record.get(place).map(|cell| unguarded(cell).into_owned()).unwrap_or_default();
        let outcome = Told::named(&cell(6))
            .ok_or_else(|| damaged("it has an outcome that this program never writes"))?;
        told.set(at, outcome, &cell(7), &cell(8));
    }
    Ok(Some(told))
}
