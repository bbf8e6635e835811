//! A part of a date, a month or a year, where the target takes one.

use jiff::civil::{Date, DateTime, Time};

use super::date::impossible;
use super::{Basis, Trail};
use dusk_evidence::{DateFact, DateWanted, Fault, Missing, NotThere};
use dusk_values::{DatePattern, month_named};

/// A year, or a month of a year.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct PartOfDate {
    year: i16,
    month: Option<i8>,
}

impl PartOfDate {
    /// Reads "2026", "2026-03", "03/2026", "Mar 2026"; nothing for anything else.
    pub(super) fn read(text: &str) -> Option<Self> {
        let year = |text: &str| {
            let digits = text.len() == 4 && text.bytes().all(|byte| byte.is_ascii_digit());
            text.parse().ok().filter(|year| digits && (1_000..=2_999).contains(year))
        };
        if let Some(year) = year(text) {
            return Some(Self { year, month: None });
        }
        let (first, last) = text.split_once(['-', '/', '.', ' '])?;
        let (of_year, of_month) = if year(first).is_some() { (first, last) } else { (last, first) };
        let named = |word: &str| month_named(word.trim_end_matches('.'));
        let number = of_month.parse().ok().filter(|month| of_month.len() <= 2 && (1..=12).contains(month));
        Some(Self { year: year(of_year)?, month: Some(number.or_else(|| named(of_month))?) })
    }

    /// The first and the last day.
    fn days(self) -> Option<(Date, Date)> {
        let first = Date::new(self.year, self.month.unwrap_or(1), 1).ok()?;
        let last = match self.month {
            Some(_) => first.last_of_month(),
            None => first.last_of_year(),
        };
        Some((first, last))
    }
}

/// Writes a part of a date, where the target takes it: a month, or a year.
pub(super) fn conform(
    part: PartOfDate,
    text: &str,
    (month, year): (Option<&DatePattern>, Option<&DatePattern>),
    (not_before, not_after): (Option<Date>, Option<Date>),
    trail: &mut Trail,
    out: &mut String,
) -> Result<(), Fault> {
    let (format, missing) = match part.month {
        Some(_) => (month, Missing::Day),
        None => (year, Missing::Month),
    };
    let format = format.ok_or_else(|| Fault::new(DateFact::NotADate(DateWanted::Whole(missing))))?;
    let (first, last) = part.days().ok_or_else(|| impossible(NotThere::Part))?;
    if let Some(bound) = not_before.filter(|bound| last < *bound) {
        return Err(Fault::new(DateFact::TooEarly { day: None, first: bound }));
    }
    if let Some(bound) = not_after.filter(|bound| first > *bound) {
        return Err(Fault::new(DateFact::TooLate { day: None, last: bound }));
    }
    format.write(DateTime::from_parts(first, Time::midnight()), out);
    if out != text {
        trail.took(out, || Basis::PartOfDate { missing });
    }
    Ok(())
}
