//! Proposals: which column feeds which field, with the reasons, and how sure that is.
//!
//! ```text
//! names     how alike a heading and a field's names are
//! contents  whether what a column holds is what a field takes
//! assign    all columns assigned together, for the best total
//! keys      what else a [[map]] has to say: units, orders, what parts several values
//! write     mapping.toml, new or refreshed
//! ```

mod assign;
mod contents;
mod keys;
mod names;
mod write;

use jiff::civil::Date;

use super::{Feed, INSTANCE, Map, Mapping};
use crate::Result;
use crate::batch::Progress;
use crate::inspect::{Inspection, inspect};
use crate::source::Source;
use crate::target::{Field, FieldType, Target};

use assign::assign;
use contents::{Contents, samples};
pub use keys::Key;
use names::{Name, Weights};
pub use write::{Written, write_mapping};

/// The least that a pair of column and field must be worth to be proposed.
const LEAST: i32 = 420;

/// By how much a sure pair must be better than any other for its column or its field.
const MARGIN: i32 = 90;

/// How sure a proposal is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Sureness {
    /// Somebody said so.
    Said,
    /// Nothing speaks against it, and nothing else comes near.
    Sure,
    /// A person has to say yes.
    Likely,
}

impl Sureness {
    /// The word in files and messages.
    pub fn word(self) -> &'static str {
        match self {
            Self::Said => "said",
            Self::Sure => "sure",
            Self::Likely => "likely",
        }
    }
}

/// A column proposed for a field.
#[derive(Debug, Clone)]
pub struct Proposal {
    /// The field, by its place in the target.
    pub field: usize,
    /// The column, by its place in the source.
    pub column: usize,
    /// How sure it is.
    pub sureness: Sureness,
    /// Why.
    pub reasons: Vec<String>,
    /// What else its `[[map]]` has to say.
    pub keys: Vec<Key>,
}

/// What an earlier mapping says, and the source does not bear out.
#[derive(Debug, Clone)]
pub struct Doubt {
    /// The field, by its place in the target.
    pub field: usize,
    /// The column that feeds it now.
    pub column: String,
    /// True where the source has no such column any more.
    pub is_gone: bool,
    /// What would be proposed instead, by its place in the source.
    pub instead: Option<usize>,
    /// Why.
    pub reasons: Vec<String>,
}

/// What is proposed for a source.
#[derive(Debug)]
pub struct Proposals {
    /// One for each field that has a column, in the target's order.
    pub proposals: Vec<Proposal>,
    /// Columns that somebody says are left out on purpose.
    pub leave_out: Vec<String>,
    /// What an earlier mapping says and the source does not bear out, in the target's order.
    pub doubts: Vec<Doubt>,
    /// What the source is.
    pub inspection: Inspection,
}

impl Proposals {
    /// Takes a column for a field, because somebody says so.
    pub fn say(&mut self, field: usize, column: usize, source: &Source, target: &Target) {
        let keys = match self.proposals.iter().position(|proposal| proposal.field == field) {
            Some(place) if self.proposals.get(place).is_some_and(|known| known.column == column) => {
                self.proposals.remove(place).keys
            }
            place => {
                if let Some(place) = place {
                    self.proposals.remove(place);
                }
                let name = source.columns.get(column).map(|name| Name::of(name));
                match (target.fields.get(field), self.inspection.columns.get(column)) {
                    (Some(field), Some(report)) => {
                        keys::keys(field, report, name.and_then(|name| name.unit), &Contents::default())
                    }
                    _ => Vec::new(),
                }
            }
        };
        // Another field's proposal of this column falls.
        self.proposals.retain(|proposal| proposal.column != column);
        let said = Proposal {
            field,
            column,
            sureness: Sureness::Said,
            reasons: vec!["as was answered".into()],
            keys,
        };
        self.proposals.push(said);
        self.proposals.sort_by_key(|proposal| proposal.field);
    }

    /// Takes a proposal back, because somebody says no.
    pub fn refuse(&mut self, field: usize) {
        self.proposals.retain(|proposal| proposal.field != field);
    }

    /// The proposal for a field.
    pub fn of_field(&self, field: usize) -> Option<&Proposal> {
        self.proposals.iter().find(|proposal| proposal.field == field)
    }
}

/// A column and a field, and what speaks for them.
#[derive(Debug, Clone, Default)]
struct Pair {
    name: u32,
    /// The heading has a word that the field's name has not.
    says_more: bool,
    /// The values have to be of a certain kind, and there are some.
    is_typed: bool,
    why: String,
    contents: Contents,
    worth: i32,
}

/// Proposes columns for the fields of `target`. Of an earlier `mapping`, what it says is left alone: its
/// fields have their columns, and its columns are spoken for.
///
/// # Errors
/// Whatever stops reading the source.
pub fn propose(
    source: &Source,
    target: &Target,
    mapping: Option<&Mapping>,
    today: Date,
    progress: &Progress<'_>,
) -> Result<Proposals> {
    let inspection = inspect(source, Some((target, today)), progress)?;
    let samples = samples(source)?;
    let columns: Vec<Name> = source.columns.iter().map(|column| Name::of(column)).collect();
    let fields: Vec<Vec<Name>> = target.fields.iter().map(names_of).collect();
    let mut weights = Weights::default();
    fields.iter().for_each(|names| weights.field(names.iter()));
    columns.iter().for_each(|name| weights.column(name));
    let used = mapping.map(Mapping::wanted).unwrap_or_default();
    let map_of =
        |field: usize| mapping.and_then(|mapping| mapping.maps.iter().find(|map| map.field == field));
    let gone_from = |field: usize| match map_of(field).map(|map| &map.feed) {
        Some(Feed::Column(column)) if source.column(column).is_none() && !column.contains(INSTANCE) => {
            Some(column.as_str())
        }
        _ => None,
    };
    let left_out = mapping.map(|mapping| mapping.leave_out.as_slice()).unwrap_or_default();
    let is_free = |column: usize| {
        source.columns.get(column).is_some_and(|name| {
            !used.contains(name) && !left_out.contains(name) && !name.starts_with("(column ")
        })
    };
    let is_open = |field: usize| {
        let mapped = map_of(field).is_some() && gone_from(field).is_none();
        let of_target = |field: &Field| field.never_send || field.fixed.is_some() || field.made_of.is_some();
        !mapped && target.fields.get(field).is_some_and(|field| !of_target(field))
    };
    let mut pairs: Vec<Vec<Pair>> = Vec::new();
    for (field, names) in target.fields.iter().zip(&fields) {
        let mut row = Vec::new();
        for (name, sample) in columns.iter().zip(&samples) {
            row.push(pair((name, sample), (field, names), &weights));
        }
        pairs.push(row);
    }
    let get = |field: usize, column: usize| pairs.get(field).and_then(|row| row.get(column));
    let free_fields: Vec<bool> = (0..target.fields.len()).map(is_open).collect();
    let free_columns: Vec<bool> = (0..columns.len()).map(is_free).collect();
    let free = |field: usize, column: usize| {
        free_fields.get(field).copied().unwrap_or(false) && free_columns.get(column).copied().unwrap_or(false)
    };
    let worth = |field: usize, column: usize| {
        get(field, column)
            .filter(|_| free(field, column))
            .map_or(0, |pair| u32::try_from(pair.worth).unwrap_or(0))
    };
    let assigned = assign(target.fields.len(), columns.len(), &worth);
    let mut proposals = Vec::new();
    let mut doubts = Vec::new();
    for (field, column) in assigned.into_iter().enumerate() {
        let Some((column, pair)) = column.and_then(|column| Some((column, get(field, column)?))) else {
            continue;
        };
        let rival_of = |others: &mut dyn Iterator<Item = i32>| others.max().unwrap_or(0);
        let other_fields = rival_of(
            &mut (0..target.fields.len())
                .filter(|other| *other != field && free(*other, column))
                .filter_map(|other| get(other, column).map(|pair| pair.worth)),
        );
        let other_columns = rival_of(
            &mut (0..columns.len())
                .filter(|other| *other != column && free(field, *other))
                .filter_map(|other| get(field, other).map(|pair| pair.worth)),
        );
        let clear = pair.worth - other_fields.max(other_columns) >= MARGIN;
        let (Some(target_field), Some(report)) = (target.fields.get(field), inspection.columns.get(column))
        else {
            continue;
        };
        let unit = columns.get(column).and_then(|name| name.unit);
        let keys = keys::keys(target_field, report, unit, &pair.contents);
        // A number in a unit that nobody can convert would go in as it stands.
        let unit_unknown =
            unit.filter(|_| matches!(&target_field.kind, FieldType::Number { unit: None, .. }));
        let unit_fits = !keys.iter().any(|key| key.is_wrong) && unit_unknown.is_none();
        let is_sure = pair.is_strong() && clear && unit_fits && !pair.contents.contradict();
        let mut reasons = Vec::new();
        reasons.extend((!pair.why.is_empty() && pair.name >= 300).then(|| pair.why.clone()));
        reasons.extend((!pair.contents.says.is_empty()).then(|| pair.contents.says.clone()));
        if let Some(unit) = unit_unknown {
            reasons.push(format!("the heading says {}, and the target names no unit", unit.symbol()));
        }
        if !clear {
            reasons.push(rival(field, column, &get, target, source));
        }
        if let Some(gone) = gone_from(field) {
            let instead = Some(column);
            doubts.push(Doubt { field, column: gone.to_owned(), is_gone: true, instead, reasons });
            continue;
        }
        proposals.push(Proposal {
            field,
            column,
            sureness: if is_sure { Sureness::Sure } else { Sureness::Likely },
            reasons,
            keys,
        });
    }
    for (field, _) in target.fields.iter().enumerate() {
        if doubts.iter().any(|doubt| doubt.field == field) {
            continue;
        }
        if let Some(gone) = gone_from(field) {
            let column = gone.to_owned();
            doubts.push(Doubt { field, column, is_gone: true, instead: None, reasons: Vec::new() });
            continue;
        }
        let Some(Map { feed: Feed::Column(name), part: None, holds: None, .. }) = map_of(field) else {
            continue;
        };
        let Some(mine) = source.column(name) else { continue };
        doubts.extend(doubt(field, mine, &get, columns.len()).map(|(instead, reasons)| Doubt {
            field,
            column: name.clone(),
            is_gone: false,
            instead,
            reasons,
        }));
    }
    doubts.sort_by_key(|doubt| doubt.field);
    Ok(Proposals { proposals, leave_out: Vec::new(), doubts, inspection })
}

/// Whether another column looks much more like a field than the one that feeds it, or that one holds
/// what the field cannot take.
fn doubt<'p>(
    field: usize,
    mine: usize,
    get: &dyn Fn(usize, usize) -> Option<&'p Pair>,
    columns: usize,
) -> Option<(Option<usize>, Vec<String>)> {
    /// By how much another column must look more like the field.
    const MUCH: i32 = 250;
    let pair = get(field, mine)?;
    let others = (0..columns).filter(|other| *other != mine);
    let best =
        others.filter_map(|other| Some((other, get(field, other)?))).max_by_key(|(_, pair)| pair.worth);
    let better = best.filter(|(_, other)| {
        other.is_strong() && !other.contents.contradict() && other.worth - pair.worth.max(LEAST - 1) >= MUCH
    });
    let mut reasons = Vec::new();
    if pair.contents.contradict() {
        reasons.push(pair.contents.says.clone());
    }
    if let Some((_, other)) = better {
        reasons.push(other.why.clone());
    }
    (!reasons.is_empty()).then(|| (better.map(|(other, _)| other), reasons))
}

impl Pair {
    /// Whether name and contents together are enough, if nothing else comes near.
    fn is_strong(&self) -> bool {
        let points = self.contents.points;
        // Of dates, numbers and words for true and false the values can be asked as well.
        let kind_fits = points > 0 || !self.is_typed;
        match self.name {
            990.. => points > -200,
            // "Remarks date" is not the remarks, unless the values say so.
            _ if self.says_more && points < 60 => false,
            780.. => points >= 0 && kind_fits,
            640.. => points >= 150,
            560.. => points >= 250,
            _ => false,
        }
    }
}

/// Everything a field is called.
fn names_of(field: &Field) -> Vec<Name> {
    let heading = field.heading.iter();
    let mut names: Vec<Name> = Vec::new();
    for name in [&field.name].into_iter().chain(heading).chain(&field.label).chain(&field.also) {
        let name = Name::of(name);
        if !names.contains(&name) {
            names.push(name);
        }
    }
    names
}

fn pair(
    (column, sample): (&Name, &contents::Sample),
    (field, names): (&Field, &[Name]),
    weights: &Weights,
) -> Pair {
    let mut best = (0, "", 0);
    for (place, name) in names.iter().enumerate() {
        let (score, why) = weights.alike(column, name);
        if score > best.0 {
            best = (score, why, place);
        }
    }
    let (name, why, place) = best;
    let is_label = |name: &Name| field.label.as_ref().is_some_and(|label| name.written == *label);
    let shown = match (name, place, names.get(place)) {
        (0, ..) => String::new(),
        (_, 0, _) | (_, _, None) => why.to_owned(),
        (_, _, Some(other)) => {
            let called = if is_label(other) { "its label" } else { "another name of it" };
            format!("{why} as \"{}\", {called}", other.written)
        }
    };
    let contents = Contents::judge(sample, field);
    let worth = i32::try_from(name).unwrap_or(0) + contents.points;
    // What only holds the right thing is proposed where that is something of its own.
    let telling = contents.points >= 250;
    let worth = if name >= 400 || telling { worth } else { 0 };
    let worth = if telling && name < 400 { worth.max(LEAST) } else { worth };
    let is_typed = sample.filled > 0
        && matches!(
            field.kind,
            FieldType::Number { .. } | FieldType::Date { .. } | FieldType::Boolean { .. }
        );
    let says_more = names.get(place).is_some_and(|name| Weights::says_more(column, name));
    Pair { name, says_more, is_typed, why: shown, contents, worth: if worth >= LEAST { worth } else { 0 } }
}

/// What comes too near to a proposal.
fn rival<'p>(
    field: usize,
    column: usize,
    get: &dyn Fn(usize, usize) -> Option<&'p Pair>,
    target: &Target,
    source: &Source,
) -> String {
    let field_rival = (0..target.fields.len())
        .filter(|other| *other != field)
        .max_by_key(|other| get(*other, column).map_or(0, |pair| pair.worth));
    let column_rival = (0..source.columns.len())
        .filter(|other| *other != column)
        .max_by_key(|other| get(field, *other).map_or(0, |pair| pair.worth));
    let worth = |field: Option<usize>, column: Option<usize>| {
        field.zip(column).and_then(|(field, column)| get(field, column)).map_or(0, |pair| pair.worth)
    };
    if worth(field_rival, Some(column)) >= worth(Some(field), column_rival) {
        let name = field_rival.and_then(|place| target.fields.get(place)).map_or("", |field| &field.name);
        format!("the column could be for {name} as well")
    } else {
        let name = column_rival.and_then(|place| source.columns.get(place)).map_or("", String::as_str);
        format!("the column \"{name}\" could be it as well")
    }
}
