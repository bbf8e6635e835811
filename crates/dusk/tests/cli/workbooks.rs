//! Workbooks: which sheet, typed cells, what only the display kept, hidden and merged cells, damage.

use rust_xlsxwriter::{ExcelDateTime, Format, Formula, Workbook, Worksheet, XlsxError};

use crate::desk::{Desk, MAPPING, QUEEN, TARGET};

/// A desk with the small target, its mapping, and a workbook made by `make`.
fn desk(make: impl FnOnce(&mut Worksheet) -> Result<(), XlsxError>) -> Desk {
    let mut book = Workbook::new();
    make(book.add_worksheet()).unwrap();
    with_book(book)
}

fn with_book(mut book: Workbook) -> Desk {
    let bytes = book.save_to_buffer().unwrap();
    Desk::empty()
        .with("target.toml", TARGET)
        .with("codes/queen.csv", QUEEN)
        .with("mapping.toml", MAPPING)
        .with_bytes("export.csv", &bytes)
}

fn header(sheet: &mut Worksheet) -> Result<(), XlsxError> {
    for (column, name) in (0..).zip(["No", "Date", "Queen", "Honey"]) {
        sheet.write(0, column, name)?;
    }
    Ok(())
}

fn day(year: u16, month: u8, day: u8) -> ExcelDateTime {
    ExcelDateTime::from_ymd(year, month, day).unwrap()
}

fn dates() -> Format {
    Format::new().set_num_format("dd/mm/yyyy")
}

#[test]
fn typed_cells_are_what_they_are() {
    let desk = desk(|sheet| {
        header(sheet)?;
        let padded = Format::new().set_num_format("000000");
        sheet.write_number_with_format(1, 0, 417, &padded)?;
        sheet.write_datetime_with_format(1, 1, day(2026, 4, 13), &dates())?;
        sheet.write(1, 2, "white")?.write(1, 3, 1204.5)?;
        sheet.write(2, 0, "290")?.write(2, 1, "25/04/2026")?.write(2, 2, "yellow")?.write(2, 3, "4.5")?;
        // Row 4 is blank, and row 5 ends early.
        sheet.write(4, 0, 291.0)?.write(4, 1, "26/04/2026")?;
        Ok(())
    });
    let ran = desk.conform().ended(0);
    ran.says(&[
        "\"Sheet1\" of a workbook (xlsx)",
        "4 rows read = 3 accepted + 0 rejected + 0 merged + 1 left out",
    ]);
    let upload = desk.read("batch/upload/up-1.csv");
    let lines: Vec<&str> = upload.lines().skip(1).collect();
    assert_eq!(lines, ["000417;2026-04-13;W;546.4", "000290;2026-04-25;Y;2", "000291;2026-04-26;;"]);
    desk.run(&["explain", "export.csv", "2", "visit_date"])
        .ended(0)
        .says(&["typed date", "row 2 of export.csv"]);
    assert!(desk.read("batch/receipt.json").contains("\"sheet\": \"Sheet1\""));
}

#[test]
fn what_a_spreadsheet_program_made_of_values_is_restored_or_rejected() {
    let field = "type = \"code\"\ncodes = \"codes/batch.csv\"\n[[field]]\nname = \"note\"\ntype = \"text\"";
    let map = "from = \"It\"\n[[map]]\nfield = \"note\"\nfrom = \"Note\"";
    let mut book = Workbook::new();
    let sheet = book.add_worksheet();
    sheet.write(0, 0, "Id").unwrap().write(0, 1, "It").unwrap().write(0, 2, "Note").unwrap();
    for (row, code) in (1..).zip([day(2026, 3, 5), day(2026, 5, 1), day(2026, 9, 9)]) {
        sheet.write(row, 0, "x").unwrap().write_datetime_with_format(row, 1, code, &dates()).unwrap();
    }
    sheet.write(4, 1, 7).unwrap();
    sheet.write(5, 1, "A1").unwrap().write_datetime_with_format(5, 2, day(2026, 3, 4), &dates()).unwrap();
    sheet.write(6, 1, "A1").unwrap().write_formula(6, 2, Formula::new("=1/0").set_result("#DIV/0!")).unwrap();
    let bytes = book.save_to_buffer().unwrap();
    let desk = Desk::with_field(field, map, &[])
        .with("codes/batch.csv", "code\nMAR5\nMAY1\n1-5\n007\nA1\n")
        .with_bytes("export.csv", &bytes);
    let result = desk.check();
    let found: Vec<(u64, &str)> = result["causes"]
        .as_array()
        .unwrap()
        .iter()
        .map(|cause| (cause["first"]["row"].as_u64().unwrap(), cause["finding"].as_str().unwrap()))
        .collect();
    for expected in
        [(3, "code-undecided"), (4, "turned-into-date"), (6, "turned-into-date"), (7, "error-cell")]
    {
        assert!(found.contains(&expected), "{expected:?} is not in {found:?}: {result}");
    }
    desk.conform().ended(1);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it,note\nx,MAR5,\n,007,\n");
}

#[test]
fn a_half_converted_column_is_repaired_row_by_row_once_the_mapping_says_so() {
    let rows = ["03/04/2026", "25/04/2026", "11/12/2026", "13/05/2026"];
    let desk = desk(|sheet| {
        header(sheet)?;
        for (row, text) in (1..).zip(rows) {
            sheet.write(row, 0, row)?;
            let mut parts = text.split('/').map(|part| part.parse::<u16>().unwrap());
            let (first, second, year) = (parts.next().unwrap(), parts.next().unwrap(), parts.next().unwrap());
            // A program set to month-day-year reads what fits, and leaves the rest.
            if first <= 12 {
                sheet.write_datetime_with_format(row, 1, day(year, first as u8, second as u8), &dates())?;
            } else {
                sheet.write(row, 1, text)?;
            }
        }
        Ok(())
    });
    // The mapping names an order, and the typed dates would go in swapped without a word.
    desk.conform()
        .stops(&["half converted: all typed dates have a day of 12 or less", "4 Mar 2026, or 3 Apr 2026"]);
    let lines =
        "order = \"day-month-year\"\norder_where = [{ shape = \"typed\", order = \"year-day-month\" }]";
    let desk = desk.edited("mapping.toml", "order = \"day-month-year\"", lines);
    desk.conform().ended(0);
    let upload = desk.read("batch/upload/up-1.csv");
    let days: Vec<&str> = upload.lines().skip(1).filter_map(|line| line.split(';').nth(1)).collect();
    assert_eq!(days, ["2026-04-03", "2026-04-25", "2026-12-11", "2026-05-13"]);
    assert!(
        desk.read("batch/changes.csv")
            .contains("as the mapping says of values like typed (order_where): 3 Apr 2026")
    );
}

#[test]
fn a_sheet_is_chosen_by_name_or_number_or_asked_for() {
    let mut book = Workbook::new();
    book.add_worksheet().set_name("Notes").unwrap().write(0, 0, "see the next sheet").unwrap();
    let sheet = book.add_worksheet().set_name("Visits").unwrap();
    header(sheet).unwrap();
    sheet.write(1, 0, 1).unwrap().write(3, 0, 2).unwrap();
    sheet.set_row_hidden(3).unwrap();
    sheet.merge_range(1, 2, 2, 2, "white", &Format::new()).unwrap();
    book.add_worksheet().set_name("Old").unwrap().set_hidden(true);
    let desk = with_book(book);
    desk.conform().stops(&[
        "a workbook with 3 sheets",
        "1 \"Notes\", 2 \"Visits\", 3 \"Old\" (hidden)",
        "sheet = \"…\"",
    ]);
    let desk = desk.edited("mapping.toml", "[[map]]", "[source]\nsheet = \"Visits\"\n[[map]]");
    let ran = desk.run(&["check", "export.csv"]).ended(0);
    ran.says(&["has a hidden row, row 4", "has merged cells, C2:C3"]);
    let desk = desk.edited("mapping.toml", "\"Visits\"", "2");
    desk.run(&["check", "export.csv"]).ended(0).says(&["\"Visits\" of a workbook"]);
    desk.edited("mapping.toml", "sheet = 2", "sheet = \"Visit\"")
        .run(&["check", "export.csv"])
        .stops(&["has no sheet \"Visit\" (did you mean \"Visits\"?)"]);
}

#[test]
fn the_only_sheet_that_holds_anything_needs_no_choice() {
    let mut book = Workbook::new();
    book.add_worksheet().set_name("Sheet1").unwrap();
    let sheet = book.add_worksheet().set_name("Visits").unwrap();
    header(sheet).unwrap();
    sheet.write(1, 0, 1).unwrap();
    book.add_worksheet().set_name("Sheet3").unwrap();
    with_book(book).conform().ended(0).says(&["\"Visits\" of a workbook"]);
}

#[test]
fn times_are_read_and_lengths_of_time_are_none() {
    let mut book = Workbook::new();
    let sheet = book.add_worksheet();
    sheet.write(0, 0, "Id").unwrap().write(0, 1, "It").unwrap();
    sheet.write(1, 0, "a").unwrap();
    sheet
        .write_datetime_with_format(
            1,
            1,
            ExcelDateTime::from_hms(14, 5, 0).unwrap(),
            &Format::new().set_num_format("hh:mm"),
        )
        .unwrap();
    sheet.write(2, 0, "b").unwrap();
    sheet.write_number_with_format(2, 1, 1.5, &Format::new().set_num_format("[h]:mm")).unwrap();
    let desk = Desk::with_field("type = \"time\"\nformat = \"HH:mm\"", "from = \"It\"", &[])
        .with_bytes("export.csv", &book.save_to_buffer().unwrap());
    desk.conform().ended(1).says(&["\"36:00:00\"", "no clock shows"]);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\na,14:05\n");
}

#[test]
fn broken_workbooks_are_said_to_be_so() {
    let whole = {
        let desk = desk(|sheet| {
            header(sheet)?;
            (1..200).try_for_each(|row| sheet.write(row, 0, row).map(|_| ()))
        });
        desk.read_bytes("export.csv")
    };
    for cut in [10, 200, whole.len() / 2, whole.len() - 30] {
        let desk = desk(header).with_bytes("export.csv", &whole[..cut]);
        desk.run(&["check", "export.csv"]).stops(&["export.csv: is a damaged workbook"]);
    }
    // Bytes overwritten anywhere give an error or another table, never a panic.
    for place in (0..whole.len()).step_by(whole.len() / 40) {
        let mut bytes = whole.clone();
        bytes[place] ^= 0x5a;
        let ran = desk(header).with_bytes("export.csv", &bytes).run(&["check", "export.csv"]);
        assert!((0..=2).contains(&ran.status) && !ran.err.contains("panicked"), "{place}: {ran:?}");
    }
    let desk = desk(header).with_bytes("export.csv", b"\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1 and nothing more");
    desk.run(&["check", "export.csv"]).stops(&["is a damaged workbook"]);
}

/// An OpenDocument sheet with the given table.
pub(crate) fn ods(table: &str) -> Vec<u8> {
    let content = format!(
        "<?xml version=\"1.0\"?><office:document-content xmlns:office=\"urn:oasis:names:tc:opendocument:xmlns:office:1.0\" \
         xmlns:table=\"urn:oasis:names:tc:opendocument:xmlns:table:1.0\" xmlns:text=\"urn:oasis:names:tc:opendocument:xmlns:text:1.0\">\
         <office:body><office:spreadsheet><table:table table:name=\"Visits\">{table}</table:table></office:spreadsheet></office:body></office:document-content>"
    );
    let manifest = "<?xml version=\"1.0\"?><manifest:manifest xmlns:manifest=\"urn:oasis:names:tc:opendocument:xmlns:manifest:1.0\"/>";
    packed(&[
        ("mimetype", b"application/vnd.oasis.opendocument.spreadsheet"),
        ("META-INF/manifest.xml", manifest.as_bytes()),
        ("content.xml", content.as_bytes()),
    ])
}

/// A packed file of these parts.
pub(crate) fn packed(parts: &[(&str, &[u8])]) -> Vec<u8> {
    let mut archive = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    for (name, bytes) in parts {
        archive.start_file(*name, zip::write::SimpleFileOptions::default()).unwrap();
        std::io::Write::write_all(&mut archive, bytes).unwrap();
    }
    archive.finish().unwrap().into_inner()
}

pub(crate) fn ods_row(cells: &[&str]) -> String {
    let cell = |cell: &&str| match cell.split_once('=') {
        Some(("date", day)) => format!(
            "<table:table-cell office:value-type=\"date\" office:date-value=\"{day}\"><text:p>x</text:p></table:table-cell>"
        ),
        Some(("number", number)) => format!(
            "<table:table-cell office:value-type=\"float\" office:value=\"{number}\"><text:p>x</text:p></table:table-cell>"
        ),
        _ => format!(
            "<table:table-cell office:value-type=\"string\"><text:p>{cell}</text:p></table:table-cell>"
        ),
    };
    format!("<table:table-row>{}</table:table-row>", cells.iter().map(cell).collect::<String>())
}

/// A workbook with binary sheets ([MS-XLSB]), like the table in `other_containers_are_read_alike`.
pub(crate) fn xlsb() -> Vec<u8> {
    let wide = |text: &str| {
        let units: Vec<u16> = text.encode_utf16().collect();
        [
            (units.len() as u32).to_le_bytes().to_vec(),
            units.iter().flat_map(|unit| unit.to_le_bytes()).collect(),
        ]
        .concat()
    };
    let record = |kind: u16, parts: &[&[u8]]| {
        let kind =
            if kind < 128 { vec![kind as u8] } else { vec![(kind & 127) as u8 | 128, (kind >> 7) as u8] };
        let body = parts.concat();
        [kind, vec![body.len() as u8], body].concat()
    };
    let number = |number: u32| number.to_le_bytes();
    let style = |format: u16| record(47, &[&[0, 0], &format.to_le_bytes(), &[0; 12]]);
    let row = |row: u32, hidden: u8| record(0, &[&number(row), &[0; 7], &[hidden], &[0; 5]]);
    let text = |column: u32, text: &str| record(6, &[&number(column), &[0; 4], &wide(text)]);
    let real = |column: u32, style: u32, value: f64| {
        record(5, &[&number(column), &number(style), &value.to_le_bytes()])
    };
    let mut sheet = [record(129, &[]), record(148, &[&[0; 16]]), record(145, &[]), row(0, 0)].concat();
    sheet.extend((0..).zip(["No", "Date", "Queen", "Honey"]).flat_map(|(column, name)| text(column, name)));
    for (at, hidden, no, day, queen, honey) in
        [(1, 0, 117.0, 46_125.0, "white", 10.5), (2, 0x10, 290.0, 46_137.0, "yellow", 4.5)]
    {
        sheet.extend(
            [row(at, hidden), real(0, 1, no), real(1, 2, day), text(2, queen), real(3, 0, honey)].concat(),
        );
    }
    let merged = record(176, &[&number(1), &number(2), &number(4), &number(4)]);
    sheet.extend([record(146, &[]), merged, record(130, &[])].concat());
    let styles = [
        record(615, &[&number(1)]),
        record(44, &[&164_u16.to_le_bytes(), &wide("0000")]),
        record(617, &[&number(3)]),
        [style(0), style(164), style(14)].concat(),
        record(618, &[]),
    ];
    let book = [
        record(131, &[]),
        record(156, &[&number(0), &number(1), &wide("rId1"), &wide("Visits")]),
        record(144, &[]),
        record(132, &[]),
    ];
    let relations =
        "<Relationships><Relationship Id=\"rId1\" Target=\"worksheets/sheet1.bin\"/></Relationships>";
    packed(&[
        ("xl/workbook.bin", &book.concat()),
        ("xl/_rels/workbook.bin.rels", relations.as_bytes()),
        ("xl/styles.bin", &styles.concat()),
        ("xl/worksheets/sheet1.bin", &sheet),
    ])
}

#[test]
fn other_containers_are_read_alike() {
    let swap = |row: String, before: &str, after: &str| row.replacen(before, after, 1);
    let note = "<office:annotation><text:p>seen twice</text:p></office:annotation>";
    let (first, second) = (
        ods_row(&["number=117", "date=2026-04-13", "white", "number=10.5"]),
        ods_row(&["number=290", "date=2026-04-25", "yellow", "number=4.5"]),
    );
    let first = swap(first, "<text:p>x<", &format!("{note}<text:p>0117<"));
    let merged = "<table:table-cell table:number-rows-spanned=\"2\"/></table:table-row>";
    let second = swap(second, "<table:table-row>", "<table:table-row table:visibility=\"collapse\">");
    let table = [
        ods_row(&["No", "Date", "Queen", "Honey"]),
        swap(first, "</table:table-row>", merged),
        swap(second, "<text:p>x<", "<text:p>0290<"),
    ]
    .concat();
    let desk = desk(header)
        .with_bytes("visits.ods", &ods(&table))
        .with_bytes("visits.xlsb", &xlsb())
        .with_bytes("visits.xls", include_bytes!("visits.xls"));
    for book in ["visits.ods", "visits.xls", "visits.xlsb"] {
        let (_, format) = book.split_once('.').unwrap();
        let out = format!("{book}-batch");
        desk.run(&["conform", book, "-o", &out, "--today", "2026-05-01"])
            .ended(0)
            .says(&[&format!("({format})"), "hidden row, row 3"]);
        let upload = desk.read(&format!("{out}/upload/up-1.csv"));
        assert_eq!(
            upload.lines().skip(1).collect::<Vec<_>>(),
            ["000117;2026-04-13;W;4.8", "000290;2026-04-25;Y;2"],
            "{book}"
        );
        desk.run(&["inspect", book]).says(&[
            "the cells E2:E3 are merged",
            "2 numbers have their leading zeros by the display format only",
            "0117",
        ]);
    }
    // A few bytes that stand for billions of cells are refused before they are unpacked.
    let endless = table
        .replacen("<table:table-row>", "<table:table-row table:number-rows-repeated=\"1048576\">", 2)
        .replacen("<table:table-cell ", "<table:table-cell table:number-columns-repeated=\"16384\" ", 2);
    let desk = desk.with_bytes("endless.ods", &ods(&endless));
    desk.run(&["check", "endless.ods"]).stops(&["beyond the end of a sheet"]);
    let desk = desk.with_bytes("notes.zip", &packed(&[("notes.md", b"")]));
    desk.run(&["check", "notes.zip"]).stops(&["is an archive without an export in it"]);
}
