//! Columns of dates that nobody can read with certainty, and columns that only a rule shows to be exchanged: what
//! is said of them, and that nothing is said without cause.

use crate::desk::{Desk, Given};
use dusk_core::Error;
use dusk_core::evidence::Kind;
use dusk_core::run::{Demands, Summary};
use jiff::civil::Date;
use proptest::prelude::*;

fn checked(given: &Given) -> Summary {
    let job = given.job();
    let demands = Demands { leave_open: true, ..Demands::default() };
    let ready = job.prepare_as(&demands, &|_, _| {}).unwrap();
    match ready.check(&|_, _| {}) {
        Err(Error::Undecided(denied)) => {
            let demands = Demands { denied, ..demands };
            job.prepare_as(&demands, &|_, _| {}).unwrap().check(&|_, _| {}).unwrap()
        }
        done => done.unwrap(),
    }
}

/// The days that a date of three numbers may be, by a reckoning of its own.
fn days((one, two, year): (i8, i8, i16)) -> Vec<Date> {
    let mut days: Vec<Date> = [(one, two), (two, one)]
        .into_iter()
        .filter_map(|(day, month)| Date::new(year, month, day).ok())
        .collect();
    days.dedup();
    days
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    /// Where the order is open only those dates are accepted that can be one day alone, and where it is proven
    /// the check with open orders is the check.
    #[test]
    fn no_date_is_read_that_could_be_another_day(
        dates in prop::collection::vec((1..=31_i8, 1..=14_i8, 2024..=2026_i16), 1..12),
        named in any::<bool>(),
    ) {
        let cells: Vec<String> = dates.iter().map(|(one, two, year)| format!("{one:02}/{two:02}/{year}")).collect();
        let texts: Vec<&str> = cells.iter().map(String::as_str).collect();
        let order = if named { "order = \"day-month-year\"" } else { "" };
        let desk = Desk::with_field("type = \"date\"", order, &texts);
        let given = desk.given();
        let summary = checked(&given);
        let job = given.job();
        let strict = job.prepare(&|_, _| {}).and_then(|ready| ready.check(&|_, _| {}));
        match strict {
            Ok(strict) => {
                prop_assert_eq!(strict.totals, summary.totals);
                prop_assert_eq!(strict.causes, summary.causes);
            }
            Err(Error::Undecided(open)) => {
                let certain = dates.iter().filter(|date| days(**date).len() == 1).count() as u64;
                prop_assert_eq!(summary.totals.accepted, certain, "{:?}", cells);
                let cause = summary.causes.iter().find(|cause| cause.kind == Kind::DateUndecided);
                let uncertain = dates.iter().filter(|date| days(**date).len() > 1).count() as u64;
                prop_assert_eq!(cause.map_or(0, |cause| cause.count), uncertain);
                if let Some(cause) = cause {
                    let column = cause.column.as_ref().unwrap();
                    prop_assert!(!column.lines.is_empty() && column.fact.says().contains(open[0].why.words()));
                }
            }
            Err(other) => prop_assert!(false, "{other}"),
        }
    }
}

const TARGET: &str = "[target]\nname = \"T\"\n[upload]\n[[field]]\nname = \"frames\"\ntype = \"integer\"\nmin = \"1\"\n[[field]]\nname = \"brood\"\ntype = \"integer\"\n[[rule]]\nname = \"brood fits\"\nmust = \"brood < frames\"\n";

/// What is said of whole columns, with these cells of frames and brood and these lines of the mapping.
fn said(rows: &[(u32, u32)], frames: &str, brood: &str, rule: &str) -> Vec<String> {
    let cells = rows.iter().map(|(frames, brood)| [frames.to_string(), brood.to_string()]);
    let desk = Desk::new()
        .with("target.toml", TARGET.replace("brood < frames", rule))
        .with("mapping.toml", format!("target = \"target.toml\"\n[source]\ndelimiter = \",\"\n[[map]]\nfield = \"frames\"\n{frames}\n[[map]]\nfield = \"brood\"\n{brood}\n"))
        .with_table("export.csv", &["Frames", "Brood"], cells);
    let summary = checked(&desk.given());
    summary.causes.into_iter().filter_map(|cause| Some(cause.column?.lines.join("; "))).collect()
}

#[test]
fn columns_are_exchanged_only_where_the_exchange_mends_nearly_everything() {
    let (frames, brood) = ("from = \"Frames\"", "from = \"Brood\"");
    let good: Vec<(u32, u32)> = (0..40).map(|number| (8 + number % 5, number % 6)).collect();
    let lines = ["from = \"Frames\"   # for frames; from = \"Brood\"   # for brood".to_owned()];
    let mut exchanged = said(&good, brood, frames, "brood < frames");
    exchanged.iter_mut().for_each(|line| {
        let mut parts: Vec<&str> = line.split("; ").collect();
        parts.sort_unstable_by_key(|part| part.ends_with("brood"));
        *line = parts.join("; ");
    });
    assert_eq!(exchanged, lines);
    // Nothing is wrong.
    assert_eq!(said(&good, frames, brood, "brood < frames"), Vec::<String>::new());
    // Few records say nothing.
    assert_eq!(said(&good[..4], brood, frames, "brood < frames"), Vec::<String>::new());
    // Records that break the rule either way, or that are only some of them.
    let equal: Vec<(u32, u32)> = (1..40).map(|number| (number, number)).collect();
    assert_eq!(said(&equal, frames, brood, "brood < frames"), Vec::<String>::new());
    let mixed: Vec<(u32, u32)> =
        (0..40).map(|number| if number % 3 == 0 { (2, 9) } else { (9, 2) }).collect();
    assert_eq!(said(&mixed, frames, brood, "brood < frames"), Vec::<String>::new());
    // A rule between a field and a number tells nothing about columns, and a constant is none.
    assert_eq!(said(&good, frames, brood, "frames < 3"), Vec::<String>::new());
    assert_eq!(said(&good, "constant = \"1\"", frames, "brood < frames"), Vec::<String>::new());
}
