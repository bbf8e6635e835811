//! What the words beside a field say of it, clause by clause: "Two places after the point, 0.05 to 99999.99".

use super::claim::Place;
use super::date_words::{date_format, form_of_example};
use super::facts::FieldFact;
use super::fields::Resolver;
use super::limit_words::{limits, sized};
use super::mark_words::joined_by;
use super::vocabulary::{Words, named};
use dusk_values::ValueType;

/// The clauses of a text: what stands between full stops, semicolons, colons, commas and line ends. A comma or a point
/// inside a number parts nothing.
pub(super) fn clauses(text: &str) -> impl Iterator<Item = &str> {
    let parted = text.split(['\n', ';']).flat_map(|part| part.split(". "));
    let parted = parted.flat_map(|part| part.split(": ")).flat_map(|part| part.split(", "));
    parted.map(|clause| clause.trim().trim_end_matches('.')).filter(|clause| !clause.is_empty())
}

/// How days or times are written, where a text shows it by an example: "written like 2025-03-31 14:05".
pub(super) fn form_shown(text: &str) -> Option<(String, ValueType)> {
    let lower = text.to_lowercase();
    if lower.len() != text.len() {
        return None;
    }
    let mut behind = named(Words::Like, &lower).filter_map(|(at, lead)| text.get(at + lead.len()..));
    let shown = behind.find_map(form_of_example);
    shown.or_else(|| {
        let brackets = text.split('(').skip(1).filter_map(|rest| rest.split(')').next());
        brackets.filter(|inner| !inner.contains(char::is_alphabetic)).find_map(form_of_example)
    })
}

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
            [FieldFact::Decimals(decimals)] => Some(*decimals),
            _ => None,
        })
    }

    /// The limits that the words beside the field give, where nothing else does.
    pub(super) fn told_limits(&self) -> Option<(Vec<FieldFact>, Place)> {
        let of_numbers = |fact: &FieldFact| matches!(fact, FieldFact::Min(_) | FieldFact::Max(_));
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
