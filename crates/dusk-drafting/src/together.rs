//! What several materials say of the same fields, and which of several tables is drafted.

use hashbrown::HashSet;

use super::DraftOptions;
use super::claim::{Drafted, Place};
use super::dictionary::Described;
use super::facts::{FieldFact, fold};
use super::headings::identifier;
use dusk_evidence::{Error, Result};

/// What several materials say of a field, together; where they contradict each other the first counts, and it is asked.
pub(super) fn merged(described: Vec<Described>, drafted: &mut Drafted) -> Vec<Described> {
    let mut fields: Vec<Described> = Vec::new();
    for one in described {
        let is_same = |known: &&mut Described| {
            let sheet = |place: &Place| place.at.split_once('!').map(|(sheet, _)| sheet.to_owned());
            let elsewhere = known.from.file != one.from.file || sheet(&known.from) != sheet(&one.from);
            elsewhere && fold(&identifier(&known.name)) == fold(&identifier(&one.name))
        };
        let Some(known) = fields.iter_mut().find(is_same) else {
            fields.push(one);
            continue;
        };
        if known.label.is_empty() {
            (known.label, known.label_from) = (one.label, one.label_from);
        }
        known.also.extend(one.also);
        known.description.extend(one.description);
        known.rule = known.rule.take().or(one.rule);
        known.example = known.example.take().or(one.example);
        known.default = known.default.take().or(one.default);
        let required = |facts: &[(FieldFact, Place)]| {
            facts
                .iter()
                .find_map(|(fact, _)| if let FieldFact::Required(says) = fact { Some(*says) } else { None })
        };
        if let (Some(first), Some(second)) = (required(&known.facts), required(&one.facts))
            && first != second
        {
            let says = format!(
                "is {} by {}, and {} by {}; the first was written",
                if first { "required" } else { "not required" },
                known.from,
                if second { "required" } else { "not required" },
                one.from
            );
            drafted.contradict(known.name.clone(), says, &one.from);
        }
        let is_told = required(&known.facts).is_some();
        let mut more = one.facts;
        more.retain(|(fact, _)| !is_told || !matches!(fact, FieldFact::Required(_)));
        known.facts.extend(more);
    }
    fields
}

/// Where a dictionary describes several tables, one of them is drafted.
pub(super) fn of_one_table(mut described: Vec<Described>, options: &DraftOptions) -> Result<Vec<Described>> {
    let mut tables: Vec<String> = Vec::new();
    for one in &described {
        if !one.table.is_empty() && !tables.contains(&one.table) {
            tables.push(one.table.clone());
        }
    }
    if let Some(wanted) = &options.table
        && !tables.is_empty()
    {
        let Some(table) = tables.iter().find(|table| fold(table) == fold(wanted)) else {
            return Err(Error::Request(format!(
                "no material describes a table \"{wanted}\"; there are {}",
                tables.join(", ")
            )));
        };
        described.retain(|one| one.table == *table || one.table.is_empty());
        return Ok(described);
    }
    let mut names = HashSet::new();
    let twice = described.iter().any(|one| !names.insert(fold(&one.name)));
    if tables.len() > 1 && twice {
        return Err(Error::Request(format!(
            "the dictionary describes {} tables; say which one to draft: --table \"{}\"",
            tables.len(),
            tables.join("\" or --table \"")
        )));
    }
    Ok(described)
}
