//! What an inspection counts is what a plain reckoning over the cells comes to, however the file is cut into
//! blocks.

use std::collections::BTreeMap;

use crate::desk::Desk;
use dusk_core::inspecting::{Inspection, inspect};
use dusk_core::sources::{Known, Source, SourceSettings, Threads};
use proptest::prelude::*;

const HEADER: [&str; 3] = ["Hive", "Frames", "Remarks"];

fn inspected(rows: &[[String; 3]]) -> Inspection {
    let desk = Desk::new().with_table("export.csv", &HEADER, rows);
    let path = desk.path("export.csv");
    let source = Source::look(&path, &SourceSettings::default(), &Known::default()).unwrap();
    assert_eq!(*source.columns, HEADER);
    inspect(&source, None, Threads::default(), &|_, _| {}).unwrap()
}

/// How often each value stands in a column, blank cells left out.
fn counted(rows: &[[String; 3]], column: usize) -> BTreeMap<&str, u64> {
    let mut values = BTreeMap::new();
    for row in rows {
        let value = row[column].trim();
        if !value.is_empty() {
            *values.entry(value).or_default() += 1;
        }
    }
    values
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn columns_are_counted_exactly(
        rows in prop::collection::vec(("[A-D][0-9]", "([0-9]{1,2}| |n/a)", "([a-c ]{0,3}|loud)"), 2..60),
        times in 1..40_usize,
    ) {
        // The same rows over and over reach into further blocks of the file.
        let rows: Vec<[String; 3]> =
            std::iter::repeat_n(&rows, times).flatten().map(|(a, b, c)| [a.clone(), b.clone(), c.clone()]).collect();
        let found = inspected(&rows);
        prop_assert_eq!(found.rows - found.blank_rows, rows.len() as u64);
        for (column, report) in found.columns.iter().enumerate() {
            let values = counted(&rows, column);
            let filled: u64 = values.values().sum();
            prop_assert_eq!((report.filled, report.blank), (filled, rows.len() as u64 - filled), "{}", &report.name);
            prop_assert!(!report.distinct_estimated);
            prop_assert_eq!(report.distinct, values.len() as u64, "{}", &report.name);
            for value in &report.values {
                prop_assert_eq!(Some(&value.count), values.get(value.text.as_str()), "{}", value.text);
                let first = rows.iter().position(|row| row[column].trim() == value.text).unwrap() as u64 + 2;
                prop_assert_eq!(value.row, first, "{}", value.text);
            }
            let shaped: u64 = report.shapes.iter().map(|shape| shape.count).sum();
            prop_assert!(shaped <= filled && (report.shapes.len() >= 5 || shaped == filled), "{:?}", report.shapes);
        }
    }
}

#[test]
fn very_many_values_are_estimated_and_said_to_be() {
    let rows: Vec<[String; 3]> =
        (0..200_000).map(|number| [format!("H{number}"), "7".into(), String::new()]).collect();
    let found = inspected(&rows);
    let [hive, frames, remarks] = found.columns.as_slice() else { panic!("three columns") };
    assert!(hive.distinct_estimated);
    // Within three in a hundred.
    assert!(hive.distinct.abs_diff(200_000) < 6_000, "{}", hive.distinct);
    assert_eq!((frames.distinct, frames.distinct_estimated), (1, false));
    assert_eq!((remarks.filled, remarks.blank), (0, 200_000));
}
