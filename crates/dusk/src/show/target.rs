//! A target's fields and codes as tables.

use dusk_core::description::{Field, Hit, Target};
use dusk_core::evidence::FieldId;

use super::SimpleTable;
use super::layout::item;
use super::style::{NAME, styled};
use super::visible::visible;

/// Every field, a row each.
pub(crate) fn field_table(target: &Target) -> SimpleTable {
    let mut table =
        SimpleTable::new(&["name", "label", "type", "required", "format", "values", "description"]);
    for words in target.fields.ids().filter_map(|place| target.words(place)) {
        table.add([
            words.name,
            words.label,
            words.kind.to_owned(),
            words.required,
            words.format,
            words.values,
            words.description,
        ]);
    }
    table
}

/// The codes that a field takes, a row each.
pub(crate) fn code_table(field: &Field) -> Option<SimpleTable> {
    let list = field.kind.codes()?;
    let mut table = SimpleTable::new(&["code", "label", "also", "within", "until", "replaced by"]);
    for code in list.codes() {
        let until = code.until.map_or_else(String::new, |day| day.to_string());
        table.add([
            code.code.clone(),
            code.label.clone(),
            code.also.join(", "),
            code.within.clone(),
            until,
            code.replaced_by.clone(),
        ]);
    }
    Some(table.without_blank_columns())
}

/// Where a word stands, a row each.
pub(crate) fn hit_table(hits: &[Hit<'_>]) -> SimpleTable {
    let mut table = SimpleTable::new(&["field", "where", "text"]);
    for hit in hits {
        table.add([hit.field, hit.place, &hit.text]);
    }
    table
}

/// What the dictionary says of a field, line by line.
#[cfg(feature = "review")]
pub(crate) fn field_entry(target: &Target, place: FieldId) -> Vec<String> {
    let (Some(field), Some(words)) = (target.fields.get(place), target.words(place)) else {
        return Vec::new();
    };
    let filled = if field.required { "must be filled" } else { "may be blank" };
    let key = if field.key { ", part of what identifies a record" } else { "" };
    [
        format!("{}  {}", words.name, words.label),
        format!("{}, {filled}{key}", words.kind),
        words.format,
        words.values,
        words.description,
    ]
    .into_iter()
    .map(|line| line.trim().to_owned())
    .filter(|line| !line.is_empty())
    .collect()
}

/// What is said of one field above its codes.
pub(crate) fn field_heading(target: &Target, place: FieldId) -> String {
    let (Some(field), Some(words)) = (target.fields.get(place), target.words(place)) else {
        return String::new();
    };
    let label = visible(&words.label);
    let label = if label.is_empty() { label } else { format!("  {label}").into() };
    let mut out = format!("{}{label}\n", styled(NAME, &visible(&words.name)));
    let mut item = |name: &str, text: &str| out.push_str(&item(name, text));
    item("type", words.kind);
    item("format", &words.format);
    item("values", &words.values);
    let required = match (field.required, field.key) {
        _ if field.never_send => "the target fills it by itself; it is never sent",
        _ if field.only_part => "it is part of another field, and has no column of its own",
        (true, true) => "must be filled; part of what identifies a record",
        (true, false) => "must be filled",
        (false, true) => "part of what identifies a record",
        (false, false) => "may be blank",
    };
    item("required", required);
    if !field.headings().iter().eq([&field.name.as_str()]) {
        let headings: Vec<String> = field.headings().iter().map(|heading| format!("\"{heading}\"")).collect();
        item("headings", &headings.join(", "));
    }
    if field.set_once {
        item("set once", "never changed in a record that the target holds already");
    }
    let held = [
        (field.only_when_new, "set for new records only; a record that is held keeps what it has"),
        (field.given_by_target, "the target alone hands it out: blank for a new record"),
        (field.unique, "no two records have the same value"),
    ];
    held.into_iter().filter(|(is, _)| *is).for_each(|(_, says)| item("held", says));
    if let Some(words) = &field.operation {
        let gone = words.gone.as_ref().map_or_else(String::new, |word| format!(", removed \"{word}\""));
        item(
            "says",
            &format!("what the target does: new \"{}\", changed \"{}\"{gone}", words.new, words.changed),
        );
    }
    if let Some(made_of) = &field.made_of {
        item("made of", &made_of.names().collect::<Vec<_>>().join(", "));
    }
    item("also", &field.also.join(", "));
    item("description", &words.description);
    for rule in target.rules.iter().filter(|rule| rule.fields().contains(&place)) {
        let when = rule.text.when.as_ref().map_or_else(String::new, |when| format!(" when {when}"));
        item("rule", &format!("{}{when} ({})", rule.text.must, rule.text.says));
    }
    out
}
