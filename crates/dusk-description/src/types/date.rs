//! Days, days with a time, and times of day.

use jiff::civil::Date;
use serde_json::{Map, Value as Json};

use super::{Described, FieldType, TextType, TypeWord, between};
use crate::beside::{Beside, Open};
use dusk_files::{At, Settings};
use dusk_values::{DatePattern, ValueType, Zone, shown};

pub(super) static DATE: TypeWord = TypeWord {
    word: "date",
    called: &["date", "calendardate", "day", "d"],
    keys: &["format", "also_formats", "not_before", "not_after", "month_format", "year_format"],
    read: |field, beside| read(field, beside, ValueType::Date, "yyyy-MM-dd"),
};

pub(super) static DATE_TIME: TypeWord = TypeWord {
    word: "datetime",
    called: &["datetime", "dateandtime", "timestamp", "dateplustime", "datetime2"],
    keys: &["format", "also_formats", "not_before", "not_after", "zone"],
    read: |field, beside| read(field, beside, ValueType::DateTime, "yyyy-MM-dd'T'HH:mm:ss"),
};

pub(super) static TIME: TypeWord = TypeWord {
    word: "time",
    called: &["time", "timeofday", "clocktime"],
    keys: &["format", "also_formats"],
    read: |field, beside| read(field, beside, ValueType::Time, "HH:mm:ss"),
};

/// A day, a day and a time, or a time of day.
#[derive(Debug)]
pub struct DateType {
    /// Which of the three.
    pub holds: ValueType,
    /// How it is written.
    pub format: DatePattern,
    /// Other ways of writing it that the target takes as well.
    pub also_formats: Vec<DatePattern>,
    /// The first day allowed.
    pub not_before: Option<Bound>,
    /// The last day allowed.
    pub not_after: Option<Bound>,
    /// The zone of the target's clock, where times are converted to it.
    pub zone: Option<Zone>,
    /// How a month without a day is written, where it is allowed.
    pub month_format: Option<DatePattern>,
    /// How a year alone is written, where it is allowed.
    pub year_format: Option<DatePattern>,
}

/// A day that a date is compared with.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Bound {
    /// The day of the run.
    Today,
    /// A fixed day.
    Day(Date),
}

impl Bound {
    /// The day that is meant when the run's day is `today`.
    pub fn day(self, today: Date) -> Date {
        match self {
            Self::Today => today,
            Self::Day(day) => day,
        }
    }

    fn words(self) -> String {
        match self {
            Self::Today => "the day of the run".to_owned(),
            Self::Day(day) => shown(day),
        }
    }
}

impl Described for DateType {
    fn word(&self) -> &'static str {
        match self.holds {
            ValueType::DateTime => DATE_TIME.word,
            ValueType::Time => TIME.word,
            _ => DATE.word,
        }
    }

    fn value_type(&self) -> ValueType {
        self.holds
    }

    fn format(&self) -> String {
        let parts = [&self.month_format, &self.year_format].into_iter().flatten();
        let formats = std::iter::once(&self.format).chain(&self.also_formats).chain(parts);
        formats.map(DatePattern::text).collect::<Vec<_>>().join(" or ")
    }

    fn values(&self, _: Option<&str>) -> String {
        match (self.not_before.map(Bound::words), self.not_after.map(Bound::words)) {
            (Some(first), None) => format!("{first} or later"),
            (first, last) => between(first, last),
        }
    }

    fn datatype(&self, datatype: &mut Map<String, Json>) {
        datatype.insert("base".into(), self.word().into());
        datatype.insert("format".into(), self.format.text().into());
        // "today" is another day tomorrow, which metadata cannot say.
        for (key, bound) in [("minimum", self.not_before), ("maximum", self.not_after)] {
            if let Some(Bound::Day(day)) = bound {
                datatype.insert(key.into(), day.to_string().into());
            }
        }
    }
}

fn read(field: &mut Settings<'_>, _: &Beside<'_>, holds: ValueType, usual: &str) -> (FieldType, Open) {
    let written = field.text("format").unwrap_or(At { value: usual.to_owned(), line: field.line() });
    let mut also_formats = Vec::new();
    for also in field.texts("also_formats") {
        match pattern(holds, &also.value) {
            Ok(pattern) => also_formats.push(pattern),
            Err(says) => field.problem(also.line, format!("also_formats \"{}\": {says}", also.value), |_| {}),
        }
    }
    let format = pattern(holds, &written.value).or_else(|says| {
        field.problem(written.line, format!("format \"{}\": {says}", written.value), |problem| {
            problem.hint(format!("write a Unicode date pattern, for example \"{usual}\""));
        });
        DatePattern::parse(usual)
    });
    let (not_before, not_after) = read_bounds(field, holds);
    let zone = zone_named(field);
    let month_format = read_part(field, "month_format", "yyyy-MM");
    let year_format = read_part(field, "year_format", "yyyy");
    let kind = match format {
        Ok(format) => FieldType::Date(DateType {
            holds,
            format,
            also_formats,
            not_before,
            not_after,
            zone,
            month_format,
            year_format,
        }),
        Err(_) => FieldType::Text(TextType::default()),
    };
    (kind, Open::default())
}

/// A pattern that writes exactly what the field holds.
fn pattern(holds: ValueType, written: &str) -> Result<DatePattern, String> {
    let pattern = DatePattern::parse(written)?;
    let right = match holds {
        ValueType::Date => pattern.has_date() && !pattern.has_time(),
        ValueType::DateTime => pattern.has_date() && pattern.has_time(),
        _ => !pattern.has_date() && pattern.has_time(),
    };
    if right { Ok(pattern) } else { Err(format!("does not write exactly what a {} holds", holds.word())) }
}

fn read_bounds(field: &mut Settings<'_>, holds: ValueType) -> (Option<Bound>, Option<Bound>) {
    if holds == ValueType::Time {
        return (None, None);
    }
    let (first, last) = (read_bound(field, "not_before"), read_bound(field, "not_after"));
    if let (Some(Bound::Day(first)), Some(Bound::Day(last))) = (first, last)
        && first > last
    {
        let says = format!("not_before {first} is after not_after {last}, so no day is allowed");
        field.problem(field.line(), says, |_| {});
    }
    (first, last)
}

fn read_bound(field: &mut Settings<'_>, key: &'static str) -> Option<Bound> {
    let text = field.text(key)?;
    if text.value == "today" {
        return Some(Bound::Today);
    }
    let day = text.value.parse::<Date>().ok();
    if day.is_none() {
        field.problem(text.line, format!("{key} \"{}\" is not a day", text.value), |problem| {
            problem.hint("write \"today\", or a day as yyyy-MM-dd");
        });
    }
    day.map(Bound::Day)
}

/// How a month without a day, or a year alone, is written.
fn read_part(field: &mut Settings<'_>, key: &'static str, usual: &str) -> Option<DatePattern> {
    let written = field.text(key)?;
    let has_month = usual.contains("MM");
    let right = |pattern: &DatePattern| {
        pattern.has_year() && pattern.has_month() == has_month && !pattern.has_day() && !pattern.has_time()
    };
    let pattern = DatePattern::parse(&written.value).ok().filter(right);
    if pattern.is_none() {
        let says = format!("{key} \"{}\" does not write exactly that", written.value);
        field.problem(written.line, says, |problem| {
            problem.hint(format!("write for example {key} = \"{usual}\""))
        });
    }
    pattern
}

/// The `zone` of a field or of what feeds it.
pub fn zone_named(table: &mut Settings<'_>) -> Option<Zone> {
    let name = table.text("zone")?;
    let zone = Zone::named(&name.value);
    if zone.is_none() {
        table.problem(name.line, format!("there is no time zone \"{}\"", name.value), |problem| {
            problem
                .hint("write its name in the IANA database, for example zone = \"Europe/Oslo\" or \"UTC\"");
        });
    }
    zone
}
