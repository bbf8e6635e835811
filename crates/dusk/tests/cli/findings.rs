//! Every kind of finding: met in the built program, with its message, and with the row kept out.

use dusk_core::evidence::{Kind, Severity};
use rust_xlsxwriter::{ExcelDateTime, Format, Workbook, Worksheet, XlsxError};
use serde_json::Value;

use crate::desk::Desk;

/// How a desk is checked: where batches before it have a say, as the rest of one.
fn words_of(kind: Kind) -> &'static [&'static str] {
    match kind {
        Kind::TargetRefused | Kind::SentUnderOtherKey => &["--rest", "b"],
        _ => &[],
    }
}

/// A desk whose only record was sent and answered.
fn answered(outcome: &str) -> Desk {
    let desk = with_key(mapped(IT, "Id,It\na,x\n"));
    let text = desk.read("target.toml")
        + "[answer]\nline = \"l\"\noutcome = \"o\"\nloaded = \"in\"\nrefused = \"out\"\n";
    let desk = desk.with("target.toml", &text).with("answer.csv", &format!("l,o\n2,{outcome}\n"));
    desk.run(&["conform", "export.csv", "-o", "batches/b"]).ended(0);
    desk.run(&["answer", "b", "answer.csv"]);
    desk
}

/// What is written about a field and its mapping, a value, the finding, and a part of its message.
pub(crate) type Case = (&'static str, &'static str, &'static str, &'static str, &'static str);

const TEXT: &str = "type = \"text\"";
const INTEGER: &str = "type = \"integer\"";
const DATE: &str = "type = \"date\"";
const CODE: &str = "type = \"code\"\ncodes = \"codes/queen.csv\"";
const IT: &str = "from = \"It\"";
const ORDER: &str = "from = \"It\"\norder = \"day-month-year\"";

pub(crate) const CELLS: [Case; 43] = [
    (TEXT, IT, "#REF!", "error-cell", "an error of the spreadsheet program"),
    (TEXT, IT, "#WAARDE!", "error-cell", "an error of the spreadsheet program"),
    (TEXT, IT, "Err:508", "error-cell", "an error of the spreadsheet program"),
    (INTEGER, IT, "#####", "error-cell", "an error of the spreadsheet program"),
    ("type = \"text\"\nrequired = true", IT, "", "required-blank", "must be filled"),
    ("type = \"text\"\nrequired = true", IT, " \u{a0}\t", "required-blank", "must be filled"),
    (TEXT, IT, "caf\u{fffd}", "lost-character", "lost a character"),
    (INTEGER, IT, "ten", "not-a-number", "is not a number"),
    (INTEGER, IT, "12,34,5", "not-a-number", "is not a number"),
    ("type = \"decimal\"\ndecimals = 3", IT, "1,204", "number-undecided", "1204 and as 1.204"),
    (INTEGER, IT, "1.204.5,6", "not-a-number", "is not a number"),
    (INTEGER, IT, "(12)", "number-undecided", "is in brackets"),
    (INTEGER, IT, "12%", "number-undecided", "in percent"),
    (TEXT, IT, "12345678901234500", "digits-lost", "keeps 15"),
    (DATE, ORDER, "46085", "day-count", "count of days"),
    (TEXT, IT, "1.23E+11", "power-of-ten", "digits are lost"),
    (
        DATE,
        "from = \"It\"\norder_where = [{ rows = \"9-10\", order = \"day-month-year\" }]",
        "03/04/2026",
        "date-undecided",
        "two different days",
    ),
    (INTEGER, IT, "12.5", "needs-rounding", "whole numbers only"),
    (
        "type = \"decimal\"\ndecimals = 1\nunit = \"kg\"",
        "from = \"It\"\nunit = \"lb\"",
        "3",
        "needs-rounding",
        "in kg",
    ),
    (
        "type = \"decimal\"\ndecimals = 1\nunit = \"kg\"",
        "from = \"It\"\nunit = \"lb\"",
        "3 kg",
        "unit-differs",
        "is in kg",
    ),
    (INTEGER, IT, "1234567890123456789012345678901", "number-too-long", "more digits"),
    (INTEGER, IT, "1.23E+11", "power-of-ten", "digits are lost"),
    ("type = \"text\"\ndigits = 6", IT, "4.1E+05", "power-of-ten", "digits are lost"),
    ("type = \"text\"\ndigits = 6", IT, "1234567", "wrong-digits", "has 7 digits"),
    ("type = \"text\"\ndigits = 6", IT, "12a", "wrong-digits", "digits only"),
    ("type = \"text\"\nmax_length = 3", IT, "日本語だ", "too-long", "has 4 characters"),
    (
        "type = \"text\"\npattern = \"[A-Z][0-9]\"",
        IT,
        "A1x",
        "wrong-pattern",
        "form that the dictionary demands",
    ),
    ("type = \"integer\"\nmin = 2", IT, "1", "below-minimum", "below the smallest"),
    ("type = \"decimal\"\ndecimals = 2\nmax = \"2.5\"", IT, "2.51", "above-maximum", "above the largest"),
    (DATE, ORDER, "soon", "not-a-date", "read with certainty"),
    (DATE, "from = \"It\"\npattern = \"dd.MM.yyyy\"", "3.4.2026", "not-a-date", "not written as dd.MM.yyyy"),
    (DATE, ORDER, "31/04/2026", "impossible-date", "not a day of the calendar"),
    (DATE, ORDER, "31/04/2026", "impossible-date", "when read as day-month-year"),
    ("type = \"time\"", IT, "24:10", "impossible-date", "no clock shows"),
    (DATE, ORDER, "03/04/26", "century-undecided", "two digits"),
    (DATE, ORDER, "03/04/2026 14:30", "time-of-day", "time of day"),
    ("type = \"date\"\nnot_before = \"2020-01-01\"", ORDER, "31/12/2019", "too-early", "31 Dec 2019"),
    ("type = \"date\"\nnot_after = \"today\"", ORDER, "01/05/2026", "too-late", "is 1 May 2026"),
    ("type = \"boolean\"\nformat = \"1/0\"", IT, "done", "not-a-boolean", "true or false"),
    (CODE, IT, "yel.", "not-a-code", "not a code or label of queen"),
    (CODE, "from = \"It\"\nread_as = \"codes\"", "White", "not-a-code", "not a code of queen"),
    (
        "type = \"codes\"\nseparator = \"|\"\ncodes = \"codes/queen.csv\"",
        "from = \"It\"\nbetween = \";\"",
        "white; pink",
        "not-a-code",
        "has \"pink\"",
    ),
    (
        "type = \"datetime\"",
        "from = \"It\"\norder = \"day-month-year\"",
        "03/04/2026",
        "not-a-date",
        "no time of day",
    ),
];

/// Remarks about a value that goes in all the same.
const REMARKS: [(&str, &str, &str); 6] = [
    ("Ch?teau", "question-mark", "inside a word"),
    ("Ã–st Öst", "decoded-wrongly", "cannot be undone exactly"),
    ("\u{421}alm", "mixed-alphabets", "U+0421 CYRILLIC CAPITAL LETTER ES"),
    ("bell\u{7}", "control-character", "U+0007"),
    ("1234567890123450", "digits-may-be-lost", "ends in 0"),
    ("x\na,b,c,d", "rows-in-cell", "would be a whole row"),
];

#[test]
fn what_is_only_said_keeps_no_record_out() {
    for (value, finding, message) in REMARKS {
        let desk =
            Desk::with_field(TEXT, IT, &[]).with("export.csv", &format!("Id,It,C,D\na,\"{value}\",,\n"));
        let result = desk.check();
        assert_eq!(result["totals"]["accepted"], 1, "{value:?}: {result}");
        let remarks = result["remarks"].as_array().unwrap();
        let remark = remarks
            .iter()
            .find(|remark| remark["finding"] == finding)
            .unwrap_or_else(|| panic!("{value:?}: {result}"));
        assert!(remark["wrong"].as_str().unwrap().contains(message), "{remark}");
        assert_eq!(remark["first"]["row"], 2);
        let ran = desk.run(&["explain", "export.csv", "2"]).ended(0);
        ran.says(&["accepted", "warn"]);
    }
}

#[test]
fn a_row_that_a_delimiter_split_is_put_together_in_the_only_way_that_fits() {
    let desk = Desk::new()
        .with("export.csv", "No,Date,Queen,Honey\n117,3 Apr, 2026,white,10\nNo,Date,Queen,Honey\n");
    let ran = desk.conform().ended(0);
    ran.says(&[
        "2 rows read = 1 accepted + 0 rejected + 0 merged + 1 left out",
        "warn: row 2: the row had 5 cells",
        "note: row 3: the row repeats the header",
    ]);
    assert_eq!(desk.read("batch/upload/up-1.csv").lines().nth(1), Some("000117;2026-04-03;W;4.5"));
    assert!(desk.read("batch/findings.csv").contains("row-rejoined"));
    desk.run(&["explain", "export.csv", "2", "visit_date"])
        .ended(0)
        .says(&["\"3 Apr, 2026\"", "together again"]);
    desk.run(&["explain", "export.csv", "3"]).ended(0).says(&["left out, because it repeats the header"]);
}

#[test]
fn two_splits_are_put_together_only_if_no_other_two_fit() {
    let desk = Desk::new().with(
        "export.csv",
        "No,Date,Queen,Honey\n117,3 Apr, 2026,white,1,204.5\n118,3, Apr, 2026,white,10\n",
    );
    desk.conform().ended(0).says(&["Date \"3 Apr, 2026\" and Honey \"1,204.5\""]);
    assert!(desk.read("batch/findings.csv").contains("fits: Date \"\"3, Apr, 2026\"\""));
    let days: Vec<String> = desk.read("batch/upload/up-1.csv").lines().skip(1).map(str::to_owned).collect();
    assert_eq!(days, ["000117;2026-04-03;W;546.4", "000118;2026-04-03;W;4.5"]);
    // Among texts any two may have been split.
    let texts = Desk::with_field(TEXT, IT, &[]).with("export.csv", "Id,It\na,b,c,d\n");
    texts.run(&["check", "export.csv"]).ended(1).says(&["it could be put together in 3 ways"]);
}

/// Findings that need more than one field or another layout: an edit of the target's end, of its
/// upload, the mapping's end, the export, the finding, and a part of its message.
const ROWS: [(&str, &str, &str, &str, &str, &str); 11] = [
    ("", "", "", "Id,It\na,\"b\nc,d\n", "unclosed-quote", "never closed"),
    ("", "", "", "Id,It\na\n", "row-too-short", "has 1 cell, and the header has 2"),
    (
        "",
        "",
        "",
        "Id,It\na,b,c\n",
        "row-too-long",
        "has 3 cells, and the header has 2; it could be put together in 2 ways",
    ),
    ("", "", "", "Id,It\n\"a\"x,b\n", "misquoted", "not doubled"),
    ("key = true", "", "", "Id,It\na,x\nb,x\n", "duplicate-key", "is the key of row 2 already"),
    (
        "[[rule]]\nname = \"r\"\nmust = \"it != \\\"x\\\"\"\nsays = \"x is out\"",
        "",
        "",
        "Id,It\na,x\n",
        "rule-broken",
        "x is out",
    ),
    ("", "encoding = \"windows-1252\"", "", "Id,It\na,蜂\n", "cannot-encode", "U+8702"),
    ("", "quoting = \"never\"", "", "Id,It\na,\"x,y\"\n", "cannot-quote", "the delimiter"),
    (
        "[[field]]\nname = \"part\"\ntype = \"code\"\nwithin = \"up\"\ncodes = \"codes/parts.csv\"\n[[field]]\nname = \"up\"\ntype = \"code\"\ncodes = \"codes/queen.csv\"",
        "",
        "[[map]]\nfield = \"up\"\nfrom = \"Id\"\n[[map]]\nfield = \"part\"\nfrom = \"It\"",
        "Id,It\nW,blue part\n",
        "code-outside-parent",
        "not inside W",
    ),
    (
        "[[field]]\nname = \"part\"\ntype = \"code\"\nwithin = \"up\"\ncodes = \"codes/parts.csv\"\n[[field]]\nname = \"up\"\ntype = \"code\"\ncodes = \"codes/queen.csv\"",
        "",
        "[[map]]\nfield = \"up\"\nfrom = \"Id\"\n[[map]]\nfield = \"part\"\nfrom = \"It\"",
        "Id,It\n,blue part\n",
        "code-without-parent",
        "which is blank in this row",
    ),
    (
        "[[field]]\nname = \"up\"\ntype = \"code\"\ncodes = \"codes/odd.csv\"",
        "",
        "[[map]]\nfield = \"up\"\nfrom = \"It\"",
        "Id,It\na,B\nb,old\n",
        "code-undecided",
        "more than one code",
    ),
];

fn row_desk((target, upload, mapping, export, ..): (&str, &str, &str, &str, &str, &str)) -> Desk {
    let field = format!("type = \"text\"\n{target}");
    Desk::with_field(&field, &format!("from = \"It\"\n{mapping}"), &[])
        .edited("target.toml", "[upload]", &format!("[upload]\n{upload}"))
        .with("codes/parts.csv", "code,label,within\n1,White part,W\n1,Blue part,B\n")
        .with("codes/odd.csv", "code,label,until,replaced_by\nB,Blue,,\nK,B,,\nO,Old,2020-01-01,K\n")
        .with("export.csv", export)
}

fn codes(result: &Value) -> Vec<&str> {
    result["causes"].as_array().unwrap().iter().map(|cause| cause["finding"].as_str().unwrap()).collect()
}

#[test]
fn a_cell_that_does_not_fit_is_found_and_its_row_kept_out() {
    for (field, map, value, finding, message) in CELLS {
        let result = Desk::with_field(field, map, &[value]).check();
        assert_eq!(codes(&result), [finding], "{value:?} in {field:?} gives {result}");
        assert_eq!(result["totals"]["rejected"], 1, "{value:?} in {field:?}");
        let cause = &result["causes"][0];
        assert!(cause["wrong"].as_str().unwrap().contains(message), "{value:?}: {cause}");
        assert_eq!((&cause["first"]["row"], &cause["about"]), (&2.into(), &"it".into()));
    }
}

#[test]
fn a_row_that_does_not_fit_is_found() {
    for case in ROWS {
        let result = row_desk(case).check();
        let (.., finding, message) = case;
        assert!(codes(&result).contains(&finding), "{finding}: {result}");
        let causes = result["causes"].as_array().unwrap();
        let cause = causes.iter().find(|cause| cause["finding"] == finding).unwrap();
        assert!(cause["wrong"].as_str().unwrap().contains(message), "{cause}");
    }
}

#[test]
fn a_retired_code_names_its_successor_and_is_not_replaced() {
    let result = row_desk(ROWS[10]).check();
    assert!(codes(&result).contains(&"code-retired"), "{result}");
    let retired =
        result["causes"].as_array().unwrap().iter().find(|cause| cause["finding"] == "code-retired").unwrap();
    assert!(retired["wrong"].as_str().unwrap().contains("retired on 1 Jan 2020"), "{retired}");
    assert_eq!(retired["right"], "its successor: K B");
}

#[test]
fn columns_and_fields_that_nobody_speaks_of_are_remarks_and_reject_nothing() {
    let desk = Desk::new()
        .with("export.csv", "No,Date,Queen,Honey,Weather\n117,23/04/2026,white,10,sunny\n")
        .edited("mapping.toml", "[[map]]\nfield = \"queen\"\nfrom = \"Queen\"\n", "");
    let ran = desk.run(&["check", "export.csv"]).ended(0);
    ran.says(&["warn: column \"Queen\"", "warn: column \"Weather\"", "note: queen is fed by nothing"]);
    let desk =
        desk.edited("mapping.toml", "[[map]]", "[leave_out]\ncolumns = [\"Weather\", \"Queen\"]\n[[map]]");
    assert!(!desk.run(&["check", "export.csv"]).ended(0).out.contains("warn:"));
}

const SEVERAL: &str = "type = \"codes\"\ncodes = \"codes/queen.csv\"";

/// A text field with these lines in its mapping and this export.
fn mapped(map: &str, export: &str) -> Desk {
    Desk::with_field(TEXT, map, &[]).with("export.csv", export)
}

/// The same with lines about the source and its rows before the fields.
fn of_rows(rows: &str, export: &str) -> Desk {
    mapped(IT, export).edited("mapping.toml", "[[map]]", &format!("{rows}\n[[map]]"))
}

/// The same where the first field is the key.
fn with_key(desk: Desk) -> Desk {
    desk.edited("target.toml", "name = \"id\"", "name = \"id\"\nkey = true")
}

/// A plain field and a rule.
fn ruled(rule: &str) -> Desk {
    Desk::with_field(&format!("{TEXT}\n[[rule]]\nname = \"r\"\nsays = \"no\"\n{rule}"), IT, &["x", "y"])
}

/// A field that names a file of one folder, which has one small picture.
fn filed(more: &str, cell: &str) -> Desk {
    let field = format!("type = \"file\"\nfolder = \"photos\"\n{more}");
    Desk::with_field(&field, IT, &[cell]).with("photos/a.jpg", "small")
}

/// A field whose values another file says.
fn looked_up(export: &str) -> Desk {
    let map = "look_up = { file = \"towns.csv\", by = { \"It\" = \"No\" }, take = \"Town\" }";
    mapped(map, export).with("towns.csv", "No,Town\n1,Vik\n2,Nes\n2,Bø\n")
}

/// A sheet with some more than cells in it.
fn sheet(make: impl FnOnce(&mut Worksheet) -> Result<(), XlsxError>) -> Desk {
    let mut book = Workbook::new();
    let sheet = book.add_worksheet();
    for (row, cells) in (0..).zip([["Id", "It"], ["a", "x"], ["b", "y"], ["c", "z"]]) {
        sheet.write_row(row, 0, cells).unwrap();
    }
    make(sheet).unwrap();
    mapped(IT, "").with_bytes("export.csv", &book.save_to_buffer().unwrap())
}

/// A desk whose export makes a finding of this kind, and its mapping or target as little else as may be.
fn desk_with(kind: Kind) -> Desk {
    if let Some((field, map, value, ..)) = CELLS.iter().find(|case| case.3 == kind.code()) {
        return Desk::with_field(field, map, &[value]);
    }
    if let Some(case) = ROWS.iter().find(|case| case.4 == kind.code()) {
        return row_desk(*case);
    }
    if let Some((value, ..)) = REMARKS.iter().find(|case| case.1 == kind.code()) {
        return mapped(IT, &format!("Id,It,C,D\na,\"{value}\",,\n"));
    }
    let unmatched = |what: &str| Desk::with_field(&format!("{CODE}\nunmatched = \"{what}\""), IT, &["pink"]);
    match kind {
        Kind::CodeRetired => row_desk(ROWS[10]),
        Kind::TurnedIntoDate => sheet(|sheet| {
            let day = Format::new().set_num_format("yyyy-mm-dd");
            sheet.write_with_format(1, 1, &ExcelDateTime::from_ymd(2026, 3, 5)?, &day).map(|_| ())
        }),
        Kind::BatchRuleBroken => ruled("must = \"number of records = 1\""),
        Kind::BatchRuleNotMet => ruled("must = \"number of records = 1\"\nseverity = \"warn\""),
        Kind::RuleNotMet => ruled("must = \"it = \\\"z\\\"\"\nseverity = \"warn\""),
        Kind::UnknownReference => {
            Desk::with_field("type = \"reference\"\nvalues = \"held.csv\"\ncolumn = \"No\"", IT, &["9"])
                .with("held.csv", "No\n1\n")
        }
        Kind::CenturyDoubtful => Desk::with_field(
            "type = \"date\"",
            "from = \"It\"\norder = \"day-month-year\"\nyears_from = 1950",
            &["25/03/51", "26/04/21"],
        ),
        Kind::OffsetUnclear => Desk::with_field("type = \"date\"", IT, &["2026-03-04T22:30:00Z"]),
        Kind::OrderNotProven => {
            Desk::with_field("type = \"date\"", "from = \"It\"\norder = \"day-month-year\"", &["03/04/2026"])
        }
        Kind::UnitUndecided => {
            Desk::with_field("type = \"decimal\"\ndecimals = 1\nunit = \"kg\"", IT, &["7"])
        }
        Kind::FileMissing => filed("", "b.jpg"),
        Kind::FileEnding => filed("endings = [\"png\"]", "a.jpg"),
        Kind::FileTooLarge => filed("max_bytes = 2", "a.jpg"),
        Kind::FileNotNamed => filed("", "a.jpg").with("photos/b.jpg", "other"),
        Kind::TooManyCodes => {
            let field = format!("{SEVERAL}\nnumbered = \"it_{{n}}\"\nmost = 1");
            Desk::with_field(&field, "from = \"It\"\nbetween = \";\"", &["white;blue"])
        }
        Kind::TimeOfChange => Desk::with_field(
            "type = \"datetime\"\nzone = \"UTC\"",
            "from = \"It\"\norder = \"year-month-day\"\nzone = \"Europe/Oslo\"",
            &["2026-03-29 02:30:00"],
        ),
        Kind::NotInForm => mapped("from = \"It\"\npart = \"{a}, {b}\"\ntake = \"a\"", "Id,It\n1,x\n"),
        Kind::NotLookedUp => looked_up("Id,It\na,7\n"),
        Kind::LookUpUnclear => looked_up("Id,It\na,2\n"),
        Kind::AboveUnknown => mapped("from = \"It\"\nfill_down = true", "Id,It\na,b,c,d\nb,\n"),
        Kind::KeepUndecided => of_rows("[rows]\nkeep = '{Kind} = \"v\"'", "Id,It,Kind\na,b,\n"),
        Kind::NotKept => of_rows("[rows]\nkeep = '{Kind} = \"v\"'", "Id,It,Kind\na,b,w\n"),
        Kind::SetOnce => {
            Desk::with_field(&format!("{TEXT}\nset_once = true"), IT, &["x"]).holding("", "id,it\nr0,y\n")
        }
        Kind::KeyWritten => mapped(IT, "Id,It\na7,x\n").holding("", "id,it\nA 7,x\n"),
        Kind::HeldUnwritable => Desk::with_field(TEXT, IT, &[""])
            .edited("target.toml", "line_end = \"lf\"", "line_end = \"lf\"\nencoding = \"windows-1252\"")
            .holding("", "id,it\nr0,\u{2603}\n"),
        Kind::HeldTwice => mapped(IT, "Id,It\na,x\n").holding("", "id,it\na,x\na,y\n"),
        Kind::HeldAlready => {
            mapped(IT, "Id,It\na,x\n").holding("send = \"new\"\nknown = \"reject\"", "id,it\na,x\n")
        }
        Kind::FoundTwice => mapped(IT, "Id,It\na,x\nA,x\n").holding("", "id,it\na,x\n"),
        Kind::UnknownIdentifier => Desk::with_field(&format!("{TEXT}\ngiven_by_target = true"), IT, &["8"])
            .holding("", "id,it\nr0,9\n"),
        Kind::IdentifierOfAnother => Desk::with_field(&format!("{TEXT}\ngiven_by_target = true"), IT, &["8"])
            .holding("", "id,it\nr0,9\nr1,8\n"),
        Kind::ValueTaken => {
            Desk::with_field(&format!("{TEXT}\nunique = true"), IT, &["x"]).holding("", "id,it\nother,x\n")
        }
        Kind::ValueTwice => Desk::with_field(&format!("{TEXT}\nunique = true"), IT, &["x", "x"]),
        Kind::Contradicted => with_key(of_rows("[rows]\nsame_key = \"combine\"", "Id,It\na,x\na,y\n")),
        Kind::MergedInto => with_key(of_rows("[rows]\nsame_key = \"first\"", "Id,It\na,x\na,y\n")),
        Kind::TableRefuses => {
            let desk = mapped(IT, "Id,It\na,x\n").edited(
                "target.toml",
                "line_end = \"lf\"",
                "format = \"database\"\ndatabase = \"r.db\"\ntable = \"t\"",
            );
            let connection = rusqlite::Connection::open(desk.path("r.db")).unwrap();
            connection.execute_batch("CREATE TABLE t (id TEXT, it TEXT CHECK (it <> 'x'))").unwrap();
            desk
        }
        Kind::TargetRefused => answered("out"),
        Kind::SentUnderOtherKey => {
            let desk = answered("in");
            desk.run(&["correct", "export.csv", "2", "Id", "b"]).ended(0);
            desk
        }
        Kind::KeyWithOtherFacts => with_key(of_rows("[rows]\nsame_key = \"merge\"", "Id,It\na,x\na,y\n")),
        Kind::ColumnNotMapped => mapped(IT, "Id,It,Weather\na,b,c\n"),
        Kind::FieldNotFed => {
            Desk::with_field(&format!("{TEXT}\n[[field]]\nname = \"more\"\n{TEXT}"), IT, &["x"])
        }
        Kind::RowRejoined => {
            Desk::new().with("export.csv", "No,Date,Queen,Honey\n117,3 Apr, 2026,white,10\n")
        }
        Kind::DamagedRecord => mapped(IT, "{\"Id\": \"a\", \"It\": \"b\"}\n{\"Id\": \"a\"\n{}\n"),
        Kind::NoPlaceLeft => mapped("filled = [\"It\", \"More\"]\nnth = 1", "Id,It,More\na,x,y\n"),
        Kind::TooWide => mapped(IT, "Id,It\na,Nordvik\n")
            .edited("target.toml", "line_end", "format = \"fixed-width\"\nline_end")
            .edited("target.toml", "type = \"text\"", "type = \"text\"\nwidth = 4")
            .edited("target.toml", "name = \"it\"", "width = 4\nname = \"it\""),
        Kind::RepeatedHeader => mapped(IT, "Id,It\na,x\nId,It\n"),
        Kind::ClosingLine => of_rows("[source]\nclosing = [\"Total\"]", "Id,It\na,x\nTotal,1\n"),
        Kind::NothingRepeated => of_rows("[repeat]\nnumbers = [\"1-2\"]", "Id,It 1,It 2\na,,\nb,x,\n")
            .edited("mapping.toml", "from = \"It\"", "from = \"It {n}\""),
        Kind::HiddenRows => sheet(|sheet| sheet.set_row_hidden(2).map(|_| ())),
        Kind::MergedCells => sheet(|sheet| sheet.merge_range(2, 1, 3, 1, "y", &Format::new()).map(|_| ())),
        Kind::NewTerm => unmatched("new-term"),
        Kind::LeftBlank => unmatched("blank"),
        Kind::KeptUnmatched => unmatched("keep"),
        Kind::TermAllowed => {
            let desk = unmatched("new-term");
            desk.run(&["crosswalk", "add", "it", "pink", "--new-term"]).ended(0);
            desk
        }
        Kind::DecidedBlank => {
            let desk = mapped(IT, "Id,It\na,x\n");
            desk.run(&["crosswalk", "add", "it", "x", "--leave-blank"]).ended(0);
            desk
        }
        Kind::KeptOut => {
            let desk = mapped(IT, "Id,It\na,x\nb,y\n");
            desk.run(&["correct", "export.csv", "2", "--keep-out", "--note", "tried out"]).ended(0);
            desk
        }
        other => panic!("{} has no test", other.code()),
    }
}

#[test]
fn every_kind_of_finding_is_met_and_keeps_its_record_out_if_it_rejects() {
    for kind in Kind::ALL {
        let result = desk_with(*kind).check_with(words_of(*kind));
        let found = |list: &str| -> Vec<Value> {
            let of_kind = |one: &&Value| one["finding"] == kind.code();
            result[list].as_array().unwrap().iter().filter(of_kind).cloned().collect()
        };
        let (causes, remarks) = (found("causes"), found("remarks"));
        let rejects = kind.severity() == Severity::Reject;
        let met = (!causes.is_empty(), !remarks.is_empty());
        assert_eq!(met, (rejects, !rejects), "{}: {result}", kind.code());
        for one in causes.iter().chain(&remarks) {
            assert!(one["wrong"].as_str().is_some_and(|says| !says.is_empty()), "{one}");
        }
    }
}

#[test]
fn causes_are_counted_largest_first_with_the_command_that_settles_them() {
    let cells = ["pink", "yel.", "yel.", "white", "yel.", "pink"];
    let desk = Desk::with_field(CODE, IT, &cells);
    let ran = desk.run(&["check", "export.csv"]).ended(1).says(&[
        "6 rows read = 1 accepted + 5 rejected + 0 merged + 0 left out",
        "3 cells  it  \"yel.\"  is not a code or label of queen",
        "nearest: Y Yellow",
        "rows: 3, 4, 6",
        "do: dusk crosswalk add it yel. Y",
        "do: dusk crosswalk add it pink CODE",
    ]);
    let at = |text: &str| ran.out.find(text).unwrap();
    assert!(at("\"yel.\"") < at("\"pink\""), "{}", ran.out);
}

#[test]
fn a_part_of_a_cell_is_a_cause_of_its_own() {
    let field = "type = \"codes\"\nseparator = \"|\"\ncodes = \"codes/queen.csv\"";
    let desk =
        Desk::with_field(field, "from = \"It\"\nbetween = \";\"", &["white; pink", "pink; blue", "pink"]);
    let result = desk.check();
    assert_eq!(result["causes"].as_array().unwrap().len(), 1, "{result}");
    assert_eq!((&result["causes"][0]["value"], &result["causes"][0]["count"]), (&"pink".into(), &3.into()));
    assert_eq!(result["causes"][0]["settle"], "dusk crosswalk add it pink CODE");
}

#[test]
fn letters_that_look_alike_and_tabs_inside_a_text_are_named() {
    let code = Desk::with_field(CODE, IT, &["Р"]).with("codes/queen.csv", "code,label\nP,Pale\nK,Dark\n");
    code.run(&["check", "export.csv"]).ended(1).says(&["its \"Р\" is a Cyrillic letter", "nearest: P Pale"]);
    let text = Desk::with_field(TEXT, IT, &["a\tb", "\tedge"]);
    text.conform().ended(0).says(&["warn: row 2: it \"a", "U+0009"]);
}

#[test]
fn keys_and_codes_that_differ_in_joiners_alone_are_the_same() {
    let desk = Desk::with_field(CODE, "from = \"It\"", &[])
        .with("codes/queen.csv", "code,label\nK,\u{645}\u{6cc}\u{200c}\u{62e}\u{648}\n")
        .edited(
            "target.toml",
            "name = \"id\"\ntype = \"text\"",
            "name = \"id\"\ntype = \"text\"\nkey = true",
        );
    let (with, without) = ("\u{645}\u{6cc}\u{200c}\u{62e}\u{648}", "\u{645}\u{6cc}\u{62e}\u{648}");
    let desk = desk.with("export.csv", &format!("Id,It\n{with},{without}\n{without},{with}\n"));
    desk.conform()
        .ended(1)
        .says(&["2 rows read = 1 accepted + 1 rejected", "keys that an earlier row has already"]);
    // What goes in keeps its joiner.
    assert_eq!(desk.read("batch/upload/up.csv"), format!("id,it\n{with},K\n"));
}
