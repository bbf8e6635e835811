//! The likely answers for what is wrong, and where they are given. None of them is ever applied unasked.

use crate::desk::Desk;
use dusk_core::evidence::SourceId;
use dusk_core::run::{Likely, Settle};

const CODE: &str = "type = \"code\"\ncodes = \"colours.csv\"";
const WIDE: &str =
    "code,label,also\n1,Horseshoe bat,\n2,Pipistrelle,common bat\n3,Noctule,\n4,Barbastelle,\n5,Serotine,\n";

/// The way to settle the first cause of these cells.
fn way(desk: Desk) -> (Settle, u64) {
    let given = desk.given();
    let job = given.job();
    let summary = job.prepare(&|_, _| {}).unwrap().check(&|_, _| {}).unwrap();
    let cause = summary.causes.first().unwrap();
    (job.way_to_settle(cause), cause.count)
}

/// The likely answers, each with what speaks for it.
fn answers(settle: &Settle) -> Vec<(&str, &str)> {
    let (Settle::Crosswalk { answers, .. } | Settle::Cell { answers, .. }) = settle else {
        panic!("no answer is asked for: {settle:?}")
    };
    answers.iter().map(|Likely { answer, why, .. }| (answer.as_str(), why.as_str())).collect()
}

#[test]
fn codes_are_likely_by_spelling_by_sound_and_by_their_words() {
    for (value, expected) in [
        ("yelow", ("Y", "spelt nearly so")),
        ("light blue", ("B", "a word of it")),
        ("wyte", ("W", "sounds like it")),
        ("old", ("Y", "the successor of the retired code")),
    ] {
        let (settle, _) = way(Desk::with_field(CODE, "", &[value]));
        let Settle::Crosswalk { field, value: asked, .. } = &settle else { panic!("{settle:?}") };
        assert_eq!((field.as_str(), asked.as_str()), ("it", value));
        assert_eq!(answers(&settle).first(), Some(&expected), "{value}");
    }
    // What is only a word of the value is shown, and not filled in: the rest of the value would be lost.
    let whole = |value: &str| {
        let (settle, _) = way(Desk::with_field(CODE, "", &[value]));
        let (Settle::Crosswalk { answers, .. } | Settle::Cell { answers, .. }) = settle else { return None };
        answers.first().map(|likely| likely.is_whole)
    };
    for (value, is_whole) in
        [("yelow", true), ("wyte", true), ("old", true), ("light blue", false), ("not blue", false)]
    {
        assert_eq!(whole(value), Some(is_whole), "{value}");
    }
    assert_eq!(whole("pale"), Some(false), "one of two");
    // Nothing is made up where nothing is near.
    let (settle, _) = way(Desk::with_field(CODE, "", &["ultraviolet"]));
    assert_eq!(answers(&settle), []);
    // Of two that a word could mean, both.
    let (settle, _) = way(Desk::with_field(CODE, "", &["pale"]));
    let why = "one of those that it could mean";
    assert_eq!(answers(&settle), [("W", why), ("B", why)]);
}

#[test]
fn few_answers_are_given_the_likeliest_first() {
    let code = "type = \"code\"\ncodes = \"bats.csv\"";
    for (value, first) in [
        ("pipistrel", "2"),
        ("the horseshoe", "1"),
        ("a bat with a horseshoe", "1"),
        ("Seratine", "5"),
        ("common bats", "2"),
    ] {
        let (settle, _) = way(Desk::with_field(code, "", &[value]).with("bats.csv", WIDE));
        let answers = answers(&settle);
        assert_eq!(answers.first().map(|(answer, _)| *answer), Some(first), "{value}: {answers:?}");
        assert!(answers.len() <= 4, "{answers:?}");
    }
    // A word that several have tells nothing.
    let ferry = "code,label\n1,North Quay\n2,South Quay\n3,Pier\n";
    let (settle, _) = way(Desk::with_field(code, "", &["the old quay"]).with("bats.csv", ferry));
    assert_eq!(answers(&settle), []);
}

#[test]
fn what_a_list_or_a_pattern_nearly_takes_is_suggested() {
    let reference = "type = \"reference\"\nvalues = \"held.csv\"\ncolumn = \"id\"";
    let held = "id\nAB-17\nAC-18\nK-001\n";
    for (value, expected) in [
        ("AC 17", &[("AB-17", "spelt nearly so")][..]),
        ("AB-18", &[("AC-18", "spelt nearly so")]),
        ("K-0011", &[]),
        ("K-002", &[]),
    ] {
        let (settle, _) = way(Desk::with_field(reference, "", &[value]).with("held.csv", held));
        // Another number is another thing, however near it is.
        assert_eq!(answers(&settle), expected, "{value}");
    }
    let pattern = "type = \"text\"\npattern = \"[A-Z]{2}[0-9]+\"";
    for (value, expected) in [
        ("ab12", &[("AB12", "the pattern takes it in capitals")][..]),
        ("AB 12", &[("AB12", "the pattern takes it without spaces")]),
        ("12AB", &[]),
    ] {
        // One cell is mended where it stands; the same value in several rows is one decision.
        for (cells, is_cell) in [(&[value][..], true), (&[value, value], false)] {
            let (settle, count) = way(Desk::with_field(pattern, "", cells));
            assert_eq!(count as usize, cells.len());
            assert_eq!(matches!(settle, Settle::Cell { .. }), is_cell, "{settle:?}");
            assert_eq!(answers(&settle), expected, "{value}");
        }
    }
}

#[test]
fn a_decision_about_a_column_is_a_line_of_the_mapping() {
    let lines = |field: &str, map: &str, cell: &str| match way(Desk::with_field(field, map, &[cell, cell])).0
    {
        Settle::Mapping { field, lines } => (field, lines.join("\n")),
        other => panic!("{cell}: {other:?}"),
    };
    for (field, map, cell, line) in [
        ("type = \"integer\"", "", "2.5", "round = \"half-up\""),
        ("type = \"integer\"", "", "(2)", "brackets = \"negative\""),
        (
            "type = \"decimal\"\ndecimals = 3\nunit = \"%\"",
            "unit = \"%\"\nthousands_mark = \" \"",
            "(1,204)",
            "brackets",
        ),
        ("type = \"date\"", "order = \"day-month-year\"", "3/4/26", "years_from = …   # 1927 or 1900;"),
        ("type = \"date\"", "order = \"day-month-year\"", "3/4/2026 9:30", "drop_time = true"),
        ("type = \"date\"", "order = \"day-month-year\"", "46085", "day_count = …   # \"1900\" or \"1904\";"),
        ("type = \"text\"", "", "98765432109876500", "rounded_digits = \"keep\""),
        ("type = \"text\"\nrequired = true", "", "", "if_blank = \"…\""),
    ] {
        let (about, settle) = lines(field, map, cell);
        assert_eq!(about, "it");
        assert!(settle.starts_with(line), "{cell}: {settle}");
    }
}

#[test]
fn values_beyond_a_limit_are_mended_row_by_row_and_a_single_one_in_its_cell() {
    let integer = "type = \"integer\"\nmax = \"40\"";
    assert_eq!(way(Desk::with_field(integer, "", &["41", "42", "7"])).0, Settle::Rows);
    let Settle::Cell { source, row, column, answers } = way(Desk::with_field(integer, "", &["7", "41"])).0
    else {
        panic!("one cell");
    };
    assert_eq!((source, row.0, column.as_str(), answers.len()), (SourceId::FIRST, 3, "It", 0));
}
