//! Digits that a spreadsheet program lost for good.

use dusk_evidence::{Fault, TextFact};
use dusk_sources::CellKind;
use dusk_values::is_digits;

/// How many digits a spreadsheet program keeps.
const KEPT: usize = 15;

/// What tells that a long number has lost its last digits; the finding rejects where it is certain
/// enough, or only warns.
pub fn digits_lost(kind: CellKind, text: &str) -> Option<Fault> {
    let text = text.strip_prefix('\'').unwrap_or(text);
    if !is_digits(text) || text.len() <= KEPT {
        return None;
    }
    let behind = text.get(KEPT..).unwrap_or_default();
    if kind == CellKind::Number || behind.len() > 1 && behind.bytes().all(|byte| byte == b'0') {
        return Some(Fault::new(TextFact::DigitsLost { digits: text.len(), kept: KEPT }));
    }
    (behind == "0").then(|| Fault::new(TextFact::DigitsMayBeLost))
}

/// Numbers of one digit more than a spreadsheet program keeps: of identifiers one in ten ends in zero, of those
/// that went through such a program every one does.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct LongNumbers {
    /// How many were met.
    pub all: u64,
    /// How many of them end in zero.
    pub end_in_zero: u64,
}

impl LongNumbers {
    /// Takes in a text, which may be such a number.
    pub fn see(&mut self, text: &str) {
        if text.len() == KEPT + 1 && is_digits(text) {
            self.all += 1;
            self.end_in_zero += u64::from(text.ends_with('0'));
        }
    }

    /// Adds what others saw.
    pub fn add(&mut self, other: Self) {
        self.all += other.all;
        self.end_in_zero += other.end_in_zero;
    }

    /// True where more of them end in zero than chance makes: by more than six times the usual deviation.
    pub fn is_beyond_chance(self) -> bool {
        let (all, zeros) = (i128::from(self.all), i128::from(self.end_in_zero));
        let excess = 10 * zeros - all;
        excess > 0 && excess * excess > 324 * all
    }
}

/// True when a long number may have lost its last digits.
pub(crate) fn has_lost_digits(kind: CellKind, text: &str) -> bool {
    digits_lost(kind, text).is_some()
}

/// What is wrong with a number shown as a power of ten that does not have all of its digits. With one fewer the last
/// one may have been a zero, which such programs leave away.
pub fn power_of_ten(text: &str) -> Fault {
    let short = shown_digits(text).filter(|(digits, power)| digits.len() == *power);
    Fault::new(TextFact::PowerOfTen { if_zero: short.map(|(digits, _)| format!("{digits}0")) })
}

/// True for the form in which spreadsheet programs show long numbers: 1.23E+11.
pub fn is_power_of_ten(text: &str) -> bool {
    let Some((number, power)) = text.split_once(['E', 'e']) else { return false };
    let figures = |text: &str| {
        text.bytes().any(|b| b.is_ascii_digit())
            && text.bytes().all(|b| b.is_ascii_digit() || matches!(b, b'.' | b','))
    };
    figures(number.trim_start_matches('-')) && figures(power.trim_start_matches(['+', '-']))
}

/// The whole number that a power of ten is when all of its digits are there, 3.10729948816E+11: as many as the power and
/// one. Spreadsheet programs write numbers of ten digits or more so, and keep fifteen.
pub fn whole_power(text: &str) -> Option<String> {
    shown_digits(text).filter(|(digits, power)| digits.len() == power + 1).map(|(digits, _)| digits)
}

/// The digits that a power of ten shows, and the power.
fn shown_digits(text: &str) -> Option<(String, usize)> {
    let (number, power) = text.trim().split_once("E+")?;
    let power: usize = power.parse().ok().filter(|power| (9..15).contains(power))?;
    let (first, rest) = number.split_once(['.', ','])?;
    let digits = format!("{first}{rest}");
    (first.len() == 1 && !first.starts_with('0') && is_digits(&digits)).then_some((digits, power))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn more_numbers_that_end_in_zero_than_chance_makes_are_damaged() {
        let beyond = |all, end_in_zero| LongNumbers { all, end_in_zero }.is_beyond_chance();
        assert!(beyond(5, 5) && beyond(10, 8) && beyond(1_000, 500) && beyond(100_000, 11_000));
        assert!(
            !beyond(1, 1)
                && !beyond(4, 4)
                && !beyond(10, 5)
                && !beyond(1_000, 130)
                && !beyond(100_000, 10_100)
        );
    }

    #[test]
    fn a_power_of_ten_with_all_its_digits_is_a_whole_number() {
        let whole = |text: &str| whole_power(text);
        assert_eq!(whole("3.10729948816E+11").as_deref(), Some("310729948816"));
        assert_eq!(whole("3,10729948816E+11").as_deref(), Some("310729948816"));
        for text in [
            "3.1072994881E+11",
            "3.107299488161E+11",
            "3.1E+1",
            "1.2345678901234567E+16",
            "x.1E+09",
            "0.123456789E+09",
        ] {
            assert_eq!(whole(text), None, "{text}");
        }
        let says = |text: &str| power_of_ten(text).wrong().clone();
        assert!(says("3.1072994881E+11").contains("it is 310729948810 if the last one was 0"));
        assert!(says("3.107299488E+11").contains("its digits are lost"));
    }

    #[test]
    fn digits_behind_the_fifteenth_are_lost_when_they_are_zeros() {
        let kind = |kind: CellKind, text: &str| digits_lost(kind, text).map(|fault| fault.kind().code());
        assert_eq!(kind(CellKind::Text, "123456789012345"), None);
        assert_eq!(kind(CellKind::Text, "1234567890123450"), Some("digits-may-be-lost"));
        assert_eq!(kind(CellKind::Text, "12345678901234500"), Some("digits-lost"));
        assert_eq!(kind(CellKind::Text, "12345678901234501"), None);
        assert_eq!(
            kind(CellKind::Number, "1234567890123456"),
            Some("digits-lost"),
            "a typed number keeps fifteen"
        );
        assert_eq!(kind(CellKind::Text, "A1234567890123400"), None);
    }
}
