//! Keys of the mapping that would let in what many values of a column are rejected for.
//!
//! Each is tried on all rows before it is offered: it has to let in what it is for, and to change nothing else.

use super::effects::{Effect, Trial};
use super::keys_offered::Change;
use crate::Ready;
use dusk_conforming::{Conformer, Plan};
use dusk_evidence::{
    Causes, ColumnCause, ColumnFact, Explains, FieldId, Kind, KindOfField, Result, SettledBy, Way,
};
use dusk_mapping::{Map, Mapping};
use dusk_values::Value;

/// How many cells at least are worth a key of the mapping where they could be corrected one by one.
const LEAST: u64 = 3;

/// One in so many cells at least is blank in a column whose blank cells mean the one above.
const MANY_BLANK: u64 = 5;

/// How many ways there may be: among more, nothing is said by the values.
const MOST_WAYS: usize = 3;

/// How often all rows are read for it.
const MOST_TRIES: usize = 12;

/// A change, and what it makes of the values that it is for; nothing of those that it does not let in.
struct Candidate {
    change: Change,
    made: Vec<Option<(Value, String)>>,
}

impl Candidate {
    fn lets_in(&self) -> usize {
        self.made.iter().flatten().count()
    }
}

impl Ready<'_> {
    /// What lets values in, by keys of the mapping, among so many records.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub(crate) fn let_in_by_keys(&self, causes: &Causes, conformed: u64) -> Result<Vec<ColumnCause>> {
        let mut promising = Vec::new();
        let mut tries = MOST_TRIES;
        for rejected in causes.kinds() {
            let is_decided_by_key = rejected.kind.settled_by() == SettledBy::MappingKey;
            let map = self.job.mapping.maps.iter().find(|map| map.field == rejected.field);
            let is_open = self.proven.open.contains(&rejected.field);
            let Some(map) = map.filter(|_| !is_open && (is_decided_by_key || rejected.cells >= LEAST)) else {
                continue;
            };
            // Cells that were forgotten here and there are no column that is filled down: what stands above is
            // another record's.
            let is_sparse = rejected.kind == Kind::RequiredBlank && rejected.cells < conformed / MANY_BLANK;
            let candidates = if is_sparse { Vec::new() } else { self.candidates(&rejected, map)? };
            let Some(value) = telling_value(&candidates, &rejected.values) else { continue };
            if candidates.len() <= tries {
                tries -= candidates.len();
                promising.push((rejected, candidates, value));
            }
        }
        // All of them in one go through the rows.
        let trials = promising.iter().flat_map(|(rejected, candidates, value)| {
            let (field, kind) = (rejected.field, rejected.kind);
            candidates.iter().map(move |one| Trial { field, change: &one.change, kind, asked: Some(value) })
        });
        let mut effects = self.effects(&trials.collect::<Vec<_>>())?.into_iter();
        let settled = promising.iter().filter_map(|(rejected, candidates, value)| {
            let effects: Vec<Effect> = effects.by_ref().take(candidates.len()).collect();
            settled_by(rejected, (candidates, &effects), value)
        });
        Ok(settled.collect())
    }

    /// The changes that let in the most of these values, half of them at least, each of them otherwise; none where
    /// they are too many to say anything.
    fn candidates(&self, rejected: &KindOfField<'_>, map: &Map) -> Result<Vec<Candidate>> {
        let Some(field) = self.plan.target.fields.get(rejected.field) else { return Ok(Vec::new()) };
        let is_damaged = rejected.kind == Kind::DigitsLost && self.proven.damaged.contains(&rejected.field);
        let mut changes =
            Change::that_may_help(rejected.kind, &rejected.values, field, map, self.job.today.year());
        changes.retain(|_| !is_damaged);
        let mut candidates = Vec::new();
        for change in changes {
            let plan_of = self.changed(rejected.field, &change);
            let plan =
                Plan::compile(self.job.target, &plan_of, self.job.asked, self.job.today, &self.proven)?;
            let mut conformer = Conformer::new(&plan, false)?;
            let mut made = |value: &&str| {
                let outcome = conformer.value_of(rejected.field, value)?;
                outcome.faults.is_empty().then_some((outcome.value, outcome.text))
            };
            let made: Vec<_> = match rejected.kind {
                // What stands above is not in the value.
                Kind::RequiredBlank => vec![Some((Value::Blank, String::new()))],
                _ => rejected.values.iter().map(&mut made).collect(),
            };
            candidates.push(Candidate { change, made });
        }
        Ok(likeliest(candidates, &rejected.values))
    }

    /// Whether other columns than those that feed fields now, each with the field that it would feed, leave hardly
    /// any of the values rejected that are.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub(crate) fn bears_out(&self, instead: &[(FieldId, String)]) -> Result<bool> {
        let changes: Vec<Change> = instead.iter().map(|(_, column)| Change::From(column.clone())).collect();
        let fields = instead.iter().map(|(field, _)| *field);
        let trial = |(field, change)| Trial { field, change, kind: Kind::NotADate, asked: None };
        let effects = self.effects(&fields.zip(&changes).map(trial).collect::<Vec<_>>())?;
        let rejected = |at: usize| effects.iter().filter_map(|effect| effect.rejected.get(at)).sum::<u64>();
        Ok(rejected(0) > 0 && rejected(1) * 5 <= rejected(0))
    }

    /// The mapping with the change made.
    pub(super) fn changed(&self, field: FieldId, change: &Change) -> Mapping {
        let mut mapping: Mapping = self.job.mapping.clone();
        mapping.maps.iter_mut().filter(|map| map.field == field).for_each(|map| change.apply(map));
        mapping
    }
}

/// The cause with what settles it, where any of the candidates does, in all rows.
fn settled_by(
    rejected: &KindOfField<'_>,
    (candidates, effects): (&[Candidate], &[Effect]),
    value: &str,
) -> Option<ColumnCause> {
    let mut ways: Vec<(Change, Way)> = Vec::new();
    let (mut settled, mut of) = (0, 0);
    let worth_it = candidates.iter().zip(effects).filter(|(_, effect)| effect.is_worth_it());
    for (Candidate { change, .. }, effect) in worth_it {
        (settled, of) = (effect.settled, effect.settled + effect.left);
        let line = change.lines().join(" and ");
        let becomes = effect.becomes.clone();
        ways.push((change.clone(), Way { line, value: value.to_owned(), becomes }));
    }
    let lets_in = |at: usize| candidates.iter().any(|one| one.made.get(at).is_some_and(Option::is_some));
    let read = rejected.values.iter().enumerate().filter(|(at, _)| lets_in(*at));
    let is_by_value = rejected.kind.settled_by() != SettledBy::MappingKey;
    (!ways.is_empty()).then(|| ColumnCause {
        explains: match is_by_value {
            true => {
                let values = read.map(|(_, value)| (*value).to_owned()).collect();
                Explains::Values(rejected.field, rejected.kind, values)
            }
            false => Explains::OneKind(rejected.field, rejected.kind),
        },
        lines: lines_of(&ways),
        fact: ColumnFact::Settled { ways: ways.into_iter().map(|(_, way)| way).collect(), settled, of },
    })
}

/// The candidates that let in the most values, half of them at least, one of those that make the same of them. None
/// where they are too many, or where another one reads what they do not, and the rest otherwise.
fn likeliest(candidates: Vec<Candidate>, values: &[&str]) -> Vec<Candidate> {
    let best = candidates.iter().map(Candidate::lets_in).max().unwrap_or(0);
    let (best, fewer): (Vec<Candidate>, Vec<Candidate>) =
        candidates.into_iter().partition(|one| one.lets_in() == best && best > 0);
    let changes: Vec<&Change> = best.iter().map(|one| &one.change).collect();
    let is_denied = fewer.iter().any(|one| one.lets_in() > 0 && one.change.denies(&changes, values));
    // Where each part of a value is a code, the others say nothing against it.
    let is_by_part = |one: &Candidate| matches!(one.change, Change::Between(_));
    let half = best.first().is_some_and(|one| is_by_part(one) || one.lets_in() * 2 >= one.made.len());
    if is_denied || !half {
        return Vec::new();
    }
    let mut different: Vec<Candidate> = Vec::new();
    for candidate in best {
        // Of two that do the same the shorter one is kept, of patterns the stricter.
        match different.iter_mut().find(|known| known.made == candidate.made) {
            Some(known) if is_better(&candidate.change, &known.change) => *known = candidate,
            Some(_) => {}
            None => different.push(candidate),
        }
    }
    if different.len() > MOST_WAYS { Vec::new() } else { different }
}

fn is_better(one: &Change, other: &Change) -> bool {
    let length = |change: &Change| change.lines().iter().map(String::len).sum::<usize>();
    let is_pattern = matches!(one, Change::Pattern(_));
    if is_pattern { length(one) > length(other) } else { one.lines().len() < other.lines().len() }
}

/// The first value that every candidate lets in, and each of them as another one.
fn telling_value<'v>(candidates: &[Candidate], values: &[&'v str]) -> Option<&'v str> {
    let tells = |at: usize| {
        let made: Vec<_> = candidates.iter().filter_map(|one| one.made.get(at)?.as_ref()).collect();
        let differ = made
            .iter()
            .enumerate()
            .all(|(place, one)| !made.iter().skip(place + 1).any(|other| other == one));
        made.len() == candidates.len() && !made.is_empty() && differ
    };
    values.iter().enumerate().find(|(at, _)| tells(*at)).map(|(_, value)| value.trim())
}

/// The lines to be written: those of the only way, or an open one with the choices.
fn lines_of(ways: &[(Change, Way)]) -> Vec<String> {
    let with = |line: &str, comment: &str| match comment {
        "" => line.to_owned(),
        comment => format!("{line}   # {comment}"),
    };
    match ways {
        [(change, _)] => {
            let lines = change.lines();
            let last = lines.len().saturating_sub(1);
            let one =
                |(at, line): (usize, &String)| with(line, if at == last { change.condition() } else { "" });
            lines.iter().enumerate().map(one).collect()
        }
        ways => {
            let all: Vec<Vec<String>> = ways.iter().map(|(change, _)| change.lines()).collect();
            let is_common = |line: &String| all.iter().all(|lines| lines.contains(line));
            let common = all.first().into_iter().flatten().filter(|line| is_common(line)).cloned();
            // What differs is left open: none of the ways is likelier than another.
            let own = |lines: &Vec<String>| {
                let own: Vec<&str> =
                    lines.iter().filter(|line| !is_common(line)).map(String::as_str).collect();
                if own.is_empty() { "neither".to_owned() } else { own.join(" and ") }
            };
            let own: Vec<String> = all.iter().map(own).collect();
            let key = own.iter().find_map(|own| Some(own.split_once(" = ")?.0)).unwrap_or_default();
            let answer = |own: &String| {
                let (of, answer) = own.split_once(" = ")?;
                (of == key && !answer.contains(" = ")).then(|| answer.to_owned())
            };
            let answers: Option<Vec<String>> = own.iter().map(answer).collect();
            let condition = ways.first().map_or("", |(change, _)| change.condition());
            let condition = if condition.is_empty() { String::new() } else { format!("; {condition}") };
            let open = format!("{key} = …   # {}{condition}", answers.unwrap_or(own.clone()).join(" or "));
            common.chain([open]).collect()
        }
    }
}
