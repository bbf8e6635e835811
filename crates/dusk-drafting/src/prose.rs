//! What the words beside a field say of it, clause by clause: "Two places after the point, 0.05 to 99999.99".

use super::claim::Place;
use super::clauses::{clauses, form_shown};
use super::date_words::date_format;
use super::facts::FieldFact;
use super::fields::Resolver;
use super::limit_words::{limits, sized};
use super::mark_words::joined_by;
use super::vocabulary::{Words, named};
use dusk_values::ValueType;

impl Resolver<'_> {
    /// The first thing that a clause beside the field says, and where it stands.
    pub(super) fn told<T>(&self, read: impl Fn(&str) -> Option<T>) -> Option<(T, Place)> {
        self.one
            .description
            .iter()
            .find_map(|(text, place)| clauses(text).find_map(&read).map(|told| (told, place.clone())))
    }

    /// How many digits may follow the point, as the words beside the field have it.
    pub(super) fn told_decimals(&self) -> Option<(u64, Place)> {
        self.told(|clause| match sized(clause, &super::facts::fold(clause))?.as_slice() {
            [FieldFact::Decimals(decimals), ..] => Some(*decimals),
            _ => None,
        })
    }

    /// Where the words beside the field say that all decimals are written.
    pub(super) fn told_all_decimals(&self) -> Option<Place> {
        let says = |clause: &str| {
            sized(clause, &super::facts::fold(clause)).filter(|facts| facts.contains(&FieldFact::AllDecimals))
        };
        self.told(says).map(|(_, place)| place)
    }

    /// The limits that the words beside the field give, where nothing else does.
    pub(super) fn told_limits(&self) -> Option<(Vec<FieldFact>, Place)> {
        let of_numbers =
            |fact: &FieldFact| matches!(fact, FieldFact::Min(_) | FieldFact::Max(_) | FieldFact::Rule(_));
        self.told(|clause| limits(clause).filter(|facts| facts.iter().all(of_numbers)))
    }

    /// The first and last day that the words beside the field give.
    pub(super) fn told_days(&self) -> Vec<(FieldFact, Place)> {
        let of_days = |fact: &FieldFact| matches!(fact, FieldFact::NotBefore(_) | FieldFact::NotAfter(_));
        let all = self.one.description.iter().flat_map(|(text, place)| {
            clauses(text).filter_map(limits).flatten().filter(of_days).map(move |fact| (fact, place.clone()))
        });
        all.collect()
    }

    /// How the days or times are written, as the words beside the field have it.
    pub(super) fn told_form(&self) -> Option<((String, ValueType), Place)> {
        self.told(date_format).or_else(|| {
            self.one
                .description
                .iter()
                .find_map(|(text, place)| form_shown(text).map(|form| (form, place.clone())))
        })
    }

    /// Whether the words beside the field say that it takes several codes, and what parts them.
    pub(super) fn told_several(&self) -> bool {
        self.one.description.iter().any(|(text, _)| {
            named(Words::Several, &text.to_lowercase()).next().is_some() && joined_by(text).is_some()
        })
    }

    /// What parts several codes, as the words beside the field have it.
    pub(super) fn told_separator(&self) -> Option<(String, Place)> {
        self.one.description.iter().find_map(|(text, place)| Some((joined_by(text)?, place.clone())))
    }
}
