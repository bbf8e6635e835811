//! `[rows]` and `[repeat]`: which rows hold a record, and how many.

use std::cell::RefCell;

use super::super::{Keep, Repeat, SameKey};
use dusk_description::{Rule, RuleText, Target};
use dusk_evidence::{FieldId, Id as _, Line};
use dusk_files::Settings;
use dusk_values::ValueType;

/// What `[rows]` says.
#[derive(Default)]
pub(super) struct RowKeys {
    pub(super) keep: Option<Keep>,
    pub(super) same_key: SameKey,
    /// The fields by which rows are of one record; those of the key where none is named.
    pub(super) same_by: Vec<FieldId>,
    /// The first and the last row that hold records.
    pub(super) within: Option<(u64, u64)>,
    /// A batch that is unlike the last one is not made.
    pub(super) stops_unlike: bool,
}

pub(super) fn read_rows(rows: &mut Settings<'_>, target: Option<&Target>) -> RowKeys {
    let same_key = rows.choice("same_key", &SameKey::WORDS).unwrap_or_default();
    let same_by = read_same_by(rows, same_key, target);
    let has_key = target.is_none_or(|target| target.fields.iter().any(|field| field.key));
    if same_key != SameKey::Reject && !has_key && same_by.is_empty() {
        let word = SameKey::WORDS.iter().find(|(_, known)| *known == same_key).map_or("", |(word, _)| word);
        let says = format!("[rows] same_key is \"{word}\", and no field of the target is part of a key");
        rows.problem(rows.line(), says, |problem| {
            problem.hint("write key = true for the fields in target.toml that tell one record from another");
        });
    }
    let within = read_within(rows);
    let stops_unlike = rows.choice("unlike", &[("say", false), ("stop", true)]).unwrap_or(false);
    let Some(written) = rows.text("keep") else {
        return RowKeys { keep: None, same_key, same_by, within, stops_unlike };
    };
    // Whether there is such a column shows when the source is opened.
    let columns: RefCell<Vec<String>> = RefCell::default();
    let column = |name: &str| {
        let mut columns = columns.borrow_mut();
        let place = columns.iter().position(|known| known == name).unwrap_or_else(|| {
            columns.push(name.to_owned());
            columns.len() - 1
        });
        Some((FieldId::new(place), ValueType::Text))
    };
    let rule = Rule::parse(RuleText::must(written.value.clone()), &column);
    let keep = match rule {
        Ok(rule) if rule.is_over_records() => {
            rows.problem(written.line, "[rows] keep looks at one row, but this adds up many", |_| {});
            None
        }
        Ok(rule) => Some(Keep { rule, columns: columns.into_inner() }),
        Err(wrong) => {
            let says = format!("[rows] keep: {}\n{}", wrong.says, wrong.pointed());
            rows.problem(written.line, says, |problem| {
                problem.hint(if wrong.hint.is_empty() {
                    "write columns in braces; they hold texts, for example keep = \"{Kind} = \\\"visit\\\"\""
                        .to_owned()
                } else {
                    format!("{}; cells are texts, as in {{Kind}} = \"visit\"", wrong.hint)
                });
            });
            None
        }
    };
    RowKeys { keep, same_key, same_by, within, stops_unlike }
}

/// `same_by = ["name", "born"]`: the fields by which rows are of one record.
fn read_same_by(rows: &mut Settings<'_>, same_key: SameKey, target: Option<&Target>) -> Vec<FieldId> {
    let names = rows.texts("same_by");
    if !names.is_empty() && !same_key.needs_all_rows() {
        let says = "[rows] same_by goes with same_key = \"first\", \"last\", \"fullest\" or \"combine\"";
        rows.misplaced("same_by", says);
    }
    let Some(target) = target else { return Vec::new() };
    let mut fields = Vec::new();
    for name in names {
        match target.field(&name.value) {
            Some(field) => fields.push(field),
            None => {
                rows.problem(name.line, format!("the target has no field \"{}\"", name.value), |problem| {
                    problem.suggest(&name.value, target.fields.iter().map(|field| field.name.as_str()));
                })
            }
        }
    }
    fields
}

/// `within = "5-1200"`: the first and the last row that hold records; `"5-"` to the end.
fn read_within(rows: &mut Settings<'_>) -> Option<(u64, u64)> {
    let text = rows.text("within")?;
    let range = text.value.split_once('-').and_then(|(first, last)| {
        let first: u64 = first.trim().parse().ok()?;
        let last = if last.trim().is_empty() { u64::MAX } else { last.trim().parse().ok()? };
        (first <= last).then_some((first, last))
    });
    if range.is_none() {
        rows.problem(
            text.line,
            format!("[rows] within \"{}\" is not a range of rows", text.value),
            |problem| {
                problem.hint(
                    "write the first and the last row that hold records, as \"5-1200\", or \"5-\" to the end",
                );
            },
        );
    }
    range
}

/// What `[repeat]` says: the repeats, and the field that takes their labels.
pub(super) type RepeatKeys = (Repeat, Option<(FieldId, Line)>);

pub(super) fn read_repeat(repeat: &mut Settings<'_>, target: Option<&Target>) -> Option<RepeatKeys> {
    let in_order = repeat.choice("numbering", &[("as-named", false), ("in-order", true)]).unwrap_or(false);
    let mut numbers = repeat.labels("numbers");
    let of_groups = read_group_numbers(repeat, target);
    for number in of_groups.iter().flat_map(|(_, numbers)| numbers) {
        if !numbers.contains(number) {
            numbers.push(number.clone());
        }
    }
    if numbers.is_empty() && !repeat.has("numbers") && !repeat.has("numbers_of") {
        repeat.problem(repeat.line(), "[repeat] does not say which numbers there are", |problem| {
            problem.hint("write what replaces {n} in the headings, for example numbers = [\"1-3\", \"5\"]");
        });
    }
    let number = repeat.text("number");
    let target = target?;
    let number = number.and_then(|name| match target.field(&name.value) {
        Some(place) => Some((place, name.line)),
        None => {
            repeat.problem(name.line, format!("the target has no field \"{}\"", name.value), |problem| {
                problem.suggest(&name.value, target.fields.iter().map(|field| field.name.as_str()));
            });
            None
        }
    });
    let number = number.or_else(|| target.groups.as_ref().map(|groups| (groups.counter, repeat.line())));
    Some((Repeat { numbers, in_order, of_groups, group_columns: Vec::new() }, number))
}

/// `numbers_of = { visit = ["1-4"], treatment = ["1-2"] }`: the repeats of each group.
fn read_group_numbers(repeat: &mut Settings<'_>, target: Option<&Target>) -> Vec<(String, Vec<String>)> {
    let lists = repeat.lists_of_labels("numbers_of");
    let names = target.and_then(|target| target.groups.as_ref()).map_or(&[][..], |groups| &groups.names);
    for (name, _) in lists.iter().filter(|(name, _)| target.is_some() && !names.contains(&name.value)) {
        let says = format!("[repeat] numbers_of: the target has no group \"{}\"", name.value);
        repeat.problem(name.line, says, |problem| {
            problem.suggest(&name.value, names.iter().map(String::as_str));
            if names.is_empty() {
                problem.hint("fields of a group have in_group = \"…\" in target.toml");
            }
        });
    }
    lists.into_iter().map(|(name, numbers)| (name.value, numbers)).collect()
}
