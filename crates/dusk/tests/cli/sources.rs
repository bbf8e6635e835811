//! Reading exports: encodings, delimiters, headers, rows and lines, several files, standard input.

use std::io::Write as _;
use std::process::Stdio;

use encoding_rs::{SHIFT_JIS, UTF_16LE, WINDOWS_1252};

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
        ("utf-8 (every byte fits)", town.into()),
        ("utf-8 (by its byte order mark)", format!("\u{feff}{town}").into_bytes()),
        ("utf-16le (by its byte order mark)", utf_16(town, false)),
        ("utf-16be (by its byte order mark)", utf_16(town, true)),
    ];
    for (says, bytes) in proven {
        let desk = desk().with_bytes("export.csv", &bytes);
        desk.conform().ended(0).says(&[says]);
        assert_eq!(desk.read("batch/upload/up.csv"), expected, "{says}");
    }
    for (label, bytes) in [
        ("windows-1252", WINDOWS_1252.encode(town).0),
        ("utf-16le", town.encode_utf16().flat_map(u16::to_le_bytes).collect::<Vec<u8>>().into()),
    ] {
        let unnamed = desk().with_bytes("export.csv", &bytes);
        unnamed.run(&["check", "export.csv"]).stops(&["export.csv", "encoding = \""]);
        let named =
            unnamed.edited("mapping.toml", "[[map]]", &format!("[source]\nencoding = \"{label}\"\n[[map]]"));
        named.conform().ended(0).says(&[&format!("{label} (as the mapping says)")]);
        assert_eq!(named.read("batch/upload/up.csv"), expected, "{label}");
    }
    assert_eq!(UTF_16LE.name(), "UTF-16LE");
}

#[test]
fn a_byte_that_does_not_fit_is_located() {
    let mut bytes = b"Id,It\na,x\nb,caf".to_vec();
    bytes.extend(b"\xe9\nc,y\n");
    let desk = Desk::with_field("type = \"text\"", "from = \"It\"", &[]).with_bytes("export.csv", &bytes);
    desk.run(&["check", "export.csv"])
        .stops(&["is not UTF-8: line 3 has other bytes after \"b,caf\"", "windows-1252"]);
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
    desk.run(&["check", "export.csv"])
        .stops(&["byte order mark of utf-8, but the mapping says windows-1252"]);
}

#[test]
fn delimiters_are_proven_or_asked_for() {
    for (delimiter, name) in [(",", "comma"), (";", "semicolon"), ("\t", "tab"), ("|", "bar")] {
        let desk = Desk::new().with("export.csv", &CLEAN.replace(',', delimiter));
        desk.run(&["check", "export.csv"]).ended(0).says(&[&format!("{name} (the only one that brings out")]);
    }
    let both = Desk::with_field("type = \"text\"", "from = \"It\"", &[])
        .edited("mapping.toml", "[[map]]\nfield = \"id\"\nfrom = \"Id\"\n", "")
        .with("export.csv", "Id;It,It;x,y\na;b,c;d,e\n");
    both.run(&["check", "export.csv"]).stops(&[
        "does not prove which character parts its cells",
        "comma: 3 columns",
        "delimiter = ",
    ]);
    let odd = Desk::new().with("export.csv", &CLEAN.replace(',', "¦")).edited(
        "mapping.toml",
        "[[map]]",
        "[source]\ndelimiter = \"¦\"\n[[map]]",
    );
    odd.run(&["check", "export.csv"]).ended(0).says(&["\"¦\" (as the mapping says)"]);
}

#[test]
fn headers_are_found_where_the_mapping_says() {
    let above = "Fenmarrow Beekeepers\n\"a \"\"list\"\"\nof visits\"\n";
    let desk = Desk::new().with("export.csv", &format!("{above}{CLEAN}"));
    desk.run(&["check", "export.csv"]).stops(&["row 3 looks like the header: write header_row = 3"]);
    let desk = desk.edited("mapping.toml", "[[map]]", "[source]\nheader_row = 3\n[[map]]");
    desk.run(&["check", "export.csv"]).ended(0).says(&["row 3, 2 rows above it skipped"]);
    let desk = desk.edited("mapping.toml", "header_row = 3", "header_row = 90");
    desk.run(&["check", "export.csv"]).stops(&["has fewer than 90 rows"]);
    let renamed = Desk::new().with("export.csv", "No,Date,Quen,Honey\n");
    renamed.run(&["check", "export.csv"]).stops(&["no column \"Queen\" (did you mean \"Quen\"?)"]);
    let twice = Desk::new().with("export.csv", "No,Date,Queen,Queen,Honey\n");
    twice.run(&["check", "export.csv"]).stops(&["has the column \"Queen\" more than once"]);
}

#[test]
fn what_is_no_delimited_file_is_said_plainly() {
    let desk = Desk::new().with("export.csv", "").with_bytes("book.csv", b"PK\x03\x04rest");
    desk.run(&["check", "export.csv"]).stops(&["export.csv: is empty"]);
    desk.run(&["check", "book.csv"]).stops(&["is a workbook, not delimited text"]);
    desk.run(&["check", "codes"]).stops(&["codes: is a folder"]);
    desk.run(&["check", "none.csv"]).stops(&["none.csv: cannot be read: there is no such file"]);
    desk.run(&["check", "export.csv", "-m", "none.toml"]).stops(&["none.toml: cannot be read"]);
}

#[test]
fn an_unclosed_quote_does_not_swallow_the_rows_after_it() {
    let desk =
        Desk::new().with("export.csv", &format!("{CLEAN}118,\"03/04/2026,white,1\n119,04/04/2026,white,1\n"));
    desk.run(&["check", "export.csv"]).stops(&["row 3 opens a quote that is never closed"]);
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
    assert_eq!(rows[0].iter().skip(4).collect::<Vec<_>>(), ["1", "03/04/2026", "white", "", ""]);
    assert_eq!(rows[1].iter().skip(4).collect::<Vec<_>>(), ["2", "03/04/2026", "white", "1", "extra,cells"]);
}

#[test]
fn rows_are_those_of_the_spreadsheet_and_lines_stand_beside_them() {
    let desk = Desk::with_field("type = \"integer\"", "from = \"It\"", &[])
        .with("export.csv", "Id,It\r\n\"two\r\nlines\",1\r\n\r\n\"a\rb\nc\",x\r\n");
    desk.run(&["check", "export.csv"]).ended(1).says(&["at row 4 (line 5)"]);
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
    let ran = desk.run(&["conform", "one.csv", "two.csv", "-o", "batch"]).ended(1);
    let ran = ran.says(&["3 rows read = 2 accepted + 1 rejected", "at row 3 of two.csv"]);
    ran.says(&["\"000117\" is the key of row 2 of one.csv already"]);
    assert_eq!(desk.read("batch/upload/up-1.csv").lines().count(), 3);
    let rejects = desk.read("batch/rejects.csv");
    assert!(rejects.starts_with("source,row,line,reasons,No,Date,Queen,Honey,More,"), "{rejects}");
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
