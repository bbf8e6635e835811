//! Date and time patterns of Unicode's UTS #35, for reading and for writing.
//!
//! Supported fields: `y` and `u` (year), `M` and `L` (month, as a number, `MMM` or `MMMM`), `d`
//! (day), `E` (name of the day), `H` `h` `K` `k` (hour), `a` (AM or PM), `m` (minute), `s`
//! (second), `S` (fraction of a second). Names are English. Text stands in apostrophes; a double
//! apostrophe is one apostrophe.

use crate::DateOrder;
use crate::fixed_form::FixedForm;
use crate::pattern_piece::{Part, Piece};
use jiff::civil::{Date, DateTime, Time, Weekday};

/// The English names of the months.
pub const MONTHS: [&str; 12] = [
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
];

/// A date or time pattern.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DatePattern {
    text: String,
    pieces: Vec<Piece>,
    /// The same where every part has one width.
    fixed: Option<Box<FixedForm>>,
}

/// What a pattern found in a text.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Moment {
    /// The year; with two digits only, 0 to 99.
    pub year: Option<i16>,
    /// True when the year was written with two digits.
    pub two_digits: bool,
    /// The month, 1 to 12 unless it is impossible.
    pub month: Option<i8>,
    /// The day of the month.
    pub day: Option<i8>,
    /// The hour, 0 to 23 unless it is impossible.
    pub hour: Option<i8>,
    /// The minute.
    pub minute: Option<i8>,
    /// The second.
    pub second: Option<i8>,
    /// The fraction of a second in nanoseconds.
    pub nanosecond: i32,
}

impl DatePattern {
    /// Reads a pattern.
    ///
    /// # Errors
    /// Says which letter is not supported or where an apostrophe is not closed.
    ///
    /// ```
    /// use dusk_values::DatePattern;
    /// assert!(DatePattern::parse("dd/MM/yyyy").is_ok());
    /// assert!(DatePattern::parse("DD/MM/YYYY").is_err());
    /// ```
    pub fn parse(text: &str) -> Result<Self, String> {
        let mut pieces: Vec<Piece> = Vec::new();
        let mut letters = text.chars().peekable();
        let literal = |pieces: &mut Vec<Piece>, c: char| match pieces.last_mut() {
            Some(Piece::Text(text)) => text.push(c),
            _ => pieces.push(Piece::Text(c.into())),
        };
        while let Some(letter) = letters.next() {
            if letter == '\'' {
                if letters.next_if_eq(&'\'').is_some() {
                    literal(&mut pieces, '\'');
                    continue;
                }
                loop {
                    match letters.next() {
                        Some('\'') if letters.next_if_eq(&'\'').is_some() => literal(&mut pieces, '\''),
                        Some('\'') => break,
                        Some(other) => literal(&mut pieces, other),
                        None => return Err("an apostrophe is not closed".into()),
                    }
                }
            } else if letter.is_ascii_alphabetic() {
                let mut width = 1;
                while letters.next_if_eq(&letter).is_some() {
                    width += 1;
                }
                pieces.push(Piece::Part(part(letter, width)?));
            } else {
                literal(&mut pieces, letter);
            }
        }
        if !pieces.iter().any(|piece| matches!(piece, Piece::Part(_))) {
            return Err("there is no date or time field in it".into());
        }
        Ok(Self { text: text.to_owned(), fixed: FixedForm::of(&pieces).map(Box::new), pieces })
    }

    /// The pattern as it was written.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// Whether the day stands before the month, both of them before the year; nothing for other patterns.
    pub fn day_before_month(&self) -> Option<bool> {
        let place = |wanted: fn(&Part) -> bool| self.parts().position(|part| wanted(&part));
        let day = place(|part| matches!(part, Part::Day(_)))?;
        let month = place(|part| matches!(part, Part::Month(_)))?;
        let year = place(|part| matches!(part, Part::Year(_)))?;
        (year > day && year > month).then_some(day < month)
    }

    /// The order in which it writes day, month and year; nothing where it does not write all of them in one that
    /// people use.
    pub fn order(&self) -> Option<DateOrder> {
        match self.day_before_month() {
            Some(true) => Some(DateOrder::DayMonthYear),
            Some(false) => Some(DateOrder::MonthDayYear),
            None => {
                let place = |wanted: fn(&Part) -> bool| self.parts().position(|part| wanted(&part));
                let year = place(|part| matches!(part, Part::Year(_)))?;
                let month = place(|part| matches!(part, Part::Month(_)))?;
                let day = place(|part| matches!(part, Part::Day(_)))?;
                (year < month && month < day).then_some(DateOrder::YearMonthDay)
            }
        }
    }

    /// True when the pattern writes all of year, month and day.
    pub fn has_date(&self) -> bool {
        self.has_year() && self.has_month() && self.has_day()
    }

    /// True when the pattern writes a year.
    pub fn has_year(&self) -> bool {
        self.parts().any(|part| matches!(part, Part::Year(_)))
    }

    /// True when the pattern writes a month.
    pub fn has_month(&self) -> bool {
        self.parts().any(|part| matches!(part, Part::Month(_)))
    }

    /// True when the pattern writes a day of the month.
    pub fn has_day(&self) -> bool {
        self.parts().any(|part| matches!(part, Part::Day(_)))
    }

    /// True when the pattern writes at least an hour.
    pub fn has_time(&self) -> bool {
        self.parts().any(|part| matches!(part, Part::Hour(..)))
    }

    /// True when the pattern writes the seconds.
    pub fn has_second(&self) -> bool {
        self.parts().any(|part| matches!(part, Part::Second(_)))
    }

    /// True when the pattern writes a part of a second.
    pub fn has_fraction(&self) -> bool {
        self.parts().any(|part| matches!(part, Part::Fraction(_)))
    }

    fn parts(&self) -> impl Iterator<Item = Part> {
        self.pieces.iter().filter_map(|piece| match piece {
            Piece::Part(part) => Some(*part),
            Piece::Text(_) => None,
        })
    }

    /// Writes a moment; the fields of a missing date or time are those of 1 January, midnight.
    pub fn write(&self, moment: DateTime, out: &mut String) {
        if self.fixed.as_ref().is_some_and(|fixed| fixed.write(moment, out)) {
            return;
        }
        for piece in &self.pieces {
            match piece {
                Piece::Text(text) => out.push_str(text),
                Piece::Part(part) => write_part(*part, moment, out),
            }
        }
    }

    /// Reads a text that has exactly this form. A number may have fewer digits than its field is
    /// wide only where the field is one letter wide.
    ///
    /// Whether the moment exists in the calendar is left to the caller.
    pub fn read(&self, text: &str) -> Option<Moment> {
        let mut reading = Reading::default();
        let mut rest = text;
        for piece in &self.pieces {
            rest = match piece {
                Piece::Text(text) => rest.strip_prefix(text.as_str())?,
                Piece::Part(part) => reading.take(*part, rest)?,
            };
        }
        rest.is_empty().then(|| reading.moment())
    }
}

/// What was read of a moment so far.
#[derive(Default)]
struct Reading {
    moment: Moment,
    /// The hours that the half of the day adds.
    half: Option<i8>,
    on_twelve_hours: bool,
}

impl Reading {
    /// Reads one field at the start of a text; gives back what follows.
    fn take<'t>(&mut self, part: Part, rest: &'t str) -> Option<&'t str> {
        let moment = &mut self.moment;
        match part {
            Part::Year(2) => {
                moment.two_digits = true;
                number(rest, 2, 2, |value| moment.year = Some(value))
            }
            Part::Year(width) => number(rest, width.max(4), 4, |value| moment.year = Some(value)),
            Part::Month(width @ 1..=2) => number(rest, width, 2, |value| moment.month = Some(small(value))),
            Part::Month(width) => {
                let (month, after) = month_name(rest, width == 4)?;
                moment.month = Some(month);
                Some(after)
            }
            Part::Day(width) => number(rest, width, 2, |value| moment.day = Some(small(value))),
            Part::Weekday(width) => weekday_name(rest, width >= 4),
            part => self.take_time(part, rest),
        }
    }

    fn take_time<'t>(&mut self, part: Part, rest: &'t str) -> Option<&'t str> {
        let moment = &mut self.moment;
        match part {
            Part::Hour(width, lowest, clock) => {
                self.on_twelve_hours |= clock == 12;
                number(rest, width, 2, |value| {
                    let hour = small(value);
                    moment.hour = Some(if lowest == 1 && hour == clock { 0 } else { hour });
                })
            }
            Part::Half => {
                let (start, after) = rest.split_at_checked(2)?;
                self.half = match start.to_ascii_lowercase().as_str() {
                    "am" => Some(0),
                    "pm" => Some(12),
                    _ => return None,
                };
                Some(after)
            }
            Part::Minute(width) => number(rest, width, 2, |value| moment.minute = Some(small(value))),
            Part::Second(width) => number(rest, width, 2, |value| moment.second = Some(small(value))),
            Part::Fraction(width) => {
                let power = 9_u32.saturating_sub(u32::try_from(width).unwrap_or(9));
                number(rest, width, width, |value| {
                    moment.nanosecond = i32::from(value) * 10_i32.pow(power);
                })
            }
            Part::Year(_) | Part::Month(_) | Part::Day(_) | Part::Weekday(_) => None,
        }
    }

    fn moment(self) -> Moment {
        let hour = match self.on_twelve_hours {
            true => self.moment.hour.zip(self.half).map(|(hour, half)| hour + half),
            false => self.moment.hour,
        };
        Moment { hour, ..self.moment }
    }
}

fn small(value: i16) -> i8 {
    i8::try_from(value).unwrap_or(i8::MAX)
}

/// Reads `least` to `most` digits and hands the number on; gives back what follows.
fn number(text: &str, least: usize, most: usize, mut take: impl FnMut(i16)) -> Option<&str> {
    let digits = text.bytes().take(most).take_while(u8::is_ascii_digit).count();
    let (number, rest) = text.split_at_checked(digits)?;
    (digits >= least).then_some(())?;
    take(number.parse().ok()?);
    Some(rest)
}

/// Reads an English month name at the start of a text: in full, or its first three letters.
fn month_name(text: &str, full: bool) -> Option<(i8, &str)> {
    (1..).zip(MONTHS).find_map(|(month, name)| {
        let name = if full { name } else { name.get(..3)? };
        let (start, rest) = text.split_at_checked(name.len())?;
        start.eq_ignore_ascii_case(name).then_some((month, rest))
    })
}

fn weekday_name(text: &str, full: bool) -> Option<&str> {
    (1..=7).find_map(|day| {
        let name = weekday(Weekday::from_monday_one_offset(day).ok()?);
        let name = if full { name } else { name.get(..3)? };
        let (start, rest) = text.split_at_checked(name.len())?;
        start.eq_ignore_ascii_case(name).then_some(rest)
    })
}

fn weekday(day: Weekday) -> &'static str {
    match day {
        Weekday::Monday => "Monday",
        Weekday::Tuesday => "Tuesday",
        Weekday::Wednesday => "Wednesday",
        Weekday::Thursday => "Thursday",
        Weekday::Friday => "Friday",
        Weekday::Saturday => "Saturday",
        Weekday::Sunday => "Sunday",
    }
}

fn part(letter: char, width: usize) -> Result<Part, String> {
    let written: String = std::iter::repeat_n(letter, width).collect();
    let up_to = |most: usize, part: Part| {
        if width <= most { Ok(part) } else { Err(format!("\"{written}\" is too wide")) }
    };
    match letter {
        'y' | 'u' if width == 3 => {
            Err(format!("\"{written}\" is not a width that years have; write yyyy or yy"))
        }
        'y' | 'u' => up_to(4, Part::Year(width)),
        'M' | 'L' => up_to(4, Part::Month(width)),
        'd' => up_to(2, Part::Day(width)),
        'E' => up_to(4, Part::Weekday(width)),
        'H' => up_to(2, Part::Hour(width, 0, 24)),
        'k' => up_to(2, Part::Hour(width, 1, 24)),
        'K' => up_to(2, Part::Hour(width, 0, 12)),
        'h' => up_to(2, Part::Hour(width, 1, 12)),
        'a' => up_to(1, Part::Half),
        'm' => up_to(2, Part::Minute(width)),
        's' => up_to(2, Part::Second(width)),
        'S' => up_to(4, Part::Fraction(width)),
        'Y' => Err("\"Y\" is the year of the week, which is rarely meant; write yyyy".into()),
        'D' => Err("\"D\" is the day of the year, which is rarely meant; write dd".into()),
        _ => Err(format!(
            "\"{written}\" is not supported; write text in apostrophes, as in yyyy-MM-dd'T'HH:mm"
        )),
    }
}

fn write_part(part: Part, moment: DateTime, out: &mut String) {
    let (date, time): (Date, Time) = (moment.date(), moment.time());
    let name = |name: &'static str, full: bool| if full { name } else { name.get(..3).unwrap_or(name) };
    let mut number = |number: i32, width: usize| push_number(number, width, out);
    match part {
        Part::Year(2) => number(i32::from(date.year().rem_euclid(100)), 2),
        Part::Year(width) => number(date.year().into(), width),
        Part::Month(width @ 1..=2) => number(date.month().into(), width),
        Part::Day(width) => number(date.day().into(), width),
        Part::Hour(width, lowest, clock) => {
            let hour = time.hour() % clock;
            number(if lowest == 1 && hour == 0 { clock } else { hour }.into(), width);
        }
        Part::Minute(width) => number(time.minute().into(), width),
        Part::Second(width) => number(time.second().into(), width),
        Part::Fraction(width) => {
            let power = 9_u32.saturating_sub(u32::try_from(width).unwrap_or(9));
            number(time.subsec_nanosecond() / 10_i32.pow(power), width);
        }
        Part::Month(width) => {
            let month = MONTHS.get(usize::try_from(date.month() - 1).unwrap_or(0)).copied();
            out.push_str(name(month.unwrap_or_default(), width == 4));
        }
        Part::Weekday(width) => out.push_str(name(weekday(date.weekday()), width == 4)),
        Part::Half => out.push_str(if time.hour() < 12 { "AM" } else { "PM" }),
    }
}

/// Appends a number with zeros before it up to `width` digits.
fn push_number(number: i32, width: usize, out: &mut String) {
    if let (0..100, 2) = (number, width) {
        let digit = |digit: i32| char::from(b'0' + (digit % 10) as u8);
        out.extend([digit(number / 10), digit(number)]);
        return;
    }
    if number < 0 {
        out.push('-');
    }
    let mut digits = [b'0'; 10];
    let mut rest = number.unsigned_abs();
    let mut used = 0;
    for digit in digits.iter_mut().rev() {
        if rest == 0 {
            break;
        }
        // A remainder of ten is one digit.
        *digit += (rest % 10) as u8;
        rest /= 10;
        used += 1;
    }
    let from = digits.len() - used.max(width).clamp(1, digits.len());
    out.push_str(digits.get(from..).and_then(|digits| std::str::from_utf8(digits).ok()).unwrap_or_default());
}

#[cfg(test)]
mod tests {
    use jiff::civil::datetime;
    use proptest::prelude::*;

    use super::*;

    fn written(pattern: &str, moment: DateTime) -> String {
        let mut out = String::new();
        DatePattern::parse(pattern).unwrap().write(moment, &mut out);
        out
    }

    #[test]
    fn patterns_write_what_uts_35_says() {
        let moment = datetime(2026, 3, 4, 15, 5, 9, 120_000_000);
        assert_eq!(written("yyyy-MM-dd", moment), "2026-03-04");
        assert_eq!(written("d.M.yy", moment), "4.3.26");
        assert_eq!(written("EEEE d MMMM y", moment), "Wednesday 4 March 2026");
        assert_eq!(written("EEE, dd MMM", moment), "Wed, 04 Mar");
        assert_eq!(written("yyyy-MM-dd'T'HH:mm:ss.SSS", moment), "2026-03-04T15:05:09.120");
        assert_eq!(written("h 'o''clock' a", moment), "3 o'clock PM");
        assert_eq!(written("kk", datetime(2026, 3, 4, 0, 0, 0, 0)), "24");
    }

    proptest! {
        #[test]
        fn what_a_pattern_writes_it_reads(
            year in 1000i16..9999, month in 1i8..=12, day in 1i8..=28, hour in 0i8..24, minute in 0i8..60,
            pattern in prop::sample::select(vec![
                "yyyy-MM-dd HH:mm", "d/M/yyyy h:mm a", "dd MMM yyyy, k:m", "EEEE MMMM d y HHmm", "yyyyMMddHHmm",
            ]),
        ) {
            let moment = datetime(year, month, day, hour, minute, 0, 0);
            let text = written(pattern, moment);
            let read = DatePattern::parse(pattern).unwrap().read(&text).unwrap();
            prop_assert_eq!(
                (read.year, read.month, read.day, read.hour, read.minute),
                (Some(year), Some(month), Some(day), Some(hour), Some(minute))
            );
        }

        #[test]
        fn no_text_panics(pattern in "[yMdHhKkamsSE' /:]{0,12}", text in "\\PC{0,20}") {
            if let Ok(pattern) = DatePattern::parse(&pattern) {
                let _ = pattern.read(&text);
            }
        }
    }
}
