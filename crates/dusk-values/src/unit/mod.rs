//! Units of measurement and exact conversion between them.
//!
//! ```text
//! table    the units that are known
//! rate     one unit for each of another: kg/ha
//! mention  the unit that a heading or a text names
//! ```

mod mention;
mod rate;
mod table;

pub use mention::{Mention, Wordy};

use crate::nearest;
use table::UNITS;

/// What a unit measures.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Dimension {
    /// The powers of mass, length and time.
    Physical([i8; 3]),
    /// A part of a whole.
    Share,
    Temperature,
    Angle,
    /// An angle, of which a degree is no fraction.
    Radian,
    /// An amount of a currency, for each of what has these powers.
    Money(&'static str, [i8; 3]),
}

impl Dimension {
    const fn of(mass: i8, length: i8, time: i8) -> Self {
        Self::Physical([mass, length, time])
    }
}

/// A unit of measurement.
#[derive(Debug, PartialEq, Eq)]
pub struct Unit {
    symbol: &'static str,
    also: &'static [&'static str],
    name: &'static str,
    dimension: Dimension,
    /// In the dimension's base unit a value x is (x × times + plus) / by.
    to_base: (i128, i128, i128),
}

/// Why a symbol names no unit, or two units do not go together.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct UnitError {
    /// What is wrong.
    pub says: String,
    /// What would be right.
    pub hint: String,
}

/// Symbols that are several units, each with what to write instead.
const SEVERAL: [(&[&str], &str); 6] = [
    (&["gal", "gallon", "gallons"], "gal_us (3.785 litres) or gal_br (the imperial gallon, 4.546 litres)"),
    (&["ton", "tons"], "t (1,000 kg), ton_us (2,000 lb) or ton_br (2,240 lb)"),
    (&["pt", "pint", "pints"], "pt_us (0.473 litres) or pt_br (0.568 litres)"),
    (&["floz", "fl oz", "fluid ounce", "fluid ounces"], "floz_us (29.57 ml) or floz_br (28.41 ml)"),
    (&["$", "dollar", "dollars"], "USD, AUD, CAD or NZD"),
    (&["cal", "calories", "calorie"], "kcal where a dietary calorie is meant, or kJ"),
];

impl Unit {
    /// The unit with this symbol.
    ///
    /// # Errors
    /// Says the nearest symbol, or which units a "gal" might be.
    pub fn named(symbol: &str) -> Result<&'static Self, UnitError> {
        if let Some(unit) = Self::find(symbol) {
            return Ok(unit);
        }
        let lower = symbol.to_lowercase();
        if let Some((_, hint)) = SEVERAL.iter().find(|(words, _)| words.contains(&lower.as_str())) {
            let says = format!("\"{symbol}\" is more than one unit");
            return Err(UnitError { says, hint: format!("write {hint}") });
        }
        // Of a rate, each side may be unclear.
        if let Some((above, below)) = lower.split_once('/')
            && let Some((word, hint)) = [above, below].iter().find_map(|side| {
                SEVERAL.iter().find(|(words, _)| words.contains(side)).map(|(_, hint)| (side, hint))
            })
        {
            let says = format!("\"{word}\" in \"{symbol}\" is more than one unit");
            return Err(UnitError { says, hint: format!("write {hint} instead of {word}") });
        }
        let known: Vec<&str> = UNITS.iter().map(|unit| unit.symbol).collect();
        Err(UnitError {
            says: format!("there is no unit \"{symbol}\""),
            hint: match nearest(symbol, known.iter().copied()) {
                Some(near) => format!("did you mean \"{near}\"?"),
                None => format!("known units: {}", known.join(", ")),
            },
        })
    }

    /// The unit with this symbol, if it is one: of the table, or one for each of another (`kg/ha`).
    pub fn find(symbol: &str) -> Option<&'static Self> {
        Self::of_table(symbol).or_else(|| rate::find(symbol))
    }

    fn of_table(symbol: &str) -> Option<&'static Self> {
        UNITS.iter().find(|unit| unit.symbol == symbol || unit.also.contains(&symbol))
    }

    /// The symbol.
    pub fn symbol(&self) -> &'static str {
        self.symbol
    }

    /// What it is called: "kilograms".
    pub fn name(&self) -> &'static str {
        self.name
    }

    /// Whether it is a currency.
    pub fn is_currency(&self) -> bool {
        matches!(self.dimension, Dimension::Money(_, [0, 0, 0]))
    }

    /// Whether a number in the one is another number in the other: litres and gallons, but not euros and
    /// pounds sterling, nor litres and kilograms.
    pub fn measures_the_same(&self, other: &Self) -> bool {
        self.dimension == other.dimension
    }
}

/// The exact way from one unit to another: x becomes (x × times + plus) / by.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct UnitConversion {
    /// The unit that the source is in.
    pub from: &'static Unit,
    /// The unit that the target wants.
    pub to: &'static Unit,
    /// times, plus and by.
    pub factors: (i128, i128, i128),
}

impl UnitConversion {
    /// The way from `from` to `to`.
    ///
    /// # Errors
    /// When the two do not measure the same thing.
    pub fn new(from: &'static Unit, to: &'static Unit) -> Result<Self, UnitError> {
        let refused = || {
            let hint = match (from.dimension, to.dimension) {
                (Dimension::Money(..), Dimension::Money(..)) => {
                    "a currency is never converted; have the amounts exported in the target's".to_owned()
                }
                _ => format!("the target wants {}; name a unit that measures the same", to.symbol),
            };
            UnitError { says: format!("{} cannot become {}", from.name, to.name), hint }
        };
        if from.dimension != to.dimension {
            return Err(refused());
        }
        let (a, c, b) = from.to_base;
        let (d, f, e) = to.to_base;
        let times = a.checked_mul(e).ok_or_else(refused)?;
        let by = b.checked_mul(d).ok_or_else(refused)?;
        let plus = c * e - f * b;
        let divisor = gcd(gcd(times, plus), by).max(1);
        Ok(Self { from, to, factors: (times / divisor, plus / divisor, by / divisor) })
    }
}

fn gcd(a: i128, b: i128) -> i128 {
    if b == 0 { a.abs() } else { gcd(b, a % b) }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Decimal, Rounding};

    fn convert(text: &str, from: &str, to: &str) -> String {
        let way = UnitConversion::new(Unit::named(from).unwrap(), Unit::named(to).unwrap()).unwrap();
        let (number, _) =
            Decimal::parse(text).unwrap().scaled(way.factors, 10, Some(Rounding::HalfUp)).unwrap();
        number.to_string()
    }

    #[test]
    fn definitions_are_exact_both_ways() {
        assert_eq!(convert("1", "lb", "kg"), "0.45359237");
        assert_eq!(convert("0.45359237", "kg", "lb"), "1");
        assert_eq!(convert("1", "oz", "g"), "28.349523125");
        assert_eq!(convert("1", "t", "kg"), "1000");
        assert_eq!(convert("1", "mi", "km"), "1.609344");
        assert_eq!(convert("3", "ft", "m"), "0.9144");
        assert_eq!(convert("1", "in", "cm"), "2.54");
        assert_eq!(convert("1", "gal_br", "l"), "4.54609");
        assert_eq!(convert("1", "gal_us", "ml"), "3785.411784");
        assert_eq!(convert("-40", "°F", "°C"), "-40");
        assert_eq!(convert("98.6", "°F", "°C"), "37");
        assert_eq!(convert("100", "°C", "°F"), "212");
    }

    #[test]
    fn there_and_back_is_the_same_number_for_all_units_that_measure_the_same() {
        for from in &UNITS {
            for to in UNITS.iter().filter(|to| to.measures_the_same(from)) {
                let (there, back) =
                    (UnitConversion::new(from, to).unwrap(), UnitConversion::new(to, from).unwrap());
                let ((a, b, c), (d, e, f)) = (there.factors, back.factors);
                // ((x a + b) / c · d + e) / f = x for every x.
                assert_eq!(a.checked_mul(d), c.checked_mul(f), "{} to {}", from.symbol, to.symbol);
                assert_eq!(b * d + e * c, 0, "{} to {}", from.symbol, to.symbol);
            }
        }
    }

    #[test]
    fn what_is_not_one_unit_is_said() {
        assert!(Unit::named("gal").unwrap_err().hint.contains("gal_br"));
        let (kg, m) = (Unit::named("kg").unwrap(), Unit::named("m").unwrap());
        assert!(UnitConversion::new(kg, m).is_err());
    }
}
