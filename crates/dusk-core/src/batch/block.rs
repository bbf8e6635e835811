//! One block conformed, on a worker's thread.

use super::pipeline::Tray;
use crate::Result;
use crate::conform::{Changes, Conformer, Judged, Plan, Shape};
use crate::finding::Finding;
use crate::inspect::DateSigns;
use crate::source::{Line, Rejoined, Row, RowBuffers, Rows, Source};
use crate::validate::{KeyPrint, RecordShare};

/// What a worker makes of a block.
#[derive(Debug, Default)]
pub(super) struct Conformed {
    /// Which worker it was.
    pub(super) worker: usize,
    /// What became of each row, in order.
    pub(super) rows: Vec<RowFate>,
    /// The accepted records as they stand in the upload file, one after the other.
    pub(super) records: Vec<u8>,
    /// What was found, in the order of the rows.
    pub(super) findings: Vec<Finding>,
    /// The changes of the accepted records.
    pub(super) changes: Changes,
    /// What each accepted record adds to each rule over many records, record after record.
    pub(super) shares: Vec<Option<RecordShare>>,
    /// The value of each accepted record by which the upload files are split, record after record.
    pub(super) splits: Vec<String>,
    /// The files that each accepted record names, in the order of the fields of that type.
    pub(super) files: Vec<String>,
    /// What the worker's dates said so far about how their columns were treated, for each field.
    pub(super) signs: Vec<DateSigns>,
}

/// What became of one row. The ends are those of the row's share in the block's buffers.
#[derive(Debug, Clone)]
pub(super) struct RowFate {
    pub(super) row: Row,
    pub(super) line: Line,
    pub(super) judged: Judged,
    pub(super) text: std::ops::Range<usize>,
    pub(super) records_end: usize,
    pub(super) findings_end: usize,
    pub(super) numbers_end: usize,
    pub(super) singles_end: usize,
    /// How many cells of the record were changed.
    pub(super) changed: u32,
    pub(super) key: Option<KeyPrint>,
}

/// Conforms blocks of any source.
#[derive(Debug)]
pub(super) struct BlockWorker<'p> {
    number: usize,
    sources: &'p [Source],
    columns: &'p [Vec<usize>],
    conformer: Conformer<'p>,
    has_key: bool,
    has_shares: bool,
    split_by: Option<usize>,
    file_fields: Vec<usize>,
    buffers: RowBuffers,
}

impl<'p> BlockWorker<'p> {
    pub(super) fn new(
        number: usize,
        plan: &'p Plan<'p>,
        sources: &'p [Source],
        columns: &'p [Vec<usize>],
    ) -> Result<Self> {
        let has_key = plan.fields.iter().any(|field| field.field.key);
        Ok(Self {
            number,
            sources,
            columns,
            conformer: Conformer::new(plan, false)?,
            has_key,
            has_shares: !plan.batch_rules.is_empty(),
            split_by: plan.target.upload.split_by,
            file_fields: plan.target.file_fields(),
            buffers: RowBuffers::default(),
        })
    }

    pub(super) fn work(&mut self, tray: &mut Tray<Conformed>) {
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
        let (Some(source), Some(columns)) = (self.sources.get(tray.source), self.columns.get(tray.source))
        else {
            return;
        };
        let block = &tray.block;
        let buffers = std::mem::take(&mut self.buffers);
        let mut rows = Rows::starting_at(&block.text, &source.dialect, block.row, block.line, buffers);
        let shape = Shape::of(source, tray.source, columns);
        let mut room = Rejoined::default();
        while let Some(row) = rows.next() {
            let (row, judged) = self.conformer.judge(row, &shape, &mut room, &mut result.findings);
            let whole = shape.is_whole(&row);
            let key =
                if self.has_key && judged != Judged::LeftOut && whole { self.conformer.key() } else { None };
            let mut changed = 0;
            if judged == Judged::Accepted {
                self.conformer.write(&mut result.records);
                changed = self.conformer.note_changes(&row, columns, &mut result.changes);
                if let Some(field) = self.split_by {
                    result.splits.push(
                        self.conformer
                            .outcome(field)
                            .map_or_else(String::new, |outcome| outcome.text.clone()),
                    );
                }
                for field in &self.file_fields {
                    result.files.push(
                        self.conformer
                            .outcome(*field)
                            .map_or_else(String::new, |outcome| outcome.text.clone()),
                    );
                }
                if self.has_shares {
                    self.conformer.shares(&mut result.shares);
                }
            }
            result.rows.push(RowFate {
                row: row.row(),
                line: row.line(),
                judged,
                text: row.range(),
                records_end: result.records.len(),
                findings_end: result.findings.len(),
                numbers_end: result.changes.numbers.len(),
                singles_end: result.changes.singles.len(),
                changed,
                key,
            });
        }
        result.signs.clear();
        result.signs.extend_from_slice(self.conformer.signs());
        self.buffers = rows.into_buffers();
    }
}
