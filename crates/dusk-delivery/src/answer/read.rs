//! An answer read as `[answer]` describes: a table, a JSON document, or plain lines.

use std::path::Path;

use super::counts::AnswerCounts;
use super::document::{Document, cells};
use super::line::{AnswerLine, whole_number};
use super::row::Row;
use dusk_description::{AnswerCount, AnswerLayout, LineForm};
use dusk_evidence::{ColumnId, Error, Result};
use dusk_sources::{CellKind, Known, Source, SourceSettings};
use dusk_values::fold;

/// How many lines that have no known form are kept.
const FEW: usize = 5;

/// What an answer is beside its lines.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct AnswerRead {
    /// The target's own counts.
    pub counts: AnswerCounts,
    /// How many lines had no known form, and the first of them.
    pub without_form: u64,
    /// The first of them, with their numbers.
    pub first_without: Vec<(u64, String)>,
}

/// Reads an answer, handing on each of its lines.
///
/// # Errors
/// [`Error::Request`] where nothing describes such an answer; whatever stops reading.
pub fn read_answer(
    path: &Path,
    layouts: &[AnswerLayout],
    visit: &mut dyn FnMut(AnswerLine) -> Result<()>,
) -> Result<AnswerRead> {
    if layouts.is_empty() {
        return Err(Error::Request(
            "target.toml does not say how the target's answer is read\n  dusk answer BATCH FILE --draft proposes [answer] for it".into(),
        ));
    }
    let bytes = std::fs::read(path).map_err(Error::reading(path))?;
    let text = text_of(&bytes);
    if let Some(document) = text.as_deref().and_then(Document::read) {
        return read_document(&document, path, layouts, visit);
    }
    let tables: Vec<&AnswerLayout> = layouts.iter().filter(|layout| layout.says.is_empty()).collect();
    let forms: Vec<&AnswerLayout> = layouts.iter().filter(|layout| !layout.says.is_empty()).collect();
    if tables.is_empty() || (!forms.is_empty() && !has_columns(path, &tables)) {
        let text = text.ok_or_else(|| not_readable(path, "is not a text"))?;
        return read_lines(&text, &forms, visit);
    }
    read_table(path, &tables, visit)
}

/// A text in UTF-8 or UTF-16, or else in windows-1252, which has a character for nearly every byte. What is a workbook
/// is none.
pub(super) fn text_of(bytes: &[u8]) -> Option<String> {
    const ZIP: &[u8] = b"PK\x03\x04";
    const OLE: &[u8] = &[0xd0, 0xcf, 0x11, 0xe0];
    if bytes.starts_with(ZIP) || bytes.starts_with(OLE) {
        return None;
    }
    let utf_16 = |unit: fn([u8; 2]) -> u16| {
        let units = bytes.chunks_exact(2).skip(1).filter_map(|pair| Some(unit(pair.try_into().ok()?)));
        String::from_utf16(&units.collect::<Vec<_>>()).ok()
    };
    match bytes {
        [0xff, 0xfe, ..] => utf_16(u16::from_le_bytes),
        [0xfe, 0xff, ..] => utf_16(u16::from_be_bytes),
        [0xef, 0xbb, 0xbf, rest @ ..] => String::from_utf8(rest.to_vec()).ok(),
        bytes => String::from_utf8(bytes.to_vec())
            .ok()
            .or_else(|| Some(dusk_sources::encoding_named("windows-1252")?.decode(bytes).0.into_owned())),
    }
}

fn not_readable(path: &Path, says: &str) -> Error {
    Error::Request(format!(
        "{} {says}, so it is not the answer that [answer] describes\n  dusk answer BATCH FILE --draft proposes [answer] for it",
        path.display()
    ))
}

fn opened(path: &Path, layouts: &[&AnswerLayout]) -> Result<Source> {
    let columns: Vec<&str> = layouts.iter().flat_map(|layout| layout.columns()).collect();
    Source::look(path, &SourceSettings::default(), &Known::headings(&columns))
}

fn has_columns(path: &Path, layouts: &[&AnswerLayout]) -> bool {
    let Ok(source) = opened(path, layouts) else { return false };
    layouts.iter().any(|layout| missing(layout, &source.columns).is_empty())
}

/// The columns of a description that are not among some headings.
fn missing<'l>(layout: &'l AnswerLayout, headings: &[String]) -> Vec<&'l str> {
    let is_there = |column: &str| headings.iter().any(|heading| fold(heading) == fold(column));
    layout.columns().into_iter().filter(|column| !is_there(column)).collect()
}

/// The description whose columns are all there.
fn fitting<'l>(layouts: &[&'l AnswerLayout], headings: &[String], path: &Path) -> Result<&'l AnswerLayout> {
    let fits = |layout: &&&AnswerLayout| missing(layout, headings).is_empty();
    layouts.iter().find(fits).copied().ok_or_else(|| {
        let nearest = layouts.iter().map(|layout| missing(layout, headings)).min_by_key(Vec::len);
        let columns =
            nearest.unwrap_or_default().iter().map(|name| format!("\"{name}\"")).collect::<Vec<_>>();
        not_readable(
            path,
            &format!("has no column {}; its columns are {}", columns.join(", "), headings.join(", ")),
        )
    })
}

fn read_table(
    path: &Path,
    layouts: &[&AnswerLayout],
    visit: &mut dyn FnMut(AnswerLine) -> Result<()>,
) -> Result<AnswerRead> {
    let source = opened(path, layouts)?;
    let layout = fitting(layouts, &source.columns, path)?;
    let wanted: Vec<(String, ColumnId)> = layout
        .columns()
        .into_iter()
        .filter_map(|name| {
            let loose = || source.columns.iter().find(|heading| fold(heading) == fold(name));
            let column = source.column(name).or_else(|| source.column(loose()?))?;
            Some((name.to_owned(), column))
        })
        .collect();
    let mut walk = source.walk()?;
    while let Some(mut rows) = walk.more()? {
        while let Some(row) = rows.next() {
            let cell = |column: &ColumnId| CellKind::of(row.cell(*column)).1.trim().to_owned();
            let cells = wanted.iter().map(|(name, column)| (name.clone(), cell(column))).collect();
            let row = Row { at: row.row().0, cells };
            if row.cells.iter().any(|(_, text)| !text.is_empty()) {
                visit(line_of(layout, &row))?;
            }
        }
    }
    Ok(AnswerRead::default())
}

fn read_document(
    document: &Document,
    path: &Path,
    layouts: &[AnswerLayout],
    visit: &mut dyn FnMut(AnswerLine) -> Result<()>,
) -> Result<AnswerRead> {
    let layouts: Vec<&AnswerLayout> = layouts.iter().filter(|layout| layout.says.is_empty()).collect();
    let mut wrong = None;
    for layout in &layouts {
        let records = document.records(layout.records.as_deref());
        let rows: Vec<Row> = (1..).zip(&records).map(|(number, record)| cells(record, number)).collect();
        let mut headings: Vec<String> = Vec::new();
        for (heading, _) in rows.iter().flat_map(|row| &row.cells) {
            if !headings.contains(heading) {
                headings.push(heading.clone());
            }
        }
        // A list without an entry has no headings: nothing was refused.
        let is_listed = layout.records.is_some() && rows.is_empty();
        match fitting(std::slice::from_ref(layout), &headings, path) {
            Err(error) if !is_listed => wrong = wrong.or(Some(error)),
            _ => {
                rows.iter().try_for_each(|row| visit(line_of(layout, row)))?;
                return Ok(AnswerRead { counts: document.counts(layout), ..AnswerRead::default() });
            }
        }
    }
    Err(wrong.unwrap_or_else(|| not_readable(path, "is a JSON document")))
}

/// What a row says by the columns of a description.
fn line_of(layout: &AnswerLayout, row: &Row) -> AnswerLine {
    let cell = |heading: &Option<String>| heading.as_ref().map_or("", |heading| row.cell(heading)).to_owned();
    let word = cell(&layout.outcome);
    let key: Vec<&str> = layout.key.iter().map(|heading| row.cell(heading)).collect();
    let mut reasons: Vec<&str> = layout.reason.iter().map(|heading| row.cell(heading)).collect();
    reasons.retain(|reason| !reason.is_empty());
    if layout.reason.is_empty() {
        reasons.extend(word.split_once(':').map(|(_, reason)| reason.trim()));
    }
    let reason = reasons.join("; ");
    AnswerLine {
        at: row.at,
        line: layout.line.as_ref().map(|_| cell(&layout.line)),
        record: layout.record.as_ref().map(|_| (cell(&layout.record), layout.record_from)),
        key: (!key.is_empty()).then(|| key.join(" + ")),
        file: cell(&layout.file),
        outcome: layout.all.or_else(|| layout.outcome_of(&word)),
        word,
        reason,
        number: cell(&layout.number),
    }
}

fn read_lines(
    text: &str,
    layouts: &[&AnswerLayout],
    visit: &mut dyn FnMut(AnswerLine) -> Result<()>,
) -> Result<AnswerRead> {
    let mut read = AnswerRead::default();
    for (number, line) in (1..).zip(text.lines()).filter(|(_, line)| !line.trim().is_empty()) {
        let found = layouts
            .iter()
            .find_map(|layout| layout.says.iter().find_map(|form| Some((*layout, form, form.read(line)?))));
        let Some((layout, form, values)) = found else {
            read.without_form += 1;
            if read.first_without.len() < FEW {
                read.first_without.push((number, line.trim().to_owned()));
            }
            continue;
        };
        for (count, word) in AnswerCount::WORDS.map(|(word, count)| (count, word)) {
            let said = values.iter().find(|(name, _)| *name == word);
            if let Some(number) = said.and_then(|(_, text)| whole_number(text)) {
                read.counts.take(count, number);
            }
        }
        if ["line", "record", "key"].iter().any(|name| form.names(name)) {
            visit(line_of_form(layout, form, &values, number))?;
        }
    }
    Ok(read)
}

fn line_of_form(layout: &AnswerLayout, form: &LineForm, values: &[(&str, &str)], at: u64) -> AnswerLine {
    let value =
        |name: &str| values.iter().find(|(known, _)| *known == name).map(|(_, text)| (*text).to_owned());
    let word = value("outcome").unwrap_or_default();
    AnswerLine {
        at,
        line: value("line"),
        record: value("record").map(|record| (record, layout.record_from)),
        key: value("key"),
        file: value("file").unwrap_or_default(),
        outcome: form.outcome.or(layout.all).or_else(|| layout.outcome_of(&word)),
        word,
        reason: value("reason").unwrap_or_default(),
        number: value("number").unwrap_or_default(),
    }
}
