//! One block conformed, on a worker's thread.

use std::ops::Range;

use super::field_totals::{NewWord, TotalShare, TotalShares};
use super::sampled::sampled;
use crate::{Ready, ToldBeside};
use dusk_conforming::{
    Above, Bound, Changes, Conformer, Difference, Fit, Judged, KeyHash, NewlyMet, Plan, Shape,
};
use dusk_description::{RecordShare, Standing};
use dusk_evidence::{Fault, FieldId, Finding, Id as _, Line, Result, Row, RowFact, SourceId, THE_ROW};
use dusk_inspecting::DateSigns;
use dusk_mapping::SameKey;
use dusk_memory::{KnownRecords, SampledRecord, Sampler};
use dusk_sources::{Rejoined, RowBuffers, RowCells, Source, Tray};

/// What a worker makes of a block.
#[derive(Debug, Default)]
pub(crate) struct Conformed {
    /// What stands above the block in the columns that are filled down; the reader says so.
    pub(crate) above: Vec<Above>,
    /// Which worker it was.
    pub(crate) worker: usize,
    /// Something that the plan made could not be found: nothing here is to be used.
    pub(crate) lost: bool,
    /// What became of each record, in order; a row that makes none is there as well.
    pub(crate) rows: Vec<RowFate>,
    /// The accepted records as they stand in the upload file, one after the other.
    pub(crate) records: Vec<u8>,
    /// What was found, in the order of the rows.
    pub(crate) findings: Vec<Finding>,
    /// The changes of the accepted records.
    pub(crate) changes: Changes,
    /// What each accepted record adds to each rule over many records, record after record.
    pub(crate) shares: Vec<Option<RecordShare>>,
    /// The value of each accepted record by which the upload files are split, record after record.
    pub(crate) splits: Vec<String>,
    /// The files that each accepted record names, in the order of the fields of that type.
    pub(crate) files: Vec<String>,
    /// What records say otherwise than the target holds, record after record.
    pub(crate) differences: Vec<Difference>,
    /// The hashes of values that may not come twice, of each accepted record, in the order of these fields.
    pub(crate) unique: Vec<Option<KeyHash>>,
    /// What each accepted record adds to the totals of fields, record after record.
    pub(crate) totals: Vec<TotalShare>,
    /// The words in them that the worker meets for the first time.
    pub(crate) new_words: Vec<NewWord>,
    /// Keys as people read them, one after the other.
    pub(crate) keys: String,
    /// How many records were conformed.
    pub(crate) conformed: u64,
    /// What was met in the column of each field: blank cells, and values or shapes for the first time.
    pub(crate) met: Vec<NewlyMet>,
    /// Records that may be in the sample of the run.
    pub(crate) sampled: Vec<SampledRecord>,
    /// What the worker's dates said so far about how their columns were treated, for each field.
    pub(crate) signs: Vec<DateSigns>,
}

/// What became of one record. The ends are those of its share in the block's buffers.
#[derive(Debug, Clone)]
pub(crate) struct RowFate {
    pub(crate) row: Row,
    pub(crate) line: Line,
    pub(crate) judged: Judged,
    pub(crate) text: Range<usize>,
    pub(crate) records_end: usize,
    pub(crate) findings_end: usize,
    pub(crate) numbers_end: usize,
    pub(crate) singles_end: usize,
    pub(crate) differences_end: usize,
    pub(crate) totals_end: usize,
    /// What it is beside the held records.
    pub(crate) beside: BesideFate,
    /// How many cells of the record were changed.
    pub(crate) changed: u32,
    pub(crate) key: Option<KeyHash>,
    /// Where the key stands among the keys as people read them, where it is wanted, or cannot be had from the row alone.
    pub(crate) shown_key: Option<Range<usize>>,
    /// The hash of the whole record, where records of one key are merged; 0 for a rejected one.
    pub(crate) content: u64,
    /// The hash of what an accepted record says, but for what the mapping puts into every record.
    pub(crate) facts: u32,
    /// What the last batch had under its key.
    pub(crate) again: Option<Again>,
}

/// What a record is beside the held ones.
#[derive(Debug, Clone, Copy, Default)]
pub(crate) struct BesideFate {
    /// What it is; nothing where nobody can tell, or nothing is held.
    pub(crate) standing: Option<Standing>,
    /// Which held record it is.
    pub(crate) number: Option<u32>,
    /// It may be any held record, since its key cannot be read.
    pub(crate) is_unplaced: bool,
}

/// What the last batch had under the key of a record.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Again {
    /// The same facts.
    Same,
    /// Other facts.
    Other,
}

impl Again {
    /// The word for it in lists.
    pub(crate) fn word(self) -> &'static str {
        match self {
            Self::Same => "the same",
            Self::Other => "other facts",
        }
    }
}

/// Conforms blocks of any source.
#[derive(Debug)]
pub(crate) struct BlockWorker<'p> {
    number: usize,
    sources: &'p [Source],
    columns: &'p [Vec<Bound>],
    plan: &'p Plan<'p>,
    conformer: Conformer<'p>,
    has_key: bool,
    /// What became of each row is listed with its key.
    lists_rows: bool,
    /// What accepted records add to totals, where that is wanted.
    totals: TotalShares,
    has_shares: bool,
    /// The target's records are known.
    compares: bool,
    /// Records that are held as they are are told with their keys, like all others.
    tells_same: bool,
    split_by: Option<FieldId>,
    file_fields: Vec<FieldId>,
    unique_fields: Vec<FieldId>,
    buffers: RowBuffers,
    sampler: Sampler,
    /// The records of the last batch.
    known: Option<&'p KnownRecords>,
}

impl<'p> BlockWorker<'p> {
    pub(crate) fn new(
        number: usize,
        ready: &'p Ready<'p>,
        columns: &'p [Vec<Bound>],
        (lists_rows, totals): (bool, TotalShares),
    ) -> Result<Self> {
        let (plan, sources) = (&ready.plan, ready.job.sources);
        let has_key = plan.fields.iter().any(|field| field.field.key);
        Ok(Self {
            number,
            sources,
            columns,
            plan,
            conformer: Conformer::new(plan, false)?,
            has_key,
            lists_rows: lists_rows || ready.job.sent_before.is_some(),
            totals,
            compares: ready.job.held.is_some(),
            tells_same: ready.job.told == ToldBeside::Same,
            has_shares: !plan.batch_rules.is_empty(),
            split_by: plan.target.upload.split_by,
            file_fields: plan.target.file_fields(),
            unique_fields: plan.target.unique_fields(),
            buffers: RowBuffers::default(),
            sampler: Sampler::default(),
            known: ready.job.known_records,
        })
    }

    pub(crate) fn work(&mut self, tray: &mut Tray<Conformed>) {
        let result = &mut tray.result;
        result.worker = self.number;
        result.rows.clear();
        result.records.clear();
        result.findings.clear();
        result.changes.numbers.clear();
        result.changes.new.clear();
        result.changes.singles.clear();
        result.shares.clear();
        result.splits.clear();
        result.files.clear();
        result.differences.clear();
        result.unique.clear();
        result.keys.clear();
        result.totals.clear();
        result.new_words.clear();
        result.sampled.clear();
        result.conformed = 0;
        result.lost = false;
        let (Some(source), Some(columns)) =
            (self.sources.get(tray.source.index()), self.columns.get(tray.source.index()))
        else {
            result.lost = true;
            return;
        };
        let block = &tray.block;
        let buffers = std::mem::take(&mut self.buffers);
        let mut rows = block.rows_with(&source.dialect, buffers);
        let shape = Shape::of(source, tray.source, columns);
        let mut room = Rejoined::default();
        self.conformer.start_below(&result.above);
        while let Some(as_read) = rows.next() {
            let (row, fit) = self.conformer.fit(as_read, &shape, &mut room, &mut result.findings);
            match (fit, self.plan.makes_several()) {
                (Fit::LeftOut, _) => {
                    self.conformer.meet_kept_out(&row, &shape);
                    result.end_row(&row, Judged::LeftOut);
                    self.place_kept_out(&row, &shape, result);
                }
                (Fit::Rejected, _) => result.end_row(&row, Judged::Rejected),
                (Fit::Whole, false) => self.record(&row, &shape, result),
                (Fit::Whole, true) => {
                    let records = shape.records(&row, self.plan);
                    if records.is_empty() {
                        result.findings.push(no_instance(&row, tray.source));
                        result.end_row(&row, Judged::LeftOut);
                    }
                    for record in &records {
                        self.record(&row, record, result);
                    }
                }
            }
            self.conformer.pass(&as_read, &shape);
        }
        result.lost = self.conformer.has_lost_something();
        result.met = self.conformer.take_met();
        result.signs.clear();
        result.signs.extend_from_slice(self.conformer.signs());
        self.buffers = rows.into_buffers();
    }

    /// A record that somebody keeps out of the batch is in the export all the same.
    fn place_kept_out(&mut self, row: &RowCells<'_>, shape: &Shape<'_>, result: &mut Conformed) {
        let is_kept_out = shape.is_kept_out(row);
        if !self.compares || !is_kept_out || self.plan.makes_several() {
            return;
        }
        self.conformer.judge(row, shape, &mut Vec::new());
        let beside = self.conformer.beside();
        let (number, is_unplaced) = (beside.number, beside.is_unplaced);
        if let Some(fate) = result.rows.last_mut() {
            fate.beside = BesideFate { standing: None, number, is_unplaced };
        }
    }

    /// Conforms one record of a row.
    fn record(&mut self, row: &RowCells<'_>, shape: &Shape<'_>, result: &mut Conformed) {
        result.conformed += 1;
        let judged = self.conformer.judge(row, shape, &mut result.findings);
        result.sampled.extend(sampled(&mut self.sampler, &self.conformer, row, shape));
        let key = if self.has_key && judged != Judged::Merged { self.conformer.key() } else { None };
        let (mut changed, mut content) = (0, 0);
        let (mut facts, mut again) = (0, None);
        if judged == Judged::Accepted {
            let start = result.records.len();
            self.conformer.write(&mut result.records);
            if self.plan.same_key == SameKey::Merge {
                content = hash_of(result.records.get(start..).unwrap_or_default());
            }
            changed = self.conformer.note_changes(row, shape, &mut result.changes);
            let text = |field: FieldId| {
                self.conformer.outcome(field).map_or_else(String::new, |told| told.text.to_owned())
            };
            result.splits.extend(self.split_by.map(|field| self.plan.target.split_of(field, &text(field))));
            result.files.extend(self.file_fields.iter().copied().map(text));
            result.unique.extend(self.unique_fields.iter().map(|field| self.conformer.unique_hash(*field)));
            if key.is_some() || self.lists_rows {
                facts = self.conformer.facts();
            }
            if let Some(key) = key {
                let known = self.known.and_then(|known| known.facts_of(key.words()));
                again = known.map(|known| if known == facts { Again::Same } else { Again::Other });
            }
            if self.has_shares {
                self.conformer.shares(&mut result.shares);
            }
            self.totals.push(&self.conformer, &mut result.totals, &mut result.new_words);
        }
        let beside = self.conformer.beside();
        let is_told = beside.standing.is_some_and(|standing| standing != Standing::Same || self.tells_same);
        if judged == Judged::Accepted {
            result.differences.extend_from_slice(&beside.differences);
        }
        let beside =
            BesideFate { standing: beside.standing, number: beside.number, is_unplaced: beside.is_unplaced };
        result.end_row(row, judged);
        if let Some(fate) = result.rows.last_mut() {
            fate.beside = beside;
            (fate.changed, fate.key, fate.content) = (changed, key, content);
            (fate.facts, fate.again) = (facts, again);
            let is_shown = self.lists_rows || is_told || self.plan.needs_more_than_the_row();
            if again.is_some() || self.has_key && is_shown {
                let start = result.keys.len();
                self.conformer.push_shown_key(&mut result.keys);
                fate.shown_key = Some(start..result.keys.len());
            }
        }
    }
}

impl Conformed {
    /// The key of a record as people read it; nothing where it is not wanted.
    pub(crate) fn key_of(&self, fate: &RowFate) -> &str {
        fate.shown_key.clone().and_then(|range| self.keys.get(range)).unwrap_or_default()
    }

    /// Notes what became of a row, or of one of its records.
    fn end_row(&mut self, row: &RowCells<'_>, judged: Judged) {
        self.rows.push(RowFate {
            row: row.row(),
            line: row.line(),
            judged,
            text: row.range(),
            records_end: self.records.len(),
            findings_end: self.findings.len(),
            numbers_end: self.changes.numbers.len(),
            singles_end: self.changes.singles.len(),
            differences_end: self.differences.len(),
            totals_end: self.totals.len(),
            beside: BesideFate::default(),
            changed: 0,
            key: None,
            shown_key: None,
            content: 0,
            facts: 0,
            again: None,
        });
    }
}

fn no_instance(row: &RowCells<'_>, source: SourceId) -> Finding {
    Finding::new(source, (row.row(), row.line()), THE_ROW, "", Fault::new(RowFact::NothingRepeated))
}

/// The hash of a record; never 0.
fn hash_of(record: &[u8]) -> u64 {
    xxhash_rust::xxh3::xxh3_64(record).max(1)
}
