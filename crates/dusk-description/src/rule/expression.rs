//! A number that is reckoned from others, in the words of the rules.

use jiff::civil::Date;

use super::evaluate::Scene;
use super::parse::Parser;
use super::tree::Term;
use super::{RuleError, words};
use dusk_evidence::FieldId;
use dusk_values::{Decimal, Value, ValueType};

/// An expression such as `{Price} * {Copies}`.
#[derive(Debug, Clone, PartialEq)]
pub struct Expression {
    term: Term,
}

impl Expression {
    /// Reads an expression whose names are numbers. `field` gives each its place.
    ///
    /// # Errors
    /// Names the word that is wrong and says where it stands.
    pub fn parse(text: &str, field: &dyn Fn(&str) -> Option<FieldId>) -> Result<Self, RuleError> {
        let number = |name: &str| field(name).map(|place| (place, ValueType::Number));
        words::split(text)
            .and_then(|words| Parser::new(&words, text.len(), &number).expression())
            .map(|term| Self { term })
            .map_err(|error| error.of(text))
    }

    /// What it comes to; nothing where a number is blank, or the result is too large to be exact.
    pub fn number(&self, value: &dyn Fn(FieldId) -> Option<Decimal>, today: Date) -> Option<Decimal> {
        let value = |place: FieldId| (value(place).map_or(Value::Blank, Value::Number), "");
        let scene = Scene { value: &value, over: &|_, _| None, today, loosely: false };
        match scene.worth(&self.term)?.0 {
            Value::Number(number) => Some(number),
            _ => None,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use dusk_evidence::Id as _;

    #[test]
    fn numbers_are_reckoned_exactly_and_a_blank_gives_nothing() {
        let place =
            |name: &str| ["Price", "Copies"].iter().position(|known| *known == name).map(FieldId::new);
        let reckoned = |text: &str, price: Option<&str>| {
            let value = |place: FieldId| {
                if place.index() == 0 { Decimal::parse(price?) } else { Decimal::parse("3") }
            };
            let expression = Expression::parse(text, &place).map_err(|error| error.says)?;
            Ok::<_, String>(
                expression.number(&value, jiff::civil::date(2026, 4, 1)).map(|number| number.to_string()),
            )
        };
        assert_eq!(reckoned("{Price} * {Copies} + 0.1", Some("0.1")), Ok(Some("0.4".into())));
        assert_eq!(reckoned("-({Price} - {Copies})", Some("1")), Ok(Some("2".into())));
        assert_eq!(reckoned("{Price} * {Copies}", None), Ok(None));
        assert!(reckoned("{Price} * {Pages}", Some("1")).is_err());
        assert!(reckoned("{Price} = 1", Some("1")).is_err(), "a comparison is no number");
        assert!(reckoned("today", Some("1")).is_err(), "a day is no number");
    }
}
