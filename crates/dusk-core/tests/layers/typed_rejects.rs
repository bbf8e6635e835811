//! What a spreadsheet program makes of cells that somebody types into the rejected rows: taken back exactly as it
//! was typed, or refused with what to do; and the workbook and the text hold the same rows.

use crate::desk::Desk;
use calamine::Reader as _;
use dusk_core::decisions::CorrectionFile;
use dusk_core::files::unguarded;
use dusk_core::rejects::{Compared, Comparison, compare, read_back};
use proptest::prelude::*;
use rust_xlsxwriter::{ExcelDateTime, Format, Workbook, Worksheet};

/// What somebody types into the second cell of the one rejected row.
type Typed = fn(&mut Worksheet, u32, u16);

fn day(sheet: &mut Worksheet, row: u32, column: u16, (year, month, day): (u16, u8, u8)) {
    let day = ExcelDateTime::from_ymd(year, month, day).unwrap();
    sheet.write_datetime_with_format(row, column, &day, &Format::new().set_num_format("dd/mm/yyyy")).unwrap();
}

/// Brings the one rejected row back with that cell typed.
fn brought_back(field: &str, cell: &str, typed: Typed) -> Comparison {
    let desk = Desk::with_field(field, "", &[cell]);
    desk.conform();
    let rejects = std::fs::read_to_string(desk.path("batch/rejects.csv")).unwrap();
    let mut reader = csv::ReaderBuilder::new().has_headers(false).from_reader(rejects.as_bytes());
    let rows: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
    assert_eq!(rows.len(), 2, "{rejects}");
    let mut book = Workbook::new();
    let sheet = book.add_worksheet().set_name("Rejects").unwrap();
    for (row, cells) in (0..).zip(&rows) {
        for (column, cell) in (0..).zip(cells) {
            sheet.write_string(row, column, unguarded(cell)).unwrap();
        }
    }
    let it = rows[0].iter().position(|heading| heading == "It").unwrap();
    typed(sheet, 1, u16::try_from(it).unwrap());
    book.save(desk.path("back.xlsx")).unwrap();
    let given = desk.given();
    let source = &given.sources[0];
    let compared = Compared {
        name: source.name.clone(),
        source,
        prints: given.mapping.row_hashes(source, &given.target),
        corrections: CorrectionFile::default(),
    };
    compare(&read_back(&desk.path("back.xlsx")).unwrap(), &[compared]).unwrap()
}

const NUMBER: &str = "type = \"integer\"\nmax = \"40\"";
const DATE: &str = "type = \"date\"\nnot_before = \"2020-01-01\"";

#[test]
fn what_is_certain_is_taken_as_it_was_typed() {
    let cases: [(&str, &str, Typed, &str); 6] = [
        (
            NUMBER,
            "many",
            |sheet, row, column| {
                sheet.write_number(row, column, 12).unwrap();
            },
            "12",
        ),
        (
            NUMBER,
            "many",
            |sheet, row, column| {
                sheet.write_number(row, column, 0.5).unwrap();
            },
            "0.5",
        ),
        (
            NUMBER,
            "many",
            |sheet, row, column| {
                sheet.write_string(row, column, "007").unwrap();
            },
            "007",
        ),
        (
            "type = \"boolean\"",
            "done",
            |sheet, row, column| {
                sheet.write_boolean(row, column, true).unwrap();
            },
            "TRUE",
        ),
        (
            "type = \"date\"",
            "soon",
            |sheet, row, column| day(sheet, row, column, (2026, 4, 25)),
            "2026-04-25",
        ),
        (
            NUMBER,
            "many",
            |sheet, row, column| {
                sheet.write_blank(row, column, &Format::new()).unwrap();
            },
            "",
        ),
    ];
    for (field, cell, typed, expected) in cases {
        let back = brought_back(field, cell, typed);
        assert!(back.problems.is_empty(), "{}", back.problems);
        let changes: Vec<(&str, &str)> =
            back.changes.iter().map(|one| (one.was.as_str(), one.now.as_str())).collect();
        assert_eq!(changes, [(cell, expected)]);
    }
}

#[test]
fn what_the_program_may_have_changed_is_refused() {
    let cases: [(&str, &str, Typed, &str); 3] = [
        (
            DATE,
            "soon",
            |sheet, row, column| day(sheet, row, column, (2026, 4, 3)),
            "it may have taken the day for the month",
        ),
        (
            NUMBER,
            "many",
            |sheet, row, column| {
                sheet.write_number(row, column, 1_234_567_890_123_456_f64).unwrap();
            },
            "no more than 15 digits",
        ),
        (
            NUMBER,
            "many",
            |sheet, row, column| {
                sheet
                    .write_number_with_format(row, column, 1.5, &Format::new().set_num_format("[h]:mm"))
                    .unwrap();
            },
            "a length of time",
        ),
    ];
    for (field, cell, typed, says) in cases {
        let back = brought_back(field, cell, typed);
        let said = back.problems.to_string();
        assert!(said.contains(says) && said.contains("format the cell as text"), "{says}: {said}");
        assert!(back.changes.is_empty());
    }
}

#[test]
fn what_the_program_only_writes_otherwise_is_no_change() {
    let cases: [(&str, &str, Typed); 3] = [
        (NUMBER, "0041", |sheet, row, column| {
            sheet.write_number(row, column, 41).unwrap();
        }),
        (NUMBER, "1,204.50", |sheet, row, column| {
            sheet.write_number(row, column, 1204.5).unwrap();
        }),
        (DATE, "03/04/2019", |sheet, row, column| day(sheet, row, column, (2019, 3, 4))),
    ];
    for (field, cell, typed) in cases {
        let field = if field == DATE { "type = \"text\"\nmax_length = 3" } else { field };
        let back = brought_back(field, cell, typed);
        assert!(
            back.problems.is_empty() && back.changes.is_empty(),
            "{cell}: {} {:?}",
            back.problems,
            back.changes
        );
        assert!(
            back.remarks.iter().any(|remark| remark.contains("only written otherwise")),
            "{:?}",
            back.remarks
        );
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Whatever the cells hold, both files of rejected rows hold them as the source has them.
    #[test]
    fn the_workbook_and_the_text_hold_the_same_rows(cells in prop::collection::vec("[-=+@'\"a1é蜂,;\n ]{1,10}", 1..8)) {
        let given: Vec<&str> = cells.iter().map(String::as_str).collect();
        let desk = Desk::with_field("type = \"text\"\npattern = \"never\"", "", &given);
        desk.conform();
        let listed: Vec<Vec<String>> = desk
            .records("batch/rejects.csv")
            .iter()
            .map(|row| row.iter().map(|cell| unguarded(cell).into_owned()).collect())
            .collect();
        let rejected = cells.iter().filter(|cell| !cell.trim().is_empty()).count();
        if rejected == 0 {
            // Where nothing is rejected there is nothing to edit.
            prop_assert!(listed.is_empty() && !desk.path("batch/rejects.xlsx").exists());
            return Ok(());
        }
        let mut book: calamine::Xlsx<_> = calamine::open_workbook(desk.path("batch/rejects.xlsx")).unwrap();
        let range = book.worksheet_range("Rejects").unwrap();
        let in_book: Vec<Vec<String>> =
            range.rows().skip(1).map(|row| row.iter().map(ToString::to_string).collect()).collect();
        prop_assert_eq!((listed.len(), in_book.len()), (rejected, rejected));
        for (listed, in_book) in listed.iter().zip(&in_book) {
            // The workbook has no column of lines.
            let ends = |text: &str| text.replace("\r\n", "\n");
            prop_assert_eq!(ends(&listed[6]), ends(&in_book[5]));
            prop_assert_eq!(&listed[5], &in_book[4]);
            prop_assert_eq!(&listed[4], &in_book[3], "the print");
        }
    }
}
