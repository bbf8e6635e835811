//! Digits that a spreadsheet program took: what is restored, what is lost, and what has one reading.

use crate::desk::Desk;

/// Identifiers of sixteen digits, of which every `damaged`th has lost its last.
fn identifiers(damaged: usize) -> Vec<String> {
    let one = |number: usize| {
        let last = if number.is_multiple_of(damaged) { 0 } else { 1 + number % 9 };
        format!("4{:014}{last}", 7_919 * number)
    };
    (1..=200).map(one).collect()
}

#[test]
fn more_identifiers_that_end_in_zero_than_chance_makes_are_rejected() {
    let desk = |cells: &[String], key: &str| {
        let cells: Vec<&str> = cells.iter().map(String::as_str).collect();
        Desk::with_field("type = \"text\"", &format!("from = \"It\"\n{key}"), &cells)
    };
    let half = desk(&identifiers(2), "");
    half.run(&["check", "export.csv"])
        .ended(1)
        .says(&["100 accepted + 100 rejected", "rounded_digits = \"keep\""]);
    let ran = half.conform().ended(1);
    ran.says(&["100 accepted + 100 rejected"]);
    assert!(!half.read("batch/upload/up.csv").lines().any(|line| line.ends_with('0')));
    // One in ten ends in zero by itself, which is only said.
    desk(&identifiers(10), "")
        .run(&["check", "export.csv"])
        .ended(0)
        .says(&["200 accepted", "warn: 20 rows"]);
    desk(&identifiers(2), "rounded_digits = \"keep\"").conform().ended(0);
}

#[test]
fn groups_of_three_digits_are_groups_in_a_field_of_whole_numbers() {
    let cells = ["2,418", "907", "1,204"];
    let desk = Desk::with_field("type = \"integer\"", "from = \"It\"", &cells);
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,2418\nr1,907\nr2,1204\n");
    // With decimals, or to be rounded, they may be something else.
    Desk::with_field("type = \"decimal\"\ndecimals = 3", "from = \"It\"", &cells)
        .run(&["check", "export.csv"])
        .ended(1);
    let rounded = "from = \"It\"\nround = \"half-up\"";
    Desk::with_field("type = \"integer\"", rounded, &cells).run(&["check", "export.csv"]).ended(1);
    // 2.418 kg are whole grams.
    let grams = "from = \"It\"\nunit = \"kg\"";
    let desk = Desk::with_field("type = \"integer\"\nunit = \"g\"", grams, &["2.418", "7"]);
    desk.run(&["check", "export.csv"]).ended(1).says(&["could be read as 2.418 and as 2418"]);
    Desk::with_field("type = \"integer\"", "from = \"It\"", &["2,418", "2.418"])
        .run(&["check", "export.csv"])
        .ended(1);
}

#[test]
fn what_a_spreadsheet_program_made_of_codes_dates_and_numbers_kept_text_is_undone() {
    let desk = Desk::with_field(
        "type = \"code\"\ncodes = \"codes.csv\"",
        "from = \"It\"",
        &["5-Aug", "2.00E+04", "20000", "2E4"],
    )
    .with("codes.csv", "code,label\n5/8,Five eighths\n2E4,Second east\n");
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,5/8\nr1,2E4\nr2,2E4\nr3,2E4\n");
    // Both of these may have become it.
    let two = desk.with("codes.csv", "code,label\n5/8,Five eighths\n8/5,Eight fifths\n2E4,Second east\n");
    two.run(&["check", "export.csv"]).ended(1).says(&["5-Aug"]);
    for (field, cell, expected) in [
        ("type = \"text\"", "'00417", "00417"),
        ("type = \"text\"", "'26", "'26"),
        ("type = \"text\"", "'s Gravenmoer", "'s Gravenmoer"),
        ("type = \"date\"", "'25/03/2026", "2026-03-25"),
        ("type = \"integer\"", "'417", "417"),
    ] {
        let desk = Desk::with_field(field, "from = \"It\"", &[cell]);
        desk.conform().ended(0);
        assert_eq!(desk.read("batch/upload/up.csv"), format!("id,it\nr0,{expected}\n"), "{cell}");
    }
}
