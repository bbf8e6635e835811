//! What is reckoned over many records, as rules write it.

use std::ops::Range;

use super::RuleError;
use super::parse::{Parser, Typed};
use super::tree::{Over, RESERVED, Term};
use super::words::Word;
use dusk_evidence::FieldId;
use dusk_values::ValueType;

/// A field that is reckoned over many records.
struct OverField {
    field: (FieldId, String),
    kind: ValueType,
    at: Range<usize>,
}

impl Parser<'_> {
    /// What stands behind its words: a field, or several that are multiplied record by record.
    pub(super) fn over(&mut self, over: Over, start: usize) -> Result<Typed, RuleError> {
        let OverField { field: first, kind, at } = self.over_field()?;
        let gives = match (over, kind) {
            (Over::Sum, ValueType::Number) | (Over::Different, _) => ValueType::Number,
            (
                Over::Smallest | Over::Largest,
                ValueType::Number | ValueType::Date | ValueType::DateTime | ValueType::Time,
            ) => kind,
            _ => return Err(no_sum(kind, at)),
        };
        let mut fields = vec![first];
        // A field behind a sign is multiplied record by record; a number multiplies the sum, which is the same.
        while over == Over::Sum && self.is_product_of_fields() {
            self.at += 1;
            let OverField { field, kind, at } = self.over_field()?;
            if kind != ValueType::Number {
                return Err(no_sum(kind, at));
            }
            fields.push(field);
        }
        Ok((Term::Over(over, fields), gives, self.place_since(start)))
    }

    /// The field that is reckoned over many records.
    fn over_field(&mut self) -> Result<OverField, RuleError> {
        let at = self.place();
        let name = match self.peek() {
            Some(Word::Name(name) | Word::Braced(name)) => name,
            _ => return Err(self.wrong("is where a field should be", "write the name of one field")),
        };
        self.at += 1;
        let (term, kind, at) = self.field(name, at)?;
        match term {
            Term::Field(place, name) => Ok(OverField { field: (place, name), kind, at }),
            _ => Err(self.wrong("is where a field should be", "write a field's name")),
        }
    }

    /// Whether a sign and the name of a field follow.
    fn is_product_of_fields(&self) -> bool {
        let next = self.words.get(self.at + 1).map(|placed| &placed.word);
        let is_field = match next {
            Some(Word::Braced(_)) => true,
            Some(Word::Name(name)) => !RESERVED.contains(&name.as_str()),
            _ => false,
        };
        self.peek() == Some(&Word::Times) && is_field
    }
}

fn no_sum(kind: ValueType, at: Range<usize>) -> RuleError {
    let says = format!("this is a {}, which has no sum and no size", kind.word());
    RuleError::new(says, "use a number or a date", at)
}
