//! The workbook in which somebody says yes or no to each record before it is sent, and what comes back of it.

use std::path::Path;

use rust_xlsxwriter::{Color, DataValidation, Format, FormatAlign, Worksheet, XlsxError};

use super::compare::HeldComparison;
use crate::running::compared::{ComparedField, ComparedKind, ComparedRecord};
use crate::{LeavingOut, Ready, Summary};
use dusk_description::{workbook_for, writing};
use dusk_evidence::{Error, Id as _, Result, Row};
use dusk_files::{guarded, unguarded, write_whole};
use dusk_sources::{CellKind, Known, Source, SourceSettings};

/// Its columns before those of the fields.
const FIXED: [&str; 6] = ["go in", "is", "key", "source", "row", "export"];

/// The words that say yes and no.
const ANSWERS: [&str; 2] = ["yes", "no"];

/// The most rows that a sheet has below its headings.
const MOST_ROWS: u64 = 1_048_575;

/// Writes the records of a comparison into a workbook, a row each: what the target holds beside what the export says.
/// Gives back how many there are.
///
/// # Errors
/// [`Error::Request`] for more records than a sheet has rows; [`Error::File`] when it cannot be written.
pub fn write_sign_off(ready: &Ready<'_>, comparison: &HeldComparison, path: &Path) -> Result<u64> {
    if comparison.wanted > MOST_ROWS {
        return Err(Error::Request(format!(
            "{} records are more than a sheet has rows; choose some of them with --changed, --new or --field",
            comparison.wanted
        )));
    }
    let fields: Vec<&str> = comparison
        .fields
        .iter()
        .filter_map(|changes| ready.plan.fields.get(changes.field))
        .map(|plan| plan.field.name.as_str())
        .collect();
    let hashes: Vec<String> = comparison.summary.sources.iter().map(|source| short(&source.blake3)).collect();
    let mut sheet = Sheet { at: 0, formats: Formats::new(), fields };
    let mut book = workbook_for(path, ready.job.today)?;
    let page = writing(path, || book.add_worksheet_with_constant_memory())?;
    writing(path, || sheet.begin(page))?;
    for record in comparison.records()? {
        let record = record?;
        let place = ready.job.sources.iter().position(|source| source.name == record.source);
        let hash = place.and_then(|place| hashes.get(place)).map_or("", String::as_str);
        writing(path, || sheet.append(page, &record, hash))?;
    }
    writing(path, || sheet.end(page))?;
    let bytes = writing(path, || book.save_to_buffer())?;
    write_whole(path, &bytes)?;
    Ok(comparison.wanted)
}

/// The beginning of a hash is enough to tell two exports apart.
fn short(hash: &str) -> String {
    hash.chars().take(16).collect()
}

struct Formats {
    heading: Format,
    text: Format,
    old: Format,
    new: Format,
    answer: Format,
}

impl Formats {
    fn new() -> Self {
        let text = Format::new().set_num_format("@").set_align(FormatAlign::Top);
        Self {
            heading: Format::new().set_bold().set_background_color(Color::RGB(0xE7_E6_E6)),
            old: text
                .clone()
                .set_font_color(Color::RGB(0x9C_57_00))
                .set_background_color(Color::RGB(0xFF_F2_CC)),
            new: text
                .clone()
                .set_font_color(Color::RGB(0x00_61_00))
                .set_background_color(Color::RGB(0xDD_F1_DD)),
            answer: text.clone().set_background_color(Color::RGB(0xFF_FF_FF)).set_unlocked(),
            text,
        }
    }
}

struct Sheet<'f> {
    at: u32,
    formats: Formats,
    /// The fields that change in any record.
    fields: Vec<&'f str>,
}

impl Sheet<'_> {
    fn begin(&mut self, page: &mut Worksheet) -> std::result::Result<(), XlsxError> {
        page.set_name("Sign-off")?.set_freeze_panes(1, 3)?;
        for (column, wide) in [(0, 8), (1, 10), (2, 26), (3, 22), (4, 7), (5, 18)] {
            page.set_column_width(column, wide)?;
        }
        let mut column = 0;
        for heading in FIXED {
            page.write_string_with_format(0, column, heading, &self.formats.heading)?;
            column += 1;
        }
        for field in &self.fields {
            for when in ["held", "new"] {
                page.set_column_width(column, 18)?;
                page.write_string_with_format(0, column, format!("{field}: {when}"), &self.formats.heading)?;
                column += 1;
            }
        }
        page.set_column_width(column, 60)?;
        page.write_string_with_format(0, column, "all fields", &self.formats.heading)?;
        Ok(())
    }

    fn append(
        &mut self,
        page: &mut Worksheet,
        record: &ComparedRecord,
        hash: &str,
    ) -> std::result::Result<(), XlsxError> {
        self.at += 1;
        let (is, answer) = match record.is {
            ComparedKind::New => ("new", "yes"),
            ComparedKind::Changed => ("changed", "yes"),
            ComparedKind::Same => ("same", "yes"),
            // What the export does not have cannot be kept out of it.
            ComparedKind::Gone => ("gone", ""),
        };
        let row = record.row.to_string();
        let fixed = [answer, is, &record.key, &record.source, &row, hash];
        for (column, text) in (0..).zip(fixed) {
            let format = if column == 0 { &self.formats.answer } else { &self.formats.text };
            page.write_string_with_format(self.at, column, text, format)?;
        }
        let mut column = FIXED.len() as u16;
        for name in &self.fields {
            let field = record.fields.iter().find(|field| field.field == *name);
            let (old, new) = field.map_or((None, None), |field| (field.old.as_ref(), field.new.as_ref()));
            for (text, format) in [(old, &self.formats.old), (new, &self.formats.new)] {
                if let Some(text) = text {
                    page.write_string_with_format(self.at, column, cell(text), format)?;
                }
                column += 1;
            }
        }
        if record.is != ComparedKind::Changed {
            let text = |field: &ComparedField| {
                let value = field.new.as_ref().or(field.old.as_ref()).map_or("", String::as_str);
                format!("{}: {value}", field.field)
            };
            let all = record.fields.iter().map(text).collect::<Vec<_>>().join("; ");
            page.write_string_with_format(self.at, column, cell(&all), &self.formats.text)?;
        }
        Ok(())
    }

    fn end(&self, page: &mut Worksheet) -> std::result::Result<(), XlsxError> {
        let answers = DataValidation::new().allow_list_strings(&ANSWERS)?;
        page.add_data_validation(1, 0, self.at.max(1), 0, &answers)?;
        page.autofilter(0, 0, self.at.max(1), FIXED.len() as u16 - 1)?;
        Ok(())
    }
}

/// Writes which records somebody is asked to leave out, as a list that is brought back in the same way: each says "no",
/// and is kept out unless that is changed.
///
/// # Errors
/// [`Error::File`] when it cannot be written.
pub fn write_leaving_out(
    ready: &Ready<'_>,
    summary: &Summary,
    proposals: &[LeavingOut],
    path: &Path,
) -> Result<()> {
    let wrong = |error: csv::Error| Error::Invariant(error.to_string());
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(FIXED.into_iter().chain(["chosen by", "rule"])).map_err(wrong)?;
    for proposal in proposals {
        for record in &proposal.records {
            let place = record.source.index();
            let source = ready.job.sources.get(place).map_or("", |source| source.name.as_str());
            let hash = summary.sources.get(place).map_or_else(String::new, |source| short(&source.blake3));
            let values: Vec<String> =
                record.values.iter().map(|(name, text)| format!("{name} {text}")).collect();
            let row = record.row.to_string();
            let cells = ["no", "new", &record.key, source, &row, &hash, &values.join(", "), &proposal.rule];
            writer.write_record(cells.map(|cell| guarded(cell).into_owned())).map_err(wrong)?;
        }
    }
    let bytes = writer.into_inner().map_err(|error| Error::Invariant(error.to_string()))?;
    write_whole(path, &bytes)
}

/// A text as far as a cell holds it.
fn cell(text: &str) -> String {
    const MOST: usize = 32_000;
    text.chars().take(MOST).collect()
}

/// What came back of a record.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SignedRecord {
    /// Its row in the workbook.
    pub at: Row,
    /// Whether it is to go in; nothing where that is not said.
    pub goes_in: Option<bool>,
    /// The export that it is from.
    pub source: String,
    /// Its row there.
    pub row: u64,
    /// The beginning of the hash of the export.
    pub export: String,
    /// Its key as people read it.
    pub key: String,
}

/// Whether a file is such a workbook.
pub fn is_sign_off(path: &Path) -> bool {
    open(path).is_ok_and(|source| places(&source).is_some())
}

fn open(path: &Path) -> Result<Source> {
    Source::look(path, &SourceSettings::default(), &Known::headings(&FIXED))
}

fn places(source: &Source) -> Option<Vec<dusk_evidence::ColumnId>> {
    FIXED.iter().map(|heading| source.column(heading)).collect()
}

/// Reads what somebody has answered.
///
/// # Errors
/// [`Error::Request`] for an answer that is neither yes nor no, or a row that is not what was written.
pub fn read_sign_off(path: &Path) -> Result<Vec<SignedRecord>> {
    let source = open(path)?;
    let places = places(&source).ok_or_else(|| {
        Error::Request(format!("{} has not the columns of a workbook for sign-off", source.name))
    })?;
    let mut signed = Vec::new();
    let mut walk = source.walk()?;
    while let Some(mut rows) = walk.more()? {
        while let Some(row) = rows.next() {
            let cells: Vec<String> = places
                .iter()
                .map(|place| unguarded(CellKind::of(row.cell(*place)).1.trim()).into_owned())
                .collect();
            if let [answer, is, key, from, number, export] = cells.as_slice() {
                if cells.iter().all(String::is_empty) {
                    continue;
                }
                let goes_in = answer_of(answer, is, &source.name, row.row())?;
                let number = number.parse().map_err(|_| {
                    Error::Request(format!(
                        "row {} of {}: \"{number}\" is not the row of an export; leave that column as it was written",
                        row.row(),
                        source.name
                    ))
                })?;
                signed.push(SignedRecord {
                    at: row.row(),
                    goes_in,
                    source: from.clone(),
                    row: number,
                    export: export.clone(),
                    key: key.clone(),
                });
            }
        }
    }
    Ok(signed)
}

fn answer_of(answer: &str, is: &str, name: &str, row: Row) -> Result<Option<bool>> {
    match answer.to_lowercase().as_str() {
        "" => Ok(None),
        "yes" | "y" => Ok(Some(true)),
        "no" | "n" if is == "gone" => Err(Error::Request(format!(
            "row {row} of {name}: a record that is gone is not in the export, so it cannot be kept out; take remove_gone out of [holds] where it is to stay"
        ))),
        "no" | "n" => Ok(Some(false)),
        _ => Err(Error::Request(format!(
            "row {row} of {name}: \"{answer}\" is neither yes nor no; write one of the two"
        ))),
    }
}
