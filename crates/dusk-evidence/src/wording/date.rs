//! Words about days and times.

use dusk_values::{DateOrder, ValueType, shown};
use jiff::civil::Date;

use crate::{DateFact, DateWanted, Missing, NotThere, WhyOpen};

pub(super) fn wrong(fact: &DateFact) -> String {
    match fact {
        DateFact::NotADate(wanted) => not_wanted(wanted),
        DateFact::Undecided(why) => format!("could be two different days; {}", why_open(*why)),
        DateFact::OrderNotProven { order, read_as, last } => not_proven(*order, read_as, last.as_deref()),
        DateFact::DayCount => "may be a count of days, as spreadsheet programs keep dates".into(),
        DateFact::Impossible(what) => not_there(*what),
        DateFact::CenturyUndecided => {
            "has a year of two digits, and nothing says which century is meant".into()
        }
        DateFact::CenturyDoubtful { from, decades } => {
            let decades: Vec<String> = decades.iter().map(|first| format!("{first}-{}", first + 9)).collect();
            let last = from + 99;
            format!(
                "has years of two digits, read from {from} to {last}: they are at the edge of these hundred years and leave decades empty ({})",
                decades.join(", ")
            )
        }
        DateFact::TimeOfDay => "has a time of day, and the target takes the day only".into(),
        DateFact::OffsetUnclear(ValueType::DateTime) => {
            "says how far its clock is from UTC, and the target does not say which clock its times are of"
                .into()
        }
        DateFact::OffsetUnclear(_) => {
            "says how far its clock is from UTC, and nothing says which clock's day is meant".into()
        }
        DateFact::ShownTwice { zone } => {
            format!("is a time that the clock of {zone} showed twice, when it was put back")
        }
        DateFact::NeverShown { zone } => {
            format!("is a time that the clock of {zone} never showed, when it was put forward")
        }
        DateFact::TooFar => "is too far in the past or the future".into(),
        DateFact::TooEarly { day: Some(day), .. } => {
            format!("is {}, before the first day allowed", shown(*day))
        }
        DateFact::TooEarly { day: None, .. } => "ends before the first day allowed".into(),
        DateFact::TooLate { day: Some(day), .. } => {
            format!("is {}, after the last day allowed", shown(*day))
        }
        DateFact::TooLate { day: None, .. } => "begins after the last day allowed".into(),
    }
}

fn not_proven(order: DateOrder, read_as: &[(String, Date)], last: Option<&str>) -> String {
    let last = last.map_or_else(String::new, |last| format!(" (the last batch had {last})"));
    let shown: Vec<String> =
        read_as.iter().map(|(value, day)| format!("\"{value}\" is {}", shown(*day))).collect();
    let order = order.word();
    format!(
        "is read as {order}, as the mapping says, and nothing in this file proves it{last}: {}",
        shown.join(", ")
    )
}

fn not_wanted(wanted: &DateWanted) -> String {
    match wanted {
        DateWanted::Certain(holds) => format!("is not a {} that can be read with certainty", holds.word()),
        DateWanted::Pattern(pattern) => format!("is not written as {pattern}"),
        DateWanted::WithTime => "has no time of day".into(),
        DateWanted::Whole(missing) => format!("is {}, which the target does not take", missing.words()),
    }
}

impl Missing {
    /// What a date is that lacks this.
    pub fn words(self) -> &'static str {
        match self {
            Self::Day => "a month without a day",
            Self::Month => "a year alone",
        }
    }
}

fn why_open(why: WhyOpen) -> &'static str {
    match why {
        WhyOpen::MayBeConverted => "it may have been converted like others of this column, or not",
        WhyOpen::NoOrder => "no order is named or proven for it",
        WhyOpen::ColumnUncertain => "nothing is certain of the order of its column",
    }
}

fn not_there(what: NotThere) -> String {
    match what {
        NotThere::Day => "is not a day of the calendar".into(),
        NotThere::DayInAnyOrder => {
            "is not a day of the calendar under any order of day, month and year".into()
        }
        NotThere::DayInOrder(order, other) => {
            let says = format!("is not a day of the calendar when read as {}", order.word());
            match other {
                Some((other, day)) => format!("{says} ({} would make it {})", other.word(), shown(day)),
                None => says,
            }
        }
        NotThere::Time => "names a time that no clock shows".into(),
        NotThere::Part => "is not a time of the calendar".into(),
    }
}

pub(super) fn right(fact: &DateFact) -> String {
    let right = match fact {
        DateFact::NotADate(wanted) => return example(wanted),
        DateFact::OrderNotProven { .. } => "if these are other days, write the other order in the mapping",
        DateFact::Undecided(_) => {
            "say which order it is in: write order, or order_where for its shape or rows, for this field in the mapping"
        }
        DateFact::DayCount => {
            "a date; if it counts days, write day_count = \"1900\" (or \"1904\") for this field in the mapping"
        }
        DateFact::Impossible(NotThere::Time) => "a time from 00:00 to 23:59",
        DateFact::Impossible(_) => "a day that is in the calendar; ask the person who wrote the record",
        DateFact::CenturyUndecided => {
            "write years_from, the first of the hundred years that two digits mean, for this field in the mapping"
        }
        DateFact::CenturyDoubtful { .. } => {
            "if some are of another century, write another first year in years_from for this field in the mapping"
        }
        DateFact::TimeOfDay => {
            "if the time may be lost, write drop_time = true for this field in the mapping"
        }
        DateFact::OffsetUnclear(ValueType::DateTime) => {
            "write for example zone = \"Europe/Oslo\" for this field in target.toml"
        }
        DateFact::OffsetUnclear(_) => {
            "write for example zone = \"Europe/Oslo\" for this field in the mapping, and drop_time = true if the time may be lost"
        }
        DateFact::ShownTwice { .. } | DateFact::NeverShown { .. } | DateFact::TooFar => {
            "a time that is certain; ask the person who wrote the record"
        }
        DateFact::TooEarly { first, .. } => return format!("{} or later", shown(*first)),
        DateFact::TooLate { last, .. } => return format!("{} or earlier", shown(*last)),
    };
    right.to_owned()
}

fn example(wanted: &DateWanted) -> String {
    let example = match wanted {
        DateWanted::Certain(ValueType::Time) => "for example 14:30",
        DateWanted::Certain(ValueType::DateTime) => "for example 2026-03-04 14:30",
        DateWanted::Certain(_) => "for example 2026-03-04 or 4 Mar 2026",
        DateWanted::Pattern(pattern) => return format!("a date written as {pattern}"),
        DateWanted::WithTime => "a day and a time, for example 2026-03-04 14:30",
        DateWanted::Whole(_) => "the whole date",
    };
    example.to_owned()
}
