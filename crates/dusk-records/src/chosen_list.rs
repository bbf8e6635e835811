//! Which list of a record file is meant.

use std::fs::File;
use std::sync::Arc;

use dusk_evidence::Refusal;

use crate::decoded::Decoded;
use crate::format::RecordFormat;
use crate::json;
use crate::met::{ListSeen, Record};
use crate::noticed::{RecordChoice, RecordFacts};

/// The list that is meant.
pub(crate) struct Chosen {
    /// The list that is in no other one.
    pub(crate) outer: String,
    /// The path from its records to the list inside them.
    rest: String,
    pub(crate) each: String,
    /// The file is one record, and no list.
    pub(crate) is_whole: bool,
    /// Fields of these tags are told apart by their indicators.
    pub(crate) by_indicator: Vec<String>,
}

impl Chosen {
    /// The list `each`, which is the outer one or inside its records.
    pub(crate) fn inside(outer: &str, each: &str) -> Self {
        let rest = each.strip_prefix(outer).unwrap_or(each).trim_start_matches('.').to_owned();
        Self {
            outer: outer.to_owned(),
            rest,
            each: each.to_owned(),
            is_whole: false,
            by_indicator: Vec::new(),
        }
    }

    pub(crate) fn names(&self) -> Vec<&str> {
        self.rest.split('.').filter(|name| !name.is_empty()).collect()
    }
}

/// Every list of a JSON document that is in no other one, by its path.
pub(crate) fn json_lists(file: &Arc<File>) -> Result<Vec<ListSeen>, Refusal> {
    let mut lists: Vec<ListSeen> = Vec::new();
    json::each_of_document(Decoded::of(file)?, &mut |path, record| {
        let counts = u64::from(!matches!(record, Record::Read(crate::node::Node::Leaf(..))));
        match lists.iter_mut().find(|list| list.path == path) {
            Some(list) => list.records += counts,
            None => lists.push(ListSeen { path: path.to_owned(), records: counts, is_outer: true }),
        }
        Ok(())
    })?;
    Ok(lists)
}

/// The list that the mapping names, or the only one of the file.
///
/// # Errors
/// A [`Refusal`] where there is no such list, or several and none is named.
pub(crate) fn chosen(
    lists: &[ListSeen],
    choice: &RecordChoice,
    format: RecordFormat,
) -> Result<Chosen, Refusal> {
    let shown = |list: &ListSeen| format!("\"{}\" ({})", list.path, list.records);
    let listed = |lists: &[&ListSeen]| lists.iter().map(|list| shown(list)).collect::<Vec<_>>().join(", ");
    let all: Vec<&ListSeen> = lists.iter().filter(|list| list.records > 0).collect();
    if let Some(each) = &choice.each {
        let holds = |list: &&&ListSeen| {
            list.is_outer
                && (list.path == *each
                    || list.path.is_empty()
                    || each.starts_with(&format!("{}.", list.path)))
        };
        // XML has no lists: whatever is named may come again.
        let outer = all.iter().filter(holds).max_by_key(|list| list.path.len());
        return match outer {
            Some(list) => Ok(Chosen::inside(&list.path, each)),
            None if format == RecordFormat::Xml => Ok(Chosen::inside(each, each)),
            None => Err(Refusal::new(
                format!("has no list \"{each}\", which each under [source] names"),
                if all.is_empty() { "it has none".into() } else { format!("its lists are {}", listed(&all)) },
            )),
        };
    }
    let outer: Vec<&ListSeen> = all.iter().copied().filter(|list| list.is_outer).collect();
    match outer.as_slice() {
        [only] => Ok(Chosen::inside(&only.path, &only.path)),
        [] if format == RecordFormat::Json => Ok(Chosen { is_whole: true, ..Chosen::inside("", "") }),
        [] => Err(Refusal::new(
            "has no elements that come again, so nothing says what its records are",
            "write each = \"…\" under [source] in the mapping: the path of the elements that are records, without the outermost one",
        )),
        several => Err(Refusal::new(
            format!("has {} lists of records, and nothing says which one to read", several.len()),
            format!(
                "its lists are {}; write each = \"{}\" under [source] in the mapping, or another of them",
                listed(several),
                several.iter().max_by_key(|list| list.records).map_or("", |list| list.path.as_str())
            ),
        )),
    }
}

/// Why there is nothing in the chosen list.
pub(crate) fn nothing_there(list: &Chosen, facts: &RecordFacts) -> Refusal {
    let inside = facts
        .lists
        .iter()
        .map(|(path, items)| format!("\"{path}\" ({items})"))
        .collect::<Vec<_>>()
        .join(", ");
    if list.each.is_empty() {
        return Refusal::new("holds no record", "check that the export was finished");
    }
    Refusal::new(
        format!("has nothing at \"{}\", which each under [source] names", list.each),
        if inside.is_empty() {
            "check that the export was finished".to_owned()
        } else {
            format!("the lists inside its records are {inside}")
        },
    )
}
