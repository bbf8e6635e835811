//! Columns written in ways of their own: what is offered lets their values in as they were meant, and what is not
//! certain is never taken for something else.

use crate::desk::Desk;
use dusk_core::run::Settle;
use jiff::civil::{Date, Time, date, time};
use proptest::prelude::*;

/// The lines of the mapping that are offered for the column, one set for each choice.
fn offered(desk: &Desk) -> Vec<Vec<String>> {
    let given = desk.given();
    let job = given.job();
    let (_, summary) = job.work_with_open_dates(&|_, _| {}, |ready| ready.check(&|_, _| {})).unwrap();
    let mut offers = Vec::new();
    for cause in &summary.causes {
        let Settle::Mapping { lines, .. } = job.way_to_settle(cause) else { continue };
        let parts = lines.iter().map(|line| line.split_once("   # ").unwrap_or((line, "")));
        let (open, plain): (Vec<_>, Vec<_>) = parts.partition(|(line, _)| line.contains('…'));
        let plain: Vec<String> = plain.into_iter().map(|(line, _)| line.to_owned()).collect();
        let Some((line, choices)) = open.first() else {
            offers.push(plain);
            continue;
        };
        for choice in choices.split("; ").next().unwrap().split(" or ") {
            let chosen = if choice.contains(" = ") {
                choice.replace(" and ", "\n")
            } else {
                line.replace('…', choice)
            };
            offers.push([&plain[..], &[chosen]].concat());
        }
    }
    offers
}

/// What the cells become as they are, and under the offer that lets in the most of them as they were meant.
fn settled(field: &str, cells: &[String], meant: &[String]) -> (Vec<String>, Vec<String>) {
    let cells: Vec<&str> = cells.iter().map(String::as_str).collect();
    let desk = Desk::with_field(field, "", &cells);
    let right = |outcomes: &Vec<String>| outcomes.iter().zip(meant).filter(|(is, meant)| is == meant).count();
    let as_it_is = match desk.batch_of(&desk.given().job()) {
        Ok(_) => Desk::with_field(field, "", &cells).outcomes(cells.len()),
        Err(_) => vec!["!".to_owned(); cells.len()],
    };
    let tried = offered(&Desk::with_field(field, "", &cells)).into_iter().map(|lines| {
        let map: String = lines.iter().map(|line| format!("{line}\n")).collect();
        Desk::with_field(field, &map, &cells).outcomes(cells.len())
    });
    let best = tried.max_by_key(right).unwrap_or_else(|| as_it_is.clone());
    (as_it_is, best)
}

/// A number of cents as somebody writes it.
fn written(cents: u32, (decimal, thousands): (char, &str), (before, behind): (&str, &str)) -> String {
    let whole = (cents / 100).to_string();
    let mut grouped = String::new();
    for (place, digit) in whole.chars().enumerate() {
        if place > 0 && (whole.len() - place).is_multiple_of(3) {
            grouped.push_str(thousands);
        }
        grouped.push(digit);
    }
    format!("{before}{grouped}{decimal}{:02}{behind}", cents % 100)
}

/// As the target writes it.
fn plain(cents: u32) -> String {
    let text = format!("{}.{:02}", cents / 100, cents % 100);
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

const MARKS: [(char, &str); 5] = [(',', "."), ('.', ","), (',', " "), ('.', "'"), (',', "")];
const BESIDE: [(&str, &str); 5] = [("", ""), ("€ ", ""), ("", " kr"), ("GBP ", ""), ("", " Kč")];
const DAYS: [&str; 6] = ["%-d.%-m-%Y", "%d|%m|%Y", "%Y_%b_%d", "%d%m%Y", "%d+%m+%Y", "%B_%-d_%Y"];
const HOURS: [&str; 4] = ["%-Hh%M", "%H%M", "%-I.%M_%p", "at %H:%M"];

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn numbers_in_any_style_come_right_or_are_rejected(
        cents in prop::collection::vec(100_u32..90_000_000, 12..30),
        marks in 0..MARKS.len(),
        beside in 0..BESIDE.len(),
        bracketed in prop::option::of(2..5_usize),
    ) {
        // In some ledgers what is below zero stands in brackets.
        let is_below = |place: usize| bracketed.is_some_and(|each| place.is_multiple_of(each));
        let cell = |(place, cents): (usize, &u32)| {
            let written = written(*cents, MARKS[marks], BESIDE[beside]);
            if is_below(place) { format!("({written})") } else { written }
        };
        let cells: Vec<String> = cents.iter().enumerate().map(cell).collect();
        let sign = |place: usize| if is_below(place) { "-" } else { "" };
        let meant: Vec<String> =
            cents.iter().enumerate().map(|(place, cents)| format!("{}{}", sign(place), plain(*cents))).collect();
        let (as_it_is, best) = settled("type = \"decimal\"\ndecimals = 2", &cells, &meant);
        for (is, meant) in as_it_is.iter().zip(&meant) {
            prop_assert!(is == meant || is.starts_with('!'), "{is} for {meant}: {cells:?}");
        }
        prop_assert_eq!(best, meant, "{:?}", cells);
    }

    #[test]
    fn days_in_any_style_come_right_or_are_rejected(
        days in prop::collection::vec(0_i64..700, 24..40),
        style in 0..DAYS.len(),
    ) {
        // Some days lie behind the twelfth, as in any month.
        let days: Vec<Date> =
            days.iter().map(|days| date(2025, 1, 13).checked_add(jiff::Span::new().days(*days)).unwrap()).collect();
        prop_assume!(days.iter().any(|day| day.day() > 12));
        let cells: Vec<String> = days.iter().map(|day| day.strftime(DAYS[style]).to_string()).collect();
        let meant: Vec<String> = days.iter().map(ToString::to_string).collect();
        let (as_it_is, best) = settled("type = \"date\"", &cells, &meant);
        for (is, meant) in as_it_is.iter().zip(&meant) {
            prop_assert!(is == meant || is.starts_with('!'), "{is} for {meant}: {cells:?}");
        }
        prop_assert_eq!(best, meant, "{:?}", cells);
    }

    #[test]
    fn times_in_any_style_come_right_or_are_rejected(
        minutes in prop::collection::vec(0_i16..1_440, 12..30),
        style in 0..HOURS.len(),
    ) {
        let hours: Vec<Time> = minutes
            .iter()
            .map(|all| time(i8::try_from(all / 60).unwrap(), i8::try_from(all % 60).unwrap(), 0, 0))
            .collect();
        let cells: Vec<String> = hours.iter().map(|hour| hour.strftime(HOURS[style]).to_string()).collect();
        let meant: Vec<String> = hours.iter().map(|hour| hour.strftime("%H:%M:%S").to_string()).collect();
        let (as_it_is, best) = settled("type = \"time\"", &cells, &meant);
        for (is, meant) in as_it_is.iter().zip(&meant) {
            prop_assert!(is == meant || is.starts_with('!'), "{is} for {meant}: {cells:?}");
        }
        prop_assert_eq!(best, meant, "{:?}", cells);
    }

    #[test]
    fn numbers_with_units_of_their_own_are_each_converted_exactly(
        rows in prop::collection::vec((1_u32..100_000, 0..4_usize), 4..30),
    ) {
        // Exact in kilograms with six decimals.
        const UNITS: [(&str, &[&str], u64); 4] =
            [("kg", &["kg", "KGS", "kilograms"], 1_000_000), ("g", &["g", "Gram"], 1_000), ("mg", &["mg"], 1), ("t", &["t", "tonnes"], 1_000_000_000)];
        let export: String = (rows.iter().enumerate())
            .map(|(row, (number, unit))| {
                let words = UNITS[*unit].1;
                format!("r{row},{number},{}\n", words[row % words.len()])
            })
            .collect();
        let desk = Desk::with_field("type = \"decimal\"\ndecimals = 6\nunit = \"kg\"", "unit_in = \"In\"", &[]);
        let desk = desk.with("export.csv", format!("Id,It,In\n{export}"));
        desk.conform();
        let upload = desk.records("batch/upload/up.csv");
        prop_assert_eq!(upload.len(), rows.len());
        for (record, (number, unit)) in upload.iter().zip(&rows) {
            let millionths = u64::from(*number) * UNITS[*unit].2;
            let exact = format!("{}.{:06}", millionths / 1_000_000, millionths % 1_000_000);
            prop_assert_eq!(&record[1], exact.trim_end_matches('0').trim_end_matches('.'));
        }
    }
}
