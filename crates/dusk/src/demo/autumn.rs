//! The autumn workbook: the same inspections, after somebody opened the export in a spreadsheet
//! program set to month-day-year and saved it. Dates that fitted were read with day and month
//! swapped, the others stayed text.

use rust_xlsxwriter::{DocProperties, ExcelDateTime, Format, Workbook, Worksheet, XlsxError};

use super::export::{COLUMNS, Export, Numbers};

/// How many records the workbook holds.
const ROWS: u64 = 240;

/// The row of the headings, from 0; titles stand above it.
const HEADER: u32 = 2;

/// The workbook as bytes; the same seed makes the same workbook.
pub(super) fn workbook(seed: u64) -> Result<Vec<u8>, XlsxError> {
    let mut book = Workbook::new();
    let made = ExcelDateTime::from_ymd(2026, 11, 30)?;
    book.set_properties(&DocProperties::new().set_creation_datetime(&made));
    let sheet = book.add_worksheet();
    sheet.set_name("Inspections")?;
    inspections(sheet, seed)?;
    let notes = book.add_worksheet();
    notes.set_name("Notes")?.write(0, 0, "Opened and saved on the office computer.")?;
    book.save_to_buffer()
}

fn inspections(sheet: &mut Worksheet, seed: u64) -> Result<(), XlsxError> {
    let bold = Format::new().set_bold();
    sheet.merge_range(
        0,
        0,
        0,
        5,
        "Fenmarrow Beekeepers' Association: hive inspections, autumn 2026",
        &bold,
    )?;
    for (column, name) in (0..).zip(COLUMNS.trim_end().split(',')) {
        sheet.write_with_format(HEADER, column, name, &bold)?;
    }
    sheet.set_freeze_panes(HEADER + 1, 0)?;
    let export = Export { rows: ROWS, faulty: 0, habits: false, seed, summer: false };
    for index in 0..ROWS {
        let mut numbers = Numbers(seed ^ index.wrapping_mul(0x9E6C_63D0_876A_3F6B));
        let row = HEADER + 1 + u32::try_from(index).unwrap_or(0);
        let record = export.record(index, &mut numbers);
        // Apiary numbers are numbers now; only the display keeps their zeros.
        number(sheet, row, 0, &record.apiary, &Format::new().set_num_format("000000"))?;
        date(sheet, row, 2, (record.day.0 + 7, record.day.1))?;
        for (column, text) in [
            (1, &record.hive),
            (3, &record.arrived),
            (4, &record.region),
            (5, &record.district),
            (6, &record.town),
            (7, &record.queen),
            (8, &record.marked),
            (12, &record.treatments),
            (13, &record.remarks),
            (14, &record.weather),
        ] {
            if !text.is_empty() {
                sheet.write(row, column, text)?;
            }
        }
        for (column, text) in [(9, &record.frames), (10, &record.brood), (11, &record.honey)] {
            number(sheet, row, column, text, &Format::new())?;
        }
        let entered = record.entered.split_once(' ').map_or("", |(_, time)| time);
        sheet.write(row, 15, format!("{:02}/{:02}/2026 {entered}", record.day.1, record.day.0 + 7))?;
    }
    sheet.set_row_hidden(HEADER + 40)?;
    Ok(())
}

fn number(
    sheet: &mut Worksheet,
    row: u32,
    column: u16,
    text: &str,
    format: &Format,
) -> Result<(), XlsxError> {
    if let Ok(number) = text.parse::<f64>() {
        sheet.write_number_with_format(row, column, number, format)?;
    }
    Ok(())
}

/// A day as a program set to month-day-year leaves it.
fn date(sheet: &mut Worksheet, row: u32, column: u16, (month, day): (u64, u64)) -> Result<(), XlsxError> {
    if day > 12 {
        sheet.write(row, column, format!("{day:02}/{month:02}/2026"))?;
        return Ok(());
    }
    let part = |part: u64| u8::try_from(part).unwrap_or(1);
    let swapped = ExcelDateTime::from_ymd(2026, part(day), part(month))?;
    sheet.write_datetime_with_format(row, column, swapped, &Format::new().set_num_format("dd/mm/yyyy"))?;
    Ok(())
}
