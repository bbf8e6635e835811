//! A typed cell as text: what it is, in a form that every step after it reads in one way.

use calamine::{DataRef, ExcelDateTime};

use crate::cell_kind::CellKind;

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
        Shown::Percent => match dusk_values::Decimal::parse(figures)
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

#[cfg(test)]
mod tests {
    use calamine::{CellErrorType, ExcelDateTimeType};

    use super::*;

    fn text(value: &DataRef<'_>, format: &str) -> Option<(CellKind, String)> {
        let mut out = String::new();
        text_of(value, Shown::by(format), &mut out).map(|kind| (kind, out))
    }

    #[test]
    fn numbers_are_what_the_spreadsheet_shows() {
        for (number, format, shown) in [
            (417.0, "General", "417"),
            (417.0, "000000", "000417"),
            (417.5, "000000", "417.5"),
            (-3.0, "000", "-3"),
            (0.1 + 0.2, "General", "0.3"),
            (1204.5, "#,##0.00", "1204.5"),
            (0.125, "0.0%", "12.5%"),
            (1e21, "General", "1000000000000000000000"),
            (12_345_678_901_234_568.0, "0", "12345678901234568"),
        ] {
            assert_eq!(
                text(&DataRef::Float(number), format),
                Some((CellKind::Number, shown.into())),
                "{number} as {format}"
            );
        }
    }

    #[test]
    fn days_and_times_are_told_apart_in_both_date_systems() {
        let moment = |value: f64, from_1904: bool| {
            text(&DataRef::DateTime(ExcelDateTime::new(value, ExcelDateTimeType::DateTime, from_1904)), "")
        };
        let date = |shown: &str| Some((CellKind::Date, shown.to_owned()));
        assert_eq!(moment(46_085.0, false), date("2026-03-04"));
        assert_eq!(moment(46_085.0, true), date("2030-03-05"));
        assert_eq!(moment(46_085.75, false), date("2026-03-04 18:00:00"));
        assert_eq!(moment(0.75, false), date("18:00:00"));
        assert_eq!(
            moment(60.0, false),
            date("1900-02-29"),
            "a day that never was is rejected by whoever reads it"
        );
        assert_eq!(moment(-5.0, false), Some((CellKind::Number, "-5".into())));
        assert_eq!(moment(3_000_000.0, false), Some((CellKind::Number, "3000000".into())));
        let length = DataRef::DateTime(ExcelDateTime::new(1.5, ExcelDateTimeType::TimeDelta, false));
        assert_eq!(text(&length, ""), Some((CellKind::Duration, "36:00:00".into())));
        assert_eq!(text(&DataRef::DateTimeIso("2026-03-04T00:00:00".into()), ""), date("2026-03-04"));
        assert_eq!(
            text(&DataRef::DurationIso("PT14H30M05S".into()), ""),
            Some((CellKind::Duration, "14:30:05".into()))
        );
    }

    #[test]
    fn everything_else_keeps_what_it_is() {
        assert_eq!(text(&DataRef::Empty, ""), None);
        assert_eq!(text(&DataRef::String(String::new()), ""), None);
        assert_eq!(text(&DataRef::SharedString("007"), "000000"), Some((CellKind::Text, "007".into())));
        assert_eq!(text(&DataRef::Bool(true), ""), Some((CellKind::Boolean, "TRUE".into())));
        assert_eq!(text(&DataRef::Error(CellErrorType::NA), ""), Some((CellKind::Error, "#N/A".into())));
    }
}
