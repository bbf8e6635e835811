//! A whole run.

use crate::{BlockWorker, Conformed, Nowhere, OrderedEnd, Ready, Sink, Summary};
use dusk_conforming::{AboveCells, MetInField, Shape};
use dusk_evidence::{ById, ColumnCause, Error, FieldId, Id as _, Result, Slot, SourceId, Undecided};
use dusk_mapping::FieldDigest;
use dusk_proposing::wrong_columns;
use dusk_sources::{Progress, Tray, in_order};

impl Ready<'_> {
    /// Runs the whole job without writing anything.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub fn check(&self, progress: &Progress<'_>) -> Result<Summary> {
        self.run(&mut Nowhere, progress)
    }

    /// Runs the whole job, handing everything to `sink` in the order of the rows.
    pub(crate) fn run(&self, sink: &mut dyn Sink, progress: &Progress<'_>) -> Result<Summary> {
        let sources = self.job.sources;
        let columns = sources.iter().map(|source| self.plan.bind(source)).collect::<Result<Vec<_>>>()?;
        let mut end = OrderedEnd::new(self, &columns, sink)?;
        for finding in &self.noticed {
            end.note(finding)?;
        }
        let make_worker = |number| {
            let mut worker = BlockWorker::new(number, &self.plan, sources, &columns)?;
            Ok(move |tray: &mut Tray<Conformed>| worker.work(tray))
        };
        let mut above = AboveCells::new(&self.plan);
        let mut source_at_hand = SourceId::FIRST;
        let begin = |tray: &mut Tray<Conformed>| {
            if above.is_empty() {
                return;
            }
            let (Some(source), Some(columns)) =
                (sources.get(tray.source.index()), columns.get(tray.source.index()))
            else {
                return;
            };
            if tray.source != source_at_hand {
                source_at_hand = tray.source;
                above.clear();
            }
            tray.result.above.clear();
            tray.result.above.extend_from_slice(above.all());
            let shape = Shape::of(source, tray.source, columns);
            let block = &tray.block;
            let mut rows = block.rows(&source.dialect);
            while let Some(row) = rows.next() {
                above.pass(&row, &shape);
            }
        };
        let prints = in_order(sources, self.job.threads, begin, make_worker, |tray| {
            end.take(tray)?;
            progress(end.totals.read, tray.block.bytes_read);
            Ok(())
        })?;
        self.check_signs(&end.signs, progress)?;
        end.check_batch_rules()?;
        end.list_files_not_named()?;
        if !end.totals.add_up() {
            return Err(Error::Invariant(format!("the rows do not add up: {:?}", end.totals)));
        }
        let (conformed, met) = (end.conformed, &end.met);
        let filled =
            |field: FieldId| conformed.saturating_sub(met.get(field).map_or(0, |met: &MetInField| met.blank));
        let mut suspects = end.causes.suspects(&filled);
        suspects.retain(|field| !self.proven.open.contains(field) && !self.proven.open_units.contains(field));
        let mut wrong: Vec<ColumnCause> = self.open.iter().map(Undecided::cause).collect();
        if let Some(source) = sources.first() {
            wrong.extend(wrong_columns(source, self.plan.target, self.job.mapping, &suspects)?);
            let broken = end.causes.mostly_broken_rules(conformed);
            wrong.extend(self.exchanged_by_rules(source, &broken)?);
        }
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
            sources: prints,
            conformed,
            filled: filled_cells,
        })
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
