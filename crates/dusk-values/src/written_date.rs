//! A date as it is written, before anyone decides which of its parts is the day.

use jiff::civil::{Date, Time};

use crate::DateOrder;
use crate::calendar_names::{is_weekday_named, month_named, names_weekday};

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
    /// A day whose form leaves one reading: eight digits, year first, as ISO 8601 has them, or numbers of
    /// which the day of the week before them fits one day only.
    Certain(Date),
}

/// What follows the date.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum WrittenTime {
    /// Nothing.
    None,
    /// A time of day.
    At(Time),
    /// A time of day on a clock that is so many seconds ahead of UTC (RFC 3339).
    AtOffset(Time, i32),
    /// Something that has the form of a time and is none, as 25:10.
    Impossible,
}

impl WrittenDate {
    /// Reads the everyday forms: three numbers parted alike by `-`, `/`, `.` or a space, or a day, a
    /// month's name and a year; eight digits that begin with a year; the day of the week may stand before
    /// and a time of day behind it. Nothing for any other text.
    pub fn read(text: &str) -> Option<(Self, WrittenTime)> {
        let text = text.trim();
        Self::numbers(text)
            .or_else(|| Self::named(text))
            .or_else(|| Self::digits(text))
            .or_else(|| Self::after_weekday(text))
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
        // Some languages have a point behind each of the three.
        let rest = if separator == '.' { rest.strip_prefix('.').unwrap_or(rest) } else { rest };
        Some((Self::Numbers([first, second, third]), time(rest)?))
    }

    fn named(text: &str) -> Option<(Self, WrittenTime)> {
        let (mut day, mut month, mut year) = (None, None, None);
        let mut rest = text;
        while day.is_none() || month.is_none() || year.is_none() {
            rest = rest.trim_start_matches([' ', '-', '/', '.', ',']);
            if rest.starts_with(|c: char| c.is_ascii_digit()) {
                let ((value, width), after) = number(rest)?;
                rest = after;
                // "2026 4 Mar" and "4 2026 Mar" are not everyday forms and are not taken for one.
                if width <= 2 && day.is_none() && (year.is_none() || month.is_some()) {
                    day = Some(i8::try_from(value).ok()?);
                    rest = ORDINAL_ENDS.iter().find_map(|end| rest.strip_prefix(end)).unwrap_or(rest);
                } else if year.is_none()
                    && (width == 4 && (day.is_none() || month.is_some()) || width == 2 && month.is_some())
                {
                    year = Some((value, width));
                } else {
                    return None;
                }
            } else {
                let word_ends = rest.find(|c: char| !c.is_alphabetic()).unwrap_or(rest.len());
                let (word, after) = rest.split_at_checked(word_ends)?;
                rest = after;
                if !matches!(word, "de" | "del" | "of") || day.is_none() {
                    month = month.is_none().then(|| month_named(word))?;
                    month?;
                }
            }
        }
        let (day, month, year) = (day?, month?, year?);
        // A month, a day and a year of four digits in front: "March 2026 4" is none.
        Some((Self::Named { day, month, year }, time(after_year(rest))?))
    }

    /// Eight digits that begin with a year: the basic form of ISO 8601.
    fn digits(text: &str) -> Option<(Self, WrittenTime)> {
        let digits = text.get(..8).filter(|digits| digits.bytes().all(|byte| byte.is_ascii_digit()))?;
        let part = |range: std::ops::Range<usize>| digits.get(range)?.parse::<i16>().ok();
        let year = part(0..4).filter(|year| (1900..=2099).contains(year))?;
        let day = Date::new(year, i8::try_from(part(4..6)?).ok()?, i8::try_from(part(6..8)?).ok()?).ok()?;
        Some((Self::Certain(day), time(text.get(8..)?)?))
    }

    /// A date behind the day of the week, which it must agree with.
    fn after_weekday(text: &str) -> Option<(Self, WrittenTime)> {
        let end = text.find([' ', ',', '.'])?;
        let (word, rest) = text.split_at_checked(end).filter(|(word, _)| names_weekday(word))?;
        let rest = rest.trim_start_matches([' ', ',', '.']);
        let (written, time) = Self::numbers(rest).or_else(|| Self::named(rest))?;
        let agrees = |day: &Date| is_weekday_named(word, day.weekday());
        match written {
            Self::Numbers(_) if !written.has_short_year() => {
                let days = DateOrder::ALL.into_iter().filter_map(|order| written.day(order, None));
                let mut days: Vec<Date> = days.filter(agrees).collect();
                days.dedup();
                match days.as_slice() {
                    [only] => Some((Self::Certain(*only), time)),
                    [] => None,
                    _ => Some((written, time)),
                }
            }
            Self::Named { year: (_, 4), .. } => {
                written.day(DateOrder::YearMonthDay, None).filter(agrees)?;
                Some((written, time))
            }
            // Which year is meant is not certain yet.
            _ => Some((written, time)),
        }
    }

    /// The day that is meant under an order; nothing when there is no such day. Two-digit years
    /// are counted in the hundred years from `years_from`, which must be given for them.
    pub fn day(self, order: DateOrder, years_from: Option<i16>) -> Option<Date> {
        let (year, month, day) = match self {
            Self::Certain(day) => return Some(day),
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
        // That there is no such month is asked far more often than it is an error.
        if !(1..=12).contains(&month) || !(1..=31).contains(&day) {
            return None;
        }
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
        matches!(self, Self::Named { .. } | Self::Certain(_) | Self::Numbers([(_, 4), ..]))
    }

    /// True when the year has two digits.
    pub fn has_short_year(self) -> bool {
        match self {
            Self::Named { year, .. } => year.1 == 2,
            Self::Certain(_) => false,
            Self::Numbers(parts) => parts.iter().all(|(_, width)| *width < 3),
        }
    }
}

/// What may stand behind the number of a day.
const ORDINAL_ENDS: [&str; 9] = ["st", "nd", "rd", "th", "er", "º", "°", "ª", "e"];

/// Behind a year some languages say that it is one.
fn after_year(rest: &str) -> &str {
    let bare = rest.trim_start_matches(' ');
    let word = ["г.", "г", "р.", "р"].iter().find_map(|word| bare.strip_prefix(word));
    let point = || rest.strip_prefix('.').filter(|rest| rest.is_empty());
    word.or_else(point).unwrap_or(rest)
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
    let basic = text.strip_prefix('T').and_then(basic_time);
    let text = text.strip_prefix('T').or_else(|| text.strip_prefix(' '))?.trim();
    basic.or_else(|| WrittenTime::read(text))
}

/// `HHmm` or `HHmmss`, the basic form of ISO 8601, with or without an offset.
fn basic_time(text: &str) -> Option<WrittenTime> {
    let digits = text.bytes().take_while(u8::is_ascii_digit).count();
    let (digits, rest) = text.split_at_checked(digits).filter(|(digits, _)| matches!(digits.len(), 4 | 6))?;
    let part = |at: usize| digits.get(at..at + 2);
    let second = part(4).map_or(String::new(), |second| format!(":{second}"));
    WrittenTime::read(&format!("{}:{}{second}{rest}", part(0)?, part(2)?))
}

impl WrittenTime {
    /// Reads `H:mm`, `H:mm:ss` or `H:mm:ss.SSS`, with or without AM or PM, or the offset of the clock from
    /// UTC. Nothing for other texts.
    pub fn read(text: &str) -> Option<Self> {
        let ((hour, hour_width), rest) = number(text)?;
        let ((minute, minute_width), mut rest) = number(rest.strip_prefix(':')?)?;
        let (mut second, mut second_width) = (0, 2);
        let mut nanosecond = 0;
        if let Some(after) = rest.strip_prefix(':') {
            ((second, second_width), rest) = number(after)?;
            // ISO 8601 takes a comma as well.
            if let Some(after) = rest.strip_prefix(['.', ',']) {
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
        let offset = if rest.is_empty() { None } else { offset(rest) };
        let hour = match rest {
            _ if rest.is_empty() || offset.is_some() => Some(hour),
            _ if is_half(rest, 'a') => twelve,
            _ if is_half(rest, 'p') => twelve.map(|hour| hour + 12),
            _ => return None,
        };
        let small = |value: i16| i8::try_from(value).ok();
        let time =
            hour.and_then(|hour| Time::new(small(hour)?, small(minute)?, small(second)?, nanosecond).ok());
        Some(match (time, offset) {
            (None, _) => Self::Impossible,
            (Some(time), None) => Self::At(time),
            (Some(time), Some(offset)) => Self::AtOffset(time, offset),
        })
    }
}

/// "am", "PM", "a.m.", "p. m.".
fn is_half(text: &str, half: char) -> bool {
    let mut letters = text.chars().filter(|c| !matches!(c, '.' | ' ')).flat_map(char::to_lowercase);
    letters.next() == Some(half) && letters.next() == Some('m') && letters.next().is_none()
}

/// How many seconds a clock is ahead of UTC: `Z`, `+02:00`, `-0330`, `+02`, `UTC`.
fn offset(text: &str) -> Option<i32> {
    if ["z", "utc", "gmt"].iter().any(|word| text.eq_ignore_ascii_case(word)) {
        return Some(0);
    }
    let (sign, digits) = match text.strip_prefix('+') {
        Some(rest) => (1, rest),
        None => (-1, text.strip_prefix('-').or_else(|| text.strip_prefix('\u{2212}'))?),
    };
    let digits = match digits.split_once(':') {
        Some((hours, minutes)) if hours.len() == 2 && minutes.len() == 2 => format!("{hours}{minutes}"),
        Some(_) => return None,
        None => digits.to_owned(),
    };
    let is_number = matches!(digits.len(), 2 | 4) && digits.bytes().all(|byte| byte.is_ascii_digit());
    let hours: i32 = digits.get(..2).filter(|_| is_number)?.parse().ok()?;
    let minutes: i32 = digits.get(2..)?.parse().unwrap_or(0);
    (hours <= 18 && minutes < 60).then_some(sign * (hours * 3600 + minutes * 60))
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
            WrittenTime::AtOffset(time, offset) => format!("{all} at {time} {offset}s ahead"),
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
            ("2026-03-04T09:05:07Z", "2026-03-04 at 09:05:07 0s ahead"),
            ("2026-03-04 09:05:07.5 +05:30", "2026-03-04 at 09:05:07.5 19800s ahead"),
            ("20260304T09:05-0330", "2026-03-04 at 09:05:00 -12600s ahead"),
            ("20260304", "2026-03-04"),
            ("20260304T0905", "2026-03-04 at 09:05:00"),
            ("20260304T090507Z", "2026-03-04 at 09:05:07 0s ahead"),
            ("4.3.2026.", "2026-03-04 2026-04-03 -"),
            ("4. März 2026", "2026-03-04"),
            ("1er août 2026", "2026-08-01"),
            ("4 de marzo de 2026", "2026-03-04"),
            ("4 марта 2026 г.", "2026-03-04"),
            ("2026. március 4.", "2026-03-04"),
            ("2026-Mar-04", "2026-03-04"),
            ("4th of March 2026 9:05 p.m.", "2026-03-04 at 21:05:00"),
            ("Wed, 4 Mar 2026", "2026-03-04"),
            ("Mittwoch, 4. März 2026", "2026-03-04"),
            ("mié. 04/03/2026", "2026-03-04"),
            ("mar 4 mar 26", "2026-03-04"),
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
            "4 listopada 2026",
            "Thu, 4 Mar 2026",
            "20261304",
            "04032026",
            "19990230",
            "202603045",
            "2026-03-04 09:05 +2:00",
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
