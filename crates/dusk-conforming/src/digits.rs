//! Digits that a spreadsheet program took away: put back where the dictionary leaves one reading,
//! said where they are lost.

use super::{Basis, Lost, Trail};
use dusk_description::{Code, CodeList};
use dusk_evidence::{Fault, TextFact};
use dusk_inspecting::{is_power_of_ten, power_of_ten, whole_power};
use dusk_sources::CellKind;
use dusk_values::{DateOrder, Decimal, MONTHS, WrittenDate, is_digits};
use jiff::civil::Date;

/// Puts lost leading zeros back: the dictionary says how many digits there always are.
pub(super) fn restore(text: &str, digits: usize, trail: &mut Trail, out: &mut String) -> Result<(), Fault> {
    let whole = whole_power(text);
    if let Some(whole) = &whole {
        trail.took(whole, || Basis::WholePower);
    }
    let bare = without_traces(whole.as_deref().unwrap_or(text), trail);
    let all_digits = is_digits(bare);
    if all_digits && bare.len() <= digits {
        (bare.len()..digits).for_each(|_| out.push('0'));
        out.push_str(bare);
        if bare.len() < digits {
            trail.took(out, || Basis::DigitsOfDictionary { digits });
        }
        return Ok(());
    }
    if is_power_of_ten(text) {
        return Err(power_of_ten(text));
    }
    let has = all_digits.then_some(bare.len());
    Err(Fault::new(TextFact::WrongDigits { digits: has, wanted: digits }))
}

/// The digits without what a program added: the apostrophe that keeps a number text, and the ".0"
/// of a program that knows no whole numbers.
pub(super) fn without_traces<'t>(text: &'t str, trail: &mut Trail) -> &'t str {
    let mut bare = apostrophe(text, trail);
    if let Some((whole, part)) = bare.split_once('.')
        && is_digits(whole)
        && !part.is_empty()
        && part.bytes().all(|byte| byte == b'0')
    {
        trail.took(whole, || Basis::ZerosBehindPoint);
        bare = whole;
    }
    bare
}

/// A number without the apostrophe that keeps it text in a spreadsheet program.
pub(super) fn apostrophe<'t>(text: &'t str, trail: &mut Trail) -> &'t str {
    let number =
        |rest: &&str| rest.trim_start_matches(['-', '+', '.']).starts_with(|c: char| c.is_ascii_digit());
    let Some(rest) = text.strip_prefix(['\'', '’']).filter(number) else { return text };
    trail.took(rest, || Basis::TextMark);
    rest
}

/// The same in a field of any type, where what follows can only be something that was kept text: a date, or
/// digits, at least three of them. "'26" may be a year.
pub(super) fn apostrophe_of_any<'t>(text: &'t str, trail: &mut Trail) -> &'t str {
    let kept = |rest: &&str| is_digits(rest) && rest.len() >= 3 || WrittenDate::read(rest).is_some();
    let Some(rest) = text.strip_prefix('\'').filter(kept) else { return text };
    trail.took(rest, || Basis::TextMark);
    rest
}

/// The codes that a value may have been before a spreadsheet program changed it: with the zeros it
/// lost, or before it became a date.
pub(super) fn codes_before<'c>(
    list: &'c CodeList,
    inside: Option<&str>,
    kind: CellKind,
    text: &str,
) -> Vec<(&'c Code, Lost)> {
    let allowed = |code: &&Code| inside.is_none_or(|parent| code.within.is_empty() || code.within == parent);
    let codes = || list.codes().iter().filter(allowed);
    let bare = without_traces(text, &mut Trail::default());
    if kind != CellKind::Date
        && let Some(number) = number_shown(bare)
    {
        let plain = bare.trim_start_matches('0');
        let lost = |code: &'c Code| {
            let has_zeros =
                is_digits(&code.code) && is_digits(bare) && code.code.trim_start_matches('0') == plain;
            let is_power = power_read_as(&code.code) == Some(number);
            let lost = if is_power { Lost::Power } else { Lost::Zeros };
            (has_zeros || is_power).then_some((code, lost))
        };
        return codes().filter_map(lost).collect();
    }
    let turned = turned_into(kind, text);
    codes()
        .filter(|code| turned.iter().any(|day| reads_as(&code.code, *day)))
        .map(|code| (code, Lost::Date))
        .collect()
}

/// The number that a cell shows: digits, or a power of ten.
fn number_shown(text: &str) -> Option<Decimal> {
    if is_digits(text) {
        return Decimal::parse(text.get(..text.len().min(30))?);
    }
    let (number, power) = text.split_once(['E', 'e'])?;
    shifted(&number.replace(',', "."), power.strip_prefix('+').unwrap_or(power))
}

/// The number that a spreadsheet program reads a code as that looks like a power of ten: 2E4.
fn power_read_as(code: &str) -> Option<Decimal> {
    let (number, power) = code.split_once(['E', 'e'])?;
    Some(()).filter(|()| is_digits(number) && is_digits(power)).and_then(|()| shifted(number, power))
}

/// A number with its point so many places further right.
fn shifted(number: &str, power: &str) -> Option<Decimal> {
    let power: u32 = power.parse().ok().filter(|power| *power <= 15)?;
    let (whole, _) = Decimal::parse(number)?.scaled((10_i128.pow(power), 0, 1), 0, None).ok()?;
    Some(whole)
}

/// Month and number of a date that a code was turned into: 5-Mar is (3, 5), and so are 3/5 and the
/// typed 5 March; Mar-26 and the typed 1 March 2026 are (3, 26) as well.
fn turned_into(kind: CellKind, text: &str) -> Vec<(u32, u32)> {
    if kind == CellKind::Date {
        let mut parts = text.split([' ', '-']).map(str::parse::<u32>);
        let (Some(Ok(year)), Some(Ok(month)), Some(Ok(day))) = (parts.next(), parts.next(), parts.next())
        else {
            return Vec::new();
        };
        let of_month = (day == 1).then_some([(month, year % 100), (month, year)]);
        return of_month.into_iter().flatten().chain([(month, day)]).collect();
    }
    if let Some((written, _)) =
        WrittenDate::read(text).filter(|(written, _)| !matches!(written, WrittenDate::Named { .. }))
    {
        // Which of its numbers is the month is not certain; each of them may be.
        let days = DateOrder::ALL.into_iter().filter_map(|order| written.day(order, Some(2000)));
        let parts = |day: Date| (u32::from(day.month().unsigned_abs()), u32::from(day.day().unsigned_abs()));
        return days.map(parts).collect();
    }
    let Some((a, b)) = text.split_once(['-', ' ']) else { return Vec::new() };
    match (month_of(a), month_of(b), a.parse(), b.parse()) {
        (Some(month), None, _, Ok(number)) | (None, Some(month), Ok(number), _) => vec![(month, number)],
        _ => Vec::new(),
    }
}

fn month_of(word: &str) -> Option<u32> {
    (1..).zip(MONTHS).find_map(|(month, name)| {
        let short = word.get(..3)?;
        (word.len() >= 3
            && name.get(..3)?.eq_ignore_ascii_case(short)
            && name.to_ascii_lowercase().starts_with(&word.to_ascii_lowercase())
            || word.eq_ignore_ascii_case("sept") && month == 9)
            .then_some(month)
    })
}

/// Whether a spreadsheet program may read a code as a date of this month and number.
fn reads_as(code: &str, (month, number): (u32, u32)) -> bool {
    let split = |at: usize| code.split_at_checked(at);
    let (Some(letters), Some(digits)) =
        (code.find(|c: char| !c.is_ascii_alphabetic()), code.find(|c: char| !c.is_ascii_digit()))
    else {
        return false;
    };
    let part = |text: &str| text.trim_matches(['-', '/', ' ', '.']).parse::<u32>().ok();
    if letters > 0 {
        // MAR5, MAR-05, MAR2026.
        return split(letters)
            .is_some_and(|(word, rest)| month_of(word) == Some(month) && part(rest) == Some(number));
    }
    let Some((first, rest)) = split(digits) else { return false };
    let Some(first) = part(first) else { return false };
    let rest = rest.trim_start_matches(['-', '/', ' ', '.']);
    match (month_of(rest), part(rest)) {
        // 5MAR.
        (Some(named), _) => named == month && first == number,
        // 3-5 is read by one program as 3 May and by another as 5 March.
        (None, Some(second)) => (first, second) == (month, number) || (second, first) == (month, number),
        (None, None) => false,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_taken_away_is_put_back_and_nothing_is_made_up() {
        let restored = |text: &str| {
            let (mut trail, mut out) = (Trail::keeping(), String::new());
            restore(text, 6, &mut trail, &mut out)
                .map(|()| (out, trail.steps()))
                .map_err(|fault| fault.kind().code())
        };
        let same = |text: &str, steps: &str| Ok((text.to_owned(), steps.to_owned()));
        assert_eq!(restored("417"), same("000417", "digits"));
        assert_eq!(restored("417.0"), same("000417", "digits + digits"));
        assert_eq!(restored("'000417"), same("000417", "text_mark"));
        assert_eq!(restored("000417"), same("000417", ""));
        assert_eq!(restored("417.5"), Err("wrong-digits"));
        assert_eq!(restored("4170000"), Err("wrong-digits"));
        assert_eq!(restored("4.1E+05"), Err("power-of-ten"));
        assert_eq!(restored("'t Hoen"), Err("wrong-digits"));
        // A mark without a figure before the power is no number that a spreadsheet program wrote.
        assert_eq!(restored(",E+0"), Err("wrong-digits"));
    }

    #[test]
    fn codes_that_became_dates_are_known_by_month_and_number() {
        for (code, kind, text, was) in [
            ("MAR5", CellKind::Text, "5-Mar", true),
            ("MAR5", CellKind::Text, "05-Mar", true),
            ("MAR-05", CellKind::Date, "2026-03-05", true),
            ("SEPT2", CellKind::Text, "2-Sep", true),
            ("5MAR", CellKind::Date, "2026-03-05", true),
            ("3-5", CellKind::Date, "2026-03-05", true),
            ("3-5", CellKind::Date, "2026-05-03", true),
            ("MAR26", CellKind::Date, "2026-03-01", true),
            ("MAR26", CellKind::Date, "2026-03-02", false),
            ("MAR6", CellKind::Text, "5-Mar", false),
            ("MAR", CellKind::Text, "5-Mar", false),
            ("X5", CellKind::Text, "5-Mar", false),
            ("MAR5", CellKind::Text, "5 March 2026", false),
        ] {
            assert_eq!(
                turned_into(kind, text).into_iter().any(|day| reads_as(code, day)),
                was,
                "{code} as {text}"
            );
        }
    }

    #[test]
    fn codes_that_look_like_dates_and_powers_of_ten_are_known_again() {
        let codes = ["5/8", "2E4", "3E10", "007", "12"].map(|code| Code {
            code: code.into(),
            label: String::new(),
            also: Vec::new(),
            within: String::new(),
            until: None,
            replaced_by: String::new(),
        });
        let list = CodeList::new("codes".into(), codes.to_vec());
        let before = |text: &str| -> Vec<String> {
            let found = codes_before(&list, None, CellKind::Text, text);
            found.into_iter().map(|(code, _)| code.code.clone()).collect()
        };
        for (text, code) in [
            ("05-Aug", "5/8"),
            ("2026-08-05", "5/8"),
            ("8/5/2026", "5/8"),
            ("20000", "2E4"),
            ("2.00E+04", "2E4"),
            ("2,00E+04", "2E4"),
            ("3E+10", "3E10"),
            ("30000000000", "3E10"),
            ("7", "007"),
            ("12.0", "12"),
        ] {
            assert_eq!(before(text), [code], "{text}");
        }
        assert!(before("21000").is_empty() && before("6/9/2026").is_empty());
    }
}
