//! What the register supplies: its dictionary as a workbook with the code lists, and its template.

use dusk_core::description::Target;
use rust_xlsxwriter::{DocProperties, ExcelDateTime, Format, Workbook, XlsxError};

/// The dictionary's headings, below its title.
const HEADINGS: [&str; 8] = ["No", "Field", "Meaning", "Type", "M/O", "Key", "Allowed", "Unit"];

/// The fields as the register writes them down.
const FIELDS: [[&str; 7]; 17] = [
    ["apiary_id", "Apiary number", "6 digits", "M", "key", "", ""],
    ["hive", "Hive mark", "Text(8)", "M", "key", "[A-Z][0-9]{1,3}", ""],
    [
        "visit_date",
        "Date of the visit",
        "Date YYYY-MM-DD",
        "M",
        "key",
        "from 2020-01-01; not in the future",
        "",
    ],
    ["arrived", "Time of arrival", "Time HH:MM", "O", "", "", ""],
    ["region", "Region", "Code", "M", "", "see sheet Regions", ""],
    ["district", "District", "Code", "M", "", "see sheet Districts", ""],
    ["location", "Where the apiary is", "Text(60)", "O", "", "", ""],
    ["queen_colour", "Colour of the queen's mark", "Code", "O", "", "see sheet Queen colours", ""],
    ["marked", "Was the queen marked at this visit?", "1/0", "O", "", "", ""],
    ["frames", "Frames in the hive", "Integer", "O", "", "1-40", ""],
    ["brood_frames", "Frames with brood", "Integer", "O", "", "0-40", ""],
    ["honey_kg", "Honey taken", "Number with 1 decimal", "O", "", "0 to 80", "kg"],
    ["treatments", "Treatments", "Multiple choice", "O", "", "see sheet Treatments", ""],
    ["remarks", "Remarks", "Text, max 120 characters", "O", "", "", ""],
    ["entered_at", "When the keeper entered it", "Date/time YYYY-MM-DDTHH:MM:SS", "O", "", "", ""],
    ["season", "Season", "Integer", "M", "", "", ""],
    ["loaded_by", "Loaded by", "Text", "M", "", "", ""],
];

/// The code lists: the sheet's name, its headings, and the columns of our own list that fill them.
const LISTS: [(&str, &[&str], &str); 4] = [
    ("Regions", &["Code", "Region"], include_str!("data/codes/region.csv")),
    ("Districts", &["Code", "District", "In region"], include_str!("data/codes/district.csv")),
    ("Queen colours", &["Code", "Meaning", "Also called"], include_str!("data/codes/queen-colour.csv")),
    (
        "Treatments",
        &["Code", "Treatment", "Also called", "Valid until", "Replaced by"],
        include_str!("data/codes/treatment.csv"),
    ),
];

/// The dictionary as bytes.
pub(super) fn dictionary() -> Result<Vec<u8>, XlsxError> {
    let mut book = Workbook::new();
    book.set_properties(&DocProperties::new().set_creation_datetime(&ExcelDateTime::from_ymd(2026, 1, 12)?));
    let bold = Format::new().set_bold();
    let sheet = book.add_worksheet().set_name("Inspections")?;
    sheet.write_with_format(0, 0, "National Apiary Register: inspections", &bold)?;
    sheet.write(1, 0, "Version 2026-01; at most 500 records in one file")?;
    for (column, heading) in (0..).zip(HEADINGS) {
        sheet.write_with_format(3, column, heading, &bold)?;
    }
    let mut row = 4;
    for (number, field) in (1_u32..).zip(FIELDS) {
        if number == 10 {
            sheet.merge_range(row, 0, row, 7, "What was found in the hive", &bold)?;
            row += 1;
        }
        sheet.write(row, 0, number)?;
        for (column, text) in (1..).zip(field).filter(|(_, text)| !text.is_empty()) {
            sheet.write(row, column, text)?;
        }
        row += 1;
    }
    let checks = book.add_worksheet().set_name("Checks")?;
    checks.write(0, 0, "Check")?.write(0, 1, "Message")?;
    checks.write(1, 0, "brood_frames <= frames")?.write(
        1,
        1,
        "there cannot be more brood frames than frames",
    )?;
    for (name, headings, list) in LISTS {
        let sheet = book.add_worksheet().set_name(name)?;
        for (column, heading) in (0..).zip(headings) {
            sheet.write_with_format(0, column, *heading, &bold)?;
        }
        for (row, line) in (1..).zip(list.lines().skip(1)) {
            for (column, cell) in (0..).zip(line.split(',')).filter(|(_, cell)| !cell.is_empty()) {
                sheet.write_string(row, column, cell)?;
            }
        }
    }
    book.save_to_buffer()
}

/// The template: the headings of the upload file, and nothing below them.
pub(super) fn template(target: &Target) -> String {
    format!("{}\r\n", target.headings().join(";"))
}
