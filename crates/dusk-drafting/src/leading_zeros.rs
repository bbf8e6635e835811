//! Figures whose zeros in front count, as the words beside a field say.

use super::claim::{Place, Setting};
use super::facts::{FieldFact, fold};
use super::fields::Resolver;
use super::limit_words::sized;
use super::vocabulary::{Words, leads, meaning};

impl Resolver<'_> {
    /// Whether zeros in front are said to count: then the values are texts of digits, whatever their type is called.
    pub(super) fn keeps_zeros(&self) -> bool {
        self.about_zeros().any(|is_denied| !is_denied)
    }

    /// For each text beside the field that speaks of zeros in front, whether it says that there are none.
    fn about_zeros(&self) -> impl Iterator<Item = bool> {
        self.one.description.iter().filter_map(|(text, _)| {
            let lower = text.to_lowercase();
            let at = leads(Words::Zeros).iter().find_map(|words| lower.find(words.as_str()))?;
            let before = lower.get(..at).unwrap_or_default();
            Some(before.split(' ').rev().take(3).any(|word| meaning(Words::Without, word).is_some()))
        })
    }

    /// How many digits a text has by the words beside it: "six digits", "six digits with leading zeros". Nothing where
    /// zeros in front are said not to be there: then six digits are the most.
    pub(super) fn told_digits(&self) -> Option<(u64, Place)> {
        if self.about_zeros().any(|is_denied| is_denied) {
            return None;
        }
        self.told(|clause| {
            let lower = clause.to_lowercase();
            let at = leads(Words::Zeros).iter().find_map(|words| lower.find(words.as_str()));
            let before = at.and_then(|at| lower.get(..at)).unwrap_or(&lower);
            let words: Vec<&str> = before.split_whitespace().collect();
            // A word like "with" may stand before the zeros; without them all of it has to be about digits.
            let may_be_over = if at.is_some() { 2 } else { 0 };
            let begins = (0..=may_be_over).filter_map(|left| words.get(..words.len().checked_sub(left)?));
            let digits = begins.map(|some| some.join(" ")).find_map(|some| {
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
