//! One unit for each of another: kg/ha, mg/l, EUR/kg.

use std::sync::{Mutex, PoisonError};

use super::{Dimension, Unit, gcd};

/// Those that were met so far. There are no more than pairs of known units, so they may stay for good.
static MET: Mutex<Vec<&'static Unit>> = Mutex::new(Vec::new());

/// The rate that a symbol names, "kg/ha" or "kg per ha".
pub(super) fn find(symbol: &str) -> Option<&'static Unit> {
    let (above, below) = symbol.split_once('/').or_else(|| symbol.split_once(" per "))?;
    rate(Unit::of_table(above.trim())?, Unit::of_table(below.trim())?)
}

/// The unit that is one for each of another; nothing where nothing can be reckoned with it.
pub(super) fn rate(above: &'static Unit, below: &'static Unit) -> Option<&'static Unit> {
    let symbol = format!("{}/{}", above.symbol, below.symbol);
    if let Some(known) = Unit::of_table(&symbol) {
        return Some(known);
    }
    let mut met = MET.lock().unwrap_or_else(PoisonError::into_inner);
    if let Some(known) = met.iter().find(|unit| unit.symbol == symbol) {
        return Some(known);
    }
    let dimension = divided(above.dimension, below.dimension)?;
    let ((a, 0, b), (c, 0, d)) = (above.to_base, below.to_base) else { return None };
    // A share is counted in hundredths.
    let hundred = if dimension == Dimension::Share { 100 } else { 1 };
    let (times, by) = (a.checked_mul(d)?.checked_mul(hundred)?, b.checked_mul(c)?);
    let divisor = gcd(times, by).max(1);
    let name: &'static str = format!("{} for each {}", above.name, below.symbol).leak();
    let unit: &'static Unit = Box::leak(Box::new(Unit {
        symbol: symbol.leak(),
        also: &[],
        name,
        dimension,
        to_base: (times / divisor, 0, by / divisor),
    }));
    met.push(unit);
    Some(unit)
}

fn divided(above: Dimension, below: Dimension) -> Option<Dimension> {
    let Dimension::Physical(below) = below else { return None };
    let minus = |above: [i8; 3]| {
        let [a, b, c] = above;
        let [d, e, f] = below;
        [a - d, b - e, c - f]
    };
    match above {
        Dimension::Physical(above) if above == below => Some(Dimension::Share),
        Dimension::Physical(above) => Some(Dimension::Physical(minus(above))),
        Dimension::Money(code, above) => Some(Dimension::Money(code, minus(above))),
        Dimension::Share | Dimension::Temperature | Dimension::Angle | Dimension::Radian => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::UnitConversion;

    #[test]
    fn rates_are_converted_by_both_of_their_units() {
        let way = |from: &str, to: &str| {
            UnitConversion::new(find(from).unwrap(), Unit::find(to).unwrap()).map(|way| way.factors).ok()
        };
        assert_eq!(way("kg/ha", "t/ha"), Some((1, 0, 1_000)));
        assert_eq!(way("g/m2", "kg/ha"), Some((10, 0, 1)));
        assert_eq!(way("mg/kg", "ppm"), Some((1, 0, 1)));
        assert_eq!(way("l/min", "m3/h"), Some((3, 0, 50)));
        assert_eq!(way("gal_us/min", "l/min"), Some((473_176_473, 0, 125_000_000)));
        assert_eq!(way("EUR/kg", "EUR/t"), Some((1_000, 0, 1)));
        assert_eq!(way("EUR/kg", "GBP/kg"), None, "a currency is never converted");
        assert_eq!(way("kg/ha", "kg"), None);
        assert!(std::ptr::eq(find("mg/l").unwrap(), find("mg per l").unwrap()), "each is made once");
        assert_eq!(find("°C/m"), None);
        assert_eq!(find("kg/box"), None);
    }
}
