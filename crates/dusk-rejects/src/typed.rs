//! What spreadsheet programs make of texts when they open and save a file, told from what somebody typed.

use super::workbook::fitting;
use dusk_sources::CellKind;
use dusk_values::{DateOrder, day_in_order, shown};

/// How what a cell holds now compares with what it held when it was handed out.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Sameness {
    /// The same text.
    Same,
    /// The same number, date or truth value, written otherwise: spreadsheet programs do that by themselves.
    Rewritten,
    /// Something else.
    Different,
}

/// What a cell of delimited text counts as: it does not tell what a spreadsheet program made a number of.
pub(super) fn kind_of_text(text: &str) -> CellKind {
    if number_made_of(text).is_some_and(|number| number == text) { CellKind::Number } else { CellKind::Text }
}

/// Compares what a cell held with what it holds. Spreadsheet programs exchange line ends, and make numbers and
/// dates of texts that look like them.
pub(super) fn sameness(before: &str, kind: CellKind, now: &str) -> Sameness {
    let before = fitting(before);
    let plain = |text: &str| text.replace("\r\n", "\n").replace('\r', "\n");
    if before == now || plain(before) == plain(now) {
        return Sameness::Same;
    }
    let is_rewritten = match kind {
        CellKind::Text => {
            let seen = |text: &str| -> String {
                plain(text).chars().filter(|c| !c.is_control() || *c == '\n').collect()
            };
            let is_same = before.contains(|c: char| c.is_control()) && seen(before) == seen(now);
            return match is_same {
                true => Sameness::Same,
                false if is_cut_short_from(before, now) => Sameness::Rewritten,
                false => Sameness::Different,
            };
        }
        CellKind::Number => number_made_of(before).is_some_and(|number| number == now),
        CellKind::Boolean => before.trim().eq_ignore_ascii_case(now),
        CellKind::Date => readings(before).iter().any(|reading| reading == now),
        CellKind::Error | CellKind::Duration => false,
    };
    if is_rewritten { Sameness::Rewritten } else { Sameness::Different }
}

/// The number that a spreadsheet program makes of a text that looks like one, as it writes it: without zeros
/// in front, without zeros after the decimals, without thousands marks.
pub(super) fn number_made_of(text: &str) -> Option<String> {
    let bare = text.trim().replace(',', "");
    let figures = |c: char| c.is_ascii_digit() || matches!(c, '.' | '-' | '+' | 'E' | 'e');
    if !bare.chars().all(figures) || !bare.bytes().any(|byte| byte.is_ascii_digit()) {
        return None;
    }
    bare.parse::<f64>().ok().filter(|number| number.is_finite()).map(|number| number.to_string())
}

/// Whether a text is a number as spreadsheet programs write long ones, "1.23E+19", with its last digits lost.
pub(super) fn is_cut_short(text: &str) -> bool {
    let Some((number, power)) = text.trim().split_once('E') else { return false };
    let digits = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
    let whole = number.trim_start_matches('-').replacen(['.', ','], "", 1);
    digits(&whole) && power.len() > 2 && power.strip_prefix(['+', '-']).is_some_and(digits)
}

/// Whether that is what a spreadsheet program makes of another text.
fn is_cut_short_from(before: &str, now: &str) -> bool {
    let Some((shown, _)) = now.trim().split_once('E').filter(|_| is_cut_short(now)) else { return false };
    let digits = shown.bytes().filter(u8::is_ascii_digit).count();
    let number = |text: &str| text.trim().replace(',', "").parse::<f64>().ok().filter(|n| n.is_finite());
    match (number(before), number(&now.replacen(',', ".", 1))) {
        (Some(before), Some(now)) => {
            let places = digits.saturating_sub(1);
            format!("{before:.places$e}") == format!("{now:.places$e}")
        }
        _ => false,
    }
}

/// Whether a text is another one read in the wrong encoding.
pub(super) fn is_misread(before: &str, now: &str) -> bool {
    !before.is_ascii() && encoding_rs::WINDOWS_1252.decode_without_bom_handling(before.as_bytes()).0 == now
}

/// The days that a text may mean, in every order, as a typed date is written.
fn readings(text: &str) -> Vec<String> {
    DateOrder::ALL
        .iter()
        .filter_map(|order| day_in_order(text.trim(), *order))
        .map(|day| day.to_string())
        .collect()
}

/// What a changed cell says, if that is certain; else why not, and what to do.
pub(super) fn taken(kind: CellKind, text: &str) -> std::result::Result<String, (String, String)> {
    match kind {
        CellKind::Text | CellKind::Boolean => Ok(text.to_owned()),
        CellKind::Number if text.bytes().filter(u8::is_ascii_digit).count() <= 15 => Ok(text.to_owned()),
        CellKind::Number => Err((
            format!("{text} is a number, and a spreadsheet program keeps no more than 15 digits of one"),
            "format the cell as text, and type it again".into(),
        )),
        CellKind::Date => taken_date(text),
        CellKind::Error => {
            Err((format!("{text} is an error of the spreadsheet program"), "type the value".into()))
        }
        CellKind::Duration => Err((
            format!("the spreadsheet program made a length of time of what was typed: {text}"),
            "format the cell as text, and type it again".into(),
        )),
    }
}

/// A date that a spreadsheet program made of what was typed: certain where its day can be no month.
fn taken_date(text: &str) -> std::result::Result<String, (String, String)> {
    match text.parse::<jiff::civil::Date>() {
        Ok(day) if day.day() > 12 => Ok(text.to_owned()),
        Ok(day) => Err((
            format!(
                "the spreadsheet program made a date of what was typed: {}; it may have taken the day for the month",
                shown(day)
            ),
            format!("format the cell as text, and type it again, best as {day}"),
        )),
        Err(_) => Err((
            format!("the spreadsheet program made a date or a time of what was typed: {text}"),
            "format the cell as text, and type it again".into(),
        )),
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// What a program makes of a number by itself is never an edit, and another number always is one.
        #[test]
        fn a_number_written_otherwise_is_told_from_another_number(
            text in "-?0{0,2}[1-9][0-9]{0,8}(\\.[0-9]{1,4})?0{0,2}",
            other in 1..1_000_u32,
        ) {
            let number = number_made_of(&text).unwrap();
            let expected = if number == text { Sameness::Same } else { Sameness::Rewritten };
            prop_assert_eq!(sameness(&text, CellKind::Number, &number), expected);
            let changed = format!("{number}{other}");
            if number_made_of(&changed) == Some(changed.clone()) {
                prop_assert_eq!(sameness(&text, CellKind::Number, &changed), Sameness::Different);
            }
            // A text stays what was typed.
            if number != text {
                prop_assert_eq!(sameness(&text, CellKind::Text, &number), Sameness::Different);
            }
        }
    }

    #[test]
    fn a_long_number_that_a_program_cut_short_is_no_edit() {
        for (before, now, is_it) in [
            ("12345678901234567890", "1.23456789012346E+019", true),
            ("12345678901234567890", "1.23E+19", true),
            ("12345678901234567890", "1,23E+19", true),
            ("12345678901234567890", "1.24E+19", false),
            ("-123456789012345678", "-1.2E+17", true),
            ("MAR5", "1.2E+17", false),
            ("", "1.2E+17", false),
        ] {
            let expected = if is_it { Sameness::Rewritten } else { Sameness::Different };
            assert_eq!(sameness(before, CellKind::Text, now), expected, "{before} {now}");
            assert!(is_cut_short(now));
        }
        for text in ["1E5", "E+05", "1.2.3E+05", "A1E+05", "1E+5x", "12E5"] {
            assert!(!is_cut_short(text), "{text}");
        }
    }

    #[test]
    fn a_day_that_the_text_may_mean_is_no_edit_and_a_doubtful_one_is_not_taken() {
        for (before, now, expected) in [
            ("03/04/2026", "2026-04-03", Sameness::Rewritten),
            ("03/04/2026", "2026-03-04", Sameness::Rewritten),
            ("03/04/2026", "2026-04-04", Sameness::Different),
            ("31/02/2026", "2026-02-28", Sameness::Different),
        ] {
            assert_eq!(sameness(before, CellKind::Date, now), expected, "{before} {now}");
        }
        assert_eq!(sameness("a\r\nb", CellKind::Text, "a\nb"), Sameness::Same);
        assert_eq!(sameness("a\u{7}b", CellKind::Text, "ab"), Sameness::Same);
        assert_eq!(sameness(" yes", CellKind::Boolean, "YES"), Sameness::Rewritten);
        assert_eq!(sameness("", CellKind::Error, "#N/A"), Sameness::Different);
        assert_eq!(taken(CellKind::Date, "2026-04-25").unwrap(), "2026-04-25");
        assert!(taken(CellKind::Date, "2026-04-03").unwrap_err().0.contains("3 Apr 2026"));
        assert!(taken(CellKind::Date, "2026-04-03 09:00").is_err());
        assert!(taken(CellKind::Number, "123456789012345").is_ok());
        assert!(taken(CellKind::Number, "1234567890123456").is_err());
        assert!(is_misread("Öst", "Ã–st") && !is_misread("Ost", "Ost"));
    }
}
