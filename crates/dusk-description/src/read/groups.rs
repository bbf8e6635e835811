//! Rows by group: a record's plain fields in its first row, and a row for each repeat of a group.

use super::Draft;
use super::open_field::OpenField;
use crate::{Field, FieldRows, FieldType, NumberType, RowGroups, Rule};
use dusk_evidence::{ById, FieldId, Problem, Problems};
use dusk_files::{At, Settings};

/// The names of the fields that say which group a row is of, and which repeat.
#[derive(Default)]
pub(super) struct GroupNames {
    group: Option<At<String>>,
    counter: Option<At<String>>,
}

impl GroupNames {
    /// `group_field` and `counter_field` of `[upload]`.
    pub(super) fn read(upload: &mut Settings<'_>) -> Self {
        Self { group: upload.text("group_field"), counter: upload.text("counter_field") }
    }
}

/// Finds the two fields, makes them part of the key, and says what cannot be laid out so.
pub(super) fn settle_groups(draft: &mut Draft, file: &str, problems: &mut Problems) -> Option<RowGroups> {
    let grouped = |open: &OpenField| open.field.in_group.clone();
    let mut names: Vec<String> = Vec::new();
    for name in draft.fields.iter().filter_map(grouped) {
        if !names.contains(&name) {
            names.push(name);
        }
    }
    let GroupNames { group, counter } = std::mem::take(&mut draft.group_names);
    let (group, counter) = match (group, counter) {
        (Some(group), Some(counter)) => (group, counter),
        (None, None) => {
            if let Some(field) =
                draft.fields.iter().map(|open| &open.field).find(|field| field.in_group.is_some())
            {
                problems
                    .at(file, Some(field.line), format!("{} is in_group, and [upload] does not say how rows show their group", field.name))
                    .hint("write group_field = \"…\" and counter_field = \"…\" under [upload], with the fields that take the name of the group and the number of the repeat");
            }
            return None;
        }
        (one, other) => {
            let line = one.or(other).map(|named| named.line);
            problems
                .at(file, line, "[upload] needs both group_field and counter_field")
                .hint("one takes the name of a row's group, the other the number of the repeat");
            return None;
        }
    };
    if names.is_empty() {
        problems
            .at(file, Some(group.line), "[upload] group_field is there, and no field is in a group")
            .hint("write in_group = \"…\" for the fields that have rows of their own");
        return None;
    }
    let mut find = |name: &At<String>, key: &str| {
        let found = draft.fields.find(|open| open.field.name == name.value);
        if found.is_none() {
            problems
                .at(file, Some(name.line), format!("{key} names no field \"{}\"", name.value))
                .suggest(&name.value, draft.fields.iter().map(|open| open.field.name.as_str()));
        }
        found
    };
    let (name, counter) = (find(&group, "group_field"), find(&counter, "counter_field"));
    let groups = RowGroups { name: name?, counter: counter?, names };
    for (id, key) in [(groups.name, "group_field"), (groups.counter, "counter_field")] {
        if let Some(open) = draft.fields.get_mut(id) {
            // A row is told from the others of its record by them.
            open.field.key = true;
            check_place(&open.field, key, file, problems);
        }
    }
    check_draft(draft, &groups, file, problems);
    Some(groups)
}

/// A field that says which row of a record this is stays blank in the first one.
fn check_place(field: &Field, key: &str, file: &str, problems: &mut Problems) {
    let whole = |number: &NumberType| number.decimals == 0;
    let fits = match &field.kind {
        FieldType::Text(_) => true,
        FieldType::Number(number) => key == "counter_field" && whole(number),
        FieldType::Code(_) => key == "group_field",
        _ => false,
    };
    let wrong = if !fits {
        "is of a type that does not go with it"
    } else if field.required {
        "is required, and stays blank in the first row of a record"
    } else if field.fixed.is_some() || field.made_of.is_some() || !field.is_sent() || field.in_group.is_some()
    {
        "is fixed, made_of, not sent, or in a group itself"
    } else {
        return;
    };
    problems.at(file, Some(field.line), format!("{key}: {} {wrong}", field.name));
}

/// What else of the description does not go with rows by group.
fn check_draft(draft: &Draft, groups: &RowGroups, file: &str, problems: &mut Problems) {
    let own_key =
        |(id, open): &(FieldId, &OpenField)| open.field.key && *id != groups.name && *id != groups.counter;
    if !draft.fields.with_ids().any(|one| own_key(&one)) {
        problems
            .at(file, None, "rows by group need a key, by which a record is told from another")
            .hint("write key = true for the field that is in every row of a record");
    }
    if draft.holds.is_some() {
        problems
            .at(file, None, "[holds] does not go with rows by group")
            .hint("take [holds] out: what such a target holds cannot be compared");
    }
    for OpenField { field, .. } in
        draft.fields.iter().filter(|open| open.field.key && open.field.in_group.is_some())
    {
        let says = format!("{} is part of the key and in a group; the key must be in every row", field.name);
        problems.at(file, Some(field.line), says);
    }
}

/// What fields need of one another has to stand in one row.
pub(super) fn check_rows(
    groups: &RowGroups,
    (fields, split_by): (&ById<FieldId, Field>, Option<FieldId>),
    rules: &[Rule],
    file: &str,
    problems: &mut Problems,
) {
    let rows = |id: FieldId| fields.get(id).map_or(FieldRows::Every, |field| groups.rows_of(id, field));
    let name = |id: FieldId| fields.get(id).map_or("", |field| field.name.as_str());
    for (id, field) in fields.with_ids() {
        let made_of = field.made_of.iter().flat_map(|made_of| made_of.names());
        let parts = made_of.filter_map(|name| fields.find(|other: &Field| other.name == name));
        let needed = parts.chain(field.kind.parent());
        for other in needed.filter(|other| !rows(*other).are_all_in(rows(id))) {
            let says = format!("{} needs {}, which stays blank in its rows", field.name, name(other));
            problems.at(file, Some(field.line), says).hint("put both into one group, or both into none");
        }
    }
    if let Some(field) = split_by.filter(|field| rows(*field) != FieldRows::Every) {
        let says = format!("split_by: {} stays blank in some rows of a record", name(field));
        problems.at(file, None, says).hint("name a field of the key");
    }
    for rule in rules.iter().filter(|rule| !rule.is_over_records()) {
        let of: Vec<FieldRows> =
            rule.fields().into_iter().map(rows).filter(|rows| *rows != FieldRows::Every).collect();
        if of.iter().any(|one| Some(one) != of.first()) {
            let says =
                format!("the rule \"{}\" compares fields that are never in the same row", rule.text.name);
            report(problems.at(file, None, says));
        }
    }
}

fn report(problem: &mut Problem) {
    problem.hint("a rule looks at one row: name fields of one group, or of none");
}
