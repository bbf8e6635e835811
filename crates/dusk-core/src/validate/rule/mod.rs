//! The rule language: comparisons between fields, and between a field and a value, joined by
//! `and` and `or`.
//!
//! ```text
//! rule       = all { "or" all }
//! all        = single { "and" single }
//! single     = "(" rule ")" | operand compare operand
//! compare    = "=" | "!=" | "<" | "<=" | ">" | ">="
//! operand    = field | number | "text" | date (2026-03-04) | true | false
//! ```
//!
//! A comparison with a blank field is undecided. `and` and `or` carry that on where it matters,
//! and a rule that stays undecided does not reject: whether a field may be blank is said by
//! `required`.

mod check;
mod words;

use std::cmp::Ordering;

use crate::value::{Value, ValueType};

/// A rule of the target, parsed and type-checked.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Rule {
    /// What the rule is called.
    pub name: String,
    /// The rule as it is written.
    pub must: String,
    /// What to tell a steward whose row breaks it.
    pub says: String,
    expression: Expression,
}

/// Why a rule cannot be read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RuleError {
    /// What is wrong, naming the word.
    pub says: String,
    /// What would be right.
    pub hint: String,
    /// The word, where it was taken for a field that does not exist.
    pub unknown_field: Option<String>,
}

#[derive(Debug, Clone, PartialEq, Eq)]
enum Expression {
    All(Vec<Expression>),
    Any(Vec<Expression>),
    Compare(Operand, Comparison, Operand),
}

#[derive(Debug, Clone, PartialEq, Eq)]
enum Operand {
    Field(usize),
    Fixed(Value, String),
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Comparison {
    Equal,
    NotEqual,
    Less,
    LessOrEqual,
    Greater,
    GreaterOrEqual,
}

impl Rule {
    /// Reads the rule `must`. `field` gives the place and the type of a field by its name.
    ///
    /// # Errors
    /// Names the word that is wrong.
    pub fn parse(
        name: &str,
        must: &str,
        says: &str,
        field: &dyn Fn(&str) -> Option<(usize, ValueType)>,
    ) -> Result<Self, RuleError> {
        let words = words::split(must)?;
        let expression = check::Parser::new(&words, field).parse()?;
        Ok(Self { name: name.to_owned(), must: must.to_owned(), says: says.to_owned(), expression })
    }

    /// Whether the rule holds for a record whose fields `value` gives, each with its text; nothing
    /// when a blank leaves it undecided.
    pub fn holds<'v>(&self, value: &impl Fn(usize) -> (Value, &'v str)) -> Option<bool> {
        self.expression.holds(value)
    }

    /// The fields that the rule speaks of, by their places, each once.
    pub fn fields(&self) -> Vec<usize> {
        let mut fields = Vec::new();
        self.expression.collect(&mut fields);
        fields
    }
}

impl Expression {
    fn holds<'v>(&self, value: &impl Fn(usize) -> (Value, &'v str)) -> Option<bool> {
        // The side that settles the matter: one false for `and`, one true for `or`.
        let join = |parts: &[Self], settles: bool| {
            let mut undecided = false;
            for part in parts {
                match part.holds(value) {
                    Some(holds) if holds == settles => return Some(settles),
                    Some(_) => {}
                    None => undecided = true,
                }
            }
            (!undecided).then_some(!settles)
        };
        match self {
            Self::All(parts) => join(parts, false),
            Self::Any(parts) => join(parts, true),
            Self::Compare(left, comparison, right) => {
                let side = |operand: &Operand| match operand {
                    Operand::Field(place) => value(*place),
                    Operand::Fixed(value, _) => (*value, ""),
                };
                let (a, a_text) = side(left);
                let (b, b_text) = side(right);
                let fixed = |operand: &Operand, other| match operand {
                    Operand::Fixed(_, text) => text.clone(),
                    Operand::Field(_) => String::from(other),
                };
                let order = match (left, right) {
                    (Operand::Field(_), Operand::Field(_)) => a.compare(b, (a_text, b_text)),
                    _ => a.compare(b, (&fixed(left, a_text), &fixed(right, b_text))),
                }?;
                Some(comparison.accepts(order))
            }
        }
    }

    fn collect(&self, fields: &mut Vec<usize>) {
        match self {
            Self::All(parts) | Self::Any(parts) => parts.iter().for_each(|part| part.collect(fields)),
            Self::Compare(left, _, right) => {
                for operand in [left, right] {
                    if let Operand::Field(place) = operand
                        && !fields.contains(place)
                    {
                        fields.push(*place);
                    }
                }
            }
        }
    }
}

impl Comparison {
    fn accepts(self, order: Ordering) -> bool {
        match self {
            Self::Equal => order.is_eq(),
            Self::NotEqual => order.is_ne(),
            Self::Less => order.is_lt(),
            Self::LessOrEqual => order.is_le(),
            Self::Greater => order.is_gt(),
            Self::GreaterOrEqual => order.is_ge(),
        }
    }
}

fn error(says: impl Into<String>, hint: &str) -> RuleError {
    RuleError { says: says.into(), hint: hint.to_owned(), unknown_field: None }
}

#[cfg(test)]
mod tests {
    use jiff::civil::date;
    use proptest::prelude::*;

    use super::*;
    use crate::value::Decimal;

    fn field(name: &str) -> Option<(usize, ValueType)> {
        match name {
            "brood" => Some((0, ValueType::Number)),
            "frames" => Some((1, ValueType::Number)),
            "visit" => Some((2, ValueType::Date)),
            "colour" => Some((3, ValueType::Text)),
            _ => None,
        }
    }

    fn holds(must: &str, brood: Option<i64>, colour: &str) -> Option<bool> {
        let rule = Rule::parse("r", must, "", &field).unwrap();
        rule.holds(&|place| match place {
            0 => (brood.map_or(Value::Blank, |brood| Value::Number(Decimal::whole(brood))), ""),
            1 => (Value::Number(Decimal::whole(10)), ""),
            2 => (Value::Date(date(2026, 3, 4)), ""),
            _ => (Value::Text, colour),
        })
    }

    #[test]
    fn rules_compare_fields_and_values_and_blanks_leave_them_undecided() {
        assert_eq!(holds("brood <= frames", Some(10), ""), Some(true));
        assert_eq!(holds("brood <= frames", Some(11), ""), Some(false));
        assert_eq!(holds("brood <= frames", None, ""), None);
        assert_eq!(holds("brood < 5 or colour = \"W\"", Some(9), "W"), Some(true));
        assert_eq!(holds("brood < 5 or colour = \"W\"", None, "W"), Some(true));
        assert_eq!(holds("brood < 5 and colour = \"W\"", None, "B"), Some(false));
        assert_eq!(holds("visit >= 2026-01-01 and (brood = 3 or frames != 10)", Some(3), ""), Some(true));
    }

    #[test]
    fn what_cannot_be_read_names_the_word() {
        let says = |must: &str| Rule::parse("r", must, "", &field).unwrap_err().says;
        assert!(says("broood <= frames").contains("broood"));
        assert!(says("brood <= colour").contains("number"));
        assert!(says("brood <=").contains("ends"));
        assert!(says("brood ~ 3").contains('~'));
        assert!(says("(brood < 3").contains("bracket"));
        assert!(says("brood < 3 frames").contains("frames"));
    }

    proptest! {
        #[test]
        fn no_text_panics(must in "[a-z0-9 ()<>=!\".-]{0,40}") {
            let _ = Rule::parse("r", &must, "", &field);
        }
    }
}
