//! Single cells corrected: by hand, and in the rejected rows that a batch hands out.

use std::io::{Cursor, Read as _, Write as _};

use calamine::{Data, Reader as _, Xlsx};
use rust_xlsxwriter::Workbook;

use crate::desk::Desk;

const EXPORT: &str =
    "No,Date,Queen,Honey\n117,31/02/2026,yel.,10\n290,25/04/2026,white,about 5\n300,26/04/2026,white,-3\n";

/// The rejected rows of the batch, as texts.
fn rejects_book(desk: &Desk) -> Vec<Vec<String>> {
    let mut book = Xlsx::new(Cursor::new(desk.read_bytes("batch/rejects.xlsx"))).unwrap();
    let range = book.worksheet_range("Rejects").unwrap();
    assert!(
        range.rows().flatten().all(|cell| matches!(cell, Data::String(_) | Data::Empty)),
        "every cell is text"
    );
    range.rows().map(|row| row.iter().map(ToString::to_string).collect()).collect()
}

/// The same rows as somebody else's program would save them.
fn saved(rows: &[Vec<String>]) -> Vec<u8> {
    let mut book = Workbook::new();
    let sheet = book.add_worksheet().set_name("Rejects").unwrap();
    for (row, cells) in (0..).zip(rows) {
        for (column, cell) in (0..).zip(cells) {
            sheet.write_string(row, column, cell).unwrap();
        }
    }
    book.save_to_buffer().unwrap()
}

fn place(rows: &[Vec<String>], heading: &str) -> usize {
    rows[0].iter().position(|name| name == heading).unwrap()
}

#[test]
fn rejects_are_edited_brought_back_and_gone_from_the_next_batch() {
    let desk = Desk::new().with("export.csv", EXPORT);
    desk.conform().ended(1);
    let mut rows = rejects_book(&desk);
    assert_eq!(rows[0][..4], ["reasons", "source", "row", "print"]);
    assert!(rows[1][0].contains("31/02/2026") && rows[1][0].contains("yel."), "{:?}", rows[1]);
    let (date, queen, honey) = (place(&rows, "Date"), place(&rows, "Queen"), place(&rows, "Honey"));
    rows[1][date] = "28/02/2026".into();
    rows[1][queen] = "Yellow".into();
    rows[2][honey] = "5".into();
    let desk = desk.with_bytes("back.xlsx", &saved(&rows));
    desk.run(&["correct", "back.xlsx"]).ended(2);
    assert!(!desk.exists("corrections"), "nobody was there to say yes");
    desk.run(&[
        "correct",
        "back.xlsx",
        "--yes",
        "--by",
        "A. Clerk",
        "--today",
        "2026-04-30",
        "--note",
        "asked",
    ])
    .ended(0)
    .says(&[
        "3 cells were changed",
        "row 2  Date   \"31/02/2026\"  →  \"28/02/2026\"",
        "recorded in corrections/export.csv",
    ]);
    desk.run(&["conform", "export.csv", "-o", "again", "--again", "--today", "2026-04-30"])
        .ended(0)
        .says(&["3 rows read = 3 accepted", "corrections 3 applied"]);
    assert!(desk.read("again/upload/up-1.csv").contains("000117;2026-02-28;Y;4.5"));
    assert!(desk.read("again/changes.csv").contains(
        "honey_kg,about 5,5,correction,\"correction, A. Clerk, 30 Apr 2026, asked\",1,export.csv,3"
    ));
    desk.run(&["explain", "export.csv", "3", "honey_kg"]).ended(0).says(&[
        "source       \"about 5\"",
        "correction   \"5\"",
        "A. Clerk, 30 Apr 2026, asked",
    ]);
    assert!(desk.read("again/receipt.json").contains("corrections/export.csv"));
    assert_eq!(desk.read("export.csv"), EXPORT, "the source is as it was");
    // What the source has again is no correction any more.
    rows[2][honey] = "about 5".into();
    let desk = desk.with_bytes("back.xlsx", &saved(&rows));
    desk.run(&["correct", "back.xlsx", "--yes"]).ended(0).says(&["no cell was changed"]);
}

#[test]
fn one_cell_is_corrected_listed_and_forgotten() {
    let desk = Desk::new().with("export.csv", EXPORT);
    desk.run(&["correct", "export.csv", "3", "Honey", "5"]).ended(0).says(&["\"about 5\"  →  \"5\""]);
    desk.run(&["correct", "export.csv", "2", "Date", "28/02/2026", "--note", "the last day"]).ended(0);
    desk.run(&["check", "export.csv"]).ended(1).says(&["2 applied", "2 accepted + 1 rejected"]);
    desk.run(&["correct", "export.csv"]).ended(0).says(&["about 5", "applied", "the last day"]);
    desk.run(&["correct", "export.csv", "3", "Honey", "--forget"]).ended(0).says(&["\"5\"  →  \"about 5\""]);
    assert_eq!(desk.read("corrections/export.csv").lines().count(), 2);
    // The source makes one itself, and another row becomes another.
    let desk = desk.edited("export.csv", "31/02/2026", "28/02/2026");
    desk.run(&["check", "export.csv"]).says(&["1 no longer needed"]);
    let desk = desk.edited("export.csv", "117,28/02/2026,yel.,10", "117,31/02/2026,white,11");
    desk.run(&["check", "export.csv"]).says(&["1 stale and not applied", "dusk correct export.csv"]);
    desk.run(&["correct", "export.csv"]).says(&["stale: the row has changed"]);
    desk.run(&["correct", "export.csv", "2", "Dat", "x"])
        .stops(&["no column \"Dat\"", "did you mean \"Date\"?"]);
    desk.run(&["correct", "export.csv", "9", "Date", "x"]).stops(&["no record in row 9"]);
    desk.run(&["correct", "export.csv", "2", "Date"]).stops(&["holds \"31/02/2026\"", "\"\" for a blank"]);
    desk.run(&["correct", "export.csv", "4", "Date", "--forget"]).stops(&["nothing was corrected there"]);
}

#[test]
fn a_row_is_kept_out_by_a_decision_that_holds_when_it_has_moved() {
    let desk = Desk::new().with("export.csv", &format!("{EXPORT}300,26/04/2026,white,4\n"));
    let keep = ["correct", "export.csv", "4", "--keep-out", "--by", "A. Clerk", "--today", "2026-04-30"];
    desk.run(&["check", "export.csv"]).ended(1).says(&["do: dusk correct export.csv 5 --keep-out"]);
    desk.run(&keep).ended(0).says(&["row 4  (row)  \"double\"  →  \"(keep out)\""]);
    assert!(desk.read("corrections/export.csv").contains("4,(row),double,(keep out),A. Clerk,2026-04-30,,"));
    let ran = desk.conform().ended(1);
    ran.says(&[
        "4 rows read = 1 accepted + 2 rejected + 0 merged + 1 left out",
        "1 row kept out as was decided",
    ]);
    assert!(desk.read("batch/upload/up-1.csv").contains("000300;2026-04-26;W;1.8"), "the key is free now");
    assert!(desk.read("batch/findings.csv").contains(
        "export.csv,4,4,note,kept-out,the row,,\"is kept out, as was decided (correction, A. Clerk, 30 Apr 2026)\","
    ));
    desk.run(&["explain", "export.csv", "4"]).ended(0).says(&["left out", "as was decided"]);
    let desk = desk.edited("export.csv", "117,", "100,01/04/2026,white,1\n117,");
    desk.run(&["check", "export.csv"])
        .ended(1)
        .says(&["5 rows read = 2 accepted + 2 rejected + 0 merged + 1"]);
    desk.run(&["correct", "export.csv"]).ended(0).says(&["5 (was 4)", "(keep out)", "applied"]);
    let desk = desk.edited("export.csv", "300,26/04/2026,white,-3", "300,26/04/2026,white,5");
    desk.run(&["check", "export.csv"]).ended(1).says(&["1 stale and not applied"]);
    let desk =
        desk.edited("export.csv", "100,01/04/2026,white,1\n", "").edited("export.csv", "white,5", "white,-3");
    desk.run(&["correct", "export.csv", "4", "--keep-out", "--forget"]).ended(0);
    assert!(!desk.exists("corrections/export.csv"));
    desk.run(&["correct", "export.csv", "4", "--keep-out", "--forget"]).stops(&["row 4", "is not kept out"]);
    desk.run(&["correct", "export.csv", "4"]).ended(2);
    desk.run(&["correct", "export.csv", "4", "Date", "x", "--keep-out"]).ended(2);
    let desk = desk.with("corrections/export.csv", "row,column,was,now\n4,(row),,gone\n");
    desk.run(&["check", "export.csv"]).stops(&[
        "a row can only be kept out: write (keep out)",
        "does not say by what it is recognised",
        "dusk correct SOURCE 4 --keep-out",
    ]);
}

#[test]
fn what_was_mangled_is_refused_and_nothing_is_recorded() {
    let desk = Desk::new().with("export.csv", EXPORT);
    desk.conform().ended(1);
    let rows = rejects_book(&desk);
    let honey = place(&rows, "Honey");
    let refused = |edit: &dyn Fn(&mut Vec<Vec<String>>), says: &[&str]| {
        let mut rows = rows.clone();
        // A good edit beside the bad one is not taken either.
        rows[2][honey] = "5".into();
        edit(&mut rows);
        std::fs::write(desk.path("back.xlsx"), saved(&rows)).unwrap();
        desk.run(&["correct", "back.xlsx", "--yes"]).stops(says);
        assert!(!desk.exists("corrections"));
    };
    refused(&|rows| rows[0][honey] = "Hny".into(), &["the heading \"Hny\"", "it was \"Honey\""]);
    refused(&|rows| rows[1][2] = "4".into(), &["row 2: says that it is row 4", "holds what row 2 has"]);
    refused(&|rows| rows[1][1] = "other.csv".into(), &["\"other.csv\", which is not a source of the batch"]);
    refused(&|rows| rows[1][3] = String::new(), &["was not among the rejected rows"]);
    refused(
        &|rows| rows[1][3] = rows[1][3].replace("batch", "another"),
        &["rows of 2 batches: another, batch"],
    );
    refused(
        &|rows| {
            let mut copy = rows[1].clone();
            copy[honey] = "7".into();
            rows.push(copy);
        },
        &["is a copy of row 2", "says something else"],
    );
    let desk = desk.edited("export.csv", "290,25/04", "290,24/04");
    desk.run(&["correct", "batch/rejects.xlsx"])
        .stops(&["does not have this row any more", "make the batch again"]);
}

#[test]
fn what_a_program_only_writes_otherwise_is_said_and_not_recorded() {
    let desk = Desk::new().with(
        "export.csv",
        "No,Date,Queen,Honey\n0117,31/02/2026,yel.,\"1,204.50\"\n290,25/04/2026,white,about 5\n",
    );
    desk.conform().ended(1);
    let rejects = desk.read("batch/rejects.csv").replace("0117,", "117,").replace("\"1,204.50\"", "1204.5");
    let desk = desk.with("back.csv", &rejects.replace(",about 5", ",5"));
    desk.run(&["correct", "back.csv", "--yes"]).ended(0).says(&[
        "1 cell was changed",
        "2 cells hold what was there, only written otherwise",
        "(such as row 2, No: \"0117\" became \"117\")",
        "dusk correct SOURCE ROW COLUMN VALUE",
    ]);
    assert_eq!(desk.read("corrections/export.csv").lines().count(), 2);
}

#[test]
fn a_source_may_have_columns_of_the_same_names() {
    let source = "row,print,Queen,beyond the header\n117,31/02/2026,white,x\n";
    let desk = Desk::new().with("export.csv", source);
    let desk = desk
        .edited("mapping.toml", "\"No\"", "\"row\"")
        .edited("mapping.toml", "\"Date\"", "\"print\"")
        .edited("mapping.toml", "\"Honey\"", "\"Queen\"");
    desk.conform().ended(1);
    let rejects = desk.read("batch/rejects.csv");
    assert!(rejects.starts_with(
        "dusk reasons,dusk source,dusk row,dusk line,dusk print,row,print,Queen,beyond the header,dusk beyond"
    ));
    let desk = desk.with("back.csv", &rejects.replace(",31/02/2026,", ",28/02/2026,"));
    desk.run(&["correct", "back.csv", "--yes"]).ended(0).says(&["row 2  print  \"31/02/2026\"  →  \"28/02"]);
    let mut rows = rejects_book(&desk);
    let (_, column) = (place(&rows, "dusk row"), place(&rows, "row"));
    rows[1][column] = "118".into();
    let desk = desk.with_bytes("back.xlsx", &saved(&rows));
    desk.run(&["correct", "back.xlsx", "--yes"]).ended(0).says(&["row 2  row  \"117\"  →  \"118\""]);
}

#[test]
fn no_list_holds_a_cell_that_a_spreadsheet_program_would_run() {
    let desk = Desk::with_field(
        "type = \"text\"\nmax_length = 3",
        "from = \"It\"\ntrim = false",
        &["=1+1;-a", "@x|\"=y\"", "+ok", "=b"],
    );
    desk.conform().ended(1);
    assert!(desk.read("batch/upload/up.csv").contains("r3,=b\n"), "the upload is never altered");
    for list in ["rejects.csv", "findings.csv", "changes.csv"] {
        let text = desk.read(&format!("batch/{list}"));
        let runs = |piece: &str| piece.trim_start_matches('"').starts_with(['=', '@', '+']);
        assert!(!text.split([',', ';', '|', '\n']).any(runs), "{list}: {text}");
    }
    let rejects = desk.read("batch/rejects.csv").replace("'=1+1;'-a", "'=2");
    let desk = desk.with("back.csv", &rejects);
    desk.run(&["correct", "back.csv", "--yes"]).ended(0).says(&["1 cell was changed", "→  \"=2\""]);
    desk.run(&["conform", "export.csv", "-o", "again", "--again", "--today", "2026-04-30"]).ended(1);
    assert!(desk.read("again/upload/up.csv").contains("r0,=2\n"));
}

#[test]
fn what_the_same_record_had_in_an_earlier_batch_is_a_likely_answer() {
    let desk =
        Desk::new().with("export.csv", "No,Date,Queen,Honey\n117,03/04/2026,white,1\n290,03/04/2026,sky,2\n");
    desk.run(&["conform", "export.csv", "--today", "2026-04-30"]).ended(0);
    let desk = desk.with("export.csv", "No,Date,Queen,Honey\n290,03/04/2026,azure,2\n300,03/04/2026,zz,1\n");
    desk.run(&["check", "export.csv", "--today", "2026-05-31"]).ended(1).says(&[
        "the same records had \"B\" in batch",
        "do: dusk crosswalk add queen azure B",
        "do: dusk crosswalk add queen zz CODE",
    ]);
}

/// The rejected rows of `resaved/export.csv`, opened in a real spreadsheet program and saved again: as a workbook
/// in three formats, and as delimited text. The cells hold whatever such programs like to change.
#[test]
fn rejects_that_a_spreadsheet_program_saved_again_hold_no_edit() {
    let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/resaved");
    let file = |name: &str| std::fs::read(folder.join(name)).unwrap();
    let mut desk = Desk::empty();
    for name in ["target.toml", "mapping.toml", "codes/queen.csv", "export.csv"] {
        desk = desk.with_bytes(name, &file(name));
    }
    for name in ["rejects.xlsx", "rejects.ods", "rejects.xls"] {
        desk = desk.with_bytes(name, &file(name));
        desk.run(&["correct", name]).ended(0).says(&["9 rows, no cell was changed"]);
    }
    // As text, the program has made numbers and dates of what looked like them.
    desk = desk.with_bytes("rejects.csv", &file("rejects.csv"));
    desk.run(&["correct", "rejects.csv"]).ended(0).says(&[
        "17 cells hold what was there, only written otherwise",
        "\"000117\" became \"117\"",
        "9 rows, no cell was changed",
    ]);
    // A number that it cut short is not taken for another one.
    let desk = desk.edited("rejects.csv", "1.23456789012346E+019", "1.3E+019");
    desk.run(&["correct", "rejects.csv", "--yes"]).stops(&[
        "row 8, Hive: 1.3E+019",
        "cut short",
        "nothing was recorded",
    ]);
    assert!(!desk.exists("corrections"));
}

#[test]
fn a_whole_import_is_taken_back_while_nothing_else_was_recorded() {
    let desk = Desk::with_field("type = \"integer\"", "from = \"It\"", &["many", "few", "7"]);
    desk.conform().ended(1);
    let mend = |from: &str, to: &str| {
        let text = desk.read("batch/rejects.csv").replace(from, to);
        desk.with_again("mended.csv", &text);
        desk.run(&["correct", "mended.csv", "--yes"]).ended(0);
    };
    let corrections = || desk.read("corrections/export.csv");
    desk.run(&["correct", "export.csv", "--undo"]).stops(&["nothing was brought back of export.csv"]);
    desk.run(&["correct", "export.csv", "2", "It", "12"]).ended(0);
    let before = corrections();
    mend(",few", ",3");
    assert_ne!(corrections(), before);
    desk.run(&["correct", "mended.csv", "--undo"]).ended(0).says(&["is as it was before"]);
    assert_eq!(corrections(), before);
    desk.run(&["correct", "export.csv", "--undo"]).stops(&["nothing was brought back"]);
    mend(",few", ",3");
    desk.run(&["correct", "export.csv", "2", "It", "13"]).ended(0);
    desk.run(&["correct", "export.csv", "--undo"]).stops(&["something was recorded since", "--forget"]);
}

#[test]
fn rejected_rows_are_no_export_also_where_a_column_or_the_sheets_name_is_lost() {
    let desk = Desk::with_field("type = \"integer\"", "from = \"It\"", &["many", "few"]);
    desk.conform().ended(1);
    let rejects = desk.read("batch/rejects.csv");
    let without_row: String = rejects
        .lines()
        .map(|line| {
            let mut cells: Vec<&str> = line.split(',').collect();
            cells.remove(cells.len() - 6);
            cells.join(",") + "\n"
        })
        .collect();
    desk.with_again("all.csv", &rejects);
    desk.with_again("less.csv", &without_row);
    for name in ["all.csv", "less.csv"] {
        for command in ["check", "conform"] {
            desk.run(&[command, name])
                .stops(&["these are rejected rows of a batch, and no export", "dusk correct"]);
        }
    }
    desk.run(&["correct", "less.csv"]).stops(&["has no column \"row\""]);
}

#[test]
fn a_column_of_ones_own_is_left_aside_and_a_mapping_that_is_newer_is_said() {
    let desk = Desk::new().with("export.csv", EXPORT);
    desk.conform().ended(1);
    let mut rows = rejects_book(&desk);
    let queen = place(&rows, "Queen");
    for (number, row) in rows.iter_mut().enumerate() {
        row.insert(queen, if number == 0 { "Asked?".into() } else { "yes, Tuesday".into() });
    }
    rows[1][queen + 1] = "Yellow".into();
    let newer = desk.read("mapping.toml") + "# read over\n";
    let desk = desk.with("mapping.toml", &newer).with_bytes("back.xlsx", &saved(&rows));
    desk.run(&["correct", "back.xlsx", "--yes"]).ended(0).says(&[
        "the column \"Asked?\" is not in the source, and is ignored",
        "mapping.toml is not as it was when batch batch was made",
        "1 cell was changed",
        "row 2  Queen  \"yel.\"  →  \"Yellow\"",
    ]);
    // Where one of the source's is not there, the other one may be it under another name.
    let date = place(&rows, "Date");
    rows[0][date] = "Day of visit".into();
    let desk = desk.with_bytes("back.xlsx", &saved(&rows));
    desk.run(&["correct", "back.xlsx", "--yes"])
        .stops(&["the heading \"Day of visit\" is not in the source"]);
}

#[test]
fn a_formula_that_no_program_worked_out_is_refused() {
    let desk = Desk::new().with("export.csv", EXPORT);
    desk.conform().ended(1);
    let rows = rejects_book(&desk);
    let mut book = Workbook::new();
    let sheet = book.add_worksheet();
    sheet.set_name("rejects").unwrap();
    for (number, row) in (0..).zip(&rows) {
        for (column, cell) in (0..).zip(row).filter(|(_, cell)| !cell.is_empty()) {
            sheet.write_string(number, column, cell).unwrap();
        }
    }
    let honey = u16::try_from(place(&rows, "Honey")).unwrap();
    sheet.write_formula(1, honey, rust_xlsxwriter::Formula::new("=2+3").set_result("5")).unwrap();
    let worked_out = book.save_to_buffer().unwrap();
    let desk = desk.with_bytes("back.xlsx", &with_sheet(&worked_out, "<v>5</v>", "<v></v>"));
    desk.run(&["correct", "back.xlsx", "--yes"])
        .stops(&["back.xlsx: row 2, Honey: the formula has no value", "write the value itself"]);
    assert!(!desk.exists("corrections"));
    // What a program has worked out is what was typed.
    let desk = desk.with_bytes("back.xlsx", &worked_out);
    desk.run(&["correct", "back.xlsx", "--yes"]).ended(0).says(&["row 2  Honey  \"10\"  →  \"5\""]);
}

/// A workbook in whose first sheet a text stands instead of another.
fn with_sheet(book: &[u8], from: &str, to: &str) -> Vec<u8> {
    let mut old = zip::ZipArchive::new(Cursor::new(book)).unwrap();
    let mut new = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for place in 0..old.len() {
        let mut part = old.by_index(place).unwrap();
        let (mut text, name) = (String::new(), part.name().unwrap().into_owned());
        part.read_to_string(&mut text).unwrap();
        if name.ends_with("sheet1.xml") {
            assert!(text.contains(from), "{text}");
            text = text.replace(from, to);
        }
        new.start_file(name, zip::write::SimpleFileOptions::default()).unwrap();
        new.write_all(text.as_bytes()).unwrap();
    }
    new.finish().unwrap().into_inner()
}
