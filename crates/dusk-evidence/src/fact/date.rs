//! Days and times.

use dusk_values::{DateOrder, ValueType};
use jiff::civil::Date;

use crate::Kind;

/// What a date was to be.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum DateWanted {
    /// Something that can be read with certainty.
    Certain(ValueType),
    /// Written in one pattern (UTS #35).
    Pattern(String),
    /// A time of day as well.
    WithTime,
    /// Not only a part.
    Whole(Missing),
}

/// What a part of a date lacks.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Missing {
    /// It is a month without a day.
    Day,
    /// It is a year alone.
    Month,
}

/// Why there is no such day or time.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NotThere {
    /// The calendar has no such day.
    Day,
    /// The calendar has no such day under any order.
    DayInAnyOrder,
    /// The calendar has no such day under this order; another one may make it a day.
    DayInOrder(DateOrder, Option<(DateOrder, Date)>),
    /// No clock shows this time.
    Time,
    /// It is no month or year of the calendar.
    Part,
}

/// Why nothing says which of two days is meant.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum WhyOpen {
    /// It may have been converted like others of its column, or not.
    MayBeConverted,
    /// No order is named or proven.
    NoOrder,
    /// Nothing is certain of the order of its column.
    ColumnUncertain,
}

/// What was found about a day or a time.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum DateFact {
    /// It is not what was wanted.
    NotADate(DateWanted),
    /// It could be two different days.
    Undecided(WhyOpen),
    /// Nothing in the files proves the order that the mapping names.
    OrderNotProven {
        /// The order.
        order: DateOrder,
        /// The first values, and the days that they are read as.
        read_as: Vec<(String, Date)>,
        /// The order that the dates of the last batch proved.
        last: Option<String>,
    },
    /// It may be a count of days.
    DayCount,
    /// There is no such day or time.
    Impossible(NotThere),
    /// The century of a year of two digits is nowhere said.
    CenturyUndecided,
    /// Years of two digits stand at the edge of the hundred years in which they are read.
    CenturyDoubtful {
        /// The first of the hundred years.
        from: i16,
        /// The decades in which there are years, by their first years.
        decades: Vec<i16>,
    },
    /// The target takes the day only.
    TimeOfDay,
    /// How far its clock is from UTC is written, and no other clock to bring it to is named.
    OffsetUnclear(ValueType),
    /// The clock of a zone showed the time twice.
    ShownTwice {
        /// The zone.
        zone: String,
    },
    /// The clock of a zone never showed the time.
    NeverShown {
        /// The zone.
        zone: String,
    },
    /// The time is too far away for clocks to be compared.
    TooFar,
    /// It is before the first day allowed.
    TooEarly {
        /// The day; nothing for a part of a date.
        day: Option<Date>,
        /// The first one allowed.
        first: Date,
    },
    /// It is after the last day allowed.
    TooLate {
        /// The day; nothing for a part of a date.
        day: Option<Date>,
        /// The last one allowed.
        last: Date,
    },
}

impl DateFact {
    pub(super) fn kind(&self) -> Kind {
        match self {
            Self::NotADate(_) => Kind::NotADate,
            Self::Undecided(_) => Kind::DateUndecided,
            Self::OrderNotProven { .. } => Kind::OrderNotProven,
            Self::DayCount => Kind::DayCount,
            Self::Impossible(_) => Kind::ImpossibleDate,
            Self::CenturyUndecided => Kind::CenturyUndecided,
            Self::CenturyDoubtful { .. } => Kind::CenturyDoubtful,
            Self::TimeOfDay => Kind::TimeOfDay,
            Self::OffsetUnclear(_) => Kind::OffsetUnclear,
            Self::ShownTwice { .. } | Self::NeverShown { .. } | Self::TooFar => Kind::TimeOfChange,
            Self::TooEarly { .. } => Kind::TooEarly,
            Self::TooLate { .. } => Kind::TooLate,
        }
    }
}
