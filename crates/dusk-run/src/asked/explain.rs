//! The life of one row: what each cell was, each step, what it became, what was found.

use crate::{Ready, Sink};
use dusk_conforming::{Conformer, FieldPlan, Fit, Judged, Outcome, Shape};
use dusk_description::{RecordRow, Standing};
use dusk_evidence::{
    ById, ColumnId, Error, FieldId, Finding, Id as _, Kind, Line, Result, Row, Severity, Slot, SourceId,
    THE_ROW,
};
use dusk_sources::{CellKind, Patch, Progress, Rejoined, RowCells, Source};

/// What became of one row, and why.
#[derive(Debug, Clone)]
pub struct Explanation {
    /// The source's name.
    pub source: String,
    /// The row.
    pub row: Row,
    /// The line on which it begins.
    pub line: Line,
    /// The source's headings and the row's cells, corrected ones as they are read, and what each is.
    pub cells: Vec<(String, String, CellKind)>,
    /// The cells of it that were corrected.
    pub corrected: Vec<Patch>,
    /// The records that the row makes; none when it could not be told into cells.
    pub records: Vec<ExplainedRecord>,
    /// Everything found in the row.
    pub findings: Vec<Finding>,
    /// What became of it.
    pub fate: Judged,
}

impl ExplainedRecord {
    /// What tells it from the other records of its row; nothing where it is the only one.
    pub fn title(&self) -> Option<String> {
        match self.record_row {
            RecordRow::Group(_) => Some(format!("{} {}", self.group, self.label).trim().to_owned()),
            RecordRow::Plain => Some("first row".to_owned()),
            RecordRow::Whole if self.label.is_empty() => None,
            RecordRow::Whole => Some(format!("record {}", self.label)),
        }
    }

    /// Whether a field may be filled in it.
    pub fn holds(&self, field: &FieldPlan<'_>) -> bool {
        field.rows.holds(self.record_row)
    }
}

/// One record of a row.
#[derive(Debug, Clone)]
pub struct ExplainedRecord {
    /// What its repeat is called; nothing where a row makes one record.
    pub label: String,
    /// Which row of its record it is, where a record has several.
    pub record_row: RecordRow,
    /// The name of that group.
    pub group: String,
    /// The heading of each column that is used, by its place in the plan.
    pub headings: ById<Slot, String>,
    /// One outcome for each field of the target.
    pub outcomes: ById<FieldId, Outcome>,
    /// What it is beside the held records, where these are known.
    pub beside: Option<RecordBeside>,
}

/// What a record is beside those that the target holds.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RecordBeside {
    /// What it is.
    pub standing: Standing,
    /// The held record that it is: its row, and the list.
    pub held: Option<(Row, String)>,
    /// Whether it is sent.
    pub is_sent: bool,
}

/// What the record at hand of a conformer is beside the held ones.
fn beside(ready: &Ready<'_>, conformer: &Conformer<'_>) -> Option<RecordBeside> {
    let (held, holds) = ready.job.held.zip(ready.job.target.holds.as_ref())?;
    let beside = conformer.beside();
    let standing = beside.standing?;
    let found = beside.number.and_then(|number| held.reader().ok()?.read(number).ok());
    let held = found.map(|record| {
        let list = held.lists.get(record.list).map_or_else(String::new, |list| list.name.clone());
        (record.row, list)
    });
    Some(RecordBeside { standing, held, is_sent: holds.sending.takes(standing) })
}

/// What becomes of a row: `own` was found in it, `all` in the whole job.
pub(super) fn fate_of(own: &[Finding], all: &[Finding], no_records: bool) -> Judged {
    let kept_out = |finding: &Finding| finding.fault.kind() == Kind::KeptOut;
    let rejects = |finding: &Finding| finding.fault.kind().severity() == Severity::Reject;
    if own.iter().any(kept_out) {
        Judged::LeftOut
    } else if all.iter().any(rejects) {
        Judged::Rejected
    } else if own.iter().any(|finding| finding.fault.kind() == Kind::MergedInto) {
        Judged::Merged
    } else if no_records {
        Judged::LeftOut
    } else {
        Judged::Accepted
    }
}

/// Explains row `row` of source number `source` (from 0). The whole job is run, so that what is
/// said about keys is what a batch would say.
///
/// # Errors
/// [`Error::Request`] when the source has no record in that row.
pub fn explain(
    ready: &Ready<'_>,
    source: SourceId,
    row: Row,
    progress: &Progress<'_>,
) -> Result<Explanation> {
    let opened = ready
        .job
        .sources
        .get(source.index())
        .ok_or_else(|| Error::Invariant("there is no such source".into()))?;
    refuse_above_records(opened, row)?;
    let mut collector = Collector { source, row, findings: Vec::new() };
    ready.run(&mut collector, progress)?;
    let columns = ready.plan.bind(opened)?;
    let mut conformer = Conformer::new(&ready.plan, true)?;
    let shape = Shape::of(opened, source, &columns);
    let mut walk = opened.walk()?;
    let mut last = opened.header_row;
    while let Some(mut rows) = walk.more()? {
        while let Some(cells) = rows.next() {
            last = cells.row().0;
            if cells.row() != row {
                conformer.pass(&cells, &shape);
                continue;
            }
            let mut again = Vec::new();
            let mut room = Rejoined::default();
            let (cells, fit) = conformer.fit(cells, &shape, &mut room, &mut again);
            let records = match fit {
                Fit::Whole => explained_records(
                    ready,
                    opened,
                    (&cells, &shape),
                    (&mut conformer, &mut again),
                    &mut |_| {},
                ),
                _ => Vec::new(),
            };
            let fate = fate_of(&again, &collector.findings, records.is_empty());
            return Ok(Explanation {
                source: opened.name.clone(),
                row,
                line: cells.line(),
                cells: named(&opened.columns, &cells),
                corrected: opened.patches().at(row).to_vec(),
                records,
                findings: collector.findings,
                fate,
            });
        }
    }
    Err(Error::Request(format!("{} has no row {row}; its last one is row {last}", opened.name)))
}

/// Rows down to the header hold no records.
fn refuse_above_records(opened: &Source, row: Row) -> Result<()> {
    let header_ends = opened.header_row + opened.header_rows - 1;
    if row.0 <= header_ends {
        let what = if row.0 >= opened.header_row { "holds the headings" } else { "is above the header" };
        return Err(Error::Request(format!(
            "row {row} of {} {what}; the first record is in row {}",
            opened.name,
            header_ends + 1
        )));
    }
    Ok(())
}

/// The records of a row, with every step kept. `visit` sees the conformer after each.
pub(crate) fn explained_records<'p>(
    ready: &Ready<'p>,
    source: &Source,
    (row, shape): (&RowCells<'_>, &Shape<'_>),
    (conformer, findings): (&mut Conformer<'p>, &mut Vec<Finding>),
    visit: &mut dyn FnMut(&mut Conformer<'p>),
) -> Vec<ExplainedRecord> {
    let mut records = Vec::new();
    for record in shape.records(row, &ready.plan) {
        conformer.judge(row, &record, findings);
        let heading = |column: &ColumnId| source.heading(*column).to_owned();
        records.push(ExplainedRecord {
            label: record.label.to_owned(),
            record_row: record.record_row,
            group: record.group.to_owned(),
            headings: record.columns.iter().flat_map(|columns| columns.iter()).map(heading).collect(),
            outcomes: ready.plan.fields.ids().map(|field| conformer.outcome_in_full(field)).collect(),
            beside: beside(ready, conformer),
        });
        visit(conformer);
    }
    records
}

pub(crate) fn named(columns: &[String], cells: &RowCells<'_>) -> Vec<(String, String, CellKind)> {
    let beyond = "(beyond the header)".to_owned();
    cells
        .cells()
        .enumerate()
        .map(|(place, cell)| {
            let (kind, text) = CellKind::of(cell);
            (columns.get(place).unwrap_or(&beyond).clone(), text.to_owned(), kind)
        })
        .collect()
}

/// Keeps what is found in one row.
struct Collector {
    source: SourceId,
    row: Row,
    findings: Vec<Finding>,
}

impl Sink for Collector {
    fn tries_table(&self) -> bool {
        true
    }

    fn finding(&mut self, finding: &Finding) -> Result<()> {
        if finding.source == self.source
            && finding.row == self.row
            && finding.field.is_some() | (finding.about == THE_ROW)
        {
            self.findings.push(finding.clone());
        }
        Ok(())
    }

    fn rejected(&mut self, source: SourceId, row: &RowCells<'_>, findings: &[Finding]) -> Result<()> {
        if source == self.source && row.row() == self.row {
            self.findings = findings.to_vec();
        }
        Ok(())
    }
}
