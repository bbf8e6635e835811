//! What changed mappings would make of the values of fields, in all rows.
//!
//! Everything that is asked is told in one go through the rows, by blocks as in a run.

use std::sync::atomic::{AtomicBool, Ordering};

use super::keys_offered::Change;
use super::rows_above::RowsAbove;
use crate::Ready;
use dusk_conforming::{Above, Bound, Conformer, Fit, Plan, Shape, Told};
use dusk_evidence::{FieldId, Id as _, Kind, Result, SourceId};
use dusk_mapping::Mapping;
use dusk_sources::{Rejoined, RowCells, Source, Tray, in_order, without_marks};
use dusk_values::{Value, shown};

/// A change of the mapping that is tried.
pub(super) struct Trial<'t> {
    /// The field whose values it changes.
    pub(super) field: FieldId,
    pub(super) change: &'t Change,
    /// What it is for.
    pub(super) kind: Kind,
    /// The value of which is said what it becomes; none where nothing is to be said.
    pub(super) asked: Option<&'t str>,
}

/// What a changed mapping does to the values of a field. Of one that does harm only that is certain.
#[derive(Debug, Default)]
pub(super) struct Effect {
    /// Values that were rejected and are let in, and those that are still rejected.
    pub(super) settled: u64,
    pub(super) left: u64,
    /// Values that were let in, and are rejected or become something else.
    spoilt: u64,
    /// How many values are rejected before the change, and after it, for whatever reason.
    pub(super) rejected: [u64; 2],
    /// What becomes of the value that was asked about.
    pub(super) becomes: String,
}

impl Effect {
    /// True where the change lets in at least half of what it is for, and does no harm.
    pub(super) fn is_worth_it(&self) -> bool {
        self.spoilt == 0 && self.settled > 0 && self.settled >= self.left
    }

    /// Takes in a value before and after the change.
    fn take(&mut self, before: Told<'_>, after: Told<'_>, kind: Kind) {
        self.rejected[0] += u64::from(!before.faults.is_empty());
        self.rejected[1] += u64::from(!after.faults.is_empty());
        match (before.faults.first(), after.faults.is_empty()) {
            (Some(fault), true) => self.settled += u64::from(fault.kind() == kind),
            (Some(fault), false) => self.left += u64::from(fault.kind() == kind),
            (None, true) if before.text == after.text && before.value == after.value => {}
            (None, _) => self.spoilt += 1,
        }
    }

    /// Takes in what it does to the rows that follow.
    fn add(&mut self, next: &mut Self) {
        self.settled += next.settled;
        self.left += next.left;
        self.spoilt += next.spoilt;
        self.rejected = [self.rejected[0] + next.rejected[0], self.rejected[1] + next.rejected[1]];
        if self.becomes.is_empty() {
            self.becomes = std::mem::take(&mut next.becomes);
        }
    }
}

impl Trial<'_> {
    /// True where nothing more need be known. Other columns may change everything, and are judged by what they reject.
    fn is_void(&self, effect: &Effect) -> bool {
        effect.spoilt > 0 && !matches!(self.change, Change::From(_))
    }
}

/// A plan, and where the columns that it reads stand in each source.
struct Side<'p> {
    plan: &'p Plan<'p>,
    columns: Vec<Vec<Bound>>,
}

impl<'p> Side<'p> {
    fn of(plan: &'p Plan<'p>, sources: &[Source]) -> Result<Self> {
        let columns = sources.iter().map(|source| plan.bind(source)).collect::<Result<_>>()?;
        Ok(Self { plan, columns })
    }

    fn reads_as(&self, other: &Side<'_>) -> bool {
        self.plan.wanted.iter().eq(other.plan.wanted.iter())
    }
}

/// What a block's rows come to.
#[derive(Debug, Default)]
struct Tried {
    /// What stands above the block, for the mapping as it is and for each that is tried.
    above: Vec<Vec<Above>>,
    effects: Vec<Effect>,
}

impl Ready<'_> {
    /// What becomes of the values of fields, in all rows, when their `[[map]]` is changed: one effect for each trial.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub(super) fn effects(&self, trials: &[Trial<'_>]) -> Result<Vec<Effect>> {
        if trials.is_empty() {
            return Ok(Vec::new());
        }
        let job = self.job;
        let mappings: Vec<Mapping> =
            trials.iter().map(|trial| self.changed(trial.field, trial.change)).collect();
        let compile = |mapping| Plan::compile(job.target, mapping, job.asked, job.today, &self.proven);
        let plans = mappings.iter().map(compile).collect::<Result<Vec<_>>>()?;
        let as_it_is = Side::of(&self.plan, job.sources)?;
        let sides = plans.iter().map(|plan| Side::of(plan, job.sources)).collect::<Result<Vec<_>>>()?;
        let all = || std::iter::once(&as_it_is).chain(&sides);
        let mut above: Vec<RowsAbove<'_>> =
            all().map(|side| RowsAbove::new(side.plan, job.sources, &side.columns)).collect();
        let begin = |tray: &mut Tray<Tried>| {
            tray.result.above.resize_with(above.len(), Vec::new);
            for (above, says) in above.iter_mut().zip(&mut tray.result.above) {
                above.begin(tray.source, &tray.block, says);
            }
        };
        let void: Vec<AtomicBool> = trials.iter().map(|_| AtomicBool::new(false)).collect();
        let make_worker = |_| {
            let mut worker = Worker::new((trials, &void), (&as_it_is, &sides), job.sources)?;
            Ok(move |tray: &mut Tray<Tried>| worker.work(tray))
        };
        let mut effects: Vec<Effect> = trials.iter().map(|_| Effect::default()).collect();
        in_order(job.sources, job.threads, begin, make_worker, |tray| {
            effects.iter_mut().zip(&mut tray.result.effects).for_each(|(all, next)| all.add(next));
            Ok(())
        })?;
        Ok(effects)
    }
}

/// Tries the changes on blocks of any source.
struct Worker<'w> {
    sources: &'w [Source],
    as_it_is: &'w Side<'w>,
    before: Conformer<'w>,
    tried: Vec<OneTried<'w>>,
}

/// One of the changes, as a worker tries it.
struct OneTried<'w> {
    trial: &'w Trial<'w>,
    side: &'w Side<'w>,
    /// Whether it reads the same columns, at the same places of the plan.
    reads_the_same: bool,
    after: Conformer<'w>,
    /// Whether some worker has found that nothing more need be known of it.
    is_void: &'w AtomicBool,
}

impl<'w> Worker<'w> {
    fn new(
        (trials, void): (&'w [Trial<'w>], &'w [AtomicBool]),
        (as_it_is, sides): (&'w Side<'w>, &'w [Side<'w>]),
        sources: &'w [Source],
    ) -> Result<Self> {
        let one = |((trial, is_void), side): ((&'w Trial<'w>, &'w AtomicBool), &'w Side<'w>)| {
            let after = Conformer::new(side.plan, false)?;
            Ok(OneTried { trial, side, reads_the_same: side.reads_as(as_it_is), after, is_void })
        };
        let tried = trials.iter().zip(void).zip(sides).map(one).collect::<Result<_>>()?;
        Ok(Self { sources, as_it_is, before: Conformer::new(as_it_is.plan, false)?, tried })
    }

    fn work(&mut self, tray: &mut Tray<Tried>) {
        let Tried { above, effects } = &mut tray.result;
        effects.clear();
        effects.resize_with(self.tried.len(), Effect::default);
        let id = tray.source;
        let Some(source) = self.sources.get(id.index()) else { return };
        let Some(columns) = self.as_it_is.columns.get(id.index()) else { return };
        let shape = Shape::of(source, id, columns);
        let conformers =
            std::iter::once(&mut self.before).chain(self.tried.iter_mut().map(|one| &mut one.after));
        conformers.zip(above).for_each(|(conformer, above)| conformer.start_below(above));
        let (mut findings, mut room) = (Vec::new(), Rejoined::default());
        let mut rows = tray.block.rows(&source.dialect);
        while let Some(as_read) = rows.next() {
            let (row, fit) = self.before.fit(as_read, &shape, &mut room, &mut findings);
            findings.clear();
            let repeated: Vec<Shape<'_>>;
            let records = match (fit, self.as_it_is.plan.makes_several()) {
                (Fit::Whole, true) => {
                    repeated = shape.records(&row, self.as_it_is.plan);
                    repeated.as_slice()
                }
                (Fit::Whole, false) => std::slice::from_ref(&shape),
                _ => &[],
            };
            for (one, effect) in self.tried.iter_mut().zip(effects.iter_mut()) {
                one.row(&mut self.before, (as_read, &row), records, (source, id), effect);
            }
            self.before.pass(&as_read, &shape);
        }
    }
}

impl OneTried<'_> {
    /// Takes in the records of a row, which stands in the source as it was read.
    fn row(
        &mut self,
        before: &mut Conformer<'_>,
        (as_read, row): (RowCells<'_>, &RowCells<'_>),
        records: &[Shape<'_>],
        (source, id): (&Source, SourceId),
        effect: &mut Effect,
    ) {
        if self.is_void.load(Ordering::Relaxed) {
            return;
        }
        let Some(columns) = self.side.columns.get(id.index()) else { return };
        let shape = Shape::of(source, id, columns);
        if self.reads_the_same {
            for record in records {
                self.record(before, (row, record), (row, record), effect);
            }
        } else if !records.is_empty() {
            let (mut room, mut findings) = (Rejoined::default(), Vec::new());
            let (row_then, _) = self.after.fit(as_read, &shape, &mut room, &mut findings);
            for (record, record_then) in records.iter().zip(&shape.records(&row_then, self.side.plan)) {
                self.record(before, (row, record), (&row_then, record_then), effect);
            }
        }
        self.after.pass(&as_read, &shape);
        if self.trial.is_void(effect) {
            self.is_void.store(true, Ordering::Relaxed);
        }
    }

    /// Takes in a record, as it is read now and as it would be.
    fn record(
        &mut self,
        before: &mut Conformer<'_>,
        (row, shape): (&RowCells<'_>, &Shape<'_>),
        (row_then, shape_then): (&RowCells<'_>, &Shape<'_>),
        effect: &mut Effect,
    ) {
        let Trial { field, kind, asked, .. } = *self.trial;
        let Some(was) = before.value_alone(field, row, shape) else { return };
        let Some(is) = self.after.value_alone(field, row_then, shape_then) else { return };
        effect.take(was, is, kind);
        if effect.becomes.is_empty() && is.faults.is_empty() && !was.faults.is_empty() {
            let becomes = clear(is);
            let raw = before.raw(field, row, shape).0;
            if asked.is_some_and(|asked| without_marks(&raw).trim() == asked) {
                effect.becomes = becomes;
            }
        }
    }
}

/// What became of a value, in a form that cannot be misread.
fn clear(outcome: Told<'_>) -> String {
    match outcome.value {
        Value::Date(day) => shown(day),
        Value::DateTime(moment) => format!("{} {}", shown(moment.date()), moment.time()),
        _ => outcome.text.to_owned(),
    }
}
