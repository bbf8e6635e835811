//! Values as the target means them: exact numbers, units, civil dates, and how they are written.

mod calendar_names;
mod characters;
mod date_form;
mod date_order;
mod date_pattern;
mod decimal;
mod fixed_form;
mod invisible;
mod look_alikes;
mod nearest;
mod pattern_piece;
mod short;
mod sound;
mod unit;
mod written_date;
mod zone;

pub use calendar_names::month_named;
pub use date_form::{is_in_calendar, patterns_of};
pub use date_order::{DateOrder, shown, shown_day};
pub use look_alikes::{in_latin_letters, looks_like};
pub use nearest::{distance_if_near, nearest};
pub use short::ShortText;
pub use sound::sound_of;
pub use written_date::{WrittenDate, WrittenTime, day_in_order};

use std::cmp::Ordering;

use jiff::civil;

pub use characters::{
    fold, hidden_in, is_curly_quote, is_digits, is_no_break_space, is_odd_space, is_right_to_left,
    named_character,
};
pub use date_pattern::{DatePattern, MONTHS, Moment};
pub use decimal::{Decimal, Inexact, Rounding};
pub use invisible::Invisible;
pub use unit::{Mention, Unit, UnitConversion, UnitError, Wordy};
pub use zone::{NoMoment, Zone};

/// What a field holds, for comparing and for rules.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ValueType {
    /// Text and codes.
    Text,
    /// Whole or decimal numbers.
    Number,
    /// A day.
    Date,
    /// A day and a time.
    DateTime,
    /// A time of day.
    Time,
    /// True or false.
    Boolean,
}

impl ValueType {
    /// What a steward calls it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Text => "text",
            Self::Number => "number",
            Self::Date => "date",
            Self::DateTime => "date with a time",
            Self::Time => "time",
            Self::Boolean => "true or false",
        }
    }
}

/// A conformed value, beside its text, for comparing and for rules.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Value {
    /// Nothing.
    #[default]
    Blank,
    /// Text: the text stands beside it.
    Text,
    /// A number.
    Number(Decimal),
    /// A day.
    Date(civil::Date),
    /// A day and a time.
    DateTime(civil::DateTime),
    /// A time of day.
    Time(civil::Time),
    /// True or false.
    Boolean(bool),
}

impl Value {
    /// The day, of a day with or without a time.
    pub fn day(self) -> Option<civil::Date> {
        match self {
            Self::Date(day) => Some(day),
            Self::DateTime(moment) => Some(moment.date()),
            Self::Blank | Self::Text | Self::Number(_) | Self::Time(_) | Self::Boolean(_) => None,
        }
    }

    /// How two values of the same type compare; nothing for blanks and for differing types.
    /// `texts` are the texts beside the values.
    pub fn compare(self, other: Self, texts: (&str, &str)) -> Option<Ordering> {
        Some(match (self, other) {
            (Self::Text, Self::Text) => texts.0.cmp(texts.1),
            (Self::Number(a), Self::Number(b)) => a.cmp(&b),
            (Self::Date(a), Self::Date(b)) => a.cmp(&b),
            (Self::DateTime(a), Self::DateTime(b)) => a.cmp(&b),
            (Self::Time(a), Self::Time(b)) => a.cmp(&b),
            (Self::Boolean(a), Self::Boolean(b)) => a.cmp(&b),
            _ => return None,
        })
    }
}
