//! Keys of the mapping that would let in what many values of a column are rejected for.
//!
//! Each is tried on all rows before it is offered: it has to let in what it is for, and to change nothing else.

use crate::Ready;
use dusk_conforming::{Conformer, Fit, Outcome, Plan, Shape};
use dusk_description::{DateType, FieldType};
use dusk_evidence::{Causes, ColumnCause, ColumnFact, Explains, FieldId, Kind, Result, Way};
use dusk_files::toml_text;
use dusk_mapping::{Feed, Map, Mapping};
use dusk_sources::{Rejoined, without_marks};
use dusk_values::{DatePattern, Value, ValueType, is_in_calendar, patterns_of, shown};

/// How many cells at least are worth a key of the mapping; fewer are corrected.
const LEAST: u64 = 3;

/// How many ways there may be: among more, the form says too little.
const MOST_WAYS: usize = 3;

/// How many values are looked at for patterns.
const LOOKED_AT: usize = 8;

/// What a changed mapping does to the values of a field.
#[derive(Debug, Default)]
struct Effect {
    /// Values that were rejected and are let in, and those that are still rejected.
    settled: u64,
    left: u64,
    /// Values that were let in, and are rejected or become something else.
    spoilt: u64,
    /// What becomes of the value that was asked about.
    becomes: String,
}

impl Effect {
    /// True where the change lets in at least half of what it is for, and does no harm.
    fn is_worth_it(&self) -> bool {
        self.spoilt == 0 && self.settled >= LEAST && self.settled >= self.left
    }

    /// Takes in a value before and after the change.
    fn take(&mut self, before: &Outcome, after: &Outcome, kind: Kind) {
        match (before.faults.first(), after.faults.is_empty()) {
            (Some(_), true) => self.settled += 1,
            (Some(fault), false) => self.left += u64::from(fault.kind() == kind),
            (None, true) if before.text == after.text && before.value == after.value => {}
            (None, _) => self.spoilt += 1,
        }
    }
}

impl Ready<'_> {
    /// What lets in the dates that have none of the everyday forms: their pattern, where the values leave one.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub(crate) fn let_in_by_keys(&self, causes: &Causes) -> Result<Vec<ColumnCause>> {
        let mut found = Vec::new();
        for map in self.job.mapping.maps.iter().filter(|map| matches!(map.feed, Feed::Column(_))) {
            let kind = self.plan.target.fields.get(map.field).map(|field| &field.kind);
            let Some(FieldType::Date(DateType { holds, .. })) = kind else { continue };
            let values = causes.values(map.field, Kind::NotADate);
            if values.iter().map(|(_, count)| count).sum::<u64>() >= LEAST {
                let values: Vec<&str> = values.into_iter().map(|(value, _)| value).collect();
                found.extend(self.let_in_by_pattern(map, *holds, &values)?);
            }
        }
        Ok(found)
    }

    fn let_in_by_pattern(&self, map: &Map, holds: ValueType, values: &[&str]) -> Result<Option<ColumnCause>> {
        let trimmed: Vec<&str> = values.iter().map(|value| value.trim()).collect();
        let patterns = patterns_for(&trimmed, holds);
        let Some(value) = telling_value(&patterns, &trimmed) else { return Ok(None) };
        let mut ways = Vec::new();
        let (mut settled, mut of) = (0, 0);
        for pattern in &patterns {
            let line = format!("pattern = {}", toml_text(pattern.text()));
            let change = |map: &mut Map| map.date.pattern = Some(pattern.clone());
            let effect = self.effect(map.field, change, (Kind::NotADate, value))?;
            if effect.is_worth_it() {
                (settled, of) = (effect.settled, effect.settled + effect.left);
                ways.push(Way { line, value: value.to_owned(), becomes: effect.becomes });
            }
        }
        let texts: Vec<String> = patterns.iter().map(|pattern| toml_text(pattern.text())).collect();
        let line = match ways.as_slice() {
            [] => return Ok(None),
            [way] => way.line.clone(),
            _ => format!("pattern = …   # {}", texts.join(" or ")),
        };
        let is_read = |value: &&&str| patterns.iter().any(|pattern| is_in_calendar(pattern, value.trim()));
        let read = values.iter().filter(is_read).map(|value| (*value).to_owned()).collect();
        Ok(Some(ColumnCause {
            explains: Explains::Values(map.field, Kind::NotADate, read),
            fact: ColumnFact::Settled { ways, settled, of },
            lines: vec![line],
        }))
    }

    /// What becomes of the values of a field, in all rows, when its `[[map]]` is changed.
    fn effect(
        &self,
        field: FieldId,
        change: impl Fn(&mut Map),
        (kind, asked): (Kind, &str),
    ) -> Result<Effect> {
        let job = self.job;
        let mut mapping: Mapping = job.mapping.clone();
        mapping.maps.iter_mut().filter(|map| map.field == field).for_each(change);
        let changed = Plan::compile(job.target, &mapping, job.asked, job.today, &self.proven)?;
        let mut effect = Effect::default();
        let (mut findings, mut room) = (Vec::new(), Rejoined::default());
        for (id, source) in job.sources_with_ids() {
            let columns = self.plan.bind(source)?;
            let shape = Shape::of(source, id, &columns);
            let mut before = Conformer::new(&self.plan, false)?;
            let mut after = Conformer::new(&changed, false)?;
            let mut walk = source.walk()?;
            while let Some(mut rows) = walk.more()? {
                while let Some(as_read) = rows.next() {
                    let (row, fit) = before.fit(as_read, &shape, &mut room, &mut findings);
                    findings.clear();
                    let records =
                        if fit == Fit::Whole { shape.records(&row, &self.plan) } else { Vec::new() };
                    for record in records {
                        let is_asked = effect.becomes.is_empty()
                            && without_marks(&before.raw(field, &row, &record).0).trim() == asked;
                        let was = before.value_alone(field, &row, &record);
                        let Some((was, is)) = was.zip(after.value_alone(field, &row, &record)) else {
                            continue;
                        };
                        effect.take(was, is, kind);
                        if is_asked && is.faults.is_empty() {
                            effect.becomes = clear(is);
                        }
                    }
                    before.pass(&as_read, &shape);
                    after.pass(&as_read, &shape);
                }
            }
        }
        Ok(effect)
    }
}

/// The patterns that read the most values, half of them at least, each of them otherwise; none where they are too
/// many.
fn patterns_for(values: &[&str], holds: ValueType) -> Vec<DatePattern> {
    let mut patterns: Vec<DatePattern> = Vec::new();
    for pattern in values.iter().take(LOOKED_AT).flat_map(|value| patterns_of(value, holds)) {
        if !patterns.contains(&pattern) {
            patterns.push(pattern);
        }
    }
    let reads = |pattern: &DatePattern| values.iter().filter(|value| is_in_calendar(pattern, value)).count();
    let best = patterns.iter().map(reads).max().unwrap_or(0);
    let (patterns, fewer): (Vec<_>, Vec<_>) = patterns.into_iter().partition(|one| reads(one) == best);
    // One that reads less, but what no other does, and the rest as other days, denies them all.
    let denies = |other: &DatePattern| {
        let of_best = |value: &&str| patterns.iter().find(|one| is_in_calendar(one, value));
        let mut read = values.iter().filter(|value| is_in_calendar(other, value));
        let differs =
            |value: &&&str| of_best(value).is_some_and(|best| best.read(value) != other.read(value));
        read.clone().any(|value| of_best(value).is_none()) && read.any(|value| differs(&value))
    };
    if best * 2 < values.len() || fewer.iter().any(denies) {
        return Vec::new();
    }
    let ways = one_of_each(patterns, values);
    if ways.len() > MOST_WAYS { Vec::new() } else { ways }
}

/// One pattern of those that read every value alike, the strictest.
fn one_of_each(mut patterns: Vec<DatePattern>, values: &[&str]) -> Vec<DatePattern> {
    patterns.sort_by_key(|pattern| std::cmp::Reverse(pattern.text().len()));
    let mut ways: Vec<DatePattern> = Vec::new();
    for pattern in patterns {
        let is_alike = |way: &DatePattern| values.iter().all(|value| way.read(value) == pattern.read(value));
        if !ways.iter().any(is_alike) {
            ways.push(pattern);
        }
    }
    ways
}

/// The first value that every pattern reads, and each otherwise.
fn telling_value<'v>(patterns: &[DatePattern], values: &[&'v str]) -> Option<&'v str> {
    let tells = |value: &&&str| {
        let read: Vec<_> = patterns.iter().map(|pattern| pattern.read(value)).collect();
        let differ =
            read.iter().enumerate().all(|(at, one)| !read.iter().skip(at + 1).any(|other| other == one));
        differ && patterns.iter().all(|pattern| is_in_calendar(pattern, value))
    };
    values.iter().find(tells).copied()
}

/// What became of a value, in a form that cannot be misread.
fn clear(outcome: &Outcome) -> String {
    match outcome.value {
        Value::Date(day) => shown(day),
        Value::DateTime(moment) => format!("{} {}", shown(moment.date()), moment.time()),
        _ => outcome.text.clone(),
    }
}
