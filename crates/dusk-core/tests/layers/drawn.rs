//! What is drawn of an export is what a plain count over its cells comes to: nothing is drawn twice, and nothing left out.

use crate::desk::Desk;
use dusk_core::inspecting::{SourcePicture, Spread, inspect, picture};
use dusk_core::sources::{Known, Source, SourceSettings, Threads};
use proptest::prelude::*;

fn drawn(text: &str) -> (SourcePicture, Vec<String>) {
    let desk = Desk::new().with("export.csv", text);
    let source =
        Source::look(&desk.path("export.csv"), &SourceSettings::default(), &Known::default()).unwrap();
    let inspection = inspect(&source, None, Threads::default(), &|_, _| {}).unwrap();
    let shown = picture(&source, &inspection, &|_, _| {}).unwrap();
    assert_eq!(shown.columns.len(), inspection.columns.len());
    (shown, source.columns.to_vec())
}

/// How many values a spread shows.
fn spread_over(spread: &Spread) -> u64 {
    match spread {
        Spread::Lengths(lengths) => lengths.values().sum(),
        Spread::Numbers(ranges) => ranges.iter().map(|(_, count)| count).sum(),
        Spread::Months(months) => months.values().sum(),
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn every_cell_is_drawn_once_in_the_band_of_its_row(
        rows in prop::collection::vec(("[A-D][0-9]", "([0-9]{1,3}|)", "(| [a-c]|loud|w\u{a0}ord)", 0..12_u8), 1..260),
    ) {
        let mut text = String::from("Hive,Frames,Remarks\n");
        // Some rows are blank, some too short.
        for (hive, frames, remarks, kind) in &rows {
            match kind {
                0 => text.push_str(",,\n"),
                1 => text.push_str(&format!("{hive}\n")),
                _ => text.push_str(&format!("{hive},{frames},{remarks}\n")),
            }
        }
        text.push_str("Z9,7,end\n");
        let (shown, _) = drawn(&text);
        let records: Vec<_> = rows.iter().filter(|row| row.3 > 1).collect();
        let sum = |count: fn(&dusk_core::inspecting::Band) -> u64| shown.bands.iter().map(count).sum::<u64>();
        prop_assert_eq!(sum(|band| band.records), records.len() as u64 + 1);
        prop_assert_eq!(sum(|band| band.others), (rows.len() - records.len()) as u64);
        // The bands are the rows from the first to the last, one after the other, and as equal as can be.
        prop_assert_eq!(shown.bands.first().map(|band| band.first_row), Some(2));
        prop_assert_eq!(shown.bands.last().map(|band| band.last_row), Some(rows.len() as u64 + 2));
        for pair in shown.bands.windows(2) {
            prop_assert_eq!(pair[0].last_row + 1, pair[1].first_row);
        }
        let sizes: Vec<u64> = shown.bands.iter().map(|band| band.records + band.others).collect();
        let (least, most) = (sizes.iter().min().unwrap(), sizes.iter().max().unwrap());
        prop_assert!(most - least <= 1, "{sizes:?}");
        for (place, column) in shown.columns.iter().enumerate() {
            for (cells, band) in column.bands.iter().zip(&shown.bands) {
                prop_assert_eq!(cells.filled + cells.blank, band.records);
                prop_assert!(cells.damaged <= cells.filled);
            }
            let cell = |row: &&(String, String, String, u8)| match place {
                0 => row.0.clone(),
                1 => row.1.clone(),
                _ => row.2.clone(),
            };
            let filled = records.iter().map(cell).filter(|cell| !cell.trim().is_empty()).count() as u64 + 1;
            prop_assert_eq!(column.bands.iter().map(|cells| cells.filled).sum::<u64>(), filled);
            prop_assert_eq!(spread_over(&column.spread), filled, "{:?}", column.spread);
            let damaged: u64 = column.bands.iter().map(|cells| cells.damaged).sum();
            let odd = |cell: &String| cell.trim() != cell || cell.contains('\u{a0}');
            prop_assert_eq!(damaged, records.iter().map(cell).filter(odd).count() as u64);
        }
    }

    /// Numbers lie in ranges of equal width that begin at the least, with no more decimals than the numbers have.
    #[test]
    fn numbers_lie_in_ranges_of_equal_width(cents in prop::collection::vec(-900_000..900_000_i64, 2..120), whole: bool) {
        let shown = |cents: i64| match whole {
            true => format!("{}", cents / 100),
            false => format!("{}{}.{:02}", if cents < 0 { "-" } else { "" }, cents.abs() / 100, cents.abs() % 100),
        };
        let text: String = cents.iter().fold("Id,Amount\n".to_owned(), |text, one| format!("{text}x,{}\n", shown(*one)));
        let (picture, _) = drawn(&text);
        let Spread::Numbers(ranges) = &picture.columns[1].spread else {
            // Numbers that are all the same have no ranges.
            prop_assert!(cents.iter().all(|one| shown(*one) == shown(cents[0])), "{:?}", picture.columns[1].spread);
            return Ok(());
        };
        let value = |one: i64| if whole { one / 100 * 100 } else { one };
        let least = cents.iter().map(|one| value(*one)).min().unwrap();
        let begins: Vec<i64> = ranges.iter().map(|(begin, _)| begin.millionths() / 10_000).collect();
        prop_assert_eq!(begins[0], least);
        let widths: Vec<i64> = begins.windows(2).map(|pair| pair[1] - pair[0]).collect();
        prop_assert!(widths.windows(2).all(|pair| pair[0] == pair[1]) && ranges.len() <= 24, "{widths:?}");
        prop_assert!(!whole || begins.iter().all(|begin| begin % 100 == 0));
        let width = widths.first().copied().unwrap_or(i64::MAX);
        for (begin, (_, count)) in begins.iter().zip(ranges) {
            let within = cents.iter().filter(|one| (0..width).contains(&(value(**one) - begin))).count();
            prop_assert_eq!(*count, within as u64, "{} of {:?}", begin, ranges);
        }
    }
}

#[test]
fn days_are_counted_by_month_in_the_order_that_is_proven_and_blanks_are_where_they_lie() {
    let mut text = String::from("No,Day,Note\n");
    for row in 0..480 {
        let note = if row < 240 { "" } else { "seen" };
        text.push_str(&format!("{row},{:02}.{:02}.2026,{note}\n", row % 28 + 1, row / 240 + 3));
    }
    let (shown, columns) = drawn(&text);
    assert_eq!(columns[1], "Day");
    let Spread::Months(months) = &shown.columns[1].spread else { panic!("{:?}", shown.columns[1].spread) };
    assert_eq!(
        months.iter().map(|(month, count)| (*month, *count)).collect::<Vec<_>>(),
        [((2026, 3), 240), ((2026, 4), 240)]
    );
    let blank: Vec<u64> = shown.columns[2].bands.iter().map(|cells| cells.blank).collect();
    assert_eq!((blank.len(), &blank[..24], &blank[24..]), (48, &[10; 24][..], &[0; 24][..]));
}

#[test]
fn an_export_without_rows_is_drawn_as_nothing() {
    let (shown, _) = drawn("No,Day\n");
    assert_eq!(shown.bands.iter().map(|band| band.records + band.others).sum::<u64>(), 0);
    assert!(shown.columns.iter().all(|column| spread_over(&column.spread) == 0));
}
