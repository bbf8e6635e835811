//! Everything a field is called, and what is said about it.

use super::ReadLimits;
use super::hints::Hints;
use super::names::Name;
use super::trade_words::TradeWords;
use dusk_description::Field;

/// Everything a field is called, and what is said about it.
#[derive(Debug)]
pub(super) struct Called {
    pub(super) names: Vec<Name>,
    /// How many of the names the description says; the others are learnt.
    pub(super) own: usize,
    pub(super) text: Option<Name>,
    pub(super) hints: Hints,
    pub(super) is_only_date: bool,
}

impl Called {
    /// `learnt` are headings that other mappings of the target feed the field from.
    pub(super) fn of(
        field: &Field,
        learnt: &[&str],
        (is_only_key, is_only_date): (bool, bool),
        (limits, words): (ReadLimits, &TradeWords),
    ) -> Self {
        let heading = field.heading.iter();
        let mut names: Vec<Name> = Vec::new();
        let own = [&field.name].into_iter().chain(heading).chain(&field.label).chain(&field.also);
        for name in own {
            let name = Name::of(name, words);
            if !names.contains(&name) {
                names.push(name);
            }
        }
        let own = names.len();
        // "Date" may be another date in the next export.
        let says_much = |name: &Name| !name.says_little() && !name.is_general();
        let more = learnt.iter().map(|heading| Name::of(heading, words));
        for name in more.filter(says_much) {
            if !names.contains(&name) {
                names.push(name);
            }
        }
        let text = field.description.as_ref().map(|text| Name::of(text, words));
        let hints = Hints::of(field, &names, (text.as_ref(), is_only_key), limits);
        Self { names, own, text, hints, is_only_date }
    }
}
