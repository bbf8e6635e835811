//! Checks over all fields together: names, and codes inside one another.

use hashbrown::HashMap;

use super::super::{Field, FieldType, NumberType};
use super::Draft;
use super::open_field::OpenField;
use dusk_evidence::{ById, FieldId, Line, Problems};
use dusk_files::FileName;

/// No two fields, and no two columns of the upload file, may have one name.
pub(super) fn check_names(draft: &Draft, file: &str, problems: &mut Problems) {
    let mut fields: HashMap<&str, Line> = HashMap::new();
    let mut columns: HashMap<&str, &str> = HashMap::new();
    let mut files: HashMap<String, &str> = HashMap::new();
    for OpenField { field, .. } in &draft.fields {
        // Names that differ only in what a file's name cannot hold would share the file of their crosswalk.
        let word = FileName::word(&field.name);
        if let Some(other) = files.insert(word, &field.name).filter(|other| *other != field.name) {
            let says = format!("the names \"{other}\" and \"{}\" are the same as names of files", field.name);
            problems.at(file, Some(field.line), says).hint("give one of the two fields another name");
        }
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
                            "{} has position {position}, but {columns} columns come before it",
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
    for OpenField { field, .. } in &draft.fields {
        check_only_part(field, draft, file, problems);
        if let Some(made_of) = &field.made_of {
            check_made(field, file, problems);
            if made_of.names().next().is_none() {
                problems
                    .at(file, Some(field.line), format!("made_of for {} names no field", field.name))
                    .hint("write for example made_of = \"{town}, {region} {postcode}\"");
            }
            for name in made_of.names() {
                check_part(name, field, draft, file, problems);
            }
        }
    }
}

/// A field that is only a part of others is a part of one at least.
fn check_only_part(field: &Field, draft: &Draft, file: &str, problems: &mut Problems) {
    let at = Some(field.line);
    if field.only_part && field.never_send {
        let says = format!("{} is never_send and only_part; it can be one of the two", field.name);
        problems.at(file, at, says);
    }
    let is_part = |other: &OpenField| {
        other.field.made_of.iter().flat_map(|made_of| made_of.names()).any(|name| name == field.name)
    };
    if field.only_part && !draft.fields.iter().any(is_part) {
        problems
            .at(file, at, format!("{} is only_part, and no field is made_of it", field.name))
            .hint(format!("write it in another field's made_of, as made_of = \"{{{}}}, …\"", field.name));
    }
}

/// A field that is made of others is a text, and comes from nowhere else.
fn check_made(field: &Field, file: &str, problems: &mut Problems) {
    let mut refuse = |says: &str| {
        problems.at(file, Some(field.line), format!("{} is made_of other fields, {says}", field.name));
    };
    if !matches!(field.kind, FieldType::Text(_)) {
        refuse("which goes with type text");
    }
    if field.never_send || field.only_part || field.fixed.is_some() {
        refuse("so it cannot be never_send, only_part or fixed");
    }
}

/// What a field is made of is another one, which is sent or only a part.
fn check_part(name: &str, field: &Field, draft: &Draft, file: &str, problems: &mut Problems) {
    let at = Some(field.line);
    let named = draft.fields.iter().map(|other| &other.field).find(|other| other.name == name);
    match named {
        None => {
            problems
                .at(file, at, format!("made_of names no field \"{name}\""))
                .suggest(name, draft.fields.iter().map(|other| other.field.name.as_str()));
        }
        Some(part) if part.made_of.is_some() => {
            problems.at(file, at, format!("made_of names {name}, which is itself made_of others"));
        }
        Some(part) if part.never_send => {
            problems
                .at(file, at, format!("made_of names {name}, which is never sent"))
                .hint(format!("write only_part = true for {name}, where it has no column of its own"));
        }
        Some(_) => {}
    }
}

/// A field is in one unit, whatever speaks of it.
pub(super) fn check_units(draft: &Draft, file: &str, problems: &mut Problems) {
    for OpenField { field, .. } in &draft.fields {
        let FieldType::Number(NumberType { unit: Some(unit), .. }) = &field.kind else { continue };
        if let Some((named, what)) = field.named_unit().filter(|(named, _)| named != unit) {
            let (name, unit, named) = (&field.name, unit.symbol(), named.symbol());
            let says = format!("{name} is in {unit}, and {what} says {named}");
            problems
                .at(file, Some(field.line), says)
                .hint("ask the target's owner, and change one of the two");
        }
    }
}

/// The parent of every field that has one, checked to be a code and not to go round in a circle.
pub(super) fn resolve_parents(
    draft: &Draft,
    file: &str,
    problems: &mut Problems,
) -> ById<FieldId, Option<FieldId>> {
    let mut parents = draft.fields.iter().map(|field| resolve_parent(draft, field, file, problems)).collect();
    break_circles(draft, &mut parents, file, problems);
    parents
}

/// The parent of a field, where it names one.
fn resolve_parent(
    draft: &Draft,
    OpenField { field, open }: &OpenField,
    file: &str,
    problems: &mut Problems,
) -> Option<FieldId> {
    let Some(within) = &open.within else {
        if matches!(&field.kind, FieldType::Code(code) if code.list.divided) {
            let says = format!(
                "the codes of {} are divided by within, but the field does not say which field decides",
                field.name
            );
            problems
                .at(file, Some(field.line), says)
                .hint("write within = \"…\" with the name of the field that holds the parent code");
        }
        return None;
    };
    let at = Some(within.line);
    let parent = draft.fields.find(|other| other.field.name == within.value);
    match parent.and_then(|parent| draft.fields.get(parent)) {
        None => problems
            .at(file, at, format!("within names no field \"{}\"", within.value))
            .suggest(&within.value, draft.fields.iter().map(|other| other.field.name.as_str())),
        Some(parent) if !matches!(parent.field.kind, FieldType::Code(_)) => {
            problems.at(file, at, format!("within names {}, which is not of type code", within.value));
        }
        Some(_) => {}
    }
    parent
}

/// A field that is its own parent, by way of others, has none.
fn break_circles(
    draft: &Draft,
    parents: &mut ById<FieldId, Option<FieldId>>,
    file: &str,
    problems: &mut Problems,
) {
    for (start, OpenField { field, .. }) in draft.fields.with_ids() {
        let above = |at: &FieldId| parents.get(*at).copied().flatten();
        let ancestors = std::iter::successors(above(&start), above).take(draft.fields.len());
        if !ancestors.into_iter().any(|ancestor| ancestor == start) {
            continue;
        }
        let says = format!("{} is within itself, by way of its parents", field.name);
        problems.at(file, Some(field.line), says);
        if let Some(parent) = parents.get_mut(start) {
            *parent = None;
        }
    }
}
