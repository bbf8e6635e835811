//! A field in words: what lists of fields, notes in templates and pages of help say of it.

use super::{Code, Target};
use dusk_evidence::FieldId;

/// What people print of a field, each part a short text.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FieldWords {
    /// Its name.
    pub name: String,
    /// What people call it; empty where nobody says.
    pub label: String,
    /// The word for its type.
    pub kind: &'static str,
    /// Whether it must be filled, and whether it is part of the key.
    pub required: String,
    /// How its values are written.
    pub format: String,
    /// Which values it takes.
    pub values: String,
    /// What the dictionary says about it.
    pub description: String,
}

impl Target {
    /// The words for a field; nothing where there is none at that place.
    pub fn words(&self, place: FieldId) -> Option<FieldWords> {
        let field = self.fields.get(place)?;
        let parent = field.kind.parent().and_then(|parent| self.fields.get(parent));
        let parent = parent.map(|parent| parent.name.as_str());
        let required = match (field.required, field.key) {
            _ if field.never_send => "never sent",
            _ if field.only_part => "a part only",
            (true, true) => "yes, key",
            (true, false) => "yes",
            (false, true) => "key",
            (false, false) => "",
        };
        Some(FieldWords {
            name: field.name.clone(),
            label: field.label.clone().unwrap_or_default(),
            kind: field.kind.word(),
            required: required.to_owned(),
            format: field.kind.format(),
            values: field.kind.values(parent),
            description: field.description.clone().unwrap_or_default(),
        })
    }
}

/// Something that was found by a word.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Hit<'t> {
    /// The field.
    pub field: &'t str,
    /// Where in it: its name, its label, a code.
    pub place: &'static str,
    /// The text in which the word stands.
    pub text: String,
}

impl Target {
    /// Every place where a word stands: names, labels, other names, descriptions and codes. Case
    /// does not count.
    pub fn find(&self, word: &str) -> Vec<Hit<'_>> {
        let wanted = word.trim().to_lowercase();
        let has = |text: &str| !wanted.is_empty() && text.to_lowercase().contains(&wanted);
        let mut hits = Vec::new();
        for field in &self.fields {
            let mut hit =
                |place, text: &str| hits.push(Hit { field: &field.name, place, text: text.to_owned() });
            if has(&field.name) {
                hit("name", &field.name);
            }
            let texts =
                [("heading", &field.heading), ("label", &field.label), ("description", &field.description)];
            for (place, text) in texts.into_iter().filter_map(|(place, text)| Some((place, text.as_ref()?))) {
                if has(text) {
                    hit(place, text);
                }
            }
            for also in field.also.iter().filter(|also| has(also)) {
                hit("other name", also);
            }
            let is_wanted =
                |code: &&Code| has(&code.code) || has(&code.label) || code.also.iter().any(|also| has(also));
            let codes = field.kind.codes().into_iter().flat_map(|list| list.codes());
            codes.filter(is_wanted).for_each(|code| hit("code", &shown_with_names(code)));
        }
        hits
    }
}

/// A code as people read it, with its other names.
fn shown_with_names(code: &Code) -> String {
    let also = if code.also.is_empty() { String::new() } else { format!(" ({})", code.also.join(", ")) };
    format!("{}{also}", code.shown())
}
