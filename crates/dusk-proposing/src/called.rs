//! Everything a field is called, and what is said about it.

use super::hints::Hints;
use super::names::Name;
use super::trade_words::TradeWords;
use dusk_description::Field;

/// Everything a field is called, and what is said about it.
#[derive(Debug)]
pub(super) struct Called {
    pub(super) names: Vec<Name>,
    pub(super) text: Option<Name>,
    pub(super) hints: Hints,
    pub(super) is_only_date: bool,
}

impl Called {
    pub(super) fn of(field: &Field, (is_only_key, is_only_date): (bool, bool), words: &TradeWords) -> Self {
        let heading = field.heading.iter();
        let mut names: Vec<Name> = Vec::new();
        for name in [&field.name].into_iter().chain(heading).chain(&field.label).chain(&field.also) {
            let name = Name::of(name, words);
            if !names.contains(&name) {
                names.push(name);
            }
        }
        let text = field.description.as_ref().map(|text| Name::of(text, words));
        let hints = Hints::of(field, &names, (text.as_ref(), is_only_key));
        Self { names, text, hints, is_only_date }
    }
}
