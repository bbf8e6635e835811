//! Whatever feeds a date: no day goes in that was not meant.

use dusk_core::Error;
use jiff::civil::Date;
use proptest::prelude::*;

use crate::desk::Desk;

/// How a column writes its dates.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Written {
    DayFirst,
    MonthFirst,
}

impl Written {
    fn text(self, day: Date) -> String {
        day.strftime(if self == Self::DayFirst { "%d/%m/%Y" } else { "%m/%d/%Y" }).to_string()
    }
}

/// What feeds the field, as the mapping says it.
const FEEDS: [&str; 6] = [
    "from = \"Day\"",
    "join = \"{Day} {Time}\"\ndrop_time = true",
    "first_of = [\"Day\", \"Old\"]",
    "together = [\"Day\", \"Old\"]\nbetween = \"; \"",
    "from = \"Note\"\npart = \"seen {day}, {place}\"\ntake = \"day\"",
    "look_up = { file = \"days.csv\", by = { \"Id\" = \"Hive\" }, take = \"Seen\" }",
];

fn days() -> impl Strategy<Value = Vec<(Date, bool)>> {
    let day = (1..=12_i8, 1..=28_i8, prop::bool::weighted(0.3));
    prop::collection::vec(day, 1..12).prop_map(|days| {
        // Days up to 12 come often, since only they can be taken for other days.
        let day = |(month, day, any): (i8, i8, bool)| if any { (month, day) } else { (month, 1 + day % 12) };
        days.into_iter()
            .map(|parts| (day(parts), parts.1 % 3 == 0))
            .map(|((month, day), old)| (Date::new(2026, month, day).unwrap(), old))
            .collect()
    })
}

fn written() -> impl Strategy<Value = Written> {
    prop_oneof![Just(Written::DayFirst), Just(Written::MonthFirst)]
}

/// A desk whose export holds these days in the columns that the feed names.
fn desk(feed: &str, keys: &str, days: &[(Date, bool)], own: Written, old: Written) -> Desk {
    let of_two = feed.contains("Old");
    let rows = days.iter().enumerate().map(|(number, (day, is_old))| {
        let (own, is_old) = (own.text(*day), *is_old && of_two);
        let filled = |text: &str, filled: bool| if filled { text.to_owned() } else { String::new() };
        vec![
            format!("r{number}"),
            filled(&own, !is_old),
            filled(&old.text(*day), is_old),
            "00:00".into(),
            format!("seen {own}, Öst Quay"),
        ]
    });
    let of_file = days.iter().enumerate().map(|(number, (day, _))| [format!("r{number}"), own.text(*day)]);
    Desk::with_field("type = \"date\"", "", &[])
        .with_table("export.csv", &["Id", "Day", "Old", "Time", "Note"], rows)
        .with_table("days.csv", &["Hive", "Seen"], of_file)
        .with("mapping.toml", mapping(feed, keys))
}

fn mapping(feed: &str, keys: &str) -> String {
    format!(
        "target = \"target.toml\"\n[source]\nencoding = \"utf-8\"\ndelimiter = \",\"\n[[map]]\nfield = \"id\"\nfrom = \"Id\"\n[[map]]\nfield = \"it\"\n{feed}\n{keys}\n"
    )
}

/// The days that went in are those that were meant, or the run asks.
fn nothing_wrong_goes_in(desk: &Desk, days: &[(Date, bool)]) -> Result<bool, TestCaseError> {
    match desk.batch_of(&desk.given().job()) {
        Err(Error::Undecided(_)) => return Ok(false),
        done => done.map_err(|error| TestCaseError::fail(error.to_string()))?,
    };
    for record in desk.records("batch/upload/up.csv") {
        let number: usize = record[0][1..].parse().unwrap();
        prop_assert_eq!(&record[1], &days[number].0.to_string(), "r{}", number);
    }
    Ok(true)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn no_day_goes_in_that_was_not_meant(days in days(), own in written(), old in written(), feed in 0..FEEDS.len()) {
        nothing_wrong_goes_in(&desk(FEEDS[feed], "", &days, own, old), &days)?;
    }

    /// A named order goes against no part of what the values prove: here the last rows.
    #[test]
    fn no_named_order_goes_against_a_part_of_the_dates(mut days in days(), feed in 0..FEEDS.len()) {
        let proof = Date::new(2026, 3, 25).unwrap();
        days.extend([(proof, false), (Date::new(2026, 4, 5).unwrap(), false), (proof, false)]);
        let wrong = desk(FEEDS[feed], "order = \"day-month-year\"", &days, Written::MonthFirst, Written::MonthFirst);
        prop_assert!(!nothing_wrong_goes_in(&wrong, &days)?);
        let right = desk(FEEDS[feed], "order = \"day-month-year\"", &days, Written::DayFirst, Written::DayFirst);
        prop_assert!(nothing_wrong_goes_in(&right, &days)?);
    }
}
