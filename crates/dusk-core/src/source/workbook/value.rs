//! A typed cell as text: what it is, in a form that every step after it reads in one way.

use calamine::{DataRef, ExcelDateTime};

use super::super::cell_kind::CellKind;

/// How a number format shows whole numbers, as far as it adds something.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Shown {
    /// As they are.
    Plain,
    /// With leading zeros, up to so many digits.
    Zeros(usize),
    /// In percent.
    Percent,
}

impl Shown {
    /// What a format code comes to.
    pub(super) fn by(format: &str) -> Self {
        let first = format.split(';').next().unwrap_or_default();
        let plain: String = first.chars().filter(|c| !matches!(c, '"' | '\\')).collect();
        if plain.len() > 1 && plain.bytes().all(|byte| byte == b'0') {
            Self::Zeros(plain.len())
        } else if plain.ends_with('%')
            && plain.bytes().all(|byte| matches!(byte, b'0' | b'.' | b'#' | b',' | b'%'))
        {
            Self::Percent
        } else {
            Self::Plain
        }
    }
}

/// The text of a cell; nothing for an empty one.
pub(super) fn text_of(value: &DataRef<'_>, shown: Shown, out: &mut String) -> Option<CellKind> {
    out.clear();
    match value {
        DataRef::Empty => None,
        DataRef::String(text) => some_text(text, out),
        DataRef::SharedString(text) => some_text(text, out),
        DataRef::Int(number) => {
            number_text(&number.to_string(), shown, out);
            Some(CellKind::Number)
        }
        DataRef::Float(number) => {
            number_text(&figures(*number), shown, out);
            Some(CellKind::Number)
        }
        DataRef::Bool(value) => {
            out.push_str(if *value { "TRUE" } else { "FALSE" });
            Some(CellKind::Boolean)
        }
        DataRef::Error(error) => {
            out.push_str(&error.to_string());
            Some(CellKind::Error)
        }
        DataRef::DateTime(moment) => Some(moment_text(moment, out)),
        DataRef::DateTimeIso(text) => {
            let day = text.replacen('T', " ", 1);
            out.push_str(day.strip_suffix(" 00:00:00").unwrap_or(&day));
            Some(CellKind::Date)
        }
        DataRef::DurationIso(text) => match iso_duration(text) {
            Some(time) => {
                out.push_str(&time);
                Some(CellKind::Duration)
            }
            None => some_text(text, out),
        },
    }
}

fn some_text(text: &str, out: &mut String) -> Option<CellKind> {
    out.push_str(text);
    (!text.is_empty()).then_some(CellKind::Text)
}

/// The figures of a number as a spreadsheet program shows them: 15 of them are certain, what
/// stands behind them is the noise of reckoning in twos. Whole numbers keep all their digits, so
/// that those which are too long can be told.
fn figures(number: f64) -> String {
    let shortest = number.to_string();
    let count = shortest.bytes().filter(u8::is_ascii_digit).count();
    if count <= 15 || !shortest.contains('.') || !number.is_finite() {
        return shortest;
    }
    format!("{number:.14e}").parse::<f64>().map_or(shortest, |rounded| rounded.to_string())
}

fn number_text(figures: &str, shown: Shown, out: &mut String) {
    match shown {
        Shown::Plain => out.push_str(figures),
        Shown::Zeros(digits) => {
            if figures.bytes().all(|byte| byte.is_ascii_digit()) {
                (figures.len()..digits).for_each(|_| out.push('0'));
            }
            out.push_str(figures);
        }
        Shown::Percent => match crate::value::Decimal::parse(figures)
            .and_then(|number| number.scaled((100, 0, 1), 20, None).ok())
        {
            Some((hundredfold, _)) => out.push_str(&format!("{hundredfold}%")),
            None => out.push_str(figures),
        },
    }
}

/// Day counts that stand for a day of the calendar; outside them a typed date is a mere number.
const DAYS: std::ops::Range<f64> = 0.0..2_958_466.0;

fn moment_text(moment: &ExcelDateTime, out: &mut String) -> CellKind {
    let count = moment.as_f64();
    if !DAYS.contains(&count) {
        out.push_str(&figures(count));
        return CellKind::Number;
    }
    let (year, month, day, hour, minute, second, milli) = moment.to_ymd_hms_milli();
    let fraction = if milli > 0 { format!(".{milli:03}") } else { String::new() };
    let clock = format!("{minute:02}:{second:02}{fraction}");
    if moment.is_duration() {
        // The whole days of a duration are hours as well.
        let days = figures(count.trunc()).parse::<u64>().unwrap_or(0);
        out.push_str(&format!("{:02}:{clock}", days.saturating_mul(24) + u64::from(hour)));
        return CellKind::Duration;
    }
    let time = hour != 0 || minute != 0 || second != 0 || milli != 0;
    match (count < 1.0, time) {
        (true, _) => out.push_str(&format!("{hour:02}:{clock}")),
        (false, false) => out.push_str(&format!("{year:04}-{month:02}-{day:02}")),
        (false, true) => out.push_str(&format!("{year:04}-{month:02}-{day:02} {hour:02}:{clock}")),
    }
    CellKind::Date
}

/// "PT14H30M05S" as 14:30:05.
fn iso_duration(text: &str) -> Option<String> {
    let rest = text.strip_prefix("PT")?;
    let (hours, rest) = rest.split_once('H')?;
    let (minutes, rest) = rest.split_once('M')?;
    let seconds = rest.strip_suffix('S').unwrap_or("0");
    let (hours, minutes): (u32, u32) = (hours.parse().ok()?, minutes.parse().ok()?);
    let whole: u32 = seconds.split(['.', ',']).next()?.parse().ok()?;
    Some(format!("{hours:02}:{minutes:02}:{whole:02}"))
}
