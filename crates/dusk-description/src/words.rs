//! A field in words: what lists of fields, notes in templates and pages of help say of it.

use super::{Bound, CodesLayout, Field, FieldType, Target};
use dusk_values::{DatePattern, Decimal, shown};

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
    pub fn words(&self, place: usize) -> Option<FieldWords> {
        let field = self.fields.get(place)?;
        let within = match &field.kind {
            FieldType::Code { within: Some(parent), .. } => {
                self.fields.get(*parent).map(|parent| parent.name.as_str())
            }
            _ => None,
        };
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
            format: format(field),
            values: values(field, within),
            description: field.description.clone().unwrap_or_default(),
        })
    }
}

fn format(field: &Field) -> String {
    match &field.kind {
        FieldType::Text { digits, max_length, pattern } => {
            let digits = digits.map(|digits| format!("{digits} digits"));
            let length = max_length.map(|length| format!("up to {length} characters"));
            let pattern = pattern.as_ref().map(|(_, written)| format!("form {written}"));
            [digits, length, pattern].into_iter().flatten().collect::<Vec<_>>().join(", ")
        }
        FieldType::Number { decimals, unit, .. } => {
            let unit = unit.map(|unit| unit.symbol().to_owned());
            let decimals = match decimals {
                0 => None,
                1 => Some("1 decimal".to_owned()),
                more => Some(format!("{more} decimals")),
            };
            [decimals, unit].into_iter().flatten().collect::<Vec<_>>().join(", ")
        }
        FieldType::Date { format, also_formats, month_format, year_format, .. } => {
            let parts = [month_format, year_format].into_iter().flatten();
            std::iter::once(format)
                .chain(also_formats)
                .chain(parts)
                .map(DatePattern::text)
                .collect::<Vec<_>>()
                .join(" or ")
        }
        FieldType::Boolean { yes, no } => format!("{yes} or {no}"),
        FieldType::Code { .. } | FieldType::Reference { .. } => String::new(),
        FieldType::File { endings, max_bytes, .. } => {
            let endings = (!endings.is_empty()).then(|| endings.join(", "));
            let most = max_bytes.map(|bytes| format!("up to {bytes} bytes"));
            endings.into_iter().chain(most).collect::<Vec<_>>().join(", ")
        }
        FieldType::Codes { layout: CodesLayout::Joined(separator), .. } => {
            format!("parted by \"{separator}\"")
        }
        FieldType::Codes { layout: CodesLayout::Numbered(columns), .. } => {
            format!("one in each of {} columns", columns.len())
        }
        FieldType::Codes { layout: CodesLayout::ColumnPerCode { columns, yes, no }, .. } => {
            format!("{} columns of {yes} or {no}", columns.len())
        }
    }
}

fn values(field: &Field, within: Option<&str>) -> String {
    let between = |first: Option<String>, last: Option<String>| match (first, last) {
        (Some(first), Some(last)) => format!("{first} to {last}"),
        (Some(first), None) => format!("{first} or more"),
        (None, Some(last)) => format!("up to {last}"),
        (None, None) => String::new(),
    };
    match &field.kind {
        FieldType::Number { min, max, .. } => {
            let number = |limit: &Option<Decimal>| limit.map(|limit| limit.to_string());
            between(number(min), number(max))
        }
        FieldType::Date { not_before, not_after, .. } => {
            let day = |bound: &Option<Bound>| {
                bound.map(|bound| match bound {
                    Bound::Today => "the day of the run".to_owned(),
                    Bound::Day(day) => shown(day),
                })
            };
            match (day(not_before), day(not_after)) {
                (Some(first), None) => format!("{first} or later"),
                (first, last) => between(first, last),
            }
        }
        FieldType::Code { list, .. } | FieldType::Codes { list, .. } => {
            let inside = within.map_or_else(String::new, |parent| format!(", inside its {parent}"));
            format!("{} codes of {}{inside}", list.codes().len(), list.name)
        }
        FieldType::File { files, .. } => {
            format!("{} files in {}", files.names().len(), files.folder.display())
        }
        FieldType::Reference { known } => {
            format!("{} values of {} in {}", known.len(), known.column, known.file)
        }
        FieldType::Text { .. } | FieldType::Boolean { .. } => String::new(),
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
            for code in field.kind.codes().into_iter().flat_map(|list| list.codes()) {
                if has(&code.code) || has(&code.label) || code.also.iter().any(|also| has(also)) {
                    let also = if code.also.is_empty() {
                        String::new()
                    } else {
                        format!(" ({})", code.also.join(", "))
                    };
                    hit("code", &format!("{}{also}", code.shown()));
                }
            }
        }
        hits
    }
}
