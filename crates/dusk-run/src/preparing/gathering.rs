//! What the rows say about how fields are to be read: every source is read once for it.

use dusk_conforming::{Bound, Conformer, Plan, Shape};
use dusk_evidence::{ColumnId, FieldId, Id as _, Line, Result, Row, SourceId};
use dusk_inspecting::{At, DateEvidence, DateShape, NumberEvidence};
use dusk_mapping::{LookUp, OrderWhere, Part, Which};
use dusk_sources::{CellKind, Progress, RowCells, Source, Tray, in_order};
use dusk_values::WrittenDate;

use crate::Job;

/// Something that feeds a field, and has to prove how it is read.
#[derive(Debug)]
pub(super) struct Weighed<'j> {
    pub(super) field: FieldId,
    /// The column's heading, or what the value is made of.
    pub(super) column: String,
    pub(super) part: Option<&'j Part>,
    pub(super) cells: Cells<'j>,
    pub(super) kind: Gathered,
}

/// Where its values are.
#[derive(Debug, Clone, Copy)]
pub(super) enum Cells<'j> {
    /// In a column of its own.
    Column,
    /// In several columns, of which this one speaks first.
    Made(usize),
    /// In another file.
    LookedUp(&'j LookUp),
}

/// What is gathered.
#[derive(Debug, Clone, Default)]
pub(super) enum Gathered {
    #[default]
    Nothing,
    Dates(Box<Dates>),
    Numbers(Box<NumberEvidence>),
}

/// Dates, all of them and those of each group for which the mapping names an order.
#[derive(Debug, Clone)]
pub(super) struct Dates {
    pub(super) all: DateEvidence,
    /// Those of no group.
    pub(super) base: DateEvidence,
    /// One for each entry of `order_where`.
    pub(super) groups: Vec<DateEvidence>,
    order_where: Vec<OrderWhere>,
}

impl Dates {
    pub(super) fn new(empty: &DateEvidence, order_where: &[OrderWhere]) -> Self {
        Self {
            all: empty.clone(),
            base: empty.clone(),
            groups: vec![empty.clone(); order_where.len()],
            order_where: order_where.to_vec(),
        }
    }

    fn add(&mut self, at: At, kind: CellKind, quoted: bool, value: &str) {
        // An apostrophe kept it text in a spreadsheet program.
        let bare = value.strip_prefix('\'').filter(|rest| WrittenDate::read(rest).is_some());
        let value = bare.unwrap_or(value);
        self.all.add(at, kind, quoted, value);
        if self.order_where.is_empty() || value.is_empty() {
            return;
        }
        let group = self.group(at.row, kind, value).and_then(|group| self.groups.get_mut(group));
        group.unwrap_or(&mut self.base).add(at, kind, quoted, value);
    }

    /// The group that a value belongs to; rows count before shapes.
    fn group(&self, row: Row, kind: CellKind, value: &str) -> Option<usize> {
        let of_row = self.order_where.iter().position(|one| match one.which {
            Which::Rows(first, last) => (first..=last).contains(&row.0),
            Which::Shape(_) => false,
        });
        of_row.or_else(|| {
            let (written, _) = WrittenDate::read(value)?;
            let shape = DateShape::of(kind, false, value, written)?;
            let covers = |one: &OrderWhere| matches!(one.which, Which::Shape(named) if named.covers(shape));
            self.order_where.iter().position(covers)
        })
    }

    fn append(&mut self, later: Self) {
        self.all.append(later.all);
        self.base.append(later.base);
        for (mine, theirs) in self.groups.iter_mut().zip(later.groups) {
            mine.append(theirs);
        }
    }
}

impl Gathered {
    fn add(&mut self, at: At, kind: CellKind, quoted: bool, value: &str) {
        match self {
            Self::Dates(dates) => dates.add(at, kind, quoted, value),
            Self::Numbers(numbers) => numbers.add(at, kind, value),
            Self::Nothing => {}
        }
    }

    fn append(&mut self, later: Self) {
        match (&mut *self, later) {
            (Self::Dates(mine), Self::Dates(theirs)) => mine.append(*theirs),
            (Self::Numbers(mine), Self::Numbers(theirs)) => mine.append(*theirs),
            (_, later) => *self = later,
        }
    }
}

impl Job<'_> {
    /// Reads the sources once for the evidence that is wanted.
    pub(super) fn gather(
        &self,
        plan: &Plan<'_>,
        weighed: &[Weighed<'_>],
        progress: &Progress<'_>,
    ) -> Result<Vec<Gathered>> {
        let mut evidence: Vec<Gathered> = weighed.iter().map(Weighed::looked_up).collect();
        let bound = self.sources.iter().map(|source| plan.bind(source)).collect::<Result<Vec<_>>>()?;
        in_order(
            self.sources,
            self.threads,
            |_| {},
            |_| {
                let mut worker = Gatherer::new(self.sources, plan, &bound, weighed)?;
                Ok(move |tray: &mut Tray<Vec<Gathered>>| worker.work(tray))
            },
            |tray| {
                for (whole, part) in evidence.iter_mut().zip(std::mem::take(&mut tray.result)) {
                    whole.append(part);
                }
                progress(0, tray.block.bytes_read);
                Ok(())
            },
        )?;
        Ok(evidence)
    }
}

impl Weighed<'_> {
    /// What another file says, all of whose values count; nothing yet for columns.
    fn looked_up(&self) -> Gathered {
        let mut gathered = self.kind.clone();
        if let Cells::LookedUp(look_up) = self.cells {
            for (row, value) in look_up.values() {
                let at = At { source: SourceId::FIRST, row, line: Line(row.0) };
                gathered.add(at, CellKind::Text, false, value);
            }
        }
        gathered
    }
}

/// Gathers from blocks, on a thread of its own.
struct Gatherer<'g> {
    sources: &'g [Source],
    bound: &'g [Vec<Bound>],
    plan: &'g Plan<'g>,
    weighed: &'g [Weighed<'g>],
    /// The columns of each source that are weighed by themselves.
    columns: Vec<Vec<Option<ColumnId>>>,
    /// The fields that are made of several columns, each once.
    made: Vec<FieldId>,
    conformer: Conformer<'g>,
}

impl<'g> Gatherer<'g> {
    fn new(
        sources: &'g [Source],
        plan: &'g Plan<'g>,
        bound: &'g [Vec<Bound>],
        weighed: &'g [Weighed<'g>],
    ) -> Result<Self> {
        let column = |source: &Source, one: &Weighed<'_>| match one.cells {
            Cells::Column => source.column(&one.column),
            Cells::Made(_) | Cells::LookedUp(_) => None,
        };
        let is_made = |one: &&Weighed<'_>| matches!(one.cells, Cells::Made(_));
        let mut made: Vec<FieldId> = weighed.iter().filter(is_made).map(|one| one.field).collect();
        made.dedup();
        Ok(Self {
            sources,
            bound,
            plan,
            weighed,
            columns: sources
                .iter()
                .map(|source| weighed.iter().map(|one| column(source, one)).collect())
                .collect(),
            made,
            conformer: Conformer::new(plan, false)?,
        })
    }

    fn work(&mut self, tray: &mut Tray<Vec<Gathered>>) {
        tray.result = self.weighed.iter().map(|one| one.kind.clone()).collect();
        let at = tray.source.index();
        let (Some(source), Some(columns), Some(bound)) =
            (self.sources.get(at), self.columns.get(at), self.bound.get(at))
        else {
            return;
        };
        let shape = Shape::of(source, tray.source, bound);
        let mut rows = tray.block.rows(&source.dialect);
        while let Some(row) = rows.next() {
            // A row of the wrong width may hold anything in this column.
            if !source.is_whole(&row) {
                continue;
            }
            let at = At { source: tray.source, row: row.row(), line: row.line() };
            for ((evidence, column), one) in tray.result.iter_mut().zip(columns).zip(self.weighed) {
                if let Some(column) = column {
                    self.take_cell(one, &row, *column, at, evidence);
                }
            }
            if !self.made.is_empty() {
                for record in shape.records(&row, self.plan) {
                    self.take_made(&row, &record, at, &mut tray.result);
                }
            }
        }
    }

    /// Takes in a cell, or the part of it that is wanted. What cannot be taken apart is rejected, and proves
    /// nothing.
    fn take_cell(
        &self,
        one: &Weighed<'_>,
        row: &RowCells<'_>,
        column: ColumnId,
        at: At,
        evidence: &mut Gathered,
    ) {
        let cell = row.cell(column);
        let quoted = row.is_quoted(column);
        let (kind, value) = CellKind::of(cell);
        match one.part {
            Some(part) => {
                if let Ok(taken) = part.take(value) {
                    evidence.add(at, kind, quoted, taken);
                }
            }
            None if value.is_ascii() => evidence.add(at, kind, quoted, value.trim()),
            // What nobody sees must not hide what is written.
            None => {
                let field = self.plan.fields.get(one.field);
                if let Some((kind, text)) = field.and_then(|field| field.cleaned_cell(cell)) {
                    evidence.add(at, kind, quoted, &text);
                }
            }
        }
    }

    /// Takes in what several cells come to.
    fn take_made(&self, row: &RowCells<'_>, record: &Shape<'_>, at: At, result: &mut [Gathered]) {
        for field in &self.made {
            let Some((kind, text, speaker)) = self.conformer.before_conversion(*field, row, record) else {
                continue;
            };
            let is_it = |one: &Weighed<'_>| {
                one.field == *field && matches!(one.cells, Cells::Made(place) if place == speaker)
            };
            let own = self.weighed.iter().position(is_it).and_then(|place| result.get_mut(place));
            if let Some(evidence) = own {
                evidence.add(at, kind, false, &text);
            }
        }
    }
}
