//! Numbers: marks, units and rounding. A number that can be read in two ways is not read.

use std::borrow::Cow;

use super::{Basis, Trail};
use dusk_evidence::{Fault, NumberFact, NumberMarks};
use dusk_inspecting::{Marks, is_power_of_ten, power_of_ten, whole_power};
use dusk_mapping::NumberReading;
use dusk_values::{Decimal, Inexact, Mention, Rounding, Unit, UnitConversion};

/// What a number has to become.
#[derive(Debug, Clone, Copy)]
pub(super) struct NumberWanted {
    pub(super) decimals: u32,
    pub(super) conversion: Option<UnitConversion>,
    pub(super) unit: Option<&'static Unit>,
}

/// Reads a number and brings it into the target's plain notation.
pub(super) fn conform(
    text: &str,
    reading: &NumberReading,
    wanted: &NumberWanted,
    trail: &mut Trail,
) -> Result<(String, Decimal), Fault> {
    let (signed, below_zero) = without_brackets(text, reading)?;
    let bare = without_currency(signed, reading);
    let (figures, source_unit) = split_unit(&bare);
    let mut conversion = wanted.conversion;
    if reading.units_in_cells {
        conversion = from_own_unit(source_unit, reading, wanted)?;
    } else if let Some(symbol) = source_unit {
        check_unit(text, symbol, reading, wanted)?;
    }
    let (figures, trailing_minus) = sign_in_front(figures);
    let plain = plain_notation(&figures, reading)?;
    let plain = if below_zero || trailing_minus { format!("-{plain}") } else { plain };
    let number = Decimal::parse(&plain).ok_or_else(|| no_number(&plain))?;
    match conversion {
        Some(conversion) => convert(number, conversion, reading, wanted, trail),
        None => round(number, text, &plain, reading, wanted, trail),
    }
}

/// Why plain notation is no number: it is none, or has more digits than are kept.
fn no_number(plain: &str) -> Fault {
    let figures = plain.bytes().all(|b| b.is_ascii_digit() || matches!(b, b'-' | b'+' | b'.'));
    if figures && plain.bytes().any(|b| b.is_ascii_digit()) && plain.len() > 30 {
        Fault::new(NumberFact::TooLong)
    } else {
        not_a_number()
    }
}

fn inexact(error: Inexact, wanted: &NumberWanted) -> Fault {
    match error {
        Inexact::TooLong => Fault::new(NumberFact::TooLong),
        Inexact::NeedsRounding => needs_rounding(wanted),
    }
}

/// Rounds a number as the mapping says, where it has to be.
fn round(
    number: Decimal,
    text: &str,
    plain: &str,
    reading: &NumberReading,
    wanted: &NumberWanted,
    trail: &mut Trail,
) -> Result<(String, Decimal), Fault> {
    let (rounded, lost) =
        number.scaled((1, 0, 1), wanted.decimals, reading.round).map_err(|error| inexact(error, wanted))?;
    // What was written otherwise may look canonical all the same: "1.204" for 1204.
    let keeps = !lost && plain == text && is_canonical(text, wanted.decimals);
    let result = if keeps { text.to_owned() } else { rounded.to_string() };
    if lost {
        let exact = number.to_string();
        if exact != text {
            trail.took(&exact, || Basis::Exact);
        }
        trail.took(&result, || Basis::Rounded { how: reading.round, decimals: wanted.decimals });
    } else if result != text {
        trail.took(&result, || Basis::PlainNotation);
    }
    Ok((result, rounded))
}

/// Converts a number into the field's unit.
fn convert(
    number: Decimal,
    conversion: UnitConversion,
    reading: &NumberReading,
    wanted: &NumberWanted,
    trail: &mut Trail,
) -> Result<(String, Decimal), Fault> {
    let scaled = |decimals: u32, how: Option<Rounding>| {
        number.scaled(conversion.factors, decimals, how).map_err(|error| inexact(error, wanted))
    };
    let (converted, lost) = scaled(wanted.decimals, reading.round)?;
    let result = converted.to_string();
    if lost {
        // Shown with a few more digits, so that the rounding can be checked.
        let (longer, _) = scaled(wanted.decimals + 4, Some(Rounding::Down))?;
        trail.took(&format!("{longer}…"), || Basis::Converted(conversion));
        trail.took(&result, || Basis::Rounded { how: reading.round, decimals: wanted.decimals });
    } else {
        trail.took(&result, || Basis::Converted(conversion));
    }
    Ok((result, converted))
}

fn not_a_number() -> Fault {
    Fault::new(NumberFact::NotANumber(NumberMarks::Plain))
}

fn needs_rounding(wanted: &NumberWanted) -> Fault {
    let unit = wanted.conversion.map(|way| way.to);
    Fault::new(NumberFact::NeedsRounding { decimals: wanted.decimals, unit })
}

/// The number in brackets, as accounts write what is below zero, where the mapping says so.
fn without_brackets<'t>(text: &'t str, reading: &NumberReading) -> Result<(&'t str, bool), Fault> {
    let Some(inside) = text.strip_prefix('(').and_then(|rest| rest.strip_suffix(')')) else {
        return Ok((text, false));
    };
    let bare = without_currency(inside, reading);
    if !bare.starts_with(|c: char| c.is_ascii_digit() || !c.is_alphanumeric()) {
        return Err(not_a_number());
    }
    if reading.brackets {
        return Ok((inside, true));
    }
    Err(Fault::new(NumberFact::Brackets))
}

/// The number without the currency mark that the mapping names.
fn without_currency<'t>(text: &'t str, reading: &NumberReading) -> Cow<'t, str> {
    let Some(letters) = reading.currency else { return text.into() };
    let mark: String = letters.into_iter().take_while(|letter| *letter != '\0').collect();
    let bare = text.trim();
    let behind_sign = bare.strip_prefix(['-', '−']).map(str::trim_start);
    match behind_sign.and_then(|rest| rest.strip_prefix(&mark)).map(str::trim_start) {
        // "-£5" is "-5", if what stands between the sign and the figures is the mark only.
        Some(rest) if rest.starts_with(|c: char| c.is_ascii_digit()) => format!("-{rest}").into(),
        _ => bare.strip_prefix(&mark).or_else(|| bare.strip_suffix(&mark)).unwrap_or(text).trim().into(),
    }
}

/// A minus sign brought in front, where it stands behind the figures or is the printer's own.
fn sign_in_front(figures: &str) -> (Cow<'_, str>, bool) {
    let figures = figures.trim();
    if let Some(rest) =
        figures.strip_suffix(['-', '−']).filter(|rest| rest.starts_with(|c: char| c.is_ascii_digit()))
    {
        return (rest.trim_end().into(), true);
    }
    match figures.strip_prefix('−') {
        Some(rest) => (format!("-{}", rest.trim_start()).into(), false),
        None => (figures.into(), false),
    }
}

/// The figures and a unit written behind them.
fn split_unit(text: &str) -> (&str, Option<&str>) {
    let end = text.rfind(|c: char| c.is_ascii_digit()).map_or(0, |at| at + 1);
    let (figures, rest) = text.split_at_checked(end).unwrap_or((text, ""));
    let rest = rest.trim();
    if rest.is_empty() || end == 0 || rest.starts_with(['.', ',', '-', '−', '+', '\'']) {
        (text.trim(), None)
    } else {
        (figures, Some(rest))
    }
}

/// How a number becomes one of the field's unit whose own stands behind it.
fn from_own_unit(
    word: Option<&str>,
    reading: &NumberReading,
    wanted: &NumberWanted,
) -> Result<Option<UnitConversion>, Fault> {
    let (Some(Mention::Unit(own)), Some(wanted)) = (word.and_then(Mention::of), wanted.unit) else {
        return Err(Fault::new(NumberFact::UnitUndecided));
    };
    let differs = |column| Fault::new(NumberFact::UnitDiffers { cell: own, column });
    if let Some(heading) = reading.unit.filter(|heading| *heading != own) {
        return Err(differs(heading));
    }
    if own == wanted {
        return Ok(None);
    }
    UnitConversion::new(own, wanted).map(Some).map_err(|_| differs(wanted))
}

fn check_unit(text: &str, symbol: &str, reading: &NumberReading, wanted: &NumberWanted) -> Result<(), Fault> {
    if is_power_of_ten(text) {
        return Err(power_of_ten(text));
    }
    let stated = reading.unit.or(wanted.unit);
    match (Unit::find(symbol), stated) {
        (Some(found), Some(stated)) if found == stated => Ok(()),
        (Some(found), Some(stated)) => {
            Err(Fault::new(NumberFact::UnitDiffers { cell: found, column: stated }))
        }
        (Some(_), None) if symbol == "%" => Err(Fault::new(NumberFact::Percent)),
        _ => Err(not_a_number()),
    }
}

/// True for a number that the target would write in just this way.
fn is_canonical(text: &str, decimals: u32) -> bool {
    let digits = text.strip_prefix('-').unwrap_or(text);
    let (whole, part) = match digits.split_once('.') {
        Some((whole, part)) => (whole, Some(part)),
        None => (digits, None),
    };
    let is_digits = |text: &str| !text.is_empty() && text.bytes().all(|b| b.is_ascii_digit());
    is_digits(whole)
        && (whole.len() == 1 || !whole.starts_with('0'))
        && part.is_none_or(|part| is_digits(part) && part.len() <= decimals as usize)
        && !(text.starts_with('-') && digits.bytes().all(|b| matches!(b, b'0' | b'.')))
}

/// The figures without thousands marks and with a point before the decimals.
fn plain_notation(figures: &str, reading: &NumberReading) -> Result<String, Fault> {
    let figures = figures.trim();
    if is_power_of_ten(figures) {
        return whole_power(figures).ok_or_else(|| power_of_ten(figures));
    }
    let (decimal, thousands) = match (reading.decimal_mark, reading.thousands_mark) {
        (None, None) => return unmarked(figures),
        (Some(decimal), None) if reading.proven => return proven(figures, decimal),
        (Some(decimal), thousands) => (decimal, thousands),
        (None, Some('.')) => (',', Some('.')),
        (None, thousands) => ('.', thousands),
    };
    let (whole, part) = match figures.split_once(decimal) {
        Some((whole, part)) => (whole, Some(part)),
        None => (figures, None),
    };
    let mut plain = match thousands {
        Some(mark) => without_thousands(whole, mark).ok_or_else(|| {
            Fault::new(NumberFact::NotANumber(NumberMarks::Named { decimal, thousands: Some(mark) }))
        })?,
        None => whole.to_owned(),
    };
    // Any other mark is none: "1.204" is no number where the decimal mark is a comma.
    let is_digits = |text: &str| text.bytes().all(|b| b.is_ascii_digit());
    if !is_digits(plain.trim_start_matches(['-', '+'])) || !part.is_none_or(is_digits) {
        let marks = NumberMarks::Named { decimal, thousands: None };
        return Err(Fault::new(NumberFact::NotANumber(marks)));
    }
    if let Some(part) = part {
        plain.push('.');
        plain.push_str(part);
    }
    Ok(plain)
}

/// Takes the thousands marks away if they stand in the right places: before every three digits.
fn without_thousands(whole: &str, mark: char) -> Option<String> {
    let digits = whole.trim_start_matches(['-', '+']);
    let same_mark = |c: char| c == mark || mark == ' ' && dusk_values::is_no_break_space(c);
    if !digits.contains(same_mark) {
        return Some(whole.to_owned());
    }
    let mut groups = digits.split(same_mark);
    let is_group = |group: &str| group.bytes().all(|b| b.is_ascii_digit());
    let first = groups.next()?;
    let good = (1..=3).contains(&first.len())
        && is_group(first)
        && groups.all(|group| group.len() == 3 && is_group(group));
    good.then(|| whole.chars().filter(|c| !same_mark(*c)).collect())
}

/// Splits the sign off.
fn split_sign(figures: &str) -> (&str, &str) {
    match figures.strip_prefix('-') {
        Some(rest) => ("-", rest),
        None => ("", figures.strip_prefix('+').unwrap_or(figures)),
    }
}

/// The figures in plain notation when `decimal` stands before the decimals and all other marks
/// stand between groups.
fn with_decimal(figures: &str, decimal: char) -> String {
    let (sign, digits) = split_sign(figures);
    let plain = digits
        .chars()
        .filter(|c| c.is_ascii_digit() || *c == decimal)
        .map(|c| if c == decimal { '.' } else { c });
    sign.chars().chain(plain).collect()
}

/// Reads figures where the column proves the decimal mark.
fn proven(figures: &str, decimal: char) -> Result<String, Fault> {
    let fits = match Marks::strictly(split_sign(figures).1) {
        Marks::None | Marks::Either => true,
        Marks::Point => decimal == '.',
        Marks::Comma => decimal == ',',
        Marks::NoNumber => false,
    };
    if fits {
        return Ok(with_decimal(figures, decimal));
    }
    Err(Fault::new(NumberFact::NotANumber(NumberMarks::Proven(decimal))))
}

/// Reads figures where the mapping names no marks: only what leaves one reading.
fn unmarked(figures: &str) -> Result<String, Fault> {
    match Marks::strictly(split_sign(figures).1) {
        Marks::None | Marks::Point => Ok(with_decimal(figures, '.')),
        Marks::Comma => {
            Err(Fault::new(NumberFact::CommaUndecided { with_comma: with_decimal(figures, ',') }))
        }
        Marks::Either => Err(Fault::new(NumberFact::MarksUndecided {
            with_point: with_decimal(figures, '.'),
            with_comma: with_decimal(figures, ','),
        })),
        Marks::NoNumber if split_sign(figures).1.bytes().all(|byte| byte.is_ascii_digit()) => {
            Ok(figures.to_owned())
        }
        Marks::NoNumber => Err(not_a_number()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use dusk_values::Rounding;

    fn read(text: &str, reading: NumberReading, decimals: u32) -> Result<String, &'static str> {
        let wanted = NumberWanted { decimals, conversion: None, unit: reading.unit };
        conform(text, &reading, &wanted, &mut Trail::default())
            .map(|(text, _)| text)
            .map_err(|fault| fault.kind().code())
    }

    #[test]
    fn a_number_with_two_readings_is_not_read() {
        let unmarked = NumberReading::default();
        assert_eq!(read("1,204", unmarked, 3), Err("number-undecided"));
        assert_eq!(read("1.204", unmarked, 3), Err("number-undecided"));
        assert_eq!(read("1,5", unmarked, 1), Err("number-undecided"));
        assert_eq!(read("0.204", unmarked, 3), Ok("0.204".into()));
        assert_eq!(read("1,204.5", unmarked, 1), Ok("1204.5".into()));
        assert_eq!(read("-1,204,300", unmarked, 0), Ok("-1204300".into()));
        assert_eq!(read("12,04.5", unmarked, 1), Err("not-a-number"));
    }

    #[test]
    fn named_marks_are_taken_at_their_word() {
        let comma =
            NumberReading { decimal_mark: Some(','), thousands_mark: Some('.'), ..NumberReading::default() };
        assert_eq!(read("1.204,5", comma, 1), Ok("1204.5".into()));
        assert_eq!(read("1.204", comma, 1), Ok("1204".into()));
        assert_eq!(read("1,5", comma, 1), Ok("1.5".into()));
        assert_eq!(read("12.04,5", comma, 1), Err("not-a-number"));
        assert_eq!(read("1.204", comma, 3), Ok("1204".into()));
        let comma_only = NumberReading { decimal_mark: Some(','), ..NumberReading::default() };
        assert_eq!(read("1.204", comma_only, 3), Err("not-a-number"));
        assert_eq!(read("1,204", comma_only, 3), Ok("1.204".into()));
        let point = NumberReading { decimal_mark: Some('.'), ..NumberReading::default() };
        assert_eq!(read("1.204", point, 3), Ok("1.204".into()));
        assert_eq!(read("1,204", point, 3), Err("not-a-number"));
        let spaced = NumberReading { thousands_mark: Some(' '), ..NumberReading::default() };
        assert_eq!(read("1\u{a0}204.5", spaced, 1), Ok("1204.5".into()));
    }

    #[test]
    fn signs_brackets_and_currencies_are_read_as_they_are_meant() {
        let plain = NumberReading::default();
        assert_eq!(read("12.5-", plain, 1), Ok("-12.5".into()));
        assert_eq!(read("−12.5", plain, 1), Ok("-12.5".into()));
        assert_eq!(read("1 204.5", plain, 1), Ok("1204.5".into()));
        assert_eq!(read("1\u{2009}204", plain, 0), Ok("1204".into()));
        assert_eq!(read("1’204.5", plain, 1), Ok("1204.5".into()));
        assert_eq!(read("12 04", plain, 0), Err("not-a-number"));
        assert_eq!(read("(12)", plain, 0), Err("number-undecided"));
        let accounts = NumberReading { brackets: true, currency: Some(['£', '\0', '\0', '\0']), ..plain };
        assert_eq!(read("(12)", accounts, 0), Ok("-12".into()));
        assert_eq!(read("(£12.5)", accounts, 1), Ok("-12.5".into()));
        assert_eq!(read("£ 1,204.50", accounts, 2), Ok("1204.5".into()));
        assert_eq!(read("12 £", accounts, 0), Ok("12".into()));
        assert_eq!(
            [read("-£12", accounts, 0), read("- £ 12", accounts, 0)],
            [Ok("-12".into()), Ok("-12".into())]
        );
        assert_eq!(read("-£-12", accounts, 0), Err("not-a-number"));
        let kroner = NumberReading { currency: Some(['N', 'O', 'K', '\0']), ..accounts };
        assert_eq!(
            [read("(NOK 12)", kroner, 0), read("(12 NOK)", kroner, 0)],
            [Ok("-12".into()), Ok("-12".into())]
        );
        assert_eq!(read("(NOS 12)", kroner, 0), Err("not-a-number"));
        assert_eq!(read("$12", accounts, 0), Err("not-a-number"));
        assert_eq!(read("12%", plain, 0), Err("number-undecided"));
        let percent = NumberReading { unit: dusk_values::Unit::find("%"), ..plain };
        assert_eq!(read("12%", percent, 0), Ok("12".into()));
    }

    #[test]
    fn a_proven_mark_reads_what_would_be_undecided() {
        let proven =
            |mark| NumberReading { decimal_mark: Some(mark), proven: true, ..NumberReading::default() };
        assert_eq!(read("1,204", proven('.'), 0), Ok("1204".into()));
        assert_eq!(read("1,204", proven(','), 3), Ok("1.204".into()));
        assert_eq!(read("1.204.300,5", proven(','), 1), Ok("1204300.5".into()));
        assert_eq!(read("12.5", proven(','), 1), Err("not-a-number"));
        assert_eq!(read("-0,5", proven(','), 1), Ok("-0.5".into()));
    }

    #[test]
    fn digits_are_lost_only_by_decision_and_what_conforms_stays() {
        let half_up = NumberReading { round: Some(Rounding::HalfUp), ..NumberReading::default() };
        assert_eq!(read("12.0", NumberReading::default(), 0), Ok("12".into()));
        assert_eq!(read("12.5", NumberReading::default(), 0), Err("needs-rounding"));
        assert_eq!(read("12.5", half_up, 0), Ok("13".into()));
        assert_eq!(read("12.50", NumberReading::default(), 2), Ok("12.50".into()));
        assert_eq!(read("+007", NumberReading::default(), 0), Ok("7".into()));
        assert_eq!(read("1.23E+11", NumberReading::default(), 0), Err("power-of-ten"));
        assert_eq!(read("12 apples", NumberReading::default(), 0), Err("not-a-number"));
    }
}
