//! Where the headings of an export are found, and what its columns are called.

use crate::desk::Desk;
use dusk_core::sources::{Known, Source, SourceSettings};

fn opened(text: &str, settings: &SourceSettings, headings: &[&str]) -> Result<(u64, String), String> {
    let desk = Desk::new().with("export.csv", text);
    Source::open(&desk.path("export.csv"), settings, &Known::headings(headings))
        .map(|source| (source.header_row, source.columns.join("|")))
        .map_err(|error| error.to_string())
}

fn at(header_row: Option<u64>, header_rows: u64) -> SourceSettings {
    SourceSettings { delimiter: Some(",".into()), header_row, header_rows, ..SourceSettings::default() }
}

#[test]
fn the_header_is_the_first_row_that_has_every_mapped_heading() {
    for (text, headings, row, columns) in [
        ("No,Date\n1,2\n", &["No", "Date"][..], 1, "No|Date"),
        // Titles, blank lines and a row of units above it.
        ("Fen club\n\nspring,\nNo,Date\n1,2\n", &["No"], 4, "No|Date"),
        ("No,\nNo,Date\n1,2\n", &["No", "Date"], 2, "No|Date"),
        // Case and white space at the ends are those of the file.
        (" No ,Date\n1,2\n", &["No"], 1, "No|Date"),
        ("\u{feff}No,Date\n1,2\n", &["No"], 1, "No|Date"),
        // A heading over two lines, and one with a delimiter in it.
        ("No,\"Honey\nin lb\"\n1,2\n", &["No"], 1, "No|Honey\nin lb"),
        ("No,\"Town, region\"\n1,2\n", &["Town, region"], 1, "No|Town, region"),
    ] {
        let found = opened(text, &at(None, 1), headings).unwrap();
        assert_eq!((found.0, found.1.trim()), (row, columns), "{text:?}");
    }
}

#[test]
fn every_column_has_a_name_of_its_own() {
    for (text, columns) in [
        ("No,Frames,Frames,Frames\n1,2,3,4\n", "No|Frames (1)|Frames (2)|Frames (3)"),
        ("No,,Date,\n1,2,3,4\n", "No|(column B)|Date|(column D)"),
        // A name that is made up never meets one that is there.
        ("No,Frames (1),Frames,Frames\n1,2,3,4\n", ""),
    ] {
        let found = opened(text, &at(None, 1), &["No"]);
        let names: Vec<String> = found.clone().unwrap().1.split('|').map(str::to_owned).collect();
        let mut different = names.clone();
        different.sort();
        different.dedup();
        assert_eq!(different.len(), names.len(), "{names:?}");
        assert!(columns.is_empty() || names.join("|") == columns, "{names:?}");
    }
    let letters = ["No".to_owned()].into_iter().chain((1..30).map(|_| String::new())).collect::<Vec<_>>();
    let cells = (0..30).map(|number| number.to_string()).collect::<Vec<_>>();
    let wide =
        opened(&format!("{}\n{}\n", letters.join(","), cells.join(",")), &at(None, 1), &["No"]).unwrap().1;
    assert!(wide.contains("(column Z)|(column AA)") && wide.ends_with("(column AD)"), "{wide}");
}

#[test]
fn upper_headings_hold_for_the_columns_to_their_right() {
    let text = "No,Honey,,Frames,\n,lb,kg,all,brood\n1,2,3,4,5\n";
    let found = opened(text, &at(Some(1), 2), &["No", "Honey kg", "Frames brood"]).unwrap();
    assert_eq!(found, (1, "No|Honey lb|Honey kg|Frames all|Frames brood".to_owned()));
}

#[test]
fn a_heading_that_is_not_there_is_said_with_those_that_are() {
    let says = opened("No,Date\n1,2\n", &at(None, 1), &["No", "Dat"]).unwrap_err();
    for part in ["has no column \"Dat\"", "did you mean \"Date\"?"] {
        assert!(says.contains(part), "{part}: {says}");
    }
    let says = opened("No,Date\n1,2\n", &at(Some(9), 1), &["No"]).unwrap_err();
    assert!(says.contains('9'), "{says}");
    let twice = opened("No,Date,No\n1,2,3\n", &at(None, 1), &["No"]).unwrap_err();
    assert!(twice.contains("\"No (1)\" or \"No (2)\""), "{twice}");
}
