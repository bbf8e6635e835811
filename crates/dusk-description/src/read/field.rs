//! A `[[field]]`: its keys, by its type.

use std::path::PathBuf;
use std::sync::Arc;

use super::super::{CodeList, Field, FieldType, Unmatched};
use super::draft_field::DraftField;
use super::field_type::{
    NUMBER_MARK, read_codes_layout, read_date, read_file_type, read_number, read_reference, read_text,
    yes_and_no,
};
use super::lists::CodeLists;
use dusk_files::{At, Settings, Template};
use dusk_values::ValueType;

/// The keys that go with some types of field only.
const KEYS_OF_TYPES: [(&str, &[&str]); 25] = [
    ("also_formats", &["date", "datetime", "time"]),
    ("zone", &["datetime"]),
    ("numbered", &["codes"]),
    ("most", &["codes"]),
    ("folder", &["file"]),
    ("endings", &["file"]),
    ("max_bytes", &["file"]),
    ("month_format", &["date"]),
    ("year_format", &["date"]),
    ("unmatched", &["code", "codes", "reference"]),
    ("values", &["reference"]),
    ("column", &["reference"]),
    ("digits", &["text"]),
    ("max_length", &["text"]),
    ("pattern", &["text"]),
    ("min", &["integer", "decimal"]),
    ("max", &["integer", "decimal"]),
    ("unit", &["integer", "decimal"]),
    ("decimals", &["decimal"]),
    ("format", &["date", "datetime", "time", "boolean", "codes"]),
    ("not_before", &["date", "datetime"]),
    ("not_after", &["date", "datetime"]),
    ("codes", &["code", "codes"]),
    ("within", &["code"]),
    ("separator", &["codes"]),
];

/// Reads a `[[field]]`: one field, or as many as it has numbers.
pub(super) fn read_fields(field: &mut Settings<'_>, lists: &CodeLists<'_>) -> Vec<DraftField> {
    if !field.has("numbers") {
        return read_field(field, lists, None).into_iter().collect();
    }
    let numbers = field.labels("numbers");
    if let Some(name) = field.text("name").filter(|name| !name.value.contains(NUMBER_MARK)) {
        field.problem(
            name.line,
            format!("\"{}\" has numbers, and no {NUMBER_MARK} for their labels", name.value),
            |problem| {
                problem.hint("write for example name = \"frame_{n}\" with numbers = [\"1-3\"]");
            },
        );
    }
    if field.has("numbered") {
        field.misplaced(
            "numbered",
            "numbers makes several fields, and numbered several columns of one; write one of the two",
        );
    }
    let mut fields = Vec::new();
    for (place, number) in numbers.iter().enumerate() {
        let mut read = read_field(field, lists, Some(number));
        // The others stand behind the first.
        if let Some(read) = read.as_mut().filter(|_| place > 0) {
            read.field.position = None;
        }
        fields.extend(read);
    }
    fields
}

fn read_field(field: &mut Settings<'_>, lists: &CodeLists<'_>, repeat: Option<&str>) -> Option<DraftField> {
    let own = |text: At<String>| match repeat {
        Some(repeat) => At { value: text.value.replace(NUMBER_MARK, repeat), ..text },
        None => text,
    };
    let line = field.line();
    let group = field.text("name").map(|name| name.value).filter(|_| repeat.is_some());
    let name = field.required_text("name").map(own);
    let heading = field.text("heading").map(own);
    let label = field.text("label").map(own);
    let description = field.text("description").map(own);
    let set_once = field.flag("set_once", false);
    let only_part = field.flag("only_part", false);
    let made_of = field.text("made_of").map(own).and_then(|text| match Template::parse(&text.value) {
        Ok(template) => Some(template),
        Err(says) => {
            field.problem(text.line, says, |_| {});
            None
        }
    });
    let never_send = field.flag("never_send", false);
    let position = field.whole("position", 1).and_then(|position| usize::try_from(position.value).ok());
    let also = field.texts("also");
    let required = field.flag("required", false);
    let key = field.flag("key", false);
    let type_name = field.required_text("type");
    let Some(word) =
        type_name.as_ref().and_then(|word| FieldType::WORDS.iter().find(|known| **known == word.value))
    else {
        if let Some(word) = &type_name {
            field.problem(word.line, format!("there is no type \"{}\"", word.value), |problem| {
                problem.suggest(&word.value, FieldType::WORDS);
            });
        }
        // Without a type nobody knows which of the other keys are right.
        field.ignore_rest();
        return None;
    };
    for (key, types) in KEYS_OF_TYPES {
        if field.has(key) && !types.contains(word) {
            field.misplaced(
                key,
                &format!("a field of type {word} does not take {key}, which goes with {}", types.join(", ")),
            );
        }
    }
    if field.has("column_per_code") && *word != "codes" {
        field.misplaced(
            "column_per_code",
            &format!("a field of type {word} does not take column_per_code, which goes with codes"),
        );
    }
    let fixed = field.text("fixed").map(|text| text.value);
    let unmatched = field.choice(
        "unmatched",
        &[
            ("reject", Unmatched::Reject),
            ("blank", Unmatched::Blank),
            ("keep", Unmatched::Keep),
            ("new-term", Unmatched::Open),
        ],
    );
    if *word == "codes" && matches!(unmatched, Some(Unmatched::Keep | Unmatched::Open)) {
        field.misplaced(
            "unmatched",
            "several codes in one field can be rejected or left out (\"blank\"), not kept",
        );
    }
    let (kind, list, within, per_code) = read_type(field, word, lists);
    let name = name?;
    if name.value.trim().is_empty() {
        field.problem(name.line, "[[field]] name is empty", |_| {});
    }
    Some(DraftField {
        field: Field {
            name: name.value,
            heading: heading.map(|heading| heading.value),
            description: description.map(|description| description.value),
            group,
            set_once,
            only_part,
            made_of,
            never_send,
            fixed,
            unmatched: unmatched.unwrap_or_default(),
            position,
            label: label.map(|label| label.value),
            also: also.into_iter().map(|also| also.value).collect(),
            kind,
            required,
            key,
            line,
        },
        list,
        within,
        per_code,
    })
}

type ReadType = (FieldType, Option<At<PathBuf>>, Option<At<String>>, Option<At<Template>>);

fn read_type(field: &mut Settings<'_>, word: &str, lists: &CodeLists<'_>) -> ReadType {
    let empty = || Arc::new(CodeList::new(String::new(), Vec::new()));
    match word {
        "text" => (read_text(field), None, None, None),
        "integer" | "decimal" => (read_number(field, word == "decimal"), None, None, None),
        "boolean" => {
            let (yes, no) = yes_and_no(field, "true/false");
            (FieldType::Boolean { yes, no }, None, None, None)
        }
        "code" => {
            let list = lists.wanted_by(field);
            let within = field.text("within");
            (FieldType::Code { list: empty(), within: None }, list, within, None)
        }
        "codes" => {
            let list = lists.wanted_by(field);
            let (layout, per_code) = read_codes_layout(field);
            (FieldType::Codes { list: empty(), layout }, list, None, per_code)
        }
        "file" => (read_file_type(field, lists), None, None, None),
        "reference" => (read_reference(field, lists), None, None, None),
        "datetime" => (read_date(field, ValueType::DateTime, "yyyy-MM-dd'T'HH:mm:ss"), None, None, None),
        "time" => (read_date(field, ValueType::Time, "HH:mm:ss"), None, None, None),
        _ => (read_date(field, ValueType::Date, "yyyy-MM-dd"), None, None, None),
    }
}
