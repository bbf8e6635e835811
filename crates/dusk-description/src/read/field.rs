//! A `[[field]]`: its keys, by its type.

use super::holds::read_operation;
use super::open_field::OpenField;
use crate::beside::Beside;
use crate::types::{TYPE_WORDS, TypeWord};
use crate::{ColumnWidth, Field, Unmatched};
use dusk_files::{At, Settings, Template};

/// What stands for a repeat's label where one `[[field]]` describes several.
const NUMBER_MARK: &str = "{n}";

/// Reads a `[[field]]`: one field, or as many as it has numbers.
pub(super) fn read_fields(field: &mut Settings<'_>, beside: &Beside<'_>) -> Vec<OpenField> {
    if !field.has("numbers") {
        return read_field(field, beside, None).into_iter().collect();
    }
    let numbers = field.labels("numbers");
    check_numbered_name(field);
    if field.has("numbered") {
        field.misplaced(
            "numbered",
            "numbers makes several fields, and numbered several columns of one; write one of the two",
        );
    }
    let mut fields = Vec::new();
    for (place, number) in numbers.iter().enumerate() {
        let mut read = read_field(field, beside, Some(number));
        // The others stand behind the first.
        if let Some(read) = read.as_mut().filter(|_| place > 0) {
            read.field.position = None;
        }
        fields.extend(read);
    }
    fields
}

/// The names of fields with numbers have a place for their labels.
fn check_numbered_name(field: &mut Settings<'_>) {
    if let Some(name) = field.text("name").filter(|name| !name.value.contains(NUMBER_MARK)) {
        field.problem(
            name.line,
            format!("\"{}\" has numbers, and no {NUMBER_MARK} for their labels", name.value),
            |problem| {
                problem.hint("write for example name = \"frame_{n}\" with numbers = [\"1-3\"]");
            },
        );
    }
}

fn read_field(field: &mut Settings<'_>, beside: &Beside<'_>, repeat: Option<&str>) -> Option<OpenField> {
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
    let in_group = field.text("in_group").map(|group| group.value).filter(|group| !group.trim().is_empty());
    let set_once = field.flag("set_once", false);
    let only_when_new = field.flag("only_when_new", false);
    let given_by_target = field.flag("given_by_target", false);
    let unique = field.flag("unique", false);
    let operation = read_operation(field);
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
    let kind = read_type_word(field)?;
    let width = read_width(field, kind.word);
    refuse_keys_of_others(field, kind);
    let fixed = field.text("fixed").map(|text| text.value);
    let added = field.flag("added", false);
    let quoted = field.has("quoted").then(|| field.flag("quoted", false));
    let unmatched = field.choice(
        "unmatched",
        &[
            ("reject", Unmatched::Reject),
            ("blank", Unmatched::Blank),
            ("keep", Unmatched::Keep),
            ("new-term", Unmatched::Open),
        ],
    );
    if kind.word == "codes" && matches!(unmatched, Some(Unmatched::Keep | Unmatched::Open)) {
        field.misplaced(
            "unmatched",
            "several codes in one field can be rejected or left out (\"blank\"), not kept",
        );
    }
    let (kind, open) = (kind.read)(field, beside);
    let name = name?;
    if name.value.trim().is_empty() {
        field.problem(name.line, "[[field]] name is empty", |_| {});
    }
    Some(OpenField {
        field: Field {
            name: name.value,
            heading: heading.map(|heading| heading.value),
            description: description.map(|description| description.value),
            group,
            in_group,
            set_once,
            only_when_new,
            given_by_target,
            unique,
            operation,
            only_part,
            made_of,
            never_send,
            fixed,
            unmatched: unmatched.unwrap_or_default(),
            position,
            width,
            quoted,
            added,
            label: label.map(|label| label.value),
            also: also.into_iter().map(|also| also.value).collect(),
            kind,
            required,
            key,
            line,
        },
        open,
    })
}

/// How many characters a field takes in fixed-width text: numbers stand at the right of them, all others at the left,
/// where nothing else is said.
fn read_width(field: &mut Settings<'_>, kind: &str) -> Option<ColumnWidth> {
    let width = field.whole("width", 1).and_then(|width| usize::try_from(width.value).ok());
    let is_number = matches!(kind, "integer" | "decimal");
    let align = field.choice("align", &[("left", false), ("right", true)]);
    let fill = field.text("fill");
    let mut letters = fill.as_ref().map_or(" ", |fill| fill.value.as_str()).chars();
    let letter = letters.next().filter(|letter| letters.next().is_none() && !letter.is_control());
    if let (Some(fill), None) = (&fill, letter) {
        field.problem(fill.line, "[[field]] fill must be one character", |problem| {
            problem.hint("for example fill = \"0\"");
        });
    }
    if width.is_none() {
        for key in ["align", "fill"] {
            if field.has(key) {
                field.misplaced(
                    key,
                    &format!("{key} goes with width, which says how many characters the field takes"),
                );
            }
        }
    }
    let right = align.unwrap_or(is_number);
    let fills = letter.unwrap_or(' ');
    // What fills a value up may not make another one of it.
    let is_safe = fills == ' ' || fills == '0' && right || !is_number && !fills.is_alphanumeric();
    if let Some(fill) = fill.as_ref().filter(|_| !is_safe) {
        field.problem(
            fill.line,
            format!("[[field]] fill = \"{}\" may make another value of one", fill.value),
            |problem| {
                problem.hint("blanks are safe, and so are zeros before a value that is aligned to the right");
            },
        );
    }
    width.map(|width| ColumnWidth { width, right, fill: letter.unwrap_or(' ') })
}

/// The type of a `[[field]]`.
fn read_type_word(field: &mut Settings<'_>) -> Option<&'static TypeWord> {
    let written = field.required_text("type");
    let known =
        written.as_ref().and_then(|written| TYPE_WORDS.into_iter().find(|known| known.word == written.value));
    if known.is_none() {
        if let Some(word) = &written {
            field.problem(word.line, format!("there is no type \"{}\"", word.value), |problem| {
                problem.suggest(&word.value, TYPE_WORDS.iter().map(|known| known.word));
            });
        }
        // Without a type nobody knows which of the other keys are right.
        field.ignore_rest();
    }
    known
}

/// Says which keys go with other types only.
fn refuse_keys_of_others(field: &mut Settings<'_>, kind: &TypeWord) {
    let foreign = TYPE_WORDS.iter().flat_map(|other| other.keys).filter(|key| !kind.keys.contains(key));
    let mut refused: Vec<&str> = Vec::new();
    for key in foreign {
        if refused.contains(key) || !field.has(key) {
            continue;
        }
        refused.push(key);
        let types: Vec<&str> =
            TYPE_WORDS.iter().filter(|other| other.keys.contains(key)).map(|other| other.word).collect();
        let says = format!(
            "a field of type {} does not take {key}, which goes with {}",
            kind.word,
            types.join(", ")
        );
        field.misplaced(key, &says);
    }
}
