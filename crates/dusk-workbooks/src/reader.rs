//! The cells of a sheet, one after the other, by a library for each container.

use std::fs::File;
use std::io::BufReader;
use std::sync::Arc;

use calamine::{Data, DataRef, Reader, SheetType, SheetVisible, Xls, Xlsb, Xlsx};

use super::chosen::choose;
use super::container::{Container, protected, refuse_large_parts};
use super::limits::most_unpacked;
use super::marks::{self, Displays};
use super::placed::PlacedFile;
use super::sheet::Sheet;
use super::value::Shown;
use super::{SheetChoice, WorkbookFacts, damaged, ods};
use dusk_evidence::Refusal;

type Archive = BufReader<PlacedFile>;

/// Reads a sheet into `out`.
pub(super) fn read(
    file: &Arc<File>,
    out: &File,
    container: Container,
    choice: Option<&SheetChoice>,
) -> Result<WorkbookFacts, Refusal> {
    let bytes = file.metadata().map_or(0, |metadata| metadata.len());
    if container != Container::Xls {
        refuse_large_parts(file, container)?;
    }
    let mut sheet = Sheet::begun(out, most_unpacked(bytes));
    let mut facts = match container {
        Container::Xlsx => read_xlsx(file, choice, &mut sheet),
        Container::Xlsb => read_xlsb(file, choice, &mut sheet),
        Container::Xls => read_xls(file, choice, &mut sheet),
        Container::Ods => ods::read(file, choice, &mut sheet),
    }?;
    sheet.finish(&mut facts)?;
    Ok(facts)
}

fn read_xlsx(
    file: &Arc<File>,
    choice: Option<&SheetChoice>,
    sheet: &mut Sheet<'_>,
) -> Result<WorkbookFacts, Refusal> {
    let mut workbook: Xlsx<Archive> = opened(Xlsx::new(archive(file)))?;
    let mut facts = chosen("xlsx", &mut workbook, choice)?;
    facts.from_1904 = workbook.has_1904_epoch();
    let name = facts.sheet.clone();
    // Hidden rows and merged cells stand in the sheet's own text, which is looked through beside.
    let marks = std::thread::scope(|scope| -> Result<_, Refusal> {
        let scan = scope.spawn(|| marks::of_xlsx(file, &name));
        xlsx_cells(&mut workbook, &name, sheet)?;
        Ok(scan.join().unwrap_or_default())
    })?;
    marks.noted_in(&mut facts);
    Ok(facts)
}

fn read_xlsb(
    file: &Arc<File>,
    choice: Option<&SheetChoice>,
    sheet: &mut Sheet<'_>,
) -> Result<WorkbookFacts, Refusal> {
    let mut workbook: Xlsb<Archive> = opened(Xlsb::new(archive(file)))?;
    let mut facts = chosen("xlsb", &mut workbook, choice)?;
    facts.from_1904 = workbook.has_1904_epoch();
    let marks = marks::of_xlsb(file, &facts.sheet);
    let mut cells =
        workbook.worksheet_cells_reader(&facts.sheet).map_err(|error| damaged(&error.to_string()))?;
    while let Some(cell) = cells.next_cell().map_err(|error| damaged(&error.to_string()))? {
        sheet.take(cell.get_position(), cell.get_value(), marks.displays.at(cell.get_position()))?;
    }
    marks.noted_in(&mut facts);
    Ok(facts)
}

fn read_xls(
    file: &Arc<File>,
    choice: Option<&SheetChoice>,
    sheet: &mut Sheet<'_>,
) -> Result<WorkbookFacts, Refusal> {
    let mut workbook: Xls<Archive> = opened(Xls::new(archive(file)))?;
    let mut facts = chosen("xls", &mut workbook, choice)?;
    facts.from_1904 = workbook.has_1904_epoch();
    if let Ok(merged) = workbook.merge_cells_by_sheet_name(&facts.sheet) {
        facts.merged = merged.iter().map(|range| marks::range_shown(range.start, range.end)).collect();
    }
    let place = workbook.sheets_metadata().iter().position(|sheet| sheet.name == facts.sheet);
    let marks = marks::of_xls(file, place.unwrap_or(0));
    range_cells(&mut workbook, &facts, &marks.displays, sheet)?;
    facts.hidden_rows = marks.hidden_rows;
    Ok(facts)
}

fn archive(file: &Arc<File>) -> Archive {
    BufReader::new(PlacedFile::new(file))
}

/// Opens a workbook, or says why it cannot be.
fn opened<T, E: std::fmt::Display>(workbook: Result<T, E>) -> Result<T, Refusal> {
    workbook.map_err(|error| {
        let says = error.to_string();
        if says.contains("password") { protected() } else { damaged(&says) }
    })
}

fn xlsx_cells(workbook: &mut Xlsx<Archive>, name: &str, sheet: &mut Sheet<'_>) -> Result<(), Refusal> {
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

fn range_cells<R>(
    workbook: &mut R,
    facts: &WorkbookFacts,
    displays: &Displays,
    sheet: &mut Sheet<'_>,
) -> Result<(), Refusal>
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
        sheet.take((row, column), &borrowed(value), displays.at((row, column)))?;
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

/// The sheet that was chosen, or the only one, or the only one that holds anything.
fn chosen<R: Reader<Archive>>(
    format: &'static str,
    workbook: &mut R,
    choice: Option<&SheetChoice>,
) -> Result<WorkbookFacts, Refusal> {
    let sheets: Vec<(String, bool)> = workbook
        .sheets_metadata()
        .iter()
        .filter(|sheet| sheet.typ == SheetType::WorkSheet)
        .map(|sheet| (sheet.name.clone(), sheet.visible != SheetVisible::Visible))
        .collect();
    choose(format, &sheets, choice, |name| {
        // One that cannot be read may hold anything.
        workbook.worksheet_range(name).map_or(true, |range| range.used_cells().next().is_some())
    })
}
