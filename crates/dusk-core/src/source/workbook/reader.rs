//! The cells of a sheet, one after the other, by a library for each container.

use std::fs::File;
use std::io::{BufReader, BufWriter, Read};
use std::path::Path;

use calamine::{Data, DataRef, Ods, Reader, SheetType, SheetVisible, Xls, Xlsb, Xlsx};

use super::super::Refusal;
use super::super::cell_kind::CellKind;
use super::container::{self, Container, attribute, protected};
use super::value::{Shown, text_of};
use super::{SheetChoice, SpoolWriter, Spooled, WorkbookFacts, damaged};
use crate::files::nearest;

type Archive = BufReader<File>;

pub(super) fn read(
    path: &Path,
    container: Container,
    choice: Option<&SheetChoice>,
) -> Result<Spooled, Refusal> {
    let file = || File::open(path).map(BufReader::new).map_err(|error| damaged(&error.to_string()));
    let spool = tempfile::NamedTempFile::new().map_err(|error| {
        Refusal::new(format!("cannot be unpacked into the temporary folder: {error}"), "")
    })?;
    let out = spool.reopen().map_err(|error| damaged(&error.to_string()))?;
    let mut sheet = Sheet {
        writer: SpoolWriter::new(BufWriter::with_capacity(1 << 18, out)),
        counts: [0; 6],
        text: String::new(),
        zeros: 0,
    };
    let mut facts = match container {
        Container::Xlsx => {
            let mut workbook: Xlsx<Archive> = opened(Xlsx::new(file()?))?;
            let mut facts = chosen("xlsx", &workbook, choice)?;
            facts.from_1904 = workbook.has_1904_epoch();
            let name = facts.sheet.clone();
            // Hidden rows and merged cells stand in the sheet's own text, which is looked through beside.
            let marks = std::thread::scope(|scope| -> Result<_, Refusal> {
                let scan = scope.spawn(|| sheet_marks(path, &name));
                xlsx_cells(&mut workbook, &name, &mut sheet)?;
                Ok(scan.join().unwrap_or_default())
            })?;
            (facts.hidden_rows, facts.merged) = (marks.hidden_rows, marks.merged);
            facts
        }
        Container::Xlsb => {
            let mut workbook: Xlsb<Archive> = opened(Xlsb::new(file()?))?;
            let mut facts = chosen("xlsb", &workbook, choice)?;
            facts.from_1904 = workbook.has_1904_epoch();
            let mut cells =
                workbook.worksheet_cells_reader(&facts.sheet).map_err(|error| damaged(&error.to_string()))?;
            while let Some(cell) = cells.next_cell().map_err(|error| damaged(&error.to_string()))? {
                sheet.take(cell.get_position(), cell.get_value(), Shown::Plain)?;
            }
            facts
        }
        Container::Xls => {
            let mut workbook: Xls<Archive> = opened(Xls::new(file()?))?;
            let mut facts = chosen("xls", &workbook, choice)?;
            facts.from_1904 = workbook.has_1904_epoch();
            if let Ok(merged) = workbook.merge_cells_by_sheet_name(&facts.sheet) {
                facts.merged = merged.iter().map(|range| range_shown(range.start, range.end)).collect();
            }
            range_cells(&mut workbook, &mut facts, &mut sheet)?;
            facts
        }
        Container::Ods => {
            let mut workbook: Ods<Archive> = opened(Ods::new(file()?))?;
            let mut facts = chosen("ods", &workbook, choice)?;
            range_cells(&mut workbook, &mut facts, &mut sheet)?;
            facts
        }
    };
    let kinds = [
        CellKind::Text,
        CellKind::Date,
        CellKind::Number,
        CellKind::Boolean,
        CellKind::Error,
        CellKind::Duration,
    ];
    facts.kinds = kinds
        .iter()
        .zip(sheet.counts)
        .filter(|(_, count)| *count > 0)
        .map(|(kind, count)| (kind.word(), count))
        .collect();
    facts.zeros_by_format = sheet.zeros;
    sheet.writer.finish()?;
    Ok(Spooled { file: spool, facts })
}

/// The sheet on its way into the spool.
struct Sheet {
    writer: SpoolWriter<BufWriter<File>>,
    counts: [u64; 6],
    text: String,
    zeros: u64,
}

impl Sheet {
    fn take(&mut self, (row, column): (u32, u32), value: &DataRef<'_>, shown: Shown) -> Result<(), Refusal> {
        if let DataRef::SharedString(text) = value {
            // Most cells are texts that are there already.
            if text.is_empty() {
                return Ok(());
            }
            if let Some(count) = self.counts.first_mut() {
                *count += 1;
            }
            return self.writer.cell(row, column, CellKind::Text, text);
        }
        let Some(kind) = text_of(value, shown, &mut self.text) else { return Ok(()) };
        self.zeros += u64::from(
            matches!(shown, Shown::Zeros(_)) && kind == CellKind::Number && self.text.starts_with('0'),
        );
        if let Some(count) = self.counts.get_mut(kind as usize) {
            *count += 1;
        }
        self.writer.cell(row, column, kind, &self.text)
    }
}

/// Opens a workbook, or says why it cannot be.
fn opened<T, E: std::fmt::Display>(workbook: Result<T, E>) -> Result<T, Refusal> {
    workbook.map_err(|error| {
        let says = error.to_string();
        if says.contains("password") { protected() } else { damaged(&says) }
    })
}

fn xlsx_cells(workbook: &mut Xlsx<Archive>, name: &str, sheet: &mut Sheet) -> Result<(), Refusal> {
    let broken = |error: calamine::XlsxError| damaged(&error.to_string());
    let mut cells = workbook.worksheet_cells_reader(name).map_err(broken)?;
    let shown: Vec<Shown> = cells
        .styles()
        .iter()
        .map(|style| {
            style.number_format.as_ref().map_or(Shown::Plain, |format| Shown::by(&format.format_code))
        })
        .collect();
    while let Some((cell, style)) = cells.next_cell_with_style_id().map_err(broken)? {
        let shown = shown.get(style).copied().unwrap_or(Shown::Plain);
        sheet.take(cell.get_position(), cell.get_value(), shown)?;
    }
    Ok(())
}

fn range_cells<R>(workbook: &mut R, facts: &mut WorkbookFacts, sheet: &mut Sheet) -> Result<(), Refusal>
where
    R: Reader<Archive>,
    R::Error: std::fmt::Display,
{
    let range = workbook.worksheet_range(&facts.sheet).map_err(|error| damaged(&error.to_string()))?;
    let (top, left) = range.start().unwrap_or_default();
    for (row, column, value) in range.used_cells() {
        let at =
            |start: u32, place: usize| u32::try_from(place).ok().and_then(|place| start.checked_add(place));
        let (Some(row), Some(column)) = (at(top, row), at(left, column)) else {
            return Err(damaged("its used range has no end"));
        };
        sheet.take((row, column), &borrowed(value), Shown::Plain)?;
    }
    Ok(())
}

/// A value as the streaming readers give it.
fn borrowed(value: &Data) -> DataRef<'_> {
    match value {
        Data::Int(number) => DataRef::Int(*number),
        Data::Float(number) => DataRef::Float(*number),
        Data::String(text) => DataRef::SharedString(text),
        Data::Bool(value) => DataRef::Bool(*value),
        Data::DateTime(moment) => DataRef::DateTime(*moment),
        Data::DateTimeIso(text) => DataRef::DateTimeIso(text.clone()),
        Data::DurationIso(text) => DataRef::DurationIso(text.clone()),
        Data::Error(error) => DataRef::Error(error.clone()),
        Data::Empty => DataRef::Empty,
    }
}

/// The sheet that was chosen, or the only one.
fn chosen<R: Reader<Archive>>(
    format: &'static str,
    workbook: &R,
    choice: Option<&SheetChoice>,
) -> Result<WorkbookFacts, Refusal> {
    let sheets: Vec<(String, bool)> = workbook
        .sheets_metadata()
        .iter()
        .filter(|sheet| sheet.typ == SheetType::WorkSheet)
        .map(|sheet| (sheet.name.clone(), sheet.visible != SheetVisible::Visible))
        .collect();
    let list = || {
        let all: Vec<String> = (1..)
            .zip(&sheets)
            .map(|(number, (name, hidden))| {
                format!("{number} \"{name}\"{}", if *hidden { " (hidden)" } else { "" })
            })
            .collect();
        format!("its sheets are {}", all.join(", "))
    };
    let sheet = match choice {
        Some(SheetChoice::Name(wanted)) => match sheets.iter().find(|(name, _)| name == wanted) {
            Some((name, _)) => name,
            None => {
                let near = nearest(wanted, sheets.iter().map(|(name, _)| name.as_str()));
                let near = near.map_or_else(String::new, |near| format!(" (did you mean \"{near}\"?)"));
                return Err(Refusal::new(format!("has no sheet \"{wanted}\"{near}"), list()));
            }
        },
        Some(SheetChoice::Number(number)) => {
            let place = usize::try_from(*number).ok().and_then(|number| number.checked_sub(1));
            match place.and_then(|place| sheets.get(place)) {
                Some((name, _)) => name,
                None => return Err(Refusal::new(format!("has no sheet number {number}"), list())),
            }
        }
        None => match sheets.as_slice() {
            [(only, _)] => only,
            [] => {
                return Err(Refusal::new(
                    "is a workbook without a sheet",
                    "check that the export was finished",
                ));
            }
            _ => {
                return Err(Refusal::new(
                    format!("is a workbook with {} sheets, and nothing says which one to read", sheets.len()),
                    format!("{}; write sheet = \"…\" under [source] in the mapping", list()),
                ));
            }
        },
    };
    Ok(facts(format, sheet, &sheets))
}

fn facts(format: &'static str, sheet: &str, sheets: &[(String, bool)]) -> WorkbookFacts {
    WorkbookFacts { format, sheet: sheet.to_owned(), sheets: sheets.to_vec(), ..WorkbookFacts::default() }
}

/// A range as spreadsheet programs write it: B2:C5.
fn range_shown(start: (u32, u32), end: (u32, u32)) -> String {
    let cell =
        |(row, column): (u32, u32)| format!("{}{}", column_letters(u64::from(column)), u64::from(row) + 1);
    format!("{}:{}", cell(start), cell(end))
}

/// A column's letters, counted from 0: A, B … Z, AA.
pub(in super::super) fn column_letters(mut column: u64) -> String {
    let mut letters = Vec::new();
    loop {
        letters.push(char::from(b'A' + (column % 26) as u8));
        if column < 26 {
            return letters.iter().rev().collect();
        }
        column = column / 26 - 1;
    }
}

/// What a sheet's text says beside its cells.
#[derive(Debug, Default)]
struct SheetMarks {
    /// Hidden rows, as ranges.
    hidden_rows: Vec<(u64, u64)>,
    /// Merged cells, as ranges like B2:B5.
    merged: Vec<String>,
}

/// Looks through the text of a sheet without reading its cells.
fn sheet_marks(path: &Path, sheet: &str) -> SheetMarks {
    let mut marks = SheetMarks::default();
    let Ok(mut archive) = container::open(path) else { return marks };
    let Some(part) = sheet_part(&mut archive, sheet) else { return marks };
    let Ok(mut entry) = archive.by_name(&part) else { return marks };
    let hidden = memchr::memmem::Finder::new(b" hidden=\"");
    let merged = memchr::memmem::Finder::new(b"mergeCell ");
    let mut buffer = vec![0; 1 << 18];
    let mut kept = 0;
    while let Some(space) = buffer.get_mut(kept..).filter(|space| !space.is_empty()) {
        let Ok(read) = entry.read(space) else { return marks };
        let filled = kept + read;
        let text = buffer.get(..filled).unwrap_or_default();
        // A tag may go on in the next piece.
        let whole = if read == 0 { filled } else { memchr::memrchr(b'<', text).unwrap_or(0) };
        let text = text.get(..whole).unwrap_or_default();
        let tag_at = |at: usize| {
            let start = memchr::memrchr(b'<', text.get(..at).unwrap_or_default()).unwrap_or(0);
            let tag = text.get(start + 1..).unwrap_or_default();
            tag.get(..memchr::memchr(b'>', tag).unwrap_or(tag.len())).unwrap_or_default()
        };
        for tag in hidden.find_iter(text).map(tag_at) {
            let is_row = tag.starts_with(b"row ") && matches!(attribute(tag, "hidden"), Some("1" | "true"));
            let Some(row) = attribute(tag, "r").filter(|_| is_row).and_then(|row| row.parse().ok()) else {
                continue;
            };
            match marks.hidden_rows.last_mut() {
                Some((_, last)) if *last + 1 == row => *last = row,
                _ => marks.hidden_rows.push((row, row)),
            }
        }
        marks
            .merged
            .extend(merged.find_iter(text).filter_map(|at| attribute(tag_at(at), "ref")).map(str::to_owned));
        if read == 0 {
            return marks;
        }
        buffer.copy_within(whole..filled, 0);
        kept = filled - whole;
    }
    marks
}

/// The part of the packed file that holds a sheet.
fn sheet_part(archive: &mut zip::ZipArchive<Archive>, sheet: &str) -> Option<String> {
    let tags = |text: &[u8], name: &str| -> Vec<Vec<u8>> {
        memchr::memmem::find_iter(text, &format!("<{name} "))
            .map(|start| {
                let tag = text.get(start + 1..).unwrap_or_default();
                tag.get(..memchr::memchr(b'>', tag).unwrap_or(tag.len())).unwrap_or_default().to_vec()
            })
            .collect()
    };
    let mut part = |name: &str| {
        let mut text = Vec::new();
        archive.by_name(name).ok()?.take(16 << 20).read_to_end(&mut text).ok()?;
        Some(text)
    };
    let workbook = part("xl/workbook.xml")?;
    let plain = |text: &str| {
        text.replace("&lt;", "<")
            .replace("&gt;", ">")
            .replace("&quot;", "\"")
            .replace("&apos;", "'")
            .replace("&amp;", "&")
    };
    let id = tags(&workbook, "sheet").into_iter().find_map(|tag| {
        (plain(attribute(&tag, "name")?) == sheet).then(|| attribute(&tag, "r:id").map(str::to_owned))?
    })?;
    let relations = part("xl/_rels/workbook.xml.rels")?;
    let target = tags(&relations, "Relationship").into_iter().find_map(|tag| {
        (attribute(&tag, "Id")? == id).then(|| attribute(&tag, "Target").map(str::to_owned))?
    })?;
    Some(match target.strip_prefix('/') {
        Some(whole) => whole.to_owned(),
        None => format!("xl/{target}"),
    })
}
