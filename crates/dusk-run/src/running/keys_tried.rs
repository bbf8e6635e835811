//! Keys of the mapping that would let in what many values of a column are rejected for.
//!
//! Each is tried on all rows before it is offered: it has to let in what it is for, and to change nothing else.

use super::keys_offered::Change;
use crate::Ready;
use dusk_conforming::{Conformer, Fit, Outcome, Plan, Shape};
use dusk_evidence::{
    Causes, ColumnCause, ColumnFact, Explains, FieldId, Kind, KindOfField, Result, SettledBy, Way,
};
use dusk_mapping::{Map, Mapping};
use dusk_sources::{Rejoined, without_marks};
use dusk_values::{Value, shown};

/// How many cells at least are worth a key of the mapping where they could be corrected one by one.
const LEAST: u64 = 3;

/// How many ways there may be: among more, nothing is said by the values.
const MOST_WAYS: usize = 3;

/// How often all rows are read for it.
const MOST_TRIES: usize = 12;

/// What a changed mapping does to the values of a field.
#[derive(Debug, Default)]
struct Effect {
    /// Values that were rejected and are let in, and those that are still rejected.
    settled: u64,
    left: u64,
    /// Values that were let in, and are rejected or become something else.
    spoilt: u64,
    /// How many values are rejected before the change, and after it, for whatever reason.
    rejected: [u64; 2],
    /// What becomes of the value that was asked about.
    becomes: String,
}

impl Effect {
    /// True where the change lets in at least half of what it is for, and does no harm.
    fn is_worth_it(&self) -> bool {
        self.spoilt == 0 && self.settled > 0 && self.settled >= self.left
    }

    /// Takes in a value before and after the change.
    fn take(&mut self, before: &Outcome, after: &Outcome, kind: Kind) {
        self.rejected[0] += u64::from(!before.faults.is_empty());
        self.rejected[1] += u64::from(!after.faults.is_empty());
        match (before.faults.first(), after.faults.is_empty()) {
            (Some(fault), true) => self.settled += u64::from(fault.kind() == kind),
            (Some(fault), false) => self.left += u64::from(fault.kind() == kind),
            (None, true) if before.text == after.text && before.value == after.value => {}
            (None, _) => self.spoilt += 1,
        }
    }
}

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
    /// What lets values in, by keys of the mapping.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub(crate) fn let_in_by_keys(&self, causes: &Causes) -> Result<Vec<ColumnCause>> {
        let mut found = Vec::new();
        let mut tries = MOST_TRIES;
        for rejected in causes.kinds() {
            let is_decided_by_key = rejected.kind.settled_by() == SettledBy::MappingKey;
            let map = self.job.mapping.maps.iter().find(|map| map.field == rejected.field);
            let is_open = self.proven.open.contains(&rejected.field);
            let Some(map) = map.filter(|_| !is_open && (is_decided_by_key || rejected.cells >= LEAST)) else {
                continue;
            };
            let candidates = self.candidates(&rejected, map)?;
            if candidates.len() <= tries {
                tries -= candidates.len();
                found.extend(self.settled_by(&rejected, candidates)?);
            }
        }
        Ok(found)
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
        let mut rejected = [0, 0];
        for (field, column) in instead {
            let effect = self.effect(*field, &Change::From(column.clone()), (Kind::NotADate, ""))?;
            rejected = [rejected[0] + effect.rejected[0], rejected[1] + effect.rejected[1]];
        }
        Ok(rejected[0] > 0 && rejected[1] * 5 <= rejected[0])
    }

    fn changed(&self, field: FieldId, change: &Change) -> Mapping {
        let mut mapping: Mapping = self.job.mapping.clone();
        mapping.maps.iter_mut().filter(|map| map.field == field).for_each(|map| change.apply(map));
        mapping
    }

    /// The cause with what settles it, where any of the candidates does, in all rows.
    fn settled_by(
        &self,
        rejected: &KindOfField<'_>,
        candidates: Vec<Candidate>,
    ) -> Result<Option<ColumnCause>> {
        let Some(value) = telling_value(&candidates, &rejected.values) else { return Ok(None) };
        let mut ways: Vec<(Change, Way)> = Vec::new();
        let (mut settled, mut of) = (0, 0);
        for Candidate { change, .. } in &candidates {
            let effect = self.effect(rejected.field, change, (rejected.kind, value))?;
            if effect.is_worth_it() {
                (settled, of) = (effect.settled, effect.settled + effect.left);
                let line = change.lines().join(" and ");
                ways.push((change.clone(), Way { line, value: value.to_owned(), becomes: effect.becomes }));
            }
        }
        let lets_in = |at: usize| candidates.iter().any(|one| one.made.get(at).is_some_and(Option::is_some));
        let read = rejected.values.iter().enumerate().filter(|(at, _)| lets_in(*at));
        let is_by_value = rejected.kind.settled_by() != SettledBy::MappingKey;
        Ok((!ways.is_empty()).then(|| ColumnCause {
            explains: match is_by_value {
                true => Explains::Values(
                    rejected.field,
                    rejected.kind,
                    read.map(|(_, value)| (*value).to_owned()).collect(),
                ),
                false => Explains::OneKind(rejected.field, rejected.kind),
            },
            lines: lines_of(&ways),
            fact: ColumnFact::Settled { ways: ways.into_iter().map(|(_, way)| way).collect(), settled, of },
        }))
    }

    /// What becomes of the values of a field, in all rows, when its `[[map]]` is changed.
    fn effect(&self, field: FieldId, change: &Change, (kind, asked): (Kind, &str)) -> Result<Effect> {
        let job = self.job;
        let mapping = self.changed(field, change);
        let changed = Plan::compile(job.target, &mapping, job.asked, job.today, &self.proven)?;
        let mut effect = Effect::default();
        let (mut findings, mut room, mut room_then) = (Vec::new(), Rejoined::default(), Rejoined::default());
        for (id, source) in job.sources_with_ids() {
            let (columns, columns_then) = (self.plan.bind(source)?, changed.bind(source)?);
            // Another column may stand at another place of the plan.
            let (shape, then) = (Shape::of(source, id, &columns), Shape::of(source, id, &columns_then));
            let mut before = Conformer::new(&self.plan, false)?;
            let mut after = Conformer::new(&changed, false)?;
            let mut walk = source.walk()?;
            while let Some(mut rows) = walk.more()? {
                while let Some(as_read) = rows.next() {
                    let (row, fit) = before.fit(as_read, &shape, &mut room, &mut findings);
                    findings.clear();
                    let (row_then, _) = after.fit(as_read, &then, &mut room_then, &mut findings);
                    findings.clear();
                    let (records, records_then) = match fit {
                        Fit::Whole => (shape.records(&row, &self.plan), then.records(&row_then, &changed)),
                        _ => (Vec::new(), Vec::new()),
                    };
                    for (record, record_then) in records.iter().zip(&records_then) {
                        let is_asked = effect.becomes.is_empty()
                            && without_marks(&before.raw(field, &row, record).0).trim() == asked;
                        let was = before.value_alone(field, &row, record);
                        let is = after.value_alone(field, &row_then, record_then);
                        let Some((was, is)) = was.zip(is) else { continue };
                        effect.take(was, is, kind);
                        if is_asked && is.faults.is_empty() {
                            effect.becomes = clear(is);
                        }
                    }
                    before.pass(&as_read, &shape);
                    after.pass(&as_read, &then);
                }
            }
        }
        Ok(effect)
    }
}

/// The candidates that let in the most values, half of them at least, one of those that make the same of them. None
/// where they are too many, or where another one reads what they do not, and the rest otherwise.
fn likeliest(candidates: Vec<Candidate>, values: &[&str]) -> Vec<Candidate> {
    let best = candidates.iter().map(Candidate::lets_in).max().unwrap_or(0);
    let (best, fewer): (Vec<Candidate>, Vec<Candidate>) =
        candidates.into_iter().partition(|one| one.lets_in() == best && best > 0);
    let changes: Vec<&Change> = best.iter().map(|one| &one.change).collect();
    let is_denied = fewer.iter().any(|one| one.lets_in() > 0 && one.change.denies(&changes, values));
    let half = best.first().is_some_and(|one| one.lets_in() * 2 >= one.made.len());
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

/// What became of a value, in a form that cannot be misread.
fn clear(outcome: &Outcome) -> String {
    match outcome.value {
        Value::Date(day) => shown(day),
        Value::DateTime(moment) => format!("{} {}", shown(moment.date()), moment.time()),
        _ => outcome.text.clone(),
    }
}
