//! Everything that is refused says what is wrong and what to do about it: whole messages, as people meet them.

use crate::desk::Desk;

const EXPORT: &str = "No,Date,Queen,Honey\n117,03/04/2026,white,10\n290,25/04/2026,yel.,4.5\n1208,31/02/2026,sky,about 20\n1381,26/04/2026,yel.,\n";

/// A desk with a batch, and files that are not what they seem.
fn desk() -> Desk {
    let desk = Desk::new()
        .with("export.csv", EXPORT)
        .with("other.csv", "a,b\n1,2\n")
        .with("empty.csv", "")
        .with("bad.toml", "target = \"target.toml\"\n[[map]]\nfield = \"quen\"\nfrm = \"Queen\"\n")
        .with("book.xlsx", "PK\u{3}\u{4} not really");
    desk.run(&["conform", "export.csv", "-o", "batches/april", "--today", "2026-04-30"]).ended(1);
    desk
}

/// Fails unless each command is refused with just these words.
#[track_caller]
fn refused(desk: &Desk, all: &[(&str, &str)]) {
    for (command, expected) in all {
        let words: Vec<&str> = command.split(' ').collect();
        let ran = desk.run(&words).ended(2);
        assert!(ran.err.trim_end() == expected.trim(), "{command}:\n{}", ran.err);
        assert_eq!(ran.out, "", "{command}");
    }
    // Nothing was recorded on the way.
    assert!(!desk.exists("crosswalks") && !desk.exists("corrections"));
}

#[test]
fn files_that_are_not_there_or_are_something_else() {
    refused(
        &desk(),
        &[
            (
                "check nowhere.csv",
                r#"
dusk: nowhere.csv: cannot be read: the file or folder does not exist
"#,
            ),
            (
                "check export.csv -m nowhere.toml",
                r#"
dusk: nowhere.toml: cannot be read: the file or folder does not exist
"#,
            ),
            (
                "check export.csv -m bad.toml",
                r#"
dusk: bad.toml, line 3: the target has no field "quen"
  did you mean "queen"?
"#,
            ),
            (
                "check other.csv",
                r#"
dusk: other.csv: the header in row 1 has no column "No", nor "Date", nor "Queen", nor "Honey"
  its columns are "a", "b"
"#,
            ),
            (
                "check empty.csv",
                r#"
dusk: empty.csv: is empty
  check that the export was finished
"#,
            ),
            (
                "check book.xlsx",
                r#"
dusk: book.xlsx: is a damaged workbook: it is cut off or overwritten (invalid Zip archive: Could not find EOCD)
  open it in a spreadsheet program, save it again under another name, and use that file
"#,
            ),
            (
                "target check nowhere.toml",
                r#"
dusk: nowhere.toml: cannot be read: the file or folder does not exist
"#,
            ),
            (
                "target draft nowhere.csv",
                r#"
dusk: nowhere.csv: cannot be read: the file or folder does not exist
"#,
            ),
            (
                "crosswalk add --from nowhere.csv",
                r#"
dusk: nowhere.csv: cannot be read: the file or folder does not exist
"#,
            ),
            (
                "correct nowhere.xlsx",
                r#"
dusk: nowhere.xlsx: cannot be read: the file or folder does not exist
"#,
            ),
            (
                "correct book.xlsx",
                r#"
dusk: book.xlsx: is a damaged workbook: it is cut off or overwritten (invalid Zip archive: Could not find EOCD)
  open it in a spreadsheet program, save it again under another name, and use that file
"#,
            ),
            (
                "correct batches/april/rejects.csv --today 2026-04-30 -m nowhere.toml",
                r#"
dusk: nowhere.toml: cannot be read: the file or folder does not exist
"#,
            ),
            (
                "inspect nowhere.csv",
                r#"
dusk: nowhere.csv: cannot be read: the file or folder does not exist
"#,
            ),
        ],
    );
}

#[test]
fn what_cannot_be_asked_for() {
    refused(
        &desk(),
        &[
            (
                "check",
                r#"
error: the following required arguments were not provided:
  <SOURCE>...

Usage: dusk check <SOURCE>...

For more information, try '--help'.
"#,
            ),
            (
                "check export.csv --today 31/04/2026",
                r#"
error: invalid value '31/04/2026' for '--today <DATE>': write a day of the calendar as yyyy-MM-dd, for example 2026-04-30

For more information, try '--help'.
"#,
            ),
            (
                "check export.csv --set who=me",
                r#"
dusk: nothing asks for --set who=…; write who = "a question" under [ask] in mapping.toml
"#,
            ),
            (
                "check export.csv --set who",
                r#"
error: invalid value 'who' for '--set <NAME=VALUE>': write NAME=VALUE, for example loaded_by="A. Clerk"

For more information, try '--help'.
"#,
            ),
            (
                "chek export.csv",
                r#"
error: unrecognized subcommand 'chek'

  tip: a similar subcommand exists: 'check'

Usage: dusk [OPTIONS] <COMMAND>

For more information, try '--help'.
"#,
            ),
            (
                "conform export.csv -o batches/april",
                r#"
dusk: export.csv was in batch april of 30 Apr 2026 already, byte for byte
  to make that batch again add --again; the old one is kept in batches/replaced
"#,
            ),
            (
                "conform export.csv",
                r#"
dusk: export.csv was in batch april of 30 Apr 2026 already, byte for byte
  to make that batch again add --again; the old one is kept in batches/replaced
"#,
            ),
            (
                "conform export.csv --format yaml",
                r#"
error: invalid value 'yaml' for '--format <FORMAT>'
  [possible values: text, json]

For more information, try '--help'.
"#,
            ),
            (
                "explain export.csv 1",
                r#"
dusk: row 1 of export.csv holds the headings; the first record is in row 2
"#,
            ),
            (
                "explain export.csv 99",
                r#"
dusk: export.csv has no row 99; its last one is row 5
"#,
            ),
            (
                "explain export.csv 3 quen",
                r#"
dusk: the target has no field "quen"
  did you mean "queen"?
"#,
            ),
            (
                "trial export.csv --rows 9-5",
                r#"
error: invalid value '9-5' for '--rows <ROWS>': write rows and ranges of rows, for example 17,44-50

For more information, try '--help'.
"#,
            ),
            (
                "trial export.csv --rows 90",
                r#"
dusk: export.csv does not have these rows
"#,
            ),
        ],
    );
}

#[test]
fn decisions_that_cannot_be_made() {
    refused(
        &desk(),
        &[
            (
                "target show quen",
                r#"
dusk: target.toml has no field "quen"; did you mean queen?
"#,
            ),
            (
                "crosswalk add quen yel. Y",
                r#"
dusk: the target has no field "quen"
  did you mean "queen"?
"#,
            ),
            (
                "crosswalk add queen yel. Z",
                r#"
dusk: queen: "Z" is not a code of queen
  known here: W, Y, B
"#,
            ),
            (
                "crosswalk add honey_kg lots much",
                r#"
dusk: honey_kg: "much" is not a number; right would be: digits, with "." before the decimals
"#,
            ),
            (
                "crosswalk add queen yel.",
                r#"
error: the following required arguments were not provided:
  <CODE>

Usage: dusk crosswalk add <FIELD> <VALUE> <CODE>

For more information, try '--help'.
"#,
            ),
            (
                "crosswalk remove queen yel.",
                r#"
dusk: queen: nothing is remembered for "yel."
  dusk crosswalk list queen
"#,
            ),
            (
                "correct export.csv 3 Quen Y",
                r#"
dusk: export.csv has no column "Quen"
  did you mean "Queen"?
"#,
            ),
            (
                "correct export.csv 1 Queen Y",
                r#"
dusk: export.csv has no record in row 1; the first one is in row 2
"#,
            ),
            (
                "correct export.csv 3 Queen",
                r#"
dusk: row 3, Queen holds "yel.": write the corrected value, "" for a blank
"#,
            ),
            (
                "correct export.csv 3 Queen --forget",
                r#"
dusk: row 3, Queen: nothing was corrected there
  dusk correct export.csv lists what was
"#,
            ),
            (
                "correct export.csv 3",
                r#"
error: the following required arguments were not provided:
  <COLUMN|--keep-out>

Usage: dusk correct [OPTIONS] <REJECTS>
       dusk correct [OPTIONS] <SOURCE> [<ROW> <COLUMN> <VALUE>]
       dusk correct [OPTIONS] <SOURCE> <ROW> --keep-out

For more information, try '--help'.
"#,
            ),
            (
                "batches show may",
                r#"
dusk: there is no batch may in batches
  there are april
"#,
            ),
            (
                "review export.csv",
                r#"
dusk: review needs a terminal to draw on
  without one: dusk check export.csv lists the causes with the command that settles each
"#,
            ),
        ],
    );
}

#[test]
fn a_name_that_is_nearly_there_is_suggested() {
    let desk = desk();
    refused(
        &desk,
        &[
            (
                "check expart.csv",
                "dusk: expart.csv: cannot be read: the file or folder does not exist\n  did you mean export.csv?",
            ),
            (
                "correct batches/april/rejcts.csv",
                "dusk: batches/april/rejcts.csv: cannot be read: the file or folder does not exist\n  did you mean batches/april/rejects.csv?",
            ),
        ],
    );
    std::fs::remove_file(desk.path("mapping.toml")).unwrap();
    desk.run(&["check", "export.csv"]).stops(&["dusk map SOURCE -t target.toml writes one"]);
}

#[test]
fn an_offered_line_that_is_still_open_is_no_answer() {
    // Who pastes a line as it was offered would send three points in the place of a value.
    let open = Desk::with_field("type = \"text\"", "from = \"It\"\nif_blank = \"…\"", &["", "oak"]);
    open.run(&["check", "export.csv"]).stops(&[
        "mapping.toml, line 8",
        "if_blank is still open",
        "in the place of \"…\"",
    ]);
}
