//! The `[holds]` table, and the keys of fields that need it.

use std::path::{Path, PathBuf};

use super::Draft;
use crate::{Field, HeldList, Holds, MostRemoved, OperationWords, Sending, UploadFormat};
use dusk_evidence::{FieldId, Line, Problems};
use dusk_files::{At, Settings, beside};

/// `[holds]` as it was written, before the fields are known by their places.
pub(super) struct HoldsDraft {
    pub(super) holds: Holds,
    found_by: Vec<At<String>>,
    line: Line,
}

/// Reads `[holds]`.
pub(super) fn read_holds(holds: &mut Settings<'_>, folder: &Path) -> HoldsDraft {
    let mut read = Holds::default();
    let mapping = holds.text("mapping").and_then(|mapping| named(holds, folder, &mapping));
    for file in holds.text_or_texts("file") {
        let mapping = mapping.clone();
        read.lists.extend(named(holds, folder, &file).map(|path| HeldList::File { path, mapping }));
    }
    if mapping.is_some() && read.lists.is_empty() {
        holds.misplaced(
            "mapping",
            "[holds] mapping says how the columns of file are read, and no file is named",
        );
    }
    let database = holds.text("database").map(|database| {
        let is_server = database.value.contains("://");
        let path = if is_server { None } else { named(holds, folder, &database) };
        path.unwrap_or_else(|| PathBuf::from(&database.value))
    });
    for table in holds.text_or_texts("table") {
        // Where no database is named, it is the one that is loaded.
        let database = database.clone().unwrap_or_default();
        read.lists.push(HeldList::Table { database, table: table.value });
    }
    if read.lists.is_empty() && !holds.has("file") {
        holds.problem(holds.line(), "[holds] does not say where the held records are listed", |problem| {
            problem.hint(
                "write file = \"held.csv\", an export of the target beside this file, or table = \"…\"",
            );
        });
    }
    read.as_of = holds.text("as_of").and_then(|day| read_day(holds, &day));
    read.sending = holds.choice("send", &Sending::WORDS).unwrap_or_default();
    let known = holds.choice("known", &[("leave-out", false), ("reject", true)]);
    read.refuses_known = known.unwrap_or_default();
    if known.is_some() && read.sending != Sending::New {
        holds.misplaced("known", "[holds] known goes with send = \"new\"");
    }
    read.removing = read_removing(holds);
    let found_by = holds.texts("found_by");
    HoldsDraft { holds: read, found_by, line: holds.line() }
}

/// A file that `[holds]` names, which has to be there.
fn named(holds: &Settings<'_>, folder: &Path, named: &At<String>) -> Option<PathBuf> {
    let refuse = |says: String| holds.problem(named.line, says, |_| {});
    match beside(folder, &named.value) {
        Ok(path) if path.is_file() => return Some(path),
        Ok(path) => refuse(format!("[holds] {} is not there", path.display())),
        Err(error) => refuse(format!("[holds] {error}")),
    }
    None
}

fn read_day(holds: &Settings<'_>, day: &At<String>) -> Option<jiff::civil::Date> {
    let read = day.value.trim().parse().ok();
    if read.is_none() {
        holds.problem(day.line, format!("[holds] as_of \"{}\" is not a day", day.value), |problem| {
            problem.hint(
                "write the day that the list is from as yyyy-MM-dd, for example as_of = \"2026-05-31\"",
            );
        });
    }
    read
}

fn read_removing(holds: &mut Settings<'_>) -> Option<MostRemoved> {
    let removes = holds.flag("remove_gone", false);
    let most = holds.number_text("remove_at_most");
    if !removes {
        if most.is_some() {
            holds.misplaced("remove_at_most", "[holds] remove_at_most goes with remove_gone = true");
        }
        return None;
    }
    let Some(most) = most else {
        holds.problem(holds.line(), "[holds] remove_gone does not say how many may be removed", |problem| {
            problem.hint(
                "write remove_at_most = \"5 %\" or remove_at_most = \"20\"; more are removed only with a yes",
            );
        });
        return None;
    };
    let read = MostRemoved::parse(&most.value);
    if read.is_none() {
        let says = format!("[holds] remove_at_most \"{}\" is not a number or a share", most.value);
        holds.problem(most.line, says, |problem| problem.hint("write \"20\" or \"5 %\""));
    }
    read
}

/// Reads the words of a field that says what is to be done with a record.
pub(super) fn read_operation(field: &mut Settings<'_>) -> Option<OperationWords> {
    if !field.has("operation") {
        return None;
    }
    let (mut new, mut changed, mut same, mut gone) = (None, None, None, None);
    for (name, word) in field.pairs("operation") {
        let place = match name.value.as_str() {
            "new" => &mut new,
            "changed" => &mut changed,
            "same" => &mut same,
            "gone" => &mut gone,
            other => {
                field.problem(name.line, format!("operation does not know \"{other}\""), |problem| {
                    problem.suggest(other, ["new", "changed", "same", "gone"]);
                });
                continue;
            }
        };
        *place = Some(word.value);
    }
    let (Some(new), Some(changed)) = (new, changed) else {
        field.problem(
            field.line(),
            "operation does not say both words, for a new and for a changed record",
            |problem| {
                problem.hint("write for example operation = { new = \"I\", changed = \"U\", gone = \"D\" }");
            },
        );
        return None;
    };
    Some(OperationWords { new, same: same.unwrap_or_else(|| changed.clone()), changed, gone })
}

/// Joins `[holds]` with the fields, and says what does not go together.
pub(super) fn settle_holds(draft: &mut Draft, file: &str, problems: &mut Problems) -> Option<Holds> {
    check_fields(draft, file, problems);
    let Some(HoldsDraft { mut holds, found_by, line }) = draft.holds.take() else { return own_table(draft) };
    for name in &found_by {
        match draft.fields.find(|open| open.field.name == name.value) {
            Some(field) => holds.found_by.push(field),
            None => problems
                .at(file, Some(name.line), format!("found_by names no field \"{}\"", name.value))
                .suggest(&name.value, draft.fields.iter().map(|open| open.field.name.as_str())),
        }
    }
    let is_own_key = |open: &crate::read::OpenField| open.field.key && !open.field.given_by_target;
    if found_by.is_empty() {
        let key: Vec<FieldId> =
            draft.fields.with_ids().filter(|(_, open)| is_own_key(open)).map(|(id, _)| id).collect();
        holds.found_by = key;
    }
    if holds.found_by.is_empty()
        && found_by.is_empty()
        && !draft.fields.iter().any(|open| open.field.given_by_target)
    {
        problems
            .at(file, Some(line), "[holds]: no field is part of the key, so no record can be found again")
            .hint(
                "write key = true for the fields that tell one record from another, or name them in found_by",
            );
    }
    let database = match &draft.upload.format {
        UploadFormat::Database { path, .. } => Some(path.clone()),
        _ => None,
    };
    for list in &mut holds.lists {
        let HeldList::Table { database: of, .. } = list else { continue };
        if !of.as_os_str().is_empty() {
            continue;
        }
        match &database {
            Some(path) => *of = path.clone(),
            None => {
                problems
                    .at(file, Some(line), "[holds] table does not say in which database it is")
                    .hint("write database = \"…\" beside it, or let the upload have the format \"database\"");
            }
        }
    }
    check_removing(draft, (&holds, line), file, problems);
    Some(holds)
}

/// A table that is loaded lists itself what it holds. Where nobody says what becomes of records that it holds already,
/// they are rejected: never put in twice, and never overwritten.
fn own_table(draft: &Draft) -> Option<Holds> {
    let UploadFormat::Database { path, table, .. } = &draft.upload.format else { return None };
    let key: Vec<FieldId> =
        draft.fields.with_ids().filter(|(_, open)| open.field.key).map(|(id, _)| id).collect();
    let list = HeldList::Table { database: path.clone(), table: table.clone() };
    (!key.is_empty()).then(|| Holds {
        lists: vec![list],
        found_by: key,
        sending: Sending::New,
        refuses_known: true,
        ..Holds::default()
    })
}

/// Records can be removed only where the target can be told so.
fn check_removing(draft: &Draft, (holds, line): (&Holds, Line), file: &str, problems: &mut Problems) {
    let has_word = draft
        .fields
        .iter()
        .any(|open| open.field.operation.as_ref().is_some_and(|words| words.gone.is_some()));
    let is_table = matches!(draft.upload.format, UploadFormat::Database { .. });
    if holds.removing.is_some() && !has_word && !is_table {
        problems
            .at(file, Some(line), "[holds] remove_gone cannot be written into the upload")
            .hint("give a field the target's word for it, as operation = { new = \"I\", changed = \"U\", gone = \"D\" }");
    }
}

/// Fields that ask what the target holds need a list of it.
fn check_fields(draft: &Draft, file: &str, problems: &mut Problems) {
    let needs = |field: &Field| {
        let keys = [
            (field.set_once, "set_once"),
            (field.only_when_new, "only_when_new"),
            (field.given_by_target, "given_by_target"),
            (field.operation.is_some(), "operation"),
        ];
        keys.into_iter().find(|(is_set, _)| *is_set).map(|(_, key)| key)
    };
    let operations = draft.fields.iter().filter(|open| open.field.operation.is_some()).count();
    for open in &draft.fields {
        let field = &open.field;
        let at = Some(field.line);
        if let Some(key) = needs(field).filter(|_| draft.holds.is_none()) {
            problems
                .at(file, at, format!("{} has {key}, and nothing says what the target holds", field.name))
                .hint("write [holds] with file = \"…\", an export of the target beside this file");
        }
        if field.operation.is_some() && (field.key || field.fixed.is_some() || field.made_of.is_some()) {
            problems.at(
                file,
                at,
                format!("{} has an operation, and cannot be part of the key, fixed or made_of", field.name),
            );
        }
        if field.operation.is_some() && operations > 1 {
            problems.at(
                file,
                at,
                format!("{} is not the only field with an operation; keep one of them", field.name),
            );
        }
        if field.given_by_target && !field.is_sent() {
            problems.at(
                file,
                at,
                format!("{} is given_by_target, and has no column in the upload", field.name),
            );
        }
    }
}
