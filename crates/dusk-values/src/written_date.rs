//! A date as it is written, before anyone decides which of its parts is the day.

use jiff::civil::{Date, Time};

use crate::{DateOrder, MONTHS};

/// The parts of a written date.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum WrittenDate {
    /// Three numbers, each with how many digits it has.
    Numbers([(i16, usize); 3]),
    /// A day, a month by its name, and a year with how many digits it has.
    Named {
        /// The day of the month.
        day: i8,
        /// The month, from 1.
        month: i8,
        /// The year, and how many digits it has.
        year: (i16, usize),
    },
}

/// What follows the date.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum WrittenTime {
    /// Nothing.
    None,
    /// A time of day.
    At(Time),
    /// Something that has the form of a time and is none, as 25:10.
    Impossible,
}

impl WrittenDate {
    /// Reads the everyday forms: three numbers parted alike by `-`, `/`, `.` or a space, or a day,
    /// an English month name and a year; a time of day may follow. Nothing for any other text.
    pub fn read(text: &str) -> Option<(Self, WrittenTime)> {
        let text = text.trim();
        Self::numbers(text).or_else(|| Self::named(text))
    }

    fn numbers(text: &str) -> Option<(Self, WrittenTime)> {
        let (first, rest) = number(text)?;
        let separator = rest.chars().next().filter(|c| matches!(c, '-' | '/' | '.' | ' '))?;
        let (second, rest) = number(after_separator(rest, separator)?)?;
        let (third, rest) = number(after_separator(rest, separator)?)?;
        let widths = [first.1, second.1, third.1];
        if !matches!(widths, [4, 1..=2, 1..=2] | [1..=2, 1..=2, 4 | 2]) {
            return None;
        }
        Some((Self::Numbers([first, second, third]), time(rest)?))
    }

    fn named(text: &str) -> Option<(Self, WrittenTime)> {
        let mut rest = text;
        let mut day = None;
        let mut month = None;
        let mut year = None;
        while year.is_none() {
            rest = rest.trim_start_matches([' ', '-', '/', '.', ',']);
            if rest.starts_with(|c: char| c.is_ascii_digit()) {
                let ((value, width), after) = number(rest)?;
                rest = after;
                if width <= 2 && day.is_none() {
                    day = Some(i8::try_from(value).ok()?);
                    rest = ["st", "nd", "rd", "th"]
                        .iter()
                        .find_map(|end| rest.strip_prefix(end))
                        .unwrap_or(rest);
                } else if width == 4 || width == 2 && month.is_some() {
                    year = Some((value, width));
                } else {
                    return None;
                }
            } else if month.is_none() {
                let word: String = rest.chars().take_while(|c| c.is_alphabetic()).collect();
                month = Some(month_named(&word)?);
                rest = rest.get(word.len()..)?;
            } else {
                return None;
            }
        }
        // "4 2026 Mar" and "2026 4 Mar" are not everyday forms and are not taken for one.
        Some((Self::Named { day: day?, month: month?, year: year? }, time(rest)?))
    }

    /// The day that is meant under an order; nothing when there is no such day. Two-digit years
    /// are counted in the hundred years from `years_from`, which must be given for them.
    pub fn day(self, order: DateOrder, years_from: Option<i16>) -> Option<Date> {
        let (year, month, day) = match self {
            Self::Named { day, month, year } => (year, i16::from(month), i16::from(day)),
            Self::Numbers([a, b, c]) => match self.order_of(order)? {
                DateOrder::DayMonthYear => (c, b.0, a.0),
                DateOrder::MonthDayYear => (c, a.0, b.0),
                DateOrder::YearMonthDay => (a, b.0, c.0),
                DateOrder::YearDayMonth => (a, c.0, b.0),
            },
        };
        let year = match (year, years_from) {
            ((year, 4), _) => year,
            ((year, _), Some(from)) => {
                let year = from - from % 100 + year;
                if year < from { year + 100 } else { year }
            }
            (_, None) => return None,
        };
        Date::new(year, i8::try_from(month).ok()?, i8::try_from(day).ok()?).ok()
    }

    /// The order that `order` comes to here: a year of four digits in front leaves one order only.
    fn order_of(self, order: DateOrder) -> Option<DateOrder> {
        match self {
            Self::Numbers([(_, 4), ..]) if order == DateOrder::YearDayMonth => Some(order),
            Self::Numbers([(_, 4), ..]) => Some(DateOrder::YearMonthDay),
            Self::Numbers([.., (_, 4)])
                if matches!(order, DateOrder::YearMonthDay | DateOrder::YearDayMonth) =>
            {
                None
            }
            _ => Some(order),
        }
    }

    /// True when the form alone says which part is which.
    pub fn is_self_evident(self) -> bool {
        matches!(self, Self::Named { .. } | Self::Numbers([(_, 4), ..]))
    }

    /// True when the year has two digits.
    pub fn has_short_year(self) -> bool {
        match self {
            Self::Named { year, .. } => year.1 == 2,
            Self::Numbers(parts) => parts.iter().all(|(_, width)| *width < 3),
        }
    }
}

/// "4. 3. 2026" has spaces behind its points.
fn after_separator(text: &str, separator: char) -> Option<&str> {
    let rest = text.strip_prefix(separator)?;
    Some(if separator == '.' { rest.trim_start_matches(' ') } else { rest })
}

/// The day that a text means when it is read in an order; years of two digits are those since 1930.
pub fn day_in_order(text: &str, order: DateOrder) -> Option<Date> {
    WrittenDate::read(text)?.0.day(order, Some(1930))
}

/// An English month name in full, its first three letters, or "Sept".
pub fn month_named(word: &str) -> Option<i8> {
    let is_named = |name: &str| {
        word.eq_ignore_ascii_case(name) || name.get(..3).is_some_and(|short| word.eq_ignore_ascii_case(short))
    };
    (1..)
        .zip(MONTHS)
        .find_map(|(month, name)| is_named(name).then_some(month))
        .or_else(|| word.eq_ignore_ascii_case("sept").then_some(9))
}

/// A number of one to four digits at the start of a text, and what follows.
fn number(text: &str) -> Option<((i16, usize), &str)> {
    let mut value = 0;
    let mut width = 0;
    for digit in text.bytes().take_while(u8::is_ascii_digit) {
        width += 1;
        if width > 4 {
            return None;
        }
        value = value * 10 + i16::from(digit - b'0');
    }
    (width > 0).then_some(())?;
    Some(((value, width), text.get(width..)?))
}

/// What follows a date: nothing, or a space or "T" and a time of day. Nothing for anything else.
fn time(text: &str) -> Option<WrittenTime> {
    if text.is_empty() {
        return Some(WrittenTime::None);
    }
    let text = text.strip_prefix('T').or_else(|| text.strip_prefix(' '))?.trim();
    WrittenTime::read(text)
}

impl WrittenTime {
    /// Reads `H:mm`, `H:mm:ss` or `H:mm:ss.SSS`, with or without AM or PM. Nothing for other texts.
    pub fn read(text: &str) -> Option<Self> {
        let ((hour, hour_width), rest) = number(text)?;
        let ((minute, minute_width), mut rest) = number(rest.strip_prefix(':')?)?;
        let (mut second, mut second_width) = (0, 2);
        let mut nanosecond = 0;
        if let Some(after) = rest.strip_prefix(':') {
            ((second, second_width), rest) = number(after)?;
            if let Some(after) = rest.strip_prefix('.') {
                let width = after.bytes().take_while(u8::is_ascii_digit).count();
                let (digits, after) = after.split_at_checked(width)?;
                let power = 9_u32.checked_sub(u32::try_from(width).ok()?)?;
                nanosecond = digits.parse::<i32>().ok()?.checked_mul(10_i32.pow(power))?;
                rest = after;
            }
        }
        if hour_width > 2 || minute_width != 2 || second_width != 2 {
            return None;
        }
        let rest = rest.trim_start_matches(' ');
        let twelve = (1..=12).contains(&hour).then_some(hour % 12);
        let hour = match rest {
            "" => Some(hour),
            _ if rest.eq_ignore_ascii_case("am") => twelve,
            _ if rest.eq_ignore_ascii_case("pm") => twelve.map(|hour| hour + 12),
            _ => return None,
        };
        let small = |value: i16| i8::try_from(value).ok();
        let time =
            hour.and_then(|hour| Time::new(small(hour)?, small(minute)?, small(second)?, nanosecond).ok());
        Some(time.map_or(Self::Impossible, Self::At))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A date in every order that people write, and the time behind it.
    fn read(text: &str) -> Option<String> {
        let (written, time) = WrittenDate::read(text)?;
        let day =
            |order| written.day(order, Some(1970)).map_or_else(|| "-".to_owned(), |day| day.to_string());
        let days = DateOrder::ALL.map(day);
        let all = if days.iter().all(|day| *day == days[0]) { days[0].clone() } else { days.join(" ") };
        Some(match time {
            WrittenTime::None => all,
            WrittenTime::At(time) => format!("{all} at {time}"),
            WrittenTime::Impossible => format!("{all} at no time"),
        })
    }

    #[test]
    fn everyday_forms_are_read_and_others_are_not() {
        for (text, expected) in [
            ("3/4/2026", "2026-04-03 2026-03-04 -"),
            ("03.04.2026", "2026-04-03 2026-03-04 -"),
            ("3. 4. 2026", "2026-04-03 2026-03-04 -"),
            ("3-4-26", "2026-04-03 2026-03-04 2003-04-26"),
            ("25/03/2026", "2026-03-25 - -"),
            ("2026-03-04", "2026-03-04"),
            ("2026 3 4", "2026-03-04"),
            ("4 March 2026", "2026-03-04"),
            ("Mar. 4th, 2026", "2026-03-04"),
            ("4-SEP-26", "2026-09-04"),
            ("Sept 4 2026", "2026-09-04"),
            ("31 April 2026", "-"),
            ("4 Mar 2026 9:05", "2026-03-04 at 09:05:00"),
            ("2026-03-04T09:05:07.25", "2026-03-04 at 09:05:07.25"),
            ("2026-03-04 9:05 pm", "2026-03-04 at 21:05:00"),
            ("2026-03-04 12:00 AM", "2026-03-04 at 00:00:00"),
            ("2026-03-04 13:00 pm", "2026-03-04 at no time"),
            ("2026-03-04 24:00", "2026-03-04 at no time"),
            ("2026-03-04 23:60", "2026-03-04 at no time"),
        ] {
            assert_eq!(read(text).as_deref(), Some(expected), "{text}");
        }
        for text in [
            "",
            "4",
            "4/3",
            "4/3-2026",
            "4//3/2026",
            "123/4/2026",
            "4/3/202",
            "4/3/20260",
            "4 Marc 2026",
            "4 March",
            "March 2026",
            "2026 4 Mar",
            "4 4 Mar 2026",
            "4/3/2026x",
            "4/3/2026 9",
            "4/3/2026 9:5",
            "4/3/2026 09:05 xm",
            "4/3/2026 09:05:1",
            "٣/٤/٢٠٢٦",
        ] {
            assert_eq!(read(text), None, "{text}");
        }
    }
}
