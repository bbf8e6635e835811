//! The rejected rows of a run kept at hand, so that a decision shows its effect at once and without reading
//! the sources again.

use crate::{Job, Ready, Sink, Summary, Totals};
use dusk_conforming::{Conformer, Fit, Judged, Plan, Proven, Shape};
use dusk_decisions::{RowHash, RowHashes};
use dusk_evidence::{
    ById, Causes, ColumnCause, ColumnId, FieldId, Finding, Id as _, Kind, Line, RankedCauses, Result, Row,
    Severity, SourceId,
};
use dusk_sources::{Block, Patch, Patches, Progress, Rejoined, RowCells};

/// How many bytes of rejected rows are kept at hand.
const MOST_BYTES: usize = 192 * 1024 * 1024;

/// A rejected row, and what was decided about it since.
#[derive(Debug)]
pub struct ReviewRow {
    /// The source, from 0.
    pub source: SourceId,
    /// Its row.
    pub row: Row,
    /// The line on which it begins.
    pub line: Line,
    /// What it is recognised by, as its source has it.
    pub print: RowHash,
    /// Its cells as they are read now, and last what is beyond the header.
    pub cells: Vec<String>,
    /// What is wrong with it now.
    pub findings: Vec<Finding>,
    /// What becomes of it now.
    pub judged: Judged,
    /// The row as text, as it was read when it was rejected.
    text: String,
    /// The cells that were corrected since.
    corrected: Vec<Patch>,
    /// Whether it was decided since that the row is kept out.
    kept_out: bool,
    /// The cells that had been corrected before.
    before: Vec<Patch>,
}

impl ReviewRow {
    /// The row as its source has it, before it is cut into cells.
    pub fn raw(&self) -> &str {
        &self.text
    }

    /// What its source has in a column, from 0.
    pub fn exported(&self, column: ColumnId) -> &str {
        let all = self.before.iter().chain(&self.corrected);
        let was = all.into_iter().find(|patch| patch.column == column).map(|patch| patch.was.as_str());
        was.unwrap_or_else(|| self.cells.get(column.index()).map_or("", String::as_str))
    }
}

/// The rejected rows of a run.
#[derive(Debug)]
pub struct Review {
    /// The rows, in their order.
    pub rows: Vec<ReviewRow>,
    /// Rejected rows that are not kept at hand, because there are too many.
    pub not_kept: u64,
    /// What the run came to.
    pub totals: Totals,
    proven: Proven,
    filled: ById<FieldId, u64>,
    wrong: Vec<ColumnCause>,
}

impl Review {
    /// Runs the job and keeps its rejected rows.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub fn open(ready: &Ready<'_>, progress: &Progress<'_>) -> Result<(Self, Summary)> {
        let job = ready.job;
        let prints = job.sources.iter().map(|source| job.mapping.row_hashes(source, job.target)).collect();
        let mut keeper = Keeper { ready, prints, rows: Vec::new(), bytes: 0, not_kept: 0 };
        let summary = ready.run(&mut keeper, progress)?;
        let review = Self {
            rows: keeper.rows,
            not_kept: keeper.not_kept,
            totals: summary.totals,
            proven: ready.proven.clone(),
            filled: summary.filled.clone(),
            wrong: summary.causes.iter().filter_map(|cause| cause.column.clone()).collect(),
        };
        Ok((review, summary))
    }

    /// The causes of what is still rejected.
    pub fn causes(&self) -> RankedCauses {
        let mut causes = Causes::default();
        for row in self.rows.iter().filter(|row| row.judged == Judged::Rejected) {
            let rejects = |finding: &&Finding| finding.fault.kind().severity() == Severity::Reject;
            row.findings.iter().filter(rejects).for_each(|finding| causes.add(finding));
            causes.end_row();
        }
        causes.ranked(&|field| self.filled.get(field).copied().unwrap_or(0), &self.wrong)
    }

    /// How many rejected rows are left, those that are not at hand among them.
    pub fn left(&self) -> u64 {
        let rejected = self.rows.iter().filter(|row| row.judged == Judged::Rejected).count();
        rejected as u64 + self.not_kept
    }

    /// Whether rows have to be read in their place to be judged, because they take over what stands above
    /// them. Then the job has to be run again after each decision.
    pub fn needs_a_run(job: &Job<'_>) -> bool {
        job.mapping.maps.iter().any(|map| map.fill_down)
    }

    /// Takes a cell of a row for something else, until the row is judged again. Taking it for what the source
    /// has takes the correction back.
    pub fn correct(&mut self, place: usize, column: ColumnId, now: &str) {
        let Some(row) = self.rows.get_mut(place) else { return };
        let was = row.exported(column).to_owned();
        row.corrected.retain(|patch| patch.column != column);
        row.corrected.push(Patch { column, was, now: now.to_owned(), why: String::new() });
    }

    /// Keeps a row out, or no longer, until it is judged again.
    pub fn keep_out(&mut self, place: usize, kept_out: bool) {
        if let Some(row) = self.rows.get_mut(place) {
            row.kept_out = kept_out;
        }
    }

    /// Judges rows again, with the job as it is now.
    ///
    /// # Errors
    /// [`Error::Problems`](dusk_evidence::Error::Problems) when what was decided is not allowed.
    pub fn judge_again(&mut self, job: &Job<'_>, which: &dyn Fn(&ReviewRow) -> bool) -> Result<()> {
        let plan = Plan::compile(job.target, job.mapping, job.asked, job.today, &self.proven)?;
        let columns = job.sources.iter().map(|source| plan.bind(source)).collect::<Result<Vec<_>>>()?;
        let mut conformer = Conformer::new(&plan, false)?;
        for row in self.rows.iter_mut().filter(|row| which(row)) {
            let (Some(source), Some(columns)) =
                (job.sources.get(row.source.index()), columns.get(row.source.index()))
            else {
                continue;
            };
            let shape = Shape::of(source, row.source, columns);
            let prints = job.mapping.row_hashes(source, job.target);
            row.judge(&mut conformer, &shape, &plan, &prints);
        }
        Ok(())
    }
}

impl ReviewRow {
    fn judge(
        &mut self,
        conformer: &mut Conformer<'_>,
        shape: &Shape<'_>,
        plan: &Plan<'_>,
        prints: &RowHashes,
    ) {
        let mut patches = Patches::new(shape.width);
        for patch in &self.corrected {
            patches.add(self.row, patch.clone());
        }
        let block = Block { text: self.text.clone(), row: self.row, line: self.line, bytes_read: 0 };
        let blocks = patches.applied(block, shape.dialect);
        let Some(block) = blocks.first() else { return };
        let mut rows = block.rows(shape.dialect);
        let Some(cells) = rows.next() else { return };
        let key_cells_kept = !self.corrected.iter().any(|patch| prints.is_key(patch.column));
        // What only other rows tell is known from the run; it holds as long as the key does.
        let of_other_rows: Vec<Finding> = std::mem::take(&mut self.findings)
            .into_iter()
            .filter(|finding| {
                let of_others = matches!(
                    finding.fault.kind(),
                    Kind::DuplicateKey | Kind::KeyWithOtherFacts | Kind::FoundTwice | Kind::ValueTwice
                );
                // What was refused goes once more as soon as a cell of it was mended; a run shows whether that is enough.
                let of_earlier = match finding.fault.kind() {
                    Kind::TargetRefused => self.corrected.is_empty(),
                    kind => key_cells_kept && kind == Kind::SentUnderOtherKey,
                };
                key_cells_kept && of_others || of_earlier
            })
            .collect();
        let mut findings = Vec::new();
        let mut room = Rejoined::default();
        let (whole, fit) = conformer.fit(cells, shape, &mut room, &mut findings);
        self.judged = match fit {
            _ if self.kept_out => Judged::LeftOut,
            Fit::LeftOut => Judged::LeftOut,
            Fit::Rejected => Judged::Rejected,
            Fit::Whole => {
                let records = shape.records(&whole, plan);
                let mut judged = if records.is_empty() { Judged::LeftOut } else { Judged::Accepted };
                for record in &records {
                    match conformer.judge(&whole, record, &mut findings) {
                        Judged::LeftOut => judged = Judged::LeftOut,
                        Judged::Rejected if judged == Judged::Accepted => judged = Judged::Rejected,
                        Judged::Rejected | Judged::Accepted | Judged::Merged => {}
                    }
                }
                if judged == Judged::Accepted && !of_other_rows.is_empty() {
                    judged = Judged::Rejected;
                }
                judged
            }
        };
        findings.extend(of_other_rows);
        self.findings = findings;
        self.cells = cells_of(&cells, prints, shape.width);
    }
}

fn cells_of(row: &RowCells<'_>, prints: &RowHashes, width: usize) -> Vec<String> {
    (0..=width).map(|column| prints.cell(row, ColumnId::new(column))).collect()
}

/// Keeps the rejected rows of a run.
struct Keeper<'r> {
    ready: &'r Ready<'r>,
    prints: Vec<RowHashes>,
    rows: Vec<ReviewRow>,
    bytes: usize,
    not_kept: u64,
}

impl Sink for Keeper<'_> {
    fn tries_table(&self) -> bool {
        true
    }

    fn rejected(&mut self, place: SourceId, row: &RowCells<'_>, findings: &[Finding]) -> Result<()> {
        // What a row takes beside its text, its findings included.
        const BESIDE: usize = 1024;
        let (Some(source), Some(prints)) =
            (self.ready.job.sources.get(place.index()), self.prints.get(place.index()))
        else {
            return Ok(());
        };
        if self.bytes > MOST_BYTES {
            self.not_kept += 1;
            return Ok(());
        }
        let before = source.patches().at(row.row()).to_vec();
        let text = row.written().to_owned();
        self.bytes += BESIDE + 2 * text.len();
        self.rows.push(ReviewRow {
            source: place,
            row: row.row(),
            line: row.line(),
            print: prints.as_exported(prints.row(row), &before),
            cells: cells_of(row, prints, source.columns.len()),
            findings: findings.to_vec(),
            judged: Judged::Rejected,
            text,
            corrected: Vec::new(),
            kept_out: false,
            before,
        });
        Ok(())
    }
}
