//! Checks over all fields together: names, and codes inside one another.

use hashbrown::HashMap;

use super::super::{CodeType, FieldType};
use super::Draft;
use super::open_field::OpenField;
use dusk_evidence::{Line, Problems};

/// No two fields, and no two columns of the upload file, may have one name.
pub(super) fn check_names(draft: &Draft, file: &str, problems: &mut Problems) {
    let mut fields: HashMap<&str, Line> = HashMap::new();
    let mut columns: HashMap<&str, &str> = HashMap::new();
    for OpenField { field, .. } in &draft.fields {
        if let Some(first) = fields.insert(&field.name, field.line) {
            problems
                .at(file, Some(field.line), format!("the field \"{}\" is described twice", field.name))
                .hint(format!("the first is on line {first}; keep one of the two"));
            continue;
        }
        for heading in field.headings() {
            if let Some(other) = columns.insert(heading, &field.name) {
                problems.at(
                    file,
                    Some(field.line),
                    format!(
                        "the upload file would have two columns \"{heading}\", for {other} and {}",
                        field.name
                    ),
                );
            }
        }
    }
}

/// Fields stand in the order of their columns, and what is never sent has none.
pub(super) fn check_columns(draft: &Draft, file: &str, problems: &mut Problems) {
    let mut columns = 0;
    for OpenField { field, .. } in &draft.fields {
        if !field.is_sent() {
            if field.key {
                let why = if field.only_part { "has no column of its own" } else { "is never sent" };
                let says = format!("{} {why}, and cannot be part of the key", field.name);
                problems.at(file, Some(field.line), says);
            }
            continue;
        }
        if field.position.is_some() && !draft.upload.format.word().has_places {
            let says =
                format!("{} has a position, and the upload's format has no columns in places", field.name);
            problems.at(file, Some(field.line), says);
        }
        if let Some(position) = field.position {
            if position <= columns {
                problems
                    .at(
                        file,
                        Some(field.line),
                        format!(
                            "{} is to stand in column {position}, and {columns} columns stand before it",
                            field.name
                        ),
                    )
                    .hint("write the fields in the order of their columns");
            }
            columns = columns.max(position - 1);
        }
        columns += field.headings().len();
    }
    if let Some(most) = draft.upload.columns.filter(|most| *most < columns) {
        problems.at(file, None, format!("[upload] columns is {most}, and the fields take {columns}"));
    }
}

/// Fields that are put together from others, and those that are only parts.
pub(super) fn check_parts(draft: &Draft, file: &str, problems: &mut Problems) {
    let named = |name: &str| draft.fields.iter().map(|other| &other.field).find(|other| other.name == name);
    for OpenField { field, .. } in &draft.fields {
        let at = Some(field.line);
        if field.only_part && field.never_send {
            problems.at(
                file,
                at,
                format!("{} is never_send and only_part; it can be one of the two", field.name),
            );
        }
        let is_part = |other: &OpenField| {
            other.field.made_of.iter().flat_map(|made_of| made_of.names()).any(|name| name == field.name)
        };
        if field.only_part && !draft.fields.iter().any(is_part) {
            problems
                .at(file, at, format!("{} is only_part, and no field is made_of it", field.name))
                .hint(format!("write it in another field's made_of, as made_of = \"{{{}}}, …\"", field.name));
        }
        let Some(made_of) = &field.made_of else { continue };
        if !matches!(field.kind, FieldType::Text(_)) {
            problems.at(
                file,
                at,
                format!("{} is made_of other fields, which goes with type text", field.name),
            );
        }
        if field.never_send || field.only_part || field.fixed.is_some() {
            problems.at(
                file,
                at,
                format!(
                    "{} is made_of other fields, so it cannot be never_send, only_part or fixed",
                    field.name
                ),
            );
        }
        if made_of.names().next().is_none() {
            problems
                .at(file, at, format!("made_of for {} names no field", field.name))
                .hint("write for example made_of = \"{town}, {region} {postcode}\"");
        }
        for name in made_of.names() {
            match named(name) {
                None => {
                    problems
                        .at(file, at, format!("made_of names no field \"{name}\""))
                        .suggest(name, draft.fields.iter().map(|other| other.field.name.as_str()));
                }
                Some(part) if part.made_of.is_some() => {
                    problems.at(file, at, format!("made_of names {name}, which is itself made_of others"));
                }
                Some(part) if part.never_send => {
                    problems.at(file, at, format!("made_of names {name}, which is never sent")).hint(
                        format!("write only_part = true for {name}, where it has no column of its own"),
                    );
                }
                Some(_) => {}
            }
        }
    }
}

/// The parent of every field that has one, checked to be a code and not to go round in a circle.
pub(super) fn resolve_parents(draft: &Draft, file: &str, problems: &mut Problems) -> Vec<Option<usize>> {
    let place = |name: &str| draft.fields.iter().position(|other| other.field.name == name);
    let mut parents: Vec<Option<usize>> = Vec::new();
    for OpenField { field, open } in &draft.fields {
        let Some(within) = &open.within else {
            if let FieldType::Code(CodeType { list, .. }) = &field.kind
                && list.divided
            {
                problems
                    .at(file, Some(field.line), format!("the codes of {} are divided by within, but the field does not say which field decides", field.name))
                    .hint("write within = \"…\" with the name of the field that holds the parent code");
            }
            parents.push(None);
            continue;
        };
        let parent = place(&within.value);
        match parent.and_then(|parent| draft.fields.get(parent)) {
            None => problems
                .at(file, Some(within.line), format!("within names no field \"{}\"", within.value))
                .suggest(&within.value, draft.fields.iter().map(|other| other.field.name.as_str())),
            Some(parent) if !matches!(parent.field.kind, FieldType::Code(_)) => {
                problems.at(
                    file,
                    Some(within.line),
                    format!("within names {}, which is not of type code", within.value),
                );
            }
            Some(_) => {}
        }
        parents.push(parent);
    }
    for (start, draft_field) in draft.fields.iter().enumerate() {
        let mut at = start;
        for _ in 0..draft.fields.len() {
            match parents.get(at).copied().flatten() {
                Some(next) if next == start => {
                    problems.at(
                        file,
                        Some(draft_field.field.line),
                        format!("{} is within itself, by way of its parents", draft_field.field.name),
                    );
                    if let Some(parent) = parents.get_mut(start) {
                        *parent = None;
                    }
                    break;
                }
                Some(next) => at = next,
                None => break,
            }
        }
    }
    parents
}
