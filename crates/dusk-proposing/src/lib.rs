//! Proposals: which column feeds which field, with the reasons, and how sure that is.
//!
//! ```text
//! spelling  how a name is split into words
//! words     how alike two words are
//! trade_words  words that mean the same, in several languages
//! names     a heading, or what a field is called
//! likeness  how alike a heading and a field's names are
//! sample    some of what a column holds
//! contents  whether what a column holds is what a field takes
//! masks     what a description shows of a value's form
//! hints     what a field wants beyond its type, as its names and its description say
//! called    everything a field is called
//! pair      a column and a field, and what speaks for them
//! weigh     every column weighed for every field
//! dependent codes that hold inside the codes of another column
//! counter_check  a pair held against the other columns and fields, by contents
//! assign    all columns assigned together, for the best total
//! relations what a dictionary says of several fields, held against the rows
//! repeated  headings that stand several times, for fields in the same order
//! row_values  numbers and days of columns as plain figures
//! rows      the first rows, for what has to hold row by row
//! made      what is proposed for a field that no column feeds as it stands
//! joined    fields that several columns feed together
//! taken_apart  columns that feed several fields, a part each
//! keys      what else a [[map]] has to say: units, orders, what parts several values
//! misplaced columns that feed the wrong fields, told by what they hold
//! edited    changes inside what a steward wrote, because the steward said so
//! write     mapping.toml, new or refreshed
//! ```

mod assign;
mod called;
mod contents;
mod counter_check;
mod dependent;
mod edited;
mod hints;
mod joined;
mod keys;
mod likeness;
mod made;
mod masks;
mod misplaced;
mod names;
mod pair;
mod relations;
mod repeated;
mod row_values;
mod rows;
mod sample;
mod spelling;
mod taken_apart;
mod trade_words;
mod weigh;
mod words;
mod write;

use jiff::civil::Date;

use dusk_description::{Field, FieldType, NumberType, Target};
use dusk_evidence::{ById, ColumnId, FieldId, Id as _, Result};
use dusk_inspecting::{Inspection, inspect};
use dusk_mapping::Mapping;
use dusk_sources::{Progress, Source, Threads};
use dusk_values::{Decimal, Mention};

use assign::{Assigned, margins};
use contents::Contents;
use joined::{continued, joined};
pub use keys::Key;
use made::{How, Made};
pub use misplaced::wrong_columns;
use names::Name;
use pair::Proof;
use relations::{in_order, ordered, reckoned, values};
use repeated::repeated;
use rows::Rows;
use taken_apart::taken_apart;
pub use trade_words::TradeWords;
use weigh::Weighed;
pub use write::{Written, write_mapping};

/// The least that a pair of column and field must be worth to be proposed.
const LEAST: i32 = 400;

/// By how much a sure pair must be better than any other for its column or its field.
const MARGIN: u32 = 90;

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
    /// The field.
    pub field: FieldId,
    /// What feeds the field.
    pub fed: Fed,
    /// How sure it is.
    pub sureness: Sureness,
    /// Why.
    pub reasons: Vec<String>,
    /// What else its `[[map]]` has to say.
    pub keys: Vec<Key>,
}

/// What feeds a field.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Fed {
    /// A column.
    Column(ColumnId),
    /// Several columns together, in order, and how a `join` says it: `{Day} {Clock}`.
    Join(Vec<ColumnId>, String),
    /// The same text in every record.
    Constant(String),
}

impl Fed {
    /// The columns, in order.
    pub fn columns(&self) -> &[ColumnId] {
        match self {
            Self::Column(column) => std::slice::from_ref(column),
            Self::Join(columns, _) => columns,
            Self::Constant(_) => &[],
        }
    }

    /// The column, where it is one and as it stands or a part of it.
    pub fn column(&self) -> Option<ColumnId> {
        match self {
            Self::Column(column) => Some(*column),
            Self::Join(..) | Self::Constant(_) => None,
        }
    }
}

/// A column that may feed a field, for somebody to choose from.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Candidate {
    /// The column.
    pub column: ColumnId,
    /// What speaks for it, and what against it.
    pub says: String,
}

/// What an earlier mapping says, and the source does not bear out.
#[derive(Debug, Clone)]
pub struct Doubt {
    /// The field.
    pub field: FieldId,
    /// The column that feeds it now.
    pub column: String,
    /// True where the source has no such column any more.
    pub is_gone: bool,
    /// What would be proposed instead.
    pub instead: Option<ColumnId>,
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
    /// Columns that are called after a field and hold something else: why they are not proposed.
    pub namesakes: Vec<(FieldId, ColumnId, String)>,
    /// Fields that somebody says nothing feeds.
    pub not_fed: Vec<FieldId>,
    /// Columns that the source calls otherwise now, which somebody takes: the field, the old and the new one.
    pub renamed: Vec<(FieldId, String, ColumnId)>,
    /// The columns that may feed each field, the likeliest first.
    pub candidates: ById<FieldId, Vec<Candidate>>,
    /// Some of what each column holds, in the order of the source.
    pub values: ById<ColumnId, Vec<String>>,
    /// What an earlier mapping says and the source does not bear out, in the target's order.
    pub doubts: Vec<Doubt>,
    /// What the source is.
    pub inspection: Inspection,
}

impl Proposals {
    /// Takes what somebody says for a field. Other fields keep their columns: one column may feed several.
    pub fn say(
        &mut self,
        field: FieldId,
        fed: Fed,
        part: Option<(&str, &str)>,
        (source, target): (&Source, &Target),
    ) {
        let known = self.proposals.iter().position(|proposal| proposal.field == field);
        let known = known.map(|place| self.proposals.remove(place));
        let keys = match (part, fed.column(), known) {
            (Some((form, take)), ..) => keys::of_part(form, take),
            (None, Some(_), Some(known)) if known.fed == fed => known.keys,
            (None, Some(column), _) => {
                let wanted = target.fields.get(field);
                let name = Name::of(source.heading(column), TradeWords::known());
                let unit = name.unit_for(wanted.and_then(|field| field.kind.unit()));
                let columns = (self.inspection.columns.as_slice(), column);
                wanted.map_or_else(Vec::new, |field| {
                    keys::keys(field, columns, (unit.as_ref(), name.unit.is_none()), &Contents::default())
                })
            }
            (None, None, _) => Vec::new(),
        };
        // What was only likely elsewhere falls.
        self.proposals.retain(|proposal| {
            proposal.sureness != Sureness::Likely
                || !proposal.fed.columns().iter().any(|column| fed.columns().contains(column))
        });
        let reasons = vec!["as was answered".into()];
        self.proposals.push(Proposal { field, fed, sureness: Sureness::Said, reasons, keys });
        self.proposals.sort_by_key(|proposal| proposal.field);
    }

    /// Takes a proposal as it stands, because somebody says yes.
    pub fn confirm(&mut self, proposal: &Proposal) {
        let is_it = |known: &&mut Proposal| known.field == proposal.field;
        if let Some(known) = self.proposals.iter_mut().find(is_it) {
            known.sureness = Sureness::Said;
            known.reasons = vec!["as was answered".into()];
        }
    }

    /// Takes a proposal back, because somebody says no.
    pub fn refuse(&mut self, field: FieldId) {
        self.proposals.retain(|proposal| proposal.field != field);
    }

    /// The proposal for a field.
    pub fn of_field(&self, field: FieldId) -> Option<&Proposal> {
        self.proposals.iter().find(|proposal| proposal.field == field)
    }
}

/// What proposals are made with, beside the source and the target.
#[derive(Debug, Clone, Copy)]
pub struct Proposing<'p> {
    /// An earlier mapping: what it says is left alone, its columns are spoken for.
    pub mapping: Option<&'p Mapping>,
    /// The day that dates are held against.
    pub today: Date,
    /// How many threads may look.
    pub threads: Threads,
    /// Headings that other mappings of the target feed its fields from.
    pub learnt: &'p [(FieldId, String)],
    /// Reads the limits that a description states in words.
    pub limits: ReadLimits,
    /// The words of the trades.
    pub words: &'p TradeWords,
}

/// The least and the greatest number that a text about a field states, as who drafts descriptions reads them.
pub type ReadLimits = fn(&str) -> (Option<Decimal>, Option<Decimal>);

impl Proposing<'_> {
    /// Without an earlier mapping, with all the words that are known.
    pub fn new(today: Date, threads: Threads, limits: ReadLimits) -> Self {
        Self { mapping: None, today, threads, learnt: &[], limits, words: TradeWords::known() }
    }
}

/// Proposes columns for the fields of `target`. Of an earlier mapping, what it says is left alone: its
/// fields have their columns, and its columns are spoken for.
///
/// # Errors
/// Whatever stops reading the source.
pub fn propose(
    source: &Source,
    target: &Target,
    proposing: &Proposing<'_>,
    progress: &Progress<'_>,
) -> Result<Proposals> {
    let Proposing { mapping, today, threads, learnt, limits, words } = *proposing;
    let inspection = inspect(source, Some((target, today)), threads, progress)?;
    let mut weighed = Weighed::of(source, target, (mapping, learnt), (limits, words))?;
    let rows = Rows::of(source)?;
    let proven = reckoned(&weighed, &rows);
    weighed.prove(&proven, Proof::Reckoned);
    let proven = in_order(&weighed, &rows);
    weighed.prove(&proven, Proof::Order);
    let proven = repeated(&weighed);
    weighed.prove(&proven, Proof::Sequence);
    let mut made = joined(&weighed, &rows, words);
    weighed.settle(&made);
    let apart = taken_apart(&weighed, &rows, words);
    weighed.settle(&apart);
    made.extend(apart);
    let out_of_order = put_in_order(&mut weighed, &rows);
    let worth = worth_of(&weighed);
    let assigned = assigned(&weighed);
    let margins = margins(&assigned, source.columns.len(), &worth);
    let mut proposals = Vec::new();
    let mut doubts = Vec::new();
    for (field, column) in target.fields.ids().zip(assigned.iter().copied()) {
        let column = column.map(ColumnId::new);
        let proposal = column.filter(|_| weighed.is_open(field)).and_then(|column| {
            let margin = margins.get(field.index()).copied().flatten()?;
            let mut proposal = proposal(&weighed, (field, column, margin), (target, &assigned), &inspection)?;
            let must_be_filled = target.fields.get(field).is_some_and(|field| field.required || field.key);
            let held = rows.held_from_above(column).filter(|_| must_be_filled);
            proposal.keys.extend(held.map(keys::of_groups));
            if out_of_order.contains(&field) {
                proposal.sureness = Sureness::Likely;
                proposal.reasons.push("its rows are not in the order that the dictionary says".into());
            }
            Some(proposal)
        });
        match weighed.gone_from(field) {
            None => {
                proposals.extend(proposal);
                doubts.extend(weighed.doubt(field, None));
            }
            // The mapping has a line for the field, which is not changed unasked.
            Some(_) => {
                let instead = proposal.and_then(|proposal| Some((proposal.fed.column()?, proposal.reasons)));
                doubts.extend(weighed.doubt(field, instead));
            }
        }
    }
    run_on(&mut proposals, &weighed, &rows, target);
    proposals.extend(made.into_iter().filter_map(of_several));
    proposals.sort_by_key(|proposal| proposal.field);
    let is_without = |field: &FieldId| !proposals.iter().any(|proposal: &Proposal| proposal.field == *field);
    let namesake = |field: FieldId| weighed.namesake(field).map(|(column, why)| (field, column, why));
    let namesakes = weighed.fields().filter(is_without).filter_map(namesake).collect();
    let candidates = weighed.fields().map(|field| weighed.candidates(field, &assigned)).collect();
    Ok(Proposals {
        namesakes,
        proposals,
        leave_out: Vec::new(),
        not_fed: Vec::new(),
        renamed: Vec::new(),
        candidates,
        values: weighed.values(),
        doubts,
        inspection,
    })
}

/// What a field and a column are worth together, both counted from 0.
fn worth_of(weighed: &Weighed<'_>) -> impl Fn(usize, usize) -> u32 {
    |field, column| u32::try_from(weighed.worth(FieldId::new(field), ColumnId::new(column))).unwrap_or(0)
}

/// The columns of all fields that are worth most together.
fn assigned(weighed: &Weighed<'_>) -> Vec<Option<usize>> {
    let worth = worth_of(weighed);
    Assigned::of(weighed.fields().count(), weighed.columns().count(), &worth).columns(&worth)
}

/// Holds the columns that fields would have against the order that the dictionary puts these fields in: where the
/// rows show it, the columns cannot be exchanged. Gives the fields whose columns are not in that order.
fn put_in_order(weighed: &mut Weighed<'_>, rows: &Rows) -> Vec<FieldId> {
    let mut out_of_order = Vec::new();
    let mut assigned = assigned(weighed);
    for (first, second) in ordered(weighed) {
        let column = |field: FieldId| assigned.get(field.index()).copied().flatten().map(ColumnId::new);
        let Some((low, high)) = column(first).zip(column(second)) else { continue };
        let both = values(weighed, rows, (first, low)).zip(values(weighed, rows, (second, high)));
        let Some((low_values, high_values)) = both else { continue };
        let (at_most, less) = low_values.at_most(&high_values);
        let (back, _) = high_values.at_most(&low_values);
        if at_most.percent() >= 97 && less.percent() >= 20 {
            weighed.forbid(&[(first, high), (second, low)]);
            assigned = self::assigned(weighed);
        } else if back.percent() >= 97 && less.percent() == 0 {
            weighed.forbid(&[(first, low), (second, high)]);
            assigned = self::assigned(weighed);
        } else if at_most.percent() < 80 {
            out_of_order.extend([first, second]);
        }
    }
    out_of_order
}

/// Where a text runs on in the next column, both feed the field.
fn run_on(proposals: &mut Vec<Proposal>, weighed: &Weighed<'_>, rows: &Rows, target: &Target) {
    let mut taken = Vec::new();
    for proposal in proposals.iter_mut() {
        let is_text =
            target.fields.get(proposal.field).is_some_and(|field| matches!(field.kind, FieldType::Text(_)));
        let Some(column) = proposal.fed.column() else { continue };
        let next = ColumnId::new(column.index() + 1);
        if !is_text || !weighed.is_free(next) {
            continue;
        }
        let Some(between) = continued(rows, column, next) else { continue };
        let [first, second] = [column, next].map(|column| weighed.heading(column));
        let written = format!("{{{first}}}{}{{{second}}}", between.unwrap_or_default());
        proposal.fed = Fed::Join(vec![column, next], written);
        proposal.reasons.push(format!("its text runs on in \"{second}\""));
        if between.is_none() {
            proposal.sureness = Sureness::Likely;
            proposal.reasons.push("some rows lost the blank between the two".into());
        }
        taken.push((proposal.field, next));
    }
    proposals.retain(|proposal| {
        !taken
            .iter()
            .any(|(field, column)| *field != proposal.field && proposal.fed.columns().contains(column))
    });
}

/// The proposal for a field that no column feeds as it stands.
fn of_several(made: Made) -> Option<Proposal> {
    let Made { field, columns, how, is_sure, reasons } = made;
    let sureness = if is_sure { Sureness::Sure } else { Sureness::Likely };
    let (fed, keys) = match how {
        How::Join(written) => (Fed::Join(columns, written), Vec::new()),
        How::Part { form, take } => (Fed::Column(*columns.first()?), keys::of_part(&form, &take)),
    };
    Some(Proposal { field, fed, sureness, reasons, keys })
}

/// Whether a field of numbers that wants no unit is called after the one that a heading names.
fn agrees_with_name(field: &Field, heading: &Mention) -> bool {
    let FieldType::Number(NumberType { unit: None, .. }) = &field.kind else { return true };
    matches!((field.named_unit(), heading), (Some((named, _)), Mention::Unit(unit)) if named == *unit)
}

/// The proposal of a column for a field, with the reasons and how sure it is.
fn proposal(
    weighed: &Weighed<'_>,
    (field, column, margin): (FieldId, ColumnId, u32),
    (target, assigned): (&Target, &[Option<usize>]),
    inspection: &Inspection,
) -> Option<Proposal> {
    let pair = weighed.pair(field, column).filter(|pair| pair.is_worth_saying())?;
    let target_field = target.fields.get(field)?;
    let heading = weighed.headings.get(column)?;
    let unit = heading.unit_for(target_field.kind.unit());
    let unit = unit.as_ref();
    let of_unit = (unit, heading.unit.is_none());
    let keys = keys::keys(target_field, (&inspection.columns, column), of_unit, &pair.contents);
    // A number in a unit that nobody can convert would go in as it stands.
    let unit_unknown = unit.filter(|unit| !agrees_with_name(target_field, unit));
    let unit_fits = !keys.iter().any(|key| key.is_wrong) && unit_unknown.is_none();
    let rival = if margin < MARGIN || weighed.is_second((field, column), assigned) {
        Some(weighed.rival(field, column))
    } else {
        None
    };
    // A column beside it may name the unit of each number.
    let is_unit_beside = keys::has_units_beside(target_field, &inspection.columns, column);
    let unsaid = (!is_unit_beside && weighed.has_unsaid_unit(field, column))
        .then(|| "nothing says which unit its numbers are in".to_owned());
    let against = weighed.against((field, column), assigned).or(unsaid);
    let is_alone = weighed.is_alone(field, column);
    let is_sure = (pair.is_strong(margin) || pair.proof.is_some() || is_alone)
        && rival.is_none()
        && against.is_none()
        && unit_fits
        && !pair.contents.contradict();
    let mut reasons = Vec::new();
    reasons.extend((!pair.why.is_empty() && pair.name >= 300).then(|| pair.why.clone()));
    reasons.extend((!pair.contents.grounds.is_nothing()).then(|| pair.contents.grounds.words(None)));
    reasons.extend(unit_unknown.map(|unit| {
        let unit = match unit {
            Mention::Unit(unit) => unit.symbol(),
            Mention::Unclear(word) => word,
        };
        format!("the heading says {unit}, and the target names no unit")
    }));
    reasons.extend(keys::proven_order(target_field, inspection.columns.get(column.index())?));
    reasons.extend(pair.proof.map(|proof| proof.says().to_owned()));
    reasons
        .extend(is_alone.then(|| "no other column holds such values, and no other field takes them".into()));
    reasons.extend(rival);
    reasons.extend(against);
    let sureness = if is_sure { Sureness::Sure } else { Sureness::Likely };
    Some(Proposal { field, fed: Fed::Column(column), sureness, reasons, keys })
}
