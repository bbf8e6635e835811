//! Units of measurement and exact conversion between them.
//!
//! Symbols follow UCUM where stewards use them (`kg`, `[lb_av]`), with the everyday forms beside
//! them (`lb`). The factors are the exact legal definitions: the international yard and pound of
//! 1959, the US gallon of 231 cubic inches, the imperial gallon of 4.54609 litres.

use crate::nearest;

/// What a unit measures.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Dimension {
    Mass,
    Length,
    Volume,
    Temperature,
    Share,
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

const fn unit(
    symbol: &'static str,
    also: &'static [&'static str],
    name: &'static str,
    dimension: Dimension,
    times: i128,
    by: i128,
) -> Unit {
    Unit { symbol, also, name, dimension, to_base: (times, 0, by) }
}

/// Every unit known, in the base units gram, millimetre, millilitre, degree Celsius and
/// percent.
static UNITS: [Unit; 20] = [
    unit("%", &[], "percent", Dimension::Share, 1, 1),
    unit("1", &[], "a share of one", Dimension::Share, 100, 1),
    unit("g", &[], "grams", Dimension::Mass, 1, 1),
    unit("kg", &["kgs"], "kilograms", Dimension::Mass, 1_000, 1),
    unit("t", &[], "tonnes", Dimension::Mass, 1_000_000, 1),
    unit("oz", &["[oz_av]"], "ounces", Dimension::Mass, 28_349_523_125, 1_000_000_000),
    unit("lb", &["lbs", "[lb_av]"], "pounds", Dimension::Mass, 45_359_237, 100_000),
    unit("mm", &[], "millimetres", Dimension::Length, 1, 1),
    unit("cm", &[], "centimetres", Dimension::Length, 10, 1),
    unit("m", &[], "metres", Dimension::Length, 1_000, 1),
    unit("km", &[], "kilometres", Dimension::Length, 1_000_000, 1),
    unit("in", &["[in_i]"], "inches", Dimension::Length, 254, 10),
    unit("ft", &["[ft_i]"], "feet", Dimension::Length, 3_048, 10),
    unit("mi", &["[mi_i]"], "miles", Dimension::Length, 1_609_344, 1),
    unit("ml", &["mL"], "millilitres", Dimension::Volume, 1, 1),
    unit("l", &["L"], "litres", Dimension::Volume, 1_000, 1),
    unit("gal_us", &["[gal_us]"], "US gallons", Dimension::Volume, 3_785_411_784, 1_000_000),
    unit("gal_br", &["[gal_br]"], "imperial gallons", Dimension::Volume, 454_609, 100),
    unit("°C", &["Cel", "degC"], "degrees Celsius", Dimension::Temperature, 1, 1),
    Unit {
        symbol: "°F",
        also: &["[degF]", "degF"],
        name: "degrees Fahrenheit",
        dimension: Dimension::Temperature,
        to_base: (5, -160, 9),
    },
];

/// Why a symbol names no unit, or two units do not go together.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct UnitError {
    /// What is wrong.
    pub says: String,
    /// What would be right.
    pub hint: String,
}

impl Unit {
    /// The unit with this symbol.
    ///
    /// # Errors
    /// Says the nearest symbol, or which two units a "gal" might be.
    pub fn named(symbol: &str) -> Result<&'static Self, UnitError> {
        if let Some(unit) = Self::find(symbol) {
            return Ok(unit);
        }
        if symbol.eq_ignore_ascii_case("gal") {
            return Err(UnitError {
                says: "\"gal\" is two different units".into(),
                hint: "write gal_us (3.785 litres) or gal_br (the imperial gallon, 4.546 litres)".into(),
            });
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

    /// The unit with this symbol, if it is one.
    pub fn find(symbol: &str) -> Option<&'static Self> {
        UNITS.iter().find(|unit| unit.symbol == symbol || unit.also.contains(&symbol))
    }

    /// The symbol.
    pub fn symbol(&self) -> &'static str {
        self.symbol
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
        if from.dimension != to.dimension {
            return Err(UnitError {
                says: format!("{} cannot become {}", from.name, to.name),
                hint: format!("the target wants {}; name a unit that measures the same", to.symbol),
            });
        }
        let (a, c, b) = from.to_base;
        let (d, f, e) = to.to_base;
        let (times, plus, by) = (a * e, c * e - f * b, b * d);
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
    fn what_is_not_one_unit_is_said() {
        assert!(Unit::named("gal").unwrap_err().hint.contains("gal_br"));
        let (kg, m) = (Unit::named("kg").unwrap(), Unit::named("m").unwrap());
        assert!(UnitConversion::new(kg, m).is_err());
    }
}
