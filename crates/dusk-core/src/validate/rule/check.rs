//! Words become an expression, and both sides of every comparison are of one type.

use jiff::civil::Date;

use super::words::Word;
use super::{Comparison, Expression, Operand, RuleError, error};
use crate::value::{Decimal, Value, ValueType};

/// How deep brackets may stand inside brackets.
const DEEPEST: usize = 50;

pub(super) struct Parser<'a> {
    words: std::slice::Iter<'a, Word>,
    field: &'a dyn Fn(&str) -> Option<(usize, ValueType)>,
    depth: usize,
}

impl<'a> Parser<'a> {
    pub(super) fn new(words: &'a [Word], field: &'a dyn Fn(&str) -> Option<(usize, ValueType)>) -> Self {
        Self { words: words.iter(), field, depth: 0 }
    }

    pub(super) fn parse(mut self) -> Result<Expression, RuleError> {
        let expression = self.any()?;
        match self.words.next() {
            None => Ok(expression),
            Some(word) => Err(error(
                format!("\"{word}\" follows where the rule is over"),
                "join comparisons with and, or",
            )),
        }
    }

    fn any(&mut self) -> Result<Expression, RuleError> {
        let mut parts = vec![self.all()?];
        while self.takes_name("or") {
            parts.push(self.all()?);
        }
        Ok(one_or(parts, Expression::Any))
    }

    fn all(&mut self) -> Result<Expression, RuleError> {
        let mut parts = vec![self.single()?];
        while self.takes_name("and") {
            parts.push(self.single()?);
        }
        Ok(one_or(parts, Expression::All))
    }

    fn takes_name(&mut self, name: &str) -> bool {
        let found = matches!(self.words.as_slice().first(), Some(Word::Name(word)) if word == name);
        if found {
            self.words.next();
        }
        found
    }

    fn single(&mut self) -> Result<Expression, RuleError> {
        if self.words.as_slice().first() == Some(&Word::Open) {
            self.words.next();
            self.depth += 1;
            if self.depth > DEEPEST {
                return Err(error(
                    "brackets stand too deep in one another",
                    "write the rule as several rules",
                ));
            }
            let inner = self.any()?;
            self.depth -= 1;
            return match self.words.next() {
                Some(Word::Close) => Ok(inner),
                _ => Err(error("a bracket is not closed", "put ) after the comparison")),
            };
        }
        let (left, left_type, left_word) = self.operand()?;
        let comparison = match self.words.next() {
            Some(Word::Compare(comparison)) => *comparison,
            Some(word) => {
                return Err(error(
                    format!("\"{word}\" stands where a comparison is wanted"),
                    "write =, !=, <, <=, > or >=",
                ));
            }
            None => {
                return Err(error(
                    "it ends where a comparison is wanted",
                    "write =, !=, <, <=, > or >= and a value",
                ));
            }
        };
        let (right, right_type, right_word) = self.operand()?;
        if left_type != right_type {
            return Err(error(
                format!(
                    "\"{left_word}\" is a {} and \"{right_word}\" is a {}, so they cannot be compared",
                    left_type.word(),
                    right_type.word()
                ),
                "compare fields and values of one type",
            ));
        }
        let ordered = !matches!(comparison, Comparison::Equal | Comparison::NotEqual);
        if ordered && left_type == ValueType::Boolean {
            return Err(error("true and false have no order", "write = or !="));
        }
        Ok(Expression::Compare(left, comparison, right))
    }

    fn operand(&mut self) -> Result<(Operand, ValueType, String), RuleError> {
        let Some(word) = self.words.next() else {
            return Err(error(
                "it ends where a field or a value is wanted",
                "write a field's name, a number, a date or a \"text\"",
            ));
        };
        let shown = word.to_string();
        let fixed = |value: Value, kind: ValueType, text: &str| {
            Ok((Operand::Fixed(value, text.to_owned()), kind, shown.clone()))
        };
        match word {
            Word::Name(name) if name == "true" || name == "false" => {
                fixed(Value::Boolean(name == "true"), ValueType::Boolean, "")
            }
            Word::Name(name) => match (self.field)(name) {
                Some((place, kind)) => Ok((Operand::Field(place), kind, shown)),
                None => Err(RuleError {
                    says: format!("there is no field \"{name}\""),
                    hint: String::new(),
                    unknown_field: Some(name.clone()),
                }),
            },
            Word::Text(text) => fixed(Value::Text, ValueType::Text, text),
            Word::Number(text) => {
                if let Some(number) = Decimal::parse(text) {
                    fixed(Value::Number(number), ValueType::Number, "")
                } else if let Ok(day) = text.parse::<Date>() {
                    fixed(Value::Date(day), ValueType::Date, "")
                } else {
                    Err(error(
                        format!("\"{text}\" is neither a number nor a day"),
                        "write a number as 12.5 and a day as 2026-03-04",
                    ))
                }
            }
            other => Err(error(
                format!("\"{other}\" stands where a field or a value is wanted"),
                "write a field's name, a number, a date or a \"text\"",
            )),
        }
    }
}

fn one_or(mut parts: Vec<Expression>, join: fn(Vec<Expression>) -> Expression) -> Expression {
    match (parts.pop(), parts.is_empty()) {
        (Some(only), true) => only,
        (last, _) => {
            parts.extend(last);
            join(parts)
        }
    }
}
