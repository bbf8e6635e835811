//! The ordered end of a run: keys, totals, and everything handed to a sink.

use hashbrown::HashSet;
use serde::Serialize;

use super::block::{BlockWorker, Conformed, RowFate};
use super::job::Ready;
use super::pipeline::{Progress, Tray, in_order};
use super::sink::{Nowhere, Place, Sink};
use crate::conform::{Conformer, Judged, Shape};
use crate::finding::{Cause, Causes, Fault, Finding, Kind, Severity};
use crate::inspect::DateSigns;
use crate::source::{Line, Rejoined, Row, RowCells, Rows, SourcePrint};
use crate::target::FieldType;
use crate::validate::{Keys, Tally};
use crate::{Error, Result};

/// What became of the rows. Every row is in exactly one of the last four.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize)]
pub struct Totals {
    /// Rows below the header, blank ones as well.
    pub read: u64,
    /// Rows that are in the upload file.
    pub accepted: u64,
    /// Rows that at least one finding keeps out.
    pub rejected: u64,
    /// Rows that went into the record of another row.
    pub merged: u64,
    /// Rows that hold no record: blank ones.
    pub left_out: u64,
}

impl Totals {
    /// True when every row read is accounted for once.
    pub fn add_up(&self) -> bool {
        self.read == self.accepted + self.rejected + self.merged + self.left_out
    }
}

/// What a run comes to.
#[derive(Debug, Clone)]
pub struct Summary {
    /// What became of the rows.
    pub totals: Totals,
    /// What keeps records out, the largest cause first.
    pub causes: Vec<Cause>,
    /// What was noticed and keeps nothing out.
    pub remarks: Vec<Cause>,
    /// How many cells of accepted records were changed.
    pub changed_cells: u64,
    /// What identifies each source.
    pub sources: Vec<SourcePrint>,
}

impl Ready<'_> {
    /// Runs the whole job without writing anything.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub fn check(&self, progress: &Progress<'_>) -> Result<Summary> {
        self.run(&mut Nowhere, progress)
    }

    /// Runs the whole job, handing everything to `sink` in the order of the rows.
    pub(super) fn run(&self, sink: &mut dyn Sink, progress: &Progress<'_>) -> Result<Summary> {
        let sources = self.job.sources;
        let columns = sources.iter().map(|source| self.plan.bind(source)).collect::<Result<Vec<_>>>()?;
        let mut end = OrderedEnd {
            ready: self,
            columns: &columns,
            conformer: Conformer::new(&self.plan, false)?,
            keys: Keys::default(),
            duplicates: Vec::new(),
            starts: Vec::new(),
            totals: Totals::default(),
            causes: Causes::default(),
            remarks: Causes::default(),
            changed_cells: 0,
            signs: vec![DateSigns::default(); self.plan.fields.len()],
            file_fields: self.plan.target.file_fields(),
            named_files: HashSet::new(),
            tallies: self.plan.batch_rules.iter().map(|rule| rule.tally()).collect(),
            sink,
        };
        for finding in &self.noticed {
            end.note(finding)?;
        }
        let make_worker = |number| {
            let mut worker = BlockWorker::new(number, &self.plan, sources, &columns)?;
            Ok(move |tray: &mut Tray<Conformed>| worker.work(tray))
        };
        let prints = in_order(sources, make_worker, |tray| {
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
        Ok(Summary {
            totals: end.totals,
            causes: end.causes.largest_first(),
            remarks: end.remarks.largest_first(),
            changed_cells: end.changed_cells,
            sources: prints,
        })
    }
}

struct OrderedEnd<'r, 's> {
    ready: &'r Ready<'r>,
    columns: &'r [Vec<usize>],
    /// Conforms again the few rows of which more has to be said.
    conformer: Conformer<'r>,
    keys: Keys,
    /// For each row of the block at hand, the record that had its key first.
    duplicates: Vec<Option<u32>>,
    /// For each source, the number of its first record and its first row.
    starts: Vec<(u32, Row)>,
    totals: Totals,
    causes: Causes,
    remarks: Causes,
    changed_cells: u64,
    signs: Vec<DateSigns>,
    /// The fields of type file, and the files that accepted records name in them.
    file_fields: Vec<usize>,
    named_files: HashSet<(usize, String)>,
    /// One for each rule over many records.
    tallies: Vec<Tally>,
    sink: &'s mut dyn Sink,
}

impl OrderedEnd<'_, '_> {
    fn take(&mut self, tray: &mut Tray<Conformed>) -> Result<()> {
        let worker = tray.result.worker;
        for (signs, more) in self.signs.iter_mut().zip(&tray.result.signs) {
            signs.add(*more);
        }
        for change in tray.result.changes.new.drain(..) {
            self.sink.new_change(worker, change)?;
        }
        let (mut record, mut found, mut numbered, mut single) = (0, 0, 0, 0);
        let mut files = std::mem::take(&mut tray.result.files).into_iter();
        let splits = std::mem::take(&mut tray.result.splits);
        let mut splits = splits.into_iter();
        let mut shares = std::mem::take(&mut tray.result.shares);
        let mut shares = shares.drain(..);
        self.look_up_keys(tray)?;
        for place in 0..tray.result.rows.len() {
            let Some(fate) = tray.result.rows.get(place).cloned() else { break };
            self.totals.read += 1;
            if fate.judged == Judged::LeftOut {
                self.totals.left_out += 1;
                self.note_all(tray.result.findings.get(found..fate.findings_end).unwrap_or_default())?;
                (record, found) = (fate.records_end, fate.findings_end);
                (numbered, single) = (fate.numbers_end, fate.singles_end);
                continue;
            }
            let duplicate = self.duplicates.get(place).copied().flatten();
            if fate.judged == Judged::Accepted {
                for (tally, share) in self.tallies.iter_mut().zip(shares.by_ref()) {
                    if let Some(share) = share.filter(|_| duplicate.is_none()) {
                        tally.take(&share);
                    }
                }
            }
            if fate.judged == Judged::Accepted {
                for (field, name) in self.file_fields.iter().zip(files.by_ref()) {
                    if duplicate.is_none() {
                        self.named_files.insert((*field, name));
                    }
                }
            }
            let split = if fate.judged == Judged::Accepted { splits.next() } else { None };
            let result = &tray.result;
            if fate.judged == Judged::Accepted && duplicate.is_none() {
                self.totals.accepted += 1;
                self.note_all(result.findings.get(found..fate.findings_end).unwrap_or_default())?;
                let bytes = result.records.get(record..fate.records_end).unwrap_or_default();
                self.sink.accepted(bytes, split.as_deref().unwrap_or_default())?;
                self.changed_cells += u64::from(fate.changed);
                let place = Place { source: tray.source, row: fate.row };
                let numbers = result.changes.numbers.get(numbered..fate.numbers_end).unwrap_or_default();
                self.sink.changed(worker, numbers, place)?;
                for change in result.changes.singles.get(single..fate.singles_end).unwrap_or_default() {
                    self.sink.changed_once(change, place)?;
                }
            } else {
                let findings = result.findings.get(found..fate.findings_end).unwrap_or_default();
                self.reject(tray, &fate, findings, duplicate)?;
            }
            (record, found) = (fate.records_end, fate.findings_end);
            (numbered, single) = (fate.numbers_end, fate.singles_end);
        }
        Ok(())
    }

    /// The rules over many records, now that all records are known.
    fn check_batch_rules(&mut self) -> Result<()> {
        let plan = &self.ready.plan;
        let name =
            |place: usize| plan.fields.get(place).map_or_else(String::new, |field| field.field.name.clone());
        let mut broken = Vec::new();
        for (rule, tally) in plan.batch_rules.iter().zip(&self.tallies) {
            for group in rule.broken(tally, self.ready.job.today, &name) {
                let (kind, does) = match rule.text.severity {
                    Severity::Reject => (Kind::BatchRuleBroken, "breaks"),
                    Severity::Warn | Severity::Note => (Kind::BatchRuleNotMet, "does not meet"),
                };
                let whole = if group.group.is_empty() {
                    "the whole batch".to_owned()
                } else {
                    group.group.join(", ")
                };
                let wrong = format!("{does} a rule: {} ({})", rule.text.says, group.reckoned.join(", "));
                broken.push(Finding {
                    source: 0,
                    row: Row(self.ready.job.sources.first().map_or(1, |source| source.header_row)),
                    line: self.ready.job.sources.first().map_or(Line::FIRST, |source| source.header_line),
                    field: None,
                    about: rule.text.name.clone(),
                    value: whole,
                    fault: Fault::new(kind, wrong, rule.text.must.clone()),
                });
            }
        }
        for finding in &broken {
            self.note(finding)?;
        }
        Ok(())
    }

    /// Files in the folders of file fields that no accepted record names.
    fn list_files_not_named(&mut self) -> Result<()> {
        let mut left = Vec::new();
        for place in &self.file_fields {
            let Some(field) = self.ready.job.target.fields.get(*place) else { continue };
            let FieldType::File { files, .. } = &field.kind else { continue };
            for name in files
                .names()
                .into_iter()
                .filter(|name| !self.named_files.contains(&(*place, (*name).to_owned())))
            {
                let wrong = format!("is in {}, and no accepted record names it", files.folder.display());
                left.push(Finding {
                    source: 0,
                    row: Row(self.ready.job.sources.first().map_or(1, |source| source.header_row)),
                    line: self.ready.job.sources.first().map_or(Line::FIRST, |source| source.header_line),
                    field: Some(*place),
                    about: field.name.clone(),
                    value: name.to_owned(),
                    fault: Fault::new(
                        Kind::FileNotNamed,
                        wrong,
                        "a record that names it, if it is to be sent",
                    ),
                });
            }
        }
        left.iter().try_for_each(|finding| self.note(finding))
    }

    /// Looks up the keys of a block one right after the other: each waits for memory, and so they
    /// wait together.
    fn look_up_keys(&mut self, tray: &Tray<Conformed>) -> Result<()> {
        self.duplicates.clear();
        let Some(first) = tray.result.rows.first() else { return Ok(()) };
        if self.totals.read == 0 && tray.result.rows.iter().any(|fate| fate.key.is_some()) {
            self.keys.make_room(self.expected_rows(tray));
        }
        let number = self.number(tray.source, first.row)?;
        let last = tray.result.rows.len() as u64 + u64::from(number);
        u32::try_from(last).map_err(|_| too_many_rows())?;
        let prints = tray.result.rows.iter().map(|fate| fate.key);
        self.keys.insert_all(prints, number, &mut self.duplicates);
        Ok(())
    }

    /// How many rows the whole batch may have, judged by its first block.
    fn expected_rows(&self, tray: &Tray<Conformed>) -> usize {
        // A guess too high costs memory that is never touched; a wild one is not believed.
        const MOST: u64 = 4_000_000;
        let bytes: u64 = self.ready.job.sources.iter().map(|source| source.bytes).sum();
        let read = tray.block.bytes_read.max(1);
        let rows = (tray.result.rows.len() as u64).saturating_mul(bytes) / read;
        usize::try_from(rows.min(MOST)).unwrap_or(0)
    }

    fn reject(
        &mut self,
        tray: &Tray<Conformed>,
        fate: &RowFate,
        findings: &[Finding],
        duplicate: Option<u32>,
    ) -> Result<()> {
        self.totals.rejected += 1;
        let Some(source) = self.ready.job.sources.get(tray.source) else { return Ok(()) };
        let text = tray.block.text.get(fate.text.clone()).unwrap_or_default();
        let mut rows = Rows::starting_at(text, &source.dialect, fate.row, fate.line, Default::default());
        let Some(row) = rows.next() else {
            return Err(Error::Invariant(format!("row {} of {} was lost", fate.row, source.name)));
        };
        match duplicate {
            None => self.reject_row(tray.source, &row, findings),
            Some(first) => {
                let mut findings = findings.to_vec();
                findings.push(self.duplicate(tray.source, &row, first));
                self.reject_row(tray.source, &row, &findings)
            }
        }
    }

    fn reject_row(&mut self, source: usize, row: &RowCells<'_>, findings: &[Finding]) -> Result<()> {
        for finding in findings {
            self.note(finding)?;
        }
        self.sink.rejected(source, row, findings)
    }

    fn note_all(&mut self, findings: &[Finding]) -> Result<()> {
        findings.iter().try_for_each(|finding| self.note(finding))
    }

    fn note(&mut self, finding: &Finding) -> Result<()> {
        if self.ready.needs_more_evidence(finding) {
            return Err(Error::LateDoubt);
        }
        match finding.fault.kind.severity() {
            Severity::Reject => self.causes.add(finding),
            Severity::Warn | Severity::Note => self.remarks.add(finding),
        }
        self.sink.finding(finding)
    }

    fn duplicate(&mut self, source: usize, row: &RowCells<'_>, first: u32) -> Finding {
        let columns = self.columns.get(source).map_or(&[][..], Vec::as_slice);
        let (mut again, mut room) = (Vec::new(), Rejoined::default());
        if let Some(opened) = self.ready.job.sources.get(source) {
            self.conformer.judge(*row, &Shape::of(opened, source, columns), &mut room, &mut again);
        }
        let (names, key) = self.conformer.shown_key();
        let (first_source, first_row) = self.row_of(first);
        let place = match self.ready.job.sources.get(first_source) {
            Some(other) if first_source != source => format!("row {first_row} of {}", other.name),
            _ => format!("row {first_row}"),
        };
        Finding {
            source,
            row: row.row(),
            line: row.line(),
            field: None,
            about: names,
            value: key,
            fault: Fault::new(
                Kind::DuplicateKey,
                format!("is the key of {place} already"),
                "one record for each key; the first one stays",
            ),
        }
    }

    /// The number of a record in the whole batch, from 0. Every row has one, so that a number
    /// leads back to its row without a list.
    fn number(&mut self, source: usize, row: Row) -> Result<u32> {
        while self.starts.len() <= source {
            let next = u32::try_from(self.totals.read).map_err(|_| too_many_rows())?;
            self.starts.push((next, row));
        }
        let (start, first) = self.starts.get(source).copied().unwrap_or((0, row));
        u32::try_from(u64::from(start) + (row.0 - first.0)).map_err(|_| too_many_rows())
    }

    fn row_of(&self, number: u32) -> (usize, Row) {
        let place = self.starts.iter().rposition(|(start, _)| *start <= number).unwrap_or(0);
        let (start, first) = self.starts.get(place).copied().unwrap_or((0, Row(1)));
        (place, Row(first.0 + u64::from(number - start)))
    }
}

fn too_many_rows() -> Error {
    Error::Request("a batch cannot have more than 4,294,967,295 rows; run the sources one by one".into())
}
