//! Figures whose zeros in front count, as the words beside a field say.

use super::claim::{Place, Setting};
use super::facts::{FieldFact, fold};
use super::fields::Resolver;
use super::limit_words::sized;
use super::vocabulary::{Words, leads, meaning};

impl Resolver<'_> {
    /// Whether zeros in front are said to count: then the values are texts of digits, whatever their type is called.
    pub(super) fn keeps_zeros(&self) -> bool {
        self.one.description.iter().any(|(text, _)| {
            let lower = text.to_lowercase();
            let found = leads(Words::Zeros).iter().find_map(|words| lower.find(words.as_str()));
            let before = found.and_then(|at| lower.get(..at)).unwrap_or_default();
            let is_denied =
                || before.split(' ').rev().take(3).any(|word| meaning(Words::Without, word).is_some());
            found.is_some() && !is_denied()
        })
    }

    /// How many digits a text has by the words beside it: "six digits", "six digits with leading zeros".
    pub(super) fn told_digits(&self) -> Option<(u64, Place)> {
        self.told(|clause| {
            let lower = clause.to_lowercase();
            let at = leads(Words::Zeros).iter().find_map(|words| lower.find(words.as_str()));
            let before = at.and_then(|at| lower.get(..at)).unwrap_or(&lower);
            let words: Vec<&str> = before.split_whitespace().collect();
            // A word like "with" or "and" may stand between the two.
            let digits =
                (0..=2).filter_map(|left| words.get(..words.len().checked_sub(left)?)).find_map(|some| {
                    let some = some.join(" ");
                    match sized(&some, &fold(&some))?.as_slice() {
                        [FieldFact::Digits(digits)] => Some(*digits),
                        _ => None,
                    }
                });
            digits.filter(|digits| *digits > 0)
        })
    }

    /// A text of digits whose type is a number.
    pub(super) fn figures_as_text(&mut self, place: &Place) {
        self.claim("type", Setting::Text("text".into()), place);
        let size = self.fact(|fact| match fact {
            FieldFact::Digits(size) | FieldFact::Length(size) | FieldFact::Precision(size, 0) => Some(*size),
            _ => None,
        });
        if let Some((size, place)) = size {
            let key = if self.digits().is_some() { "digits" } else { "max_length" };
            self.claim(key, Setting::Whole(size), &place);
        }
        self.ask("is a number by its type, and zeros in front count; type = \"text\" was written", place);
    }
}
