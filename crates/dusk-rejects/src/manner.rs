//! How a spreadsheet program rewrote a column by itself, told by what it did to all of its cells.
//!
//! One cell alone does not tell "8:30" that somebody typed from "08:30" that a program wrote so. Where a column's
//! cells were rewritten in one manner, and none that the manner would rewrite was left alone, it was the program.

use jiff::civil::{Date, DateTime, Time};

use super::typed::{Sameness, kind_of_text, number_made_of, sameness};
use dusk_values::{DatePattern, Moment, ValueType, patterns_of};

/// How many cells that differ are looked at for what a manner may be.
const LOOKED_AT: usize = 6;

/// A way of rewriting cells.
#[derive(Debug, Clone, PartialEq)]
enum Way {
    /// Days, days with times, or times: as the source writes them, and as the program does.
    Moments(DatePattern, DatePattern),
    /// Times of day as parts of a day.
    PartsOfDay(DatePattern),
    /// Numbers, with a comma before the decimals.
    DecimalCommas,
}

/// The ways in which a column was rewritten; several where its cells do not tell them apart.
#[derive(Debug, Clone, Default)]
pub(super) struct Manner {
    ways: Vec<Way>,
}

/// What a cell of a rewritten column says.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Told {
    /// What was there, rewritten.
    Rewritten,
    /// What somebody typed, as the source would write it.
    Typed(String),
    /// Nobody can say: the program wrote it so, and what was typed is not certain.
    Unclear,
    /// It has nothing to do with the manner.
    AsItStands,
}

impl Manner {
    /// The manner of a column whose cells held the first and hold the second.
    pub(super) fn of(cells: &[(&str, &str)]) -> Self {
        let is_different =
            |(before, now): &&(&str, &str)| sameness(before, kind_of_text(now), now) == Sameness::Different;
        let different: Vec<(&str, &str)> = cells.iter().filter(is_different).copied().collect();
        let mut ways: Vec<(Way, usize)> = Vec::new();
        for way in different.iter().take(LOOKED_AT).flat_map(|(before, now)| ways_from(before, now)) {
            if !ways.iter().any(|(known, _)| *known == way) {
                let explained = different.iter().filter(|(before, now)| way.makes(before, now)).count();
                ways.push((way, explained));
            }
        }
        // A program rewrites all that it takes for a date or a number.
        ways.retain(|(way, _)| {
            !cells.iter().any(|(before, now)| {
                before == now && way.rewrites(before).is_some_and(|made| made != *before)
            })
        });
        let best = ways.iter().map(|(_, explained)| *explained).max().unwrap_or(0);
        let enough = best >= 2 && best * 2 >= different.len();
        ways.retain(|(_, explained)| enough && *explained == best);
        Self { ways: ways.into_iter().map(|(way, _)| way).collect() }
    }

    /// What a cell says that held `before` and holds `now`.
    pub(super) fn tell(&self, before: &str, now: &str) -> Told {
        if before == now {
            return Told::AsItStands;
        }
        if self.ways.iter().any(|way| way.makes(before, now)) || is_only_spelt_otherwise(before, now) {
            return Told::Rewritten;
        }
        let readable: Vec<&Way> = self.ways.iter().filter(|way| way.reads(now)).collect();
        if readable.is_empty() {
            return Told::AsItStands;
        }
        let typed: Option<Vec<String>> = readable.iter().map(|way| way.back(now)).collect();
        let mut typed = typed.unwrap_or_default();
        // Of two that differ in their zeros the one with all of them is how the others stand there.
        typed.sort_by_key(|text| std::cmp::Reverse(text.len()));
        match typed.split_first() {
            Some((first, others))
                if others.iter().all(|one| one == first || is_only_spelt_otherwise(one, first)) =>
            {
                if first == before { Told::Rewritten } else { Told::Typed(first.clone()) }
            }
            _ => Told::Unclear,
        }
    }
}

/// Whether a day or a time has the same numbers in the same order, with other zeros, other signs between them, or the last
/// two digits of the same year: it says what it said, whoever wrote it.
fn is_only_spelt_otherwise(before: &str, now: &str) -> bool {
    let numbers = |text: &str| -> Option<Vec<(usize, u32)>> {
        let is_sign = |c: char| matches!(c, '/' | '-' | '.' | ':' | ' ');
        let number = |part: &str| Some((part.len(), part.parse().ok()?));
        let mut numbers: Vec<(usize, u32)> = text.trim().split(is_sign).map(number).collect::<Option<_>>()?;
        // Seconds that are none.
        if text.matches(':').count() == 2 && numbers.last().is_some_and(|(_, last)| *last == 0) {
            numbers.pop();
        }
        Some(numbers)
    };
    let is_moment = |text: &str| {
        [ValueType::Date, ValueType::DateTime, ValueType::Time]
            .into_iter()
            .any(|holds| !patterns_of(text.trim(), holds).is_empty())
    };
    // A number alone is no day, and has no year.
    let same_numbers = numbers(before).zip(numbers(now)).is_some_and(|(was, is)| {
        let is_same = |((was_long, was), (is_long, is)): (&(usize, u32), &(usize, u32)), has_year: bool| {
            was == is || has_year && *was_long == 4 && *is_long == 2 && was % 100 == *is
        };
        was.len() == is.len() && was.iter().zip(&is).all(|pair| is_same(pair, was.len() > 1))
    });
    same_numbers && is_moment(before) && is_moment(now)
}

/// The ways in which one text may have become the other.
fn ways_from(before: &str, now: &str) -> Vec<Way> {
    let mut ways = Vec::new();
    for holds in [ValueType::Date, ValueType::DateTime, ValueType::Time] {
        let by_program = patterns_of(now.trim(), holds);
        for source in patterns_of(before.trim(), holds) {
            let ends = by_program.iter().map(|program| Way::Moments(source.clone(), program.clone()));
            ways.extend(ends.filter(|way| way.makes(before, now)));
            if holds == ValueType::Time {
                ways.extend(Some(Way::PartsOfDay(source)).filter(|way| way.makes(before, now)));
            }
        }
    }
    ways.extend(Some(Way::DecimalCommas).filter(|way| way.makes(before, now)));
    ways
}

impl Way {
    /// What the program makes of a text; nothing of one that it leaves alone.
    fn rewrites(&self, before: &str) -> Option<String> {
        match self {
            Self::Moments(source, program) => Some(written(program, written_by(source, before)?)),
            Self::PartsOfDay(source) => {
                let time = written_by(source, before)?.time();
                let seconds =
                    i64::from(time.hour()) * 3_600 + i64::from(time.minute()) * 60 + i64::from(time.second());
                Some(part_of_day(seconds))
            }
            Self::DecimalCommas => {
                let plain = number_made_of(before).filter(|_| before.contains('.'))?;
                Some(plain.replace('.', ","))
            }
        }
    }

    fn makes(&self, before: &str, now: &str) -> bool {
        match (self, self.rewrites(before)) {
            (_, None) => false,
            // How many digits a program keeps is its own affair.
            (Self::PartsOfDay(_), Some(made)) => {
                now.len() >= 6 && made.starts_with(now.trim_end_matches('0').get(..6).unwrap_or(now))
            }
            (_, Some(made)) => made == now.trim() && made != before.trim(),
        }
    }

    /// Whether a text is as the program writes such values.
    fn reads(&self, now: &str) -> bool {
        match self {
            Self::Moments(_, program) => written_by(program, now).is_some(),
            Self::PartsOfDay(_) => now.trim().starts_with("0."),
            Self::DecimalCommas => {
                let is_figure = |c: char| c.is_ascii_digit() || matches!(c, ',' | '-');
                now.matches(',').count() == 1 && now.trim().chars().all(is_figure)
            }
        }
    }

    /// What the program wrote, as the source would write it; nothing where that is not certain.
    fn back(&self, now: &str) -> Option<String> {
        match self {
            Self::Moments(source, program) => {
                let read = program.read(now.trim()).filter(|read| !read.two_digits)?;
                Some(written(source, moment(read)?))
            }
            Self::PartsOfDay(_) => None,
            Self::DecimalCommas => Some(now.trim().replace(',', ".")),
        }
    }
}

/// What a pattern found, as a moment of the calendar; years of two digits are those of this century.
fn moment(read: Moment) -> Option<DateTime> {
    let year = match (read.year, read.two_digits) {
        (Some(year), true) => 2000 + year,
        (year, _) => year.unwrap_or(2000),
    };
    let day = Date::new(year, read.month.unwrap_or(1), read.day.unwrap_or(1)).ok()?;
    let time = (read.hour.unwrap_or(0), read.minute.unwrap_or(0), read.second.unwrap_or(0));
    Some(day.to_datetime(Time::new(time.0, time.1, time.2, read.nanosecond).ok()?))
}

/// The moment that a text says which a pattern would write just so.
fn written_by(pattern: &DatePattern, text: &str) -> Option<DateTime> {
    let read = moment(pattern.read(text.trim())?)?;
    (written(pattern, read) == text.trim()).then_some(read)
}

fn written(pattern: &DatePattern, moment: DateTime) -> String {
    let mut text = String::new();
    pattern.write(moment, &mut text);
    text
}

/// A number of seconds as a part of a day, to ten digits.
fn part_of_day(seconds: i64) -> String {
    format!("0.{:010}", seconds * 10_000_000_000 / 86_400).trim_end_matches('0').to_owned()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn told(cells: &[(&str, &str)], before: &str, now: &str) -> Told {
        Manner::of(cells).tell(before, now)
    }

    #[test]
    fn a_column_that_was_rewritten_in_one_manner_was_rewritten_by_the_program() {
        for (cells, edited, typed) in [
            (
                &[("08:30", "8:30"), ("09:05", "9:05"), ("12:00", "12:00"), ("late", "late")][..],
                ("07:15", "7:45"),
                "07:45",
            ),
            (&[("08:30", "8:30:00"), ("19:05", "19:05:00")], ("07:15", "7:45:00"), "07:45"),
            (
                &[("04/03/2026", "2026-03-04"), ("25/03/2026", "2026-03-25")],
                ("01/02/2026", "2026-02-03"),
                "03/02/2026",
            ),
            (
                &[("03/04/2026", "3/4/2026"), ("25/04/2026", "25/04/2026"), ("05/06/2026", "5/6/2026")],
                ("07/08/2026", "7/9/2026"),
                "07/09/2026",
            ),
            (
                &[("2026-03-04 08:30", "04.03.2026 08:30"), ("2026-03-25 09:00", "25.03.2026 09:00")],
                ("2026-03-04 08:30", "04.03.2026 09:30"),
                "2026-03-04 09:30",
            ),
            (&[("1.5", "1,5"), ("12.25", "12,25"), ("3", "3")], ("7.5", "8,5"), "8.5"),
        ] {
            for (before, now) in cells.iter().filter(|(before, now)| before != now) {
                assert_eq!(told(cells, before, now), Told::Rewritten, "{before} became {now}");
            }
            let with: Vec<(&str, &str)> = cells.iter().copied().chain([edited]).collect();
            assert_eq!(told(&with, edited.0, edited.1), Told::Typed(typed.to_owned()), "{edited:?}");
        }
    }

    #[test]
    fn what_somebody_typed_is_no_manner() {
        // One cell tells nothing, and cells that were left alone deny it.
        let turned = ("03/04/2026", "4/3/2026");
        assert_eq!(told(&[turned], turned.0, turned.1), Told::AsItStands);
        let left = [turned, ("05/06/2026", "6/5/2026"), ("07/08/2026", "07/08/2026")];
        assert_eq!(told(&left, turned.0, turned.1), Told::AsItStands);
        // What says the same in other digits says the same, also alone.
        assert_eq!(told(&[("08:30", "8:30")], "08:30", "8:30"), Told::Rewritten);
        assert_eq!(told(&[], "03/04/2026 08:30", "3.4.2026 8:30:00"), Told::Rewritten);
        assert_eq!(told(&[], "01/10/2025", "01/10/25"), Told::Rewritten);
        for (before, now) in [("01/10/2025", "01/10/26"), ("1215", "15")] {
            assert_eq!(told(&[], before, now), Told::AsItStands);
        }
        // Of years of two digits nobody can say which century was typed.
        let short = [("04/03/2026", "3/4/26"), ("25/03/2026", "3/25/26")];
        assert_eq!(told(&short, "01/02/2026", "2/3/26"), Told::Unclear);
        assert_eq!(told(&short, "04/03/2026", "soon"), Told::AsItStands);
    }
}
