//! Exact decimal numbers. Nothing is ever rounded unless a rounding is named.

use std::cmp::Ordering;
use std::fmt;

/// The most digits a number may have, before and after the point together.
const MOST_DIGITS: usize = 30;

/// So many digits fit into a machine word.
const SHORT: usize = 18;

/// An exact decimal number of at most 30 digits: `units` × 10^-`scale`, without trailing zeros.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct Decimal {
    units: i128,
    scale: u32,
}

/// How to lose digits. Losing digits is always somebody's decision.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Rounding {
    /// To the nearest; a half goes away from zero.
    HalfUp,
    /// To the nearest; a half goes to the even neighbour.
    HalfEven,
    /// Away from zero.
    Up,
    /// Towards zero.
    Down,
}

impl Rounding {
    /// The words of the mapping.
    pub const WORDS: [(&'static str, Self); 4] =
        [("half-up", Self::HalfUp), ("half-even", Self::HalfEven), ("up", Self::Up), ("down", Self::Down)];

    /// Whether a number goes away from zero, whose rest stands to a half like this.
    fn goes_away(self, half: Ordering, whole: i128) -> bool {
        match self {
            Self::Up => true,
            Self::Down => false,
            Self::HalfUp => half != Ordering::Less,
            Self::HalfEven => half == Ordering::Greater || half == Ordering::Equal && whole % 2 != 0,
        }
    }

    /// The word of the mapping.
    pub fn word(self) -> &'static str {
        Self::WORDS.iter().find(|(_, rounding)| *rounding == self).map_or("", |(word, _)| word)
    }
}

impl Decimal {
    /// Zero.
    pub const ZERO: Self = Self { units: 0, scale: 0 };

    /// Reads plain notation: an optional sign, digits, and after a point more digits. No spaces,
    /// no thousands marks, no exponent.
    ///
    /// Returns nothing for anything else and for more than 30 digits.
    ///
    /// ```
    /// use dusk_values::Decimal;
    /// assert_eq!(Decimal::parse("-012.50").unwrap().to_string(), "-12.5");
    /// assert!(Decimal::parse("1,5").is_none());
    /// assert!(Decimal::parse("1e5").is_none());
    /// ```
    pub fn parse(text: &str) -> Option<Self> {
        let (negative, digits) = match text.as_bytes() {
            [b'-', rest @ ..] => (true, rest),
            [b'+', rest @ ..] => (false, rest),
            rest => (false, rest),
        };
        if digits.len() <= SHORT {
            return Self::parse_short(digits, negative);
        }
        let mut units: i128 = 0;
        let mut scale = 0;
        let mut seen = 0;
        let mut point = false;
        for byte in digits {
            match byte {
                b'0'..=b'9' => {
                    units = units.checked_mul(10)?.checked_add(i128::from(byte - b'0'))?;
                    scale += u32::from(point);
                    seen += 1;
                    if units != 0 && decimal_length(units) > MOST_DIGITS {
                        return None;
                    }
                }
                b'.' if !point => point = true,
                _ => return None,
            }
        }
        if seen == 0 || scale as usize > MOST_DIGITS {
            return None;
        }
        Some(Self { units: if negative { -units } else { units }, scale }.normal())
    }

    /// The same for so few digits that a machine word holds them, which nearly all numbers are.
    #[inline]
    fn parse_short(digits: &[u8], negative: bool) -> Option<Self> {
        let (mut units, mut scale, mut seen, mut point) = (0_i64, 0, 0_usize, false);
        for byte in digits {
            match byte {
                b'0'..=b'9' => {
                    units = units * 10 + i64::from(byte - b'0');
                    scale += u32::from(point);
                    seen += 1;
                }
                b'.' if !point => point = true,
                _ => return None,
            }
        }
        while scale > 0 && units % 10 == 0 {
            units /= 10;
            scale -= 1;
        }
        (seen > 0).then(|| Self { units: i128::from(if negative { -units } else { units }), scale })
    }

    /// A number of so few digits that is written in just the way in which it is shown, or with zeros at its end, and
    /// has no more than so many decimals; nothing for all other texts.
    #[inline]
    pub fn canonical(text: &str, decimals: u32) -> Option<Self> {
        let (negative, digits) = match text.as_bytes() {
            [b'-', rest @ ..] => (true, rest),
            rest => (false, rest),
        };
        let first = *digits.first()?;
        let is_short_zero = digits.len() == 1 || digits.get(1) == Some(&b'.');
        if digits.len() > SHORT || !first.is_ascii_digit() || first == b'0' && !is_short_zero {
            return None;
        }
        let number = Self::parse_short(digits, negative)?;
        let behind = match memchr::memchr(b'.', digits) {
            Some(point) => digits.len() - point - 1,
            None => 0,
        };
        let has_point_only = digits.last() == Some(&b'.');
        (behind <= decimals as usize && !has_point_only && !(negative && number.units == 0)).then_some(number)
    }

    /// A whole number.
    pub fn whole(number: i64) -> Self {
        Self { units: i128::from(number), scale: 0 }
    }

    /// The number in millionths, cut behind them; the greatest or least there is where it has more digits.
    pub fn millionths(self) -> i64 {
        let scaled = match self.scale {
            scale @ ..6 => 10_i128.checked_pow(6 - scale).and_then(|tens| self.units.checked_mul(tens)),
            scale => 10_i128.checked_pow(scale - 6).map(|tens| self.units / tens),
        };
        let most = if self.units < 0 { i64::MIN } else { i64::MAX };
        scaled.and_then(|millionths| i64::try_from(millionths).ok()).unwrap_or(most)
    }

    /// The number in units of the `decimals`th digit behind the point; nothing where it is finer, or has more than 18
    /// digits then.
    ///
    /// ```
    /// use dusk_values::Decimal;
    /// assert_eq!(Decimal::parse("4.5").and_then(|number| number.units_of(2)), Some(450));
    /// assert_eq!(Decimal::parse("4.5").and_then(|number| number.units_of(0)), None);
    /// assert_eq!(Decimal::of_units(450, 2).to_string(), "4.5");
    /// ```
    pub fn units_of(self, decimals: u32) -> Option<i64> {
        let tens = 10_i64.checked_pow(decimals.checked_sub(self.scale)?)?;
        i64::try_from(self.units).ok()?.checked_mul(tens)
    }

    /// So many units of the `decimals`th digit behind the point.
    pub fn of_units(units: i128, decimals: u32) -> Self {
        Self { units, scale: decimals }.normal()
    }

    /// How many digits stand after the point.
    pub fn decimals(self) -> u32 {
        self.scale
    }

    /// The fraction (`self` × `times` + `plus`) / `by`, with at most `decimals` digits after the
    /// point; rounded where that loses digits and a rounding is named.
    ///
    /// Returns the number and whether digits were lost.
    ///
    /// # Errors
    /// [`Inexact::NeedsRounding`] when digits would be lost and no rounding is named;
    /// [`Inexact::TooLong`] when the number grows past what can be reckoned with exactly.
    pub fn scaled(
        self,
        (times, plus, by): (i128, i128, i128),
        decimals: u32,
        rounding: Option<Rounding>,
    ) -> Result<(Self, bool), Inexact> {
        let is_short = || decimals <= SHORT as u32 && i64::try_from(self.units).is_ok();
        if (times, plus, by) == (1, 0, 1) && self.scale <= decimals && is_short() {
            return Ok((self, false));
        }
        let tens = |power: u32| 10_i128.checked_pow(power).ok_or(Inexact::TooLong);
        let long = Inexact::TooLong;
        let over = tens(self.scale)?;
        let above = self
            .units
            .checked_mul(times)
            .and_then(|product| plus.checked_mul(over).and_then(|plus| product.checked_add(plus)))
            .and_then(|sum| tens(decimals).ok().and_then(|tens| sum.checked_mul(tens)))
            .ok_or(long)?;
        let below = over.checked_mul(by).filter(|below| *below != 0).ok_or(long)?;
        let (whole, rest) = (above / below, above % below);
        if rest == 0 {
            return Ok((Self { units: whole, scale: decimals }.normal(), false));
        }
        let rounding = rounding.ok_or(Inexact::NeedsRounding)?;
        let twice = rest.unsigned_abs().checked_mul(2).ok_or(long)?;
        let half = twice.cmp(&below.unsigned_abs());
        let away = rounding.goes_away(half, whole);
        let step = if (above < 0) == (below < 0) { 1 } else { -1 };
        let units = if away { whole + step } else { whole };
        Ok((Self { units, scale: decimals }.normal(), true))
    }

    /// The sum; nothing where it has more than 30 digits.
    pub fn plus(self, other: Self) -> Option<Self> {
        let scale = self.scale.max(other.scale);
        let raised = |number: Self| number.units.checked_mul(10_i128.checked_pow(scale - number.scale)?);
        Self { units: raised(self)?.checked_add(raised(other)?)?, scale }.normal().short_enough()
    }

    /// The difference; nothing where it has more than 30 digits.
    pub fn minus(self, other: Self) -> Option<Self> {
        self.plus(Self { units: -other.units, ..other })
    }

    /// The product; nothing where it has more than 30 digits.
    pub fn times(self, other: Self) -> Option<Self> {
        let units = self.units.checked_mul(other.units)?;
        Self { units, scale: self.scale.checked_add(other.scale)? }.normal().short_enough()
    }

    /// The number in parts of a scale that all numbers with few decimals share; nothing for others.
    fn in_few_parts(self) -> Option<i128> {
        const TENS: [i128; 7] = [1_000_000, 100_000, 10_000, 1_000, 100, 10, 1];
        let tens = *TENS.get(self.scale as usize)?;
        i64::try_from(self.units).ok().map(|units| i128::from(units) * tens)
    }

    fn short_enough(self) -> Option<Self> {
        (decimal_length(self.units) <= MOST_DIGITS && self.scale as usize <= MOST_DIGITS).then_some(self)
    }

    fn normal(mut self) -> Self {
        while self.scale > 0 && self.units % 10 == 0 {
            self.units /= 10;
            self.scale -= 1;
        }
        self
    }
}

fn decimal_length(units: i128) -> usize {
    units.unsigned_abs().checked_ilog10().map_or(1, |log| log as usize + 1)
}

/// Why a number could not be brought into the wanted form.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Inexact {
    /// Digits would be lost and no rounding is named.
    NeedsRounding,
    /// It grows past what can be reckoned with exactly.
    TooLong,
}

impl Ord for Decimal {
    fn cmp(&self, other: &Self) -> Ordering {
        if self.scale == other.scale {
            return self.units.cmp(&other.units);
        }
        // Most numbers are so small that both fit when they are brought to the same scale.
        if let (Some(own), Some(others)) = (self.in_few_parts(), other.in_few_parts()) {
            return own.cmp(&others);
        }
        // Whole parts first; the rests are below one and have at most 30 digits, so both can be
        // brought to the same scale without overflow.
        let parts = |number: &Self| {
            let tens = 10_i128.pow(number.scale.min(MOST_DIGITS as u32));
            let rest = (number.units % tens)
                * 10_i128.pow(MOST_DIGITS as u32 - number.scale.min(MOST_DIGITS as u32));
            (number.units / tens, rest)
        };
        parts(self).cmp(&parts(other))
    }
}

impl PartialOrd for Decimal {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl fmt::Display for Decimal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.units < 0 {
            f.write_str("-")?;
        }
        let units = self.units.unsigned_abs();
        // Two machine words are divided far more slowly than one.
        if let Some((units, tens)) = u64::try_from(units).ok().zip(10_u64.checked_pow(self.scale)) {
            write!(f, "{}", units / tens)?;
            if self.scale > 0 {
                write!(f, ".{:0width$}", units % tens, width = self.scale as usize)?;
            }
            return Ok(());
        }
        let tens = 10_u128.pow(self.scale.min(MOST_DIGITS as u32));
        write!(f, "{}", units / tens)?;
        if self.scale > 0 {
            write!(f, ".{:0width$}", units % tens, width = self.scale as usize)?;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn number(text: &str) -> Decimal {
        Decimal::parse(text).unwrap()
    }

    #[test]
    fn rounding_happens_only_when_named_and_as_named() {
        let tenths = |text: &str, rounding| number(text).scaled((1, 0, 1), 1, rounding);
        assert_eq!(tenths("2.25", None), Err(Inexact::NeedsRounding));
        assert_eq!(tenths("2.50", None), Ok((number("2.5"), false)));
        assert_eq!(tenths("2.25", Some(Rounding::HalfUp)), Ok((number("2.3"), true)));
        assert_eq!(tenths("2.25", Some(Rounding::HalfEven)), Ok((number("2.2"), true)));
        assert_eq!(tenths("-2.25", Some(Rounding::HalfUp)), Ok((number("-2.3"), true)));
        assert_eq!(tenths("-2.21", Some(Rounding::Up)), Ok((number("-2.3"), true)));
        assert_eq!(tenths("2.29", Some(Rounding::Down)), Ok((number("2.2"), true)));
    }

    proptest! {
        #[test]
        fn what_is_written_reads_back_and_compares_like_integers(a in -999_999i64..999_999, b in -999_999i64..999_999, scale in 0u32..6) {
            let (a, b) = (Decimal { units: a.into(), scale }, Decimal { units: b.into(), scale });
            prop_assert_eq!(Decimal::parse(&a.to_string()), Some(a.normal()));
            prop_assert_eq!(a.normal().cmp(&b.normal()), a.units.cmp(&b.units));
        }

        #[test]
        fn no_text_panics(text in "[-+]?[0-9]{0,40}[.,]?[0-9]{0,40}") {
            if let Some(number) = Decimal::parse(&text) {
                let _ = number.scaled((45_359_237, 0, 100_000_000), 2, Some(Rounding::HalfUp));
            }
        }
    }

    /// Numbers of few digits, as a plain reckoning in thousandths has them.
    fn thousandths() -> impl Strategy<Value = (Decimal, i128)> {
        (-2_000_000_000_i64..2_000_000_000).prop_map(|thousandths| {
            let sign = if thousandths < 0 { "-" } else { "" };
            let (whole, rest) = (thousandths.unsigned_abs() / 1000, thousandths.unsigned_abs() % 1000);
            (Decimal::parse(&format!("{sign}{whole}.{rest:03}")).unwrap(), i128::from(thousandths))
        })
    }

    fn shown(units: i128, decimals: usize) -> String {
        let power = 10_i128.pow(decimals as u32);
        let sign = if units < 0 { "-" } else { "" };
        let text = format!("{sign}{}.{:0decimals$}", units.abs() / power, units.abs() % power);
        let text = text.trim_end_matches('0').trim_end_matches('.');
        if text == "-0" { "0".into() } else { text.into() }
    }

    proptest! {
        #[test]
        fn reckoning_is_exact((one, a) in thousandths(), (other, b) in thousandths()) {
            prop_assert_eq!(one.to_string(), shown(a, 3));
            prop_assert_eq!(one.plus(other).unwrap().to_string(), shown(a + b, 3));
            prop_assert_eq!(one.minus(other).unwrap().to_string(), shown(a - b, 3));
            prop_assert_eq!(one.times(other).unwrap().to_string(), shown(a * b, 6));
            prop_assert_eq!(one.cmp(&other), a.cmp(&b));
            prop_assert_eq!(one == other, a == b);
        }
    }
}
