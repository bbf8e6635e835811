//! A database's typed tables as material.

use std::path::Path;

use super::DraftOptions;
use super::claim::{Drafted, DraftedList, DraftedRule, Place, Setting};
use super::code_lists::{FoundList, file_name};
use super::dictionary::Described;
use super::facts::{DictionaryColumn, FieldFact, FieldKind, fold};
use super::file_words;
use super::headings::{ListRole, list_role};
use super::wording::facts;
use dusk_database::{Database, TableColumn, TableRule};
use dusk_description::Code;
use dusk_evidence::{Error, Result};

/// The longest table that is taken for a code list.
const MOST_CODES: usize = 5000;

/// Describes the fields of one table; tables that it refers to are its code lists.
pub(super) fn describe(
    database: &dyn Database,
    path: &Path,
    options: &DraftOptions,
    described: &mut Vec<Described>,
    lists: &mut Vec<FoundList>,
    drafted: &mut Drafted,
) -> Result<()> {
    let file = path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    let place = |at: String| Place { file: file.clone(), at };
    let mut tables = Vec::new();
    for name in database.tables()? {
        let columns = database.columns(&name)?;
        tables.push((name, columns));
    }
    let chosen = chosen(&tables, path, options)?;
    let (table, columns) = chosen;
    drafted.took(&place(format!("table {table}")), format!("the table to fill: {} columns", columns.len()));
    for column in columns {
        let from = place(format!("{table}.{}", column.name));
        let mut field = field_of(column, &from);
        if let Some((other, key)) = &column.refers_to {
            match code_list(database, other, key, &tables, place(format!("table {other}")), drafted)? {
                Some(list) => {
                    field.facts.push((FieldFact::Kind(FieldKind::Code), from.clone()));
                    field.facts.push((FieldFact::SeeList(list.list.title.clone()), from));
                    if !lists.iter().any(|known: &FoundList| known.list.name == list.list.name) {
                        lists.push(list);
                    }
                }
                None => drafted.ask(
                    column.name.clone(),
                    format!("refers to {other}.{key}, which is not a code list of up to {MOST_CODES} rows; its values are not checked against it"),
                    &from,
                ),
            }
        }
        described.push(field);
    }
    let at = place(format!("table {table}"));
    for TableRule { name, must } in database.rules(table)? {
        let says = if name.is_empty() { format!("it must be that {must}") } else { name.replace('_', " ") };
        drafted.rules.push(DraftedRule { must, says, from: at.clone() });
    }
    if database.takes_rows() {
        drafted.loads = named_from(path, options).map(|name| (name, table.clone(), at.clone()));
    }
    for line in database.unread() {
        drafted.ask(file.clone(), format!("a statement was not understood, and not used: {line}"), &at);
    }
    drafted
        .sentences
        .extend(file_words::sentences(database.notes()).map(|(_, note)| (note, place(String::new()))));
    Ok(())
}

/// How a description in its folder names a database; nothing where it lies elsewhere.
fn named_from(path: &Path, options: &DraftOptions) -> Option<String> {
    if dusk_database::is_server(path) {
        return Some(path.display().to_string());
    }
    let whole = |path: &Path| std::path::absolute(path).ok();
    let folder = whole(options.folder.as_deref()?)?;
    let inside = whole(path)?.strip_prefix(folder).ok()?.to_path_buf();
    Some(inside.display().to_string())
}

/// Where no material speaks of a file, a database is loaded itself: what is accepted goes into its table. Says whether
/// it is.
pub(super) fn take_upload(drafted: &mut Drafted) -> bool {
    let Some((database, table, from)) = drafted.loads.take() else { return false };
    let is_open = drafted.upload.0.is_empty();
    if is_open {
        for (key, value) in [("format", "database".to_owned()), ("database", database), ("table", table)] {
            drafted.upload.set(key, Setting::Text(value), &from);
        }
    }
    is_open
}

/// The table to fill: the one that is named, or the only one that no other refers to.
fn chosen<'t>(
    tables: &'t [(String, Vec<TableColumn>)],
    path: &Path,
    options: &DraftOptions,
) -> Result<&'t (String, Vec<TableColumn>)> {
    let refers = |column: &TableColumn, name: &str| {
        column.refers_to.as_ref().is_some_and(|(table, _)| fold(table) == fold(name))
    };
    let is_referred_to = |name: &str| {
        let mut others = tables.iter().filter(|(other, _)| other != name);
        others.any(|(_, columns)| columns.iter().any(|column| refers(column, name)))
    };
    let names: Vec<&str> = tables.iter().map(|(name, _)| name.as_str()).collect();
    if let Some(wanted) = &options.table {
        return tables.iter().find(|(name, _)| fold(name) == fold(wanted)).ok_or_else(|| {
            let there = names.join(", ");
            Error::Request(format!("{} has no table \"{wanted}\"; there are {there}", path.display()))
        });
    }
    let own: Vec<_> = tables.iter().filter(|(name, _)| !is_referred_to(name)).collect();
    match own.as_slice() {
        [only] => Ok(*only),
        _ => Err(Error::Request(format!(
            "{} has {} tables; say which one to draft: --table \"{}\"",
            path.display(),
            names.len(),
            names.join("\" or --table \"")
        ))),
    }
}

fn field_of(column: &TableColumn, from: &Place) -> Described {
    let mut field = Described::new(&column.name, from.clone());
    let mut add =
        |found: Vec<FieldFact>| field.facts.extend(found.into_iter().map(|fact| (fact, from.clone())));
    let declared = column.declared.to_lowercase();
    // MySQL has no type for true and false, and shows this one for it.
    let is_small = declared.replace(' ', "") == "tinyint(1)";
    let among = column.among.iter().map(|code| (code.clone(), String::new())).collect::<Vec<_>>();
    let is_flag =
        column.among.len() == 2 && column.among.iter().all(|value| matches!(value.as_str(), "0" | "1"));
    if is_flag || is_small {
        add(vec![FieldFact::Kind(FieldKind::Boolean), FieldFact::Words("1".into(), "0".into())]);
    } else if among.is_empty() {
        add(facts(
            declared.trim_end_matches(" unsigned").trim_end_matches(" zerofill"),
            DictionaryColumn::Type,
        ));
    } else {
        add(vec![FieldFact::Kind(FieldKind::Code), FieldFact::Codes(among)]);
    }
    let (least, most) = column.limits.clone();
    add(least.map(FieldFact::Min).into_iter().chain(most.map(FieldFact::Max)).collect());
    let (above, below) = column.beyond.clone();
    let beyond = |sign: &str, limit: String| FieldFact::Rule(format!("_ {sign} {limit}"));
    add(above.map(|limit| beyond(">", limit)).into_iter().collect());
    add(below.map(|limit| beyond("<", limit)).into_iter().collect());
    // A check is narrower than the type beside it.
    if let Some(longest) = column.longest {
        field.facts.retain(|(fact, _)| !matches!(fact, FieldFact::Length(_)));
        field.facts.push((FieldFact::Length(longest), from.clone()));
    }
    field
        .facts
        .extend(column.pattern.clone().map(|pattern| (FieldFact::Pattern(pattern, true), from.clone())));
    field.never_send = column.computed;
    field.description.extend(column.comments.iter().map(|comment| (comment.clone(), from.clone())));
    let mut add =
        |found: Vec<FieldFact>| field.facts.extend(found.into_iter().map(|fact| (fact, from.clone())));
    if column.computed {
        return field;
    }
    if column.not_null || column.key {
        add(vec![FieldFact::Required(true)]);
    }
    if column.key {
        add(vec![FieldFact::Key]);
    }
    let default = column.default.as_ref().map(|default| default.trim_matches('\'').to_owned());
    field.default = default.filter(|default| default != "NULL").map(|default| (default, from.clone()));
    field
}

/// The rows of a table as a code list: its key, and the column that reads like a label.
fn code_list(
    database: &dyn Database,
    table: &str,
    key: &str,
    tables: &[(String, Vec<TableColumn>)],
    from: Place,
    drafted: &mut Drafted,
) -> Result<Option<FoundList>> {
    let Some((table, columns)) = tables.iter().find(|(name, _)| fold(name) == fold(table)) else {
        return Ok(None);
    };
    let by_role = |wanted: ListRole| {
        columns.iter().find(|column| column.name != key && list_role(&column.name) == Some(wanted))
    };
    let label = by_role(ListRole::Label).or_else(|| columns.iter().find(|column| column.name != key));
    // What refers to its own table names a successor.
    let above = |column: &&TableColumn| {
        column.name != key && column.refers_to.as_ref().is_some_and(|(other, _)| fold(other) != fold(table))
    };
    let within = columns.iter().find(above);
    let until = by_role(ListRole::Until);
    let successor = by_role(ListRole::ReplacedBy);
    let wanted: Vec<Option<&str>> = vec![
        Some(key),
        label.map(|column| column.name.as_str()),
        within.map(|column| column.name.as_str()),
        until.map(|column| column.name.as_str()),
        successor.map(|column| column.name.as_str()),
    ];
    let names: Vec<&str> = wanted.iter().map(|name| name.unwrap_or(key)).collect();
    let rows = database.rows(table, &names, MOST_CODES + 1)?;
    if rows.len() > MOST_CODES || rows.is_empty() {
        return Ok(None);
    }
    let text = |row: &[Option<String>], place: usize| {
        let is_there = wanted.get(place).is_some_and(Option::is_some);
        row.get(place).cloned().flatten().filter(|_| is_there).unwrap_or_default()
    };
    let codes = rows.iter().map(|row| Code {
        code: text(row, 0),
        label: text(row, 1),
        also: Vec::new(),
        within: text(row, 2),
        until: text(row, 3).parse().ok(),
        replaced_by: text(row, 4),
    });
    let list = DraftedList {
        name: file_name(table),
        title: table.clone(),
        codes: codes.collect(),
        from: from.clone(),
    };
    drafted.took(&from, format!("the code list \"{table}\": {} codes", list.codes.len()));
    Ok(Some(FoundList { list, within: within.map(|column| column.name.clone()) }))
}
