//! A whole run.

use super::field_totals::{FieldTotals, TotalShares, counted_fields};
use super::rows_above::RowsAbove;
use super::sampled::day_number;
use crate::{BlockWorker, Conformed, Nowhere, OrderedEnd, Ready, Sink, Summary};
use dusk_conforming::MetInField;
use dusk_evidence::{
    ById, ColumnCause, ColumnFact, DateFact, Error, Explains, Fault, FieldId, Finding, Line, Result, Row,
    Slot, SourceId, Undecided,
};
use dusk_mapping::{FieldDigest, Map};
use dusk_memory::{BatchMemory, RunFacts, Sample};
use dusk_proposing::wrong_columns;
use dusk_sources::{Progress, SourceIdentity, Tray, in_order};

impl Ready<'_> {
    /// Runs the whole job without writing anything.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub fn check(&self, progress: &Progress<'_>) -> Result<Summary> {
        self.run(&mut Nowhere::default(), progress)
    }

    /// The same, with what the accepted records come to, field by field.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub fn check_and_add_up(&self, progress: &Progress<'_>) -> Result<Summary> {
        self.run(&mut Nowhere { adds_up: true }, progress)
    }

    /// Runs the whole job, handing everything to `sink` in the order of the rows.
    pub(crate) fn run(&self, sink: &mut dyn Sink, progress: &Progress<'_>) -> Result<Summary> {
        let sources = self.job.sources;
        let columns = sources.iter().map(|source| self.plan.bind(source)).collect::<Result<Vec<_>>>()?;
        let lists_rows = sink.lists_rows();
        let counted = if sink.adds_up() { counted_fields(&self.plan, self.job.target) } else { Vec::new() };
        let mut end = OrderedEnd::new(self, &columns, sink, FieldTotals::new(&self.plan, &counted))?;
        for finding in &self.noticed {
            end.note(finding)?;
        }
        let make_worker = |number| {
            let mut worker =
                BlockWorker::new(number, self, &columns, (lists_rows, TotalShares::new(&counted)))?;
            Ok(move |tray: &mut Tray<Conformed>| worker.work(tray))
        };
        let mut above = RowsAbove::new(&self.plan, sources, &columns);
        let begin =
            |tray: &mut Tray<Conformed>| above.begin(tray.source, &tray.block, &mut tray.result.above);
        let identities = in_order(sources, self.job.threads, begin, make_worker, |tray| {
            end.take(tray)?;
            progress(end.totals.read, tray.block.bytes_read);
            Ok(())
        })?;
        self.check_splits(&end)?;
        self.check_signs(&end.signs, progress)?;
        self.check_percents(&end)?;
        let damaged = |id: &FieldId| end.met.get(*id).is_some_and(|met| met.long.is_beyond_chance());
        let damaged: Vec<FieldId> = self.plan.fields.ids().filter(damaged).collect();
        if self.proven.damaged.is_empty() && !damaged.is_empty() {
            return Err(Error::LateDamage(damaged));
        }
        for finding in self.doubtful_centuries(&end.met) {
            end.note(&finding)?;
        }
        for finding in self.unproven_orders(&end.signs)? {
            end.note(&finding)?;
        }
        end.check_batch_rules()?;
        end.list_files_not_named()?;
        end.end_beside()?;
        end.hand_on_table()?;
        if !end.totals.add_up() {
            return Err(Error::Invariant(format!("the rows do not add up: {:?}", end.totals)));
        }
        if let Some(counts) = end.beside.as_ref().map(|beside| beside.counts)
            && !counts.add_up(end.records)
        {
            return Err(Error::Invariant(format!(
                "the records do not add up: {counts:?} of {}",
                end.records
            )));
        }
        self.summary(end, identities)
    }

    /// Years of two digits that stand at the edge of their hundred.
    fn doubtful_centuries(&self, met: &ById<FieldId, MetInField>) -> Vec<Finding> {
        let first = self.job.sources.first();
        let at = first.map_or((Row(1), Line::FIRST), |source| (Row(source.header_row), source.header_line));
        let doubtful = |map: &Map| {
            let decades = met.get(map.field)?.decades;
            let from = map.date.years_from.filter(|_| decades.are_at_the_edge())?;
            let decades = decades.met().map(|decade| from + 10 * decade).collect();
            let name = &self.plan.fields.get(map.field)?.field.name;
            let fault = Fault::new(DateFact::CenturyDoubtful { from, decades });
            Some(Finding::new(SourceId::FIRST, at, name, "", fault).at_field(map.field))
        };
        self.job.mapping.maps.iter().filter_map(doubtful).collect()
    }

    /// Percents that would all be shares of one are asked about.
    fn check_percents(&self, end: &OrderedEnd<'_, '_>) -> Result<()> {
        let open =
            self.plan.fields.ids().filter(|id| !self.proven.open_units.contains(id)).filter_map(|id| {
                let percents = end.met.get(id)?.percents;
                percents.may_be_shares().then(|| self.job.shares(id, percents)).flatten()
            });
        let open: Vec<Undecided> = open.collect();
        if open.is_empty() { Ok(()) } else { Err(Error::Undecided(open)) }
    }

    /// Rows put together again are said one by one while they are few. Many are another way of writing, which
    /// somebody has to confirm.
    fn check_splits(&self, end: &OrderedEnd<'_, '_>) -> Result<()> {
        /// How many rows are few, and how many of a hundred.
        const FEW: u64 = 10;
        let confirmed = self.job.mapping.source.rejoins || self.proven.many_split;
        let many = end.rejoined > FEW && end.rejoined * 10 > end.totals.read;
        if many && !confirmed { Err(Error::LateSplits) } else { Ok(()) }
    }

    /// What the run comes to, once all rows were taken.
    fn summary(&self, end: OrderedEnd<'_, '_>, sources: Vec<SourceIdentity>) -> Result<Summary> {
        let limits = end.limits();
        let (conformed, met) = (end.conformed, &end.met);
        let filled =
            |field: FieldId| conformed.saturating_sub(met.get(field).map_or(0, |met: &MetInField| met.blank));
        let wrong = self.wrong_columns(&end, &filled)?;
        let filled_cells = self.plan.fields.ids().map(filled).collect();
        let ranked = end.causes.ranked(&filled, &wrong);
        Ok(Summary {
            totals: end.totals,
            kept_out: end.kept_out,
            records: end.records,
            causes: ranked.causes,
            explained: ranked.explained,
            remarks: end.remarks.ranked(&|_| 0, &[]).causes,
            changed_cells: end.changed_cells,
            digest: self.digest(end.met),
            memory: self.memory(&end.sample, end.totals.read),
            sample: end.sample,
            again: end.again,
            beside: end.beside.map(|beside| beside.counts),
            withheld: end.withheld,
            limits,
            sent_filled: end.field_totals.filled(),
            field_totals: end.field_totals.finish(),
            sources,
            conformed,
            filled: filled_cells,
        })
    }

    /// What the batch would remember.
    fn memory(&self, sample: &Sample, rows: u64) -> BatchMemory {
        let fields: Vec<&str> = self.plan.fields.iter().map(|field| field.field.name.as_str()).collect();
        let encoding = self.job.sources.first().map_or_else(String::new, |source| source.encoding.label());
        let day = day_number(self.job.today);
        let named = |field: FieldId| {
            let map = self.job.mapping.maps.iter().find(|map| map.field == field);
            map.and_then(|map| map.number.decimal_mark)
        };
        let mark = |field| self.proven.decimal_marks.get(&field).copied().or_else(|| named(field));
        let marks: Vec<char> = self.plan.fields.ids().map(|field| mark(field).unwrap_or('.')).collect();
        BatchMemory::of(sample, &RunFacts { fields: &fields, marks: &marks, day, rows, encoding: &encoding })
    }

    /// Which columns would feed which fields if a cause were settled as it says.
    fn instead(&self, cause: &ColumnCause) -> Vec<(FieldId, String)> {
        let fields: Vec<FieldId> = match &cause.explains {
            Explains::Fields(fields) => fields.clone(),
            _ => Vec::new(),
        };
        let columns: Vec<String> = match &cause.fact {
            ColumnFact::Exchanged { columns: [first, second], .. } => vec![second.clone(), first.clone()],
            ColumnFact::Wrong { better, .. } => vec![better.clone()],
            _ => Vec::new(),
        };
        fields.into_iter().zip(columns).collect()
    }

    /// What is wrong with whole columns: something open, another column than is meant, two exchanged.
    fn wrong_columns(
        &self,
        end: &OrderedEnd<'_, '_>,
        filled: &dyn Fn(FieldId) -> u64,
    ) -> Result<Vec<ColumnCause>> {
        let by_keys = self.let_in_by_keys(&end.causes, end.conformed)?;
        let mut suspects = end.causes.suspects(filled);
        // A column that one key lets in is the right one.
        suspects.retain(|field| !by_keys.iter().any(|cause| cause.explains.is_about(*field)));
        suspects.retain(|field| !self.proven.open.contains(field) && !self.proven.open_units.contains(field));
        let mut wrong: Vec<ColumnCause> = self.open.iter().map(Undecided::cause).chain(by_keys).collect();
        if let Some(source) = self.job.sources.first() {
            for cause in wrong_columns(source, self.plan.target, self.job.mapping, &suspects)? {
                if self.bears_out(&self.instead(&cause))? {
                    wrong.push(cause);
                }
            }
            let broken = end.causes.mostly_broken_rules(end.conformed);
            wrong.extend(self.exchanged_by_rules(source, &broken)?);
        }
        Ok(wrong)
    }
}

impl Ready<'_> {
    /// What was met, by the names of the fields.
    fn digest(&self, met: ById<FieldId, MetInField>) -> Vec<FieldDigest> {
        let mut digest = Vec::new();
        for (field, met) in self.plan.fields.iter().zip(met) {
            if field.input.columns().is_empty() {
                continue;
            }
            let seen = met.seen.map(|seen| seen.into_iter().collect::<Vec<String>>());
            let (values, shapes) = if met.are_shapes { (None, seen) } else { (seen, None) };
            let heading = |slot: &Slot| self.plan.wanted.get(*slot).map(|heading| (*heading).to_owned());
            let from = field.input.columns().iter().filter_map(heading).collect();
            digest.push(FieldDigest {
                field: field.field.name.clone(),
                from,
                blank: met.blank,
                values,
                shapes,
            });
        }
        digest
    }
}
