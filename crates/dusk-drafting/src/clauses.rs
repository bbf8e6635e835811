//! Clauses of a text, and the form of days that one shows.

use super::date_words::form_of_example;
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
