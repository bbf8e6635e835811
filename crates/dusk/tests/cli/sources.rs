//! Reading exports: encodings, delimiters, headers, rows and lines, several files, standard input.

use std::io::Write as _;
use std::process::Stdio;

use encoding_rs::{SHIFT_JIS, WINDOWS_1252};

use crate::desk::{Desk, EXPORT, Ran};

const CLEAN: &str = "No,Date,Queen,Honey\n117,03/04/2026,white,10\n";

fn utf_16(text: &str, big: bool) -> Vec<u8> {
    let units = "\u{feff}".encode_utf16().chain(text.encode_utf16()).collect::<Vec<u16>>();
    units.into_iter().flat_map(|unit| if big { unit.to_be_bytes() } else { unit.to_le_bytes() }).collect()
}

#[test]
fn encodings_are_proven_or_named() {
    let town = "Id,It\na,Öst Quay – 5 €\n";
    let desk = || Desk::with_field("type = \"text\"", "from = \"It\"", &[]);
    let expected = "id,it\na,Öst Quay – 5 €\n";
    let proven: [(&str, Vec<u8>); 4] = [
        ("utf-8 (proven): 2 lines, every byte of them valid", town.into()),
        ("utf-8 (proven): 1 byte order mark", format!("\u{feff}{town}").into_bytes()),
        ("utf-16le (proven): 1 byte order mark", utf_16(town, false)),
        ("utf-16be (proven): 1 byte order mark", utf_16(town, true)),
    ];
    for (says, bytes) in proven {
        let desk = desk().with_bytes("export.csv", &bytes);
        desk.conform().ended(0).says(&[says]);
        assert_eq!(desk.read("batch/upload/up.csv"), expected, "{says}");
    }
    let unmarked: Vec<u8> = town.encode_utf16().flat_map(u16::to_le_bytes).collect();
    desk().with_bytes("export.csv", &unmarked).conform().ended(0).says(&["utf-16le (proven): 21 zero bytes"]);
    // Under any other encoding some are no words.
    let alone = desk().with_bytes("export.csv", &WINDOWS_1252.encode(town).0);
    alone
        .conform()
        .ended(0)
        .says(&["windows-1252 (proven): 3 words; every other encoding leaves some that cannot be"]);
    assert_eq!(alone.read("batch/upload/up.csv"), expected);
    // Where several leave words, those are shown, with the whole line that decides.
    let unnamed = desk().with_bytes("export.csv", &WINDOWS_1252.encode("Id,It\na,mère près de là\n").0);
    unnamed.run(&["check", "export.csv"]).stops(&[
        "encoding: undecided between windows-1252 and",
        "line 2 \"mère\"",
        "line 2 \"mčre\"",
        "encoding = \"windows-1252\"   # or \"",
        ": the one under which the words above are right",
    ]);
    let named = unnamed.edited("mapping.toml", "[[map]]", "[source]\nencoding = \"windows-1252\"\n[[map]]");
    named.conform().ended(0).says(&["windows-1252 (as the mapping says)"]);
    assert_eq!(named.read("batch/upload/up.csv"), "id,it\na,mère près de là\n");
}

#[test]
fn an_encoding_that_makes_no_difference_to_any_field_is_taken_and_said() {
    let desk = Desk::with_field("type = \"text\"", "from = \"It\"", &[]);
    let export =
        |it: &str| WINDOWS_1252.encode(&format!("Id,It,Note\na,{it},mère près de là\n")).0.into_owned();
    let same = desk.with_bytes("export.csv", &export("Müller"));
    same.conform()
        .ended(0)
        .says(&["encoding    windows-1252 (taken; under others no column that feeds a field reads"]);
    assert_eq!(same.read("batch/upload/up.csv"), "id,it\na,Müller\n");
    assert!(same.read("batch/receipt.json").contains("\"encoding\": \"windows-1252\""));
    let other = same.with_bytes("export.csv", &export("crème"));
    other.run(&["check", "export.csv"]).stops(&["encoding: undecided between windows-1252 and"]);
    // A heading may have been written under a guess: it proves nothing.
    let other = other.edited("mapping.toml", "from = \"It\"", "from = \"Mčre\"");
    let bytes = WINDOWS_1252.encode("Id,Mère\na,crème\n").0.into_owned();
    other
        .with_bytes("export.csv", &bytes)
        .run(&["check", "export.csv", "--evidence"])
        .stops(&["encoding: undecided between"]);
}

#[test]
fn words_of_the_dictionary_prove_an_encoding() {
    let desk = Desk::with_field("type = \"code\"\ncodes = \"codes/towns.csv\"", "from = \"It\"", &[])
        .with("codes/towns.csv", "code,label\n1,Öst Quay\n2,Château Lane\n")
        .with_bytes("export.csv", &WINDOWS_1252.encode("Id,It\na,Öst Quay\nb,Château Lane\n").0);
    desk.conform()
        .ended(0)
        .says(&["windows-1252 (proven): 2 words of the dictionary that no other encoding brings out"]);
    // A letter on which the encodings that bring the words out still differ leaves it open.
    let desk = desk.with_bytes("export.csv", &WINDOWS_1252.encode("Id,It\na,Öst Quay\nb,5 ø\n").0);
    desk.run(&["check", "export.csv"]).stops(&["undecided", "ø"]);
}

#[test]
fn lines_in_two_encodings_are_told_apart_when_the_mapping_says_so() {
    let mut bytes = "Id,It\na,Öst\n".as_bytes().to_vec();
    bytes.extend(WINDOWS_1252.encode("b,Château\n").0.iter());
    let desk = Desk::with_field("type = \"text\"", "from = \"It\"", &[]).with_bytes("export.csv", &bytes);
    desk.run(&["check", "export.csv"]).stops(&[
        "contradicted: 1 lines (2) hold letters as UTF-8; 1 lines (3) hold bytes that are not UTF-8",
        "other_lines = …",
    ]);
    let desk = desk.edited("mapping.toml", "[[map]]", "[source]\nother_lines = \"windows-1252\"\n[[map]]");
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\na,Öst\nb,Château\n");
}

#[test]
fn a_byte_that_does_not_fit_is_located() {
    let desk = Desk::with_field("type = \"text\"", "from = \"It\"", &[]);
    // Where the encoding is named, one bad cell does not refuse the whole file.
    let (named, _, _) = SHIFT_JIS.encode("Id,It\na,蜂蜜\n");
    let mut bytes = named.into_owned();
    bytes.extend(b"b,\x81\n");
    let desk = desk.with_bytes("export.csv", &bytes).edited(
        "mapping.toml",
        "[[map]]",
        "[source]\nencoding = \"shift_jis\"\n[[map]]",
    );
    desk.conform().ended(1).says(&["lost a character"]);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\na,蜂蜜\n");
}

#[test]
fn a_mark_that_contradicts_the_mapping_stops_the_run() {
    let desk = Desk::new().with("export.csv", &format!("\u{feff}{CLEAN}")).edited(
        "mapping.toml",
        "[[map]]",
        "[source]\nencoding = \"windows-1252\"\n[[map]]",
    );
    desk.run(&["check", "export.csv", "--evidence"])
        .stops(&["byte order mark of utf-8, but the mapping says windows-1252"]);
}

#[test]
fn a_column_that_is_gone_leaves_no_doubt_about_the_delimiter() {
    let most = three_columns("", "Name;Town;Note\nAnn;Vik;a, b\nBo;Oslo;c, d\n");
    let map = "[[map]]\nfield = \"note\"\nfrom = \"Remark\"\n[[map]]";
    let most = most.edited("mapping.toml", "[[map]]", map).edited(
        "target.toml",
        "[[field]]",
        "[[field]]\nname = \"note\"\ntype = \"text\"\n[[field]]",
    );
    most.run(&["check", "export.csv"]).stops(&["has no column \"Remark\""]).says_nothing_of(&["undecided"]);
}

#[test]
fn delimiters_are_proven_or_asked_for() {
    for (delimiter, name) in [(",", "comma"), (";", "semicolon"), ("\t", "tab"), ("|", "bar")] {
        let desk = Desk::new().with("export.csv", &CLEAN.replace(',', delimiter));
        desk.run(&["check", "export.csv", "--evidence"])
            .ended(0)
            .says(&[&format!("{name} (proven): 1 row of 4 cells, like row 1, with every mapped heading")]);
    }
    let both = Desk::with_field("type = \"text\"", "from = \"It\"", &[])
        .edited("mapping.toml", "[[map]]\nfield = \"id\"\nfrom = \"Id\"\n", "")
        .with("export.csv", "Id;It,It;x,y\na;b,c;d,e\n");
    both.run(&["check", "export.csv"]).stops(&[
        "does not prove which character parts its cells",
        "delimiter: undecided between",
        "1 row of 3 cells, like row 1",
        "delimiter = …",
    ]);
    let odd = Desk::new().with("export.csv", &CLEAN.replace(',', "<>").replace("white", "^^wh<>ite^^"));
    let odd = odd.edited("mapping.toml", "[[map]]", "[source]\ndelimiter = \"<>\"\nquote = \"^^\"\n[[map]]");
    odd.run(&["check", "export.csv", "--evidence"])
        .ended(1)
        .says(&["\"<>\" (as the mapping says)", "\"wh<>ite\""]);
    let declared =
        Desk::new().with("export.csv", &format!("sep=;\r\n{}", CLEAN.replace(',', ";").replace("117", "x")));
    declared
        .run(&["check", "export.csv", "--evidence"])
        .ended(1)
        .says(&["semicolon (proven): the first line declares it", "row: 2 (line 3)"]);
    let escaped = Desk::with_field("type = \"text\"", "from = \"It\"", &[])
        .with("export.csv", "Id,It\na,\"the \\\"blue\\\", one\"\nb,c\n");
    escaped.conform().ended(0);
    assert_eq!(escaped.read("batch/upload/up.csv"), "id,it\na,\"the \"\"blue\"\", one\"\nb,c\n");
    let marked =
        Desk::with_field("type = \"text\"", "from = \"It\"", &[]).with("export.csv", "Id,It\na,two␤lines\n");
    let marked = marked.edited("mapping.toml", "[[map]]", "[source]\nline_break = \"␤\"\n[[map]]");
    marked.conform().ended(0);
    assert_eq!(marked.read("batch/upload/up.csv"), "id,it\na,\"two\nlines\"\n");
}

#[test]
fn headers_are_found_where_the_mapping_says() {
    let above = "Fenmarrow Beekeepers\n\"a \"\"list\"\"\nof visits\"\n";
    let desk = Desk::new().with("export.csv", &format!("{above}{CLEAN}"));
    desk.run(&["check", "export.csv", "--evidence"])
        .ended(0)
        .says(&["row 3 (proven): 4 mapped headings, all there"]);
    let desk = desk.edited("mapping.toml", "[[map]]", "[source]\nheader_row = 2\n[[map]]");
    desk.run(&["check", "export.csv"]).stops(&["row 3 looks like the header: write header_row = 3"]);
    let desk = desk.edited("mapping.toml", "header_row = 2", "header_row = 3");
    desk.run(&["check", "export.csv", "--evidence"]).ended(0).says(&["row 3 (as the mapping says)"]);
    let desk = desk.edited("mapping.toml", "header_row = 3", "header_row = 90");
    desk.run(&["check", "export.csv"]).stops(&["has fewer than 90 rows"]);
    let renamed = Desk::new().with("export.csv", "No,Date,Quen,Honey\n");
    renamed.run(&["check", "export.csv"]).stops(&["no column \"Queen\" (did you mean \"Quen\"?)"]);
    let twice = Desk::new().with("export.csv", "No,Date,Queen,Queen,Honey\n");
    twice
        .run(&["check", "export.csv", "--evidence"])
        .stops(&["has the column \"Queen\" more than once", "write \"Queen (1)\" or \"Queen (2)\""]);
    let first =
        Desk::with_field("type = \"text\"", "from = \"It (2)\"", &[]).with("export.csv", "Id,It,It\na,b,c\n");
    first.conform().ended(0);
    assert_eq!(first.read("batch/upload/up.csv"), "id,it\na,c\n");
    let rows = Desk::with_field("type = \"text\"", "from = \"Honey kg\"", &[]).edited(
        "mapping.toml",
        "[[map]]",
        "[source]\nheader_rows = 2\nheader_row = 1\nclosing = [\"Total\"]\n[[map]]",
    );
    let rows = rows.with("export.csv", "Id,Honey,\n,lb,kg\na,1,2\n,,\nTotal,1\nb,3,4\n");
    rows.conform().ended(0).says(&[
        "4 rows read = 2 accepted + 0 rejected + 0 merged + 2 left out",
        "note: row 5: the row",
        "left out: 1 blank row and 1 row without a record",
    ]);
    assert_eq!(rows.read("batch/upload/up.csv"), "id,it\na,2\nb,4\n");
    let across = Desk::with_field("type = \"text\"", "from = \"It\"", &[]).edited(
        "mapping.toml",
        "[[map]]",
        "[source]\nrecords = \"across\"\n[[map]]",
    );
    let across = across.with("export.csv", "Id,a,b,c\nIt,\"x,y\",z\n");
    across.conform().ended(0);
    assert_eq!(across.read("batch/upload/up.csv"), "id,it\na,\"x,y\"\nb,z\nc,\n");
}

#[test]
fn what_is_no_delimited_file_is_said_plainly() {
    let desk = Desk::new().with("export.csv", "").with_bytes("book.csv", b"PK\x03\x04rest");
    desk.run(&["check", "export.csv"]).stops(&["export.csv: is empty"]);
    desk.run(&["check", "book.csv"]).stops(&["is a damaged workbook"]);
    let desk = desk.with("export.xlsx", CLEAN).with_bytes("picture.csv", &(0..=255).collect::<Vec<u8>>());
    desk.run(&["check", "export.xlsx"]).stops(&["is not a workbook, although its name ends with .xlsx"]);
    desk.run(&["check", "picture.csv"]).stops(&["is not text"]);
    std::fs::create_dir(desk.path("empty")).unwrap();
    desk.run(&["check", "empty"]).stops(&["empty: is a folder without an export in it"]);
    desk.run(&["check", "none.csv"]).stops(&["none.csv: cannot be read: the file or folder does not exist"]);
    desk.run(&["check", "export.csv", "-m", "none.toml"]).stops(&["none.toml: cannot be read"]);
}

#[test]
fn an_unclosed_quote_does_not_swallow_the_rows_after_it() {
    let desk =
        Desk::new().with("export.csv", &format!("{CLEAN}118,\"03/04/2026,white,1\n119,04/04/2026,white,1\n"));
    let ran = desk.run(&["check", "export.csv", "--evidence"]).ended(1);
    ran.says(&["3 rows read = 2 accepted + 1 rejected", "row: 3: opens a quote that is never closed"]);
    let desk = Desk::with_field("type = \"text\"", "from = \"It\"", &[])
        .edited("mapping.toml", "[[map]]", "[source]\nquote = \"\"\n[[map]]")
        .with("export.csv", "Id,It\na,\"5 inch\nb,x\n");
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\na,\"\"\"5 inch\"\nb,x\n");
}

#[test]
fn rows_of_the_wrong_width_are_kept_out_and_never_shift_their_neighbours() {
    let desk = Desk::new().with(
        "export.csv",
        "No,Date,Queen,Honey\n1,03/04/2026,white\n2,03/04/2026,white,1,extra,cells\n\n,,,\n3,03/04/2026,white,1\n",
    );
    desk.conform()
        .ended(1)
        .says(&["5 rows read = 1 accepted + 2 rejected + 0 merged + 2 left out", "2 blank rows"]);
    assert_eq!(desk.read("batch/upload/up-1.csv").lines().nth(1), Some("000003;2026-04-03;W;0.5"));
    let rejects = desk.read("batch/rejects.csv");
    let mut rows = csv::Reader::from_reader(rejects.as_bytes());
    let rows: Vec<csv::StringRecord> = rows.records().map(Result::unwrap).collect();
    assert_eq!(rows[0].iter().skip(5).collect::<Vec<_>>(), ["1", "03/04/2026", "white", "", ""]);
    assert_eq!(rows[1].iter().skip(5).collect::<Vec<_>>(), ["2", "03/04/2026", "white", "1", "extra,cells"]);
}

#[test]
fn rows_are_those_of_the_spreadsheet_and_lines_stand_beside_them() {
    let desk = Desk::with_field("type = \"integer\"", "from = \"It\"", &[])
        .with("export.csv", "Id,It\r\n\"two\r\nlines\",1\r\n\r\n\"a\rb\nc\",x\r\n");
    desk.run(&["check", "export.csv"]).ended(1).says(&["row: 4 (line 5)"]);
    let result = desk.check();
    assert_eq!(
        (&result["causes"][0]["first"]["row"], &result["causes"][0]["first"]["line"]),
        (&4.into(), &5.into())
    );
}

#[test]
fn several_sources_make_one_batch_and_share_their_keys() {
    let desk = Desk::new()
        .with("one.csv", CLEAN)
        .with("two.csv", "Honey;No;Date;Queen;More\n3;290;05/04/2026;blue;x\n4;117;06/04/2026;blue;y\n");
    let ran = desk.run(&["conform", "--all-causes", "one.csv", "two.csv", "-o", "batch"]).ended(1);
    let ran = ran.says(&["3 rows read = 2 accepted + 1 rejected", "row: 3 of two.csv"]);
    ran.says(&["\"000117\" is the key of row 2 of one.csv already"]);
    assert_eq!(desk.read("batch/upload/up-1.csv").lines().count(), 3);
    let rejects = desk.read("batch/rejects.csv");
    assert!(rejects.starts_with("reasons,source,row,line,print,No,Date,Queen,Honey,More,"), "{rejects}");
    assert!(rejects.contains(",117,06/04/2026,blue,4,y,"), "{rejects}");
}

#[test]
fn standard_input_is_a_source() {
    let desk = Desk::new().edited("mapping.toml", "order = \"day-month-year\"\n", "");
    let mut command = desk.command(&["check", "-"]);
    let mut child =
        command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
    child.stdin.take().unwrap().write_all(EXPORT.as_bytes()).unwrap();
    let output = child.wait_with_output().unwrap();
    let out = String::from_utf8(output.stdout).unwrap();
    let ran =
        Ran { status: output.status.code().unwrap(), out, err: String::from_utf8(output.stderr).unwrap() };
    ran.ended(1).says(&["standard input", "day-month-year (proven", "2 rows read = 1 accepted + 1 rejected"]);
}

#[test]
fn a_number_in_doubt_far_behind_the_first_rows_is_proven_by_all_of_them() {
    let mut export = String::from("No,Date,Queen,Honey\n");
    for number in 0..60_000 {
        export.push_str(&format!("{number},03/04/2026,white,4\n"));
    }
    export.push_str("77001,03/04/2026,white,\"1,204\"\n77002,03/04/2026,white,\"1,204.5\"\n");
    let desk = Desk::new().with("export.csv", &export);
    let ran = desk.run(&["check", "export.csv", "--today", "2026-05-01"]).ended(0);
    ran.says(&["60,002 accepted + 0 rejected", "honey_kg decimal point (proven)"]);
    desk.conform().ended(0);
    assert!(
        desk.read("batch/upload/up-1.csv")
            .ends_with("077001;2026-04-03;W;546.1\n077002;2026-04-03;W;546.4\n")
    );
    desk.run(&["explain", "export.csv", "60002", "honey_kg"]).ended(0).says(&["decimal point (proven)"]);
    // Where nothing proves it, the row is rejected as before.
    let desk = desk.edited("export.csv", "\"1,204.5\"", "7");
    desk.run(&["check", "export.csv", "--today", "2026-05-01"])
        .ended(1)
        .says(&["60,001 accepted + 1 rejected"]);
}

#[test]
fn what_a_spreadsheet_program_wrote_otherwise_is_restored_where_nothing_is_lost() {
    for (field, cell, expected) in [
        ("type = \"text\"", "3.10729948816E+11", "310729948816"),
        ("type = \"text\"\ndigits = 13", "3.10729948816E+11", "0310729948816"),
        ("type = \"integer\"", "3.10729948816E+11", "310729948816"),
        ("type = \"text\"", "quee\u{ad}n\u{200d}", "queen"),
        ("type = \"text\"", "می\u{200c}خواهم", "می\u{200c}خواهم"),
    ] {
        let desk = Desk::with_field(field, "from = \"It\"", &[cell]);
        desk.run(&["conform", "export.csv", "-o", "batch"]).ended(0);
        assert_eq!(
            desk.read("batch/upload/up.csv").lines().nth(1),
            Some(format!("r0,{expected}").as_str()),
            "{cell}"
        );
    }
}

/// A desk whose target takes a name, a town and a note.
fn three_columns(source: &str, export: &str) -> Desk {
    Desk::with_field("type = \"text\"", "from = \"Town\"", &[])
        .with("mapping.toml", &format!("target = \"target.toml\"\n[source]\nencoding = \"utf-8\"\n{source}\n[leave_out]\ncolumns = [\"Note\"]\n[[map]]\nfield = \"id\"\nfrom = \"Name\"\n[[map]]\nfield = \"it\"\nfrom = \"Town\"\n"))
        .with("export.csv", export)
}

#[test]
fn a_delimiter_at_the_end_of_every_row_is_an_empty_column_and_no_row_is_moved() {
    let desk = three_columns("", "Name,Town,Note\nAnn,Vik,a,\nBo,Oslo,,\n");
    desk.conform().ended(0).says(&["rows end with a delimiter more than the header has"]);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nAnn,Vik\nBo,Oslo\n");
    // One row without it, and nobody can say which cell is too many.
    let one = three_columns("", "Name,Town,Note\nAnn,Vik,a,\nBo,Oslo,\n");
    one.run(&["check", "export.csv"]).ended(1).says(&["1 rejected"]);
    // Or every name has a comma in it, and the note is blank.
    let split = three_columns("", "Name,Town,Note\nLund, Ann,Vik,\nHolm, Bo,Oslo,\n");
    split.run(&["check", "export.csv"]).ended(1).says(&["0 accepted + 2 rejected"]);
}

#[test]
fn cells_missing_at_the_end_are_blank_where_the_mapping_says_so() {
    let export = "Name,Town,Note\nAnn,Vik,a\nBo,Oslo\nCy\n";
    three_columns("", export)
        .run(&["check", "export.csv", "--evidence"])
        .ended(1)
        .says(&["2 rejected", "missing_cells = \"blank\""]);
    let desk = three_columns("missing_cells = \"blank\"", export);
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nAnn,Vik\nBo,Oslo\nCy,\n");
}

#[test]
fn many_rows_that_are_split_have_to_be_confirmed() {
    let rows = |split: usize| -> String {
        let row = |number: usize| {
            if number < split {
                format!("{number},3 Apr, 2026,x\n")
            } else {
                format!("{number},3 Apr 2026,x\n")
            }
        };
        format!("Name,Day,Note\n{}", (0..60).map(row).collect::<String>())
    };
    let desk = |source: &str, split: usize| {
        let desk =
            three_columns(source, &rows(split)).edited("mapping.toml", "from = \"Town\"", "from = \"Day\"");
        let target = desk.read("target.toml").replacen(
            "name = \"it\"\ntype = \"text\"",
            "name = \"it\"\ntype = \"date\"",
            1,
        );
        desk.with("target.toml", &target)
    };
    desk("", 5).conform().ended(0).says(&["warn: 5 rows"]);
    desk("", 30).conform().ended(1).says(&["30 accepted + 30 rejected", "split_rows = \"rejoin\""]);
    desk("split_rows = \"rejoin\"", 30).conform().ended(0).says(&["warn: 30 rows"]);
}

#[test]
fn what_may_be_one_column_or_several_is_asked() {
    let names = Desk::with_field("type = \"text\"", "from = \"It\"", &[]);
    let look = |text: &str| names.with_again("export.csv", text).run(&["inspect", "export.csv"]);
    look("Name\nLund, Ann\nHolm, Bo\nBerg, Cy\n")
        .says(&["delimiter   undecided between comma and none", "\"none\", if it is one column"]);
    look("Id:Name\n1:Ann\n2:Bo\n3:Cy\n")
        .says(&["delimiter   undecided between none and \":\"", "delimiter = …   # \":\""]);
    look("Time\n12:30:05\n12:31:07\n12:32:09\n")
        .says(&["delimiter   none (proven)", "Nothing needs a decision."]);
    look("Name,Town\nAnn,Vik\nBo,Oslo\n")
        .says(&["header_row = 1"])
        .says_nothing_of(&["Nothing needs a decision."]);
    let one = Desk::with_field("type = \"text\"", "from = \"It\"", &[])
        .with("mapping.toml", "target = \"target.toml\"\n[source]\ndelimiter = \"none\"\n[[map]]\nfield = \"id\"\nfrom = \"Name\"\n")
        .with("export.csv", "Name\nLund, Ann\n");
    one.conform().ended(0).says(&["delimiter   none (as the mapping says)"]);
    assert_eq!(one.read("batch/upload/up.csv"), "id,it\n\"Lund, Ann\",\n");
    for bytes in ["\u{feff}Id\n1\n", "Id,It\n1,2\n"] {
        let wide: Vec<u8> = bytes.chars().flat_map(|c| (c as u32).to_le_bytes()).collect();
        let desk = Desk::with_field("type = \"text\"", "from = \"It\"", &[]).with_bytes("export.csv", &wide);
        desk.run(&["inspect", "export.csv"]).stops(&["is UTF-32"]);
    }
}

#[test]
fn a_source_without_a_header_has_columns_by_number() {
    let desk = Desk::with_field("type = \"text\"", "from = \"3\"", &[])
        .edited("mapping.toml", "from = \"Id\"", "from = \"1\"")
        .edited("mapping.toml", "[[map]]", "[source]\nheader_row = 0\n[[map]]")
        .with("export.csv", "a;x;Vik\nb;y;Oslo\n1;2;3\n");
    desk.conform().ended(0).says(&["header      none (as the mapping says)"]);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\na,Vik\nb,Oslo\n1,3\n");
    desk.run(&["explain", "export.csv", "1"]).ended(0).says(&["Vik"]);
    let missing = desk.edited("mapping.toml", "from = \"3\"", "from = \"Town\"");
    missing.run(&["check", "export.csv"]).stops(&["no column \"Town\"", "\"1\" to \"3\""]);
}
