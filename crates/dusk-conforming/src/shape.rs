//! How the rows of a source stand to its header: whole, split, torn, or no record at all.

use super::Plan;
use super::clean::is_blank;
use super::plan::{Bound, PlannedGroups};
use dusk_description::RecordRow;
use dusk_evidence::{ColumnId, Fault, RowFact, Slot, SourceId};
use dusk_sources::{CellKind, DAMAGED_RECORD, Dialect, Patches, RowCells, Source};

/// How the rows of one source stand to the plan.
#[derive(Debug, Clone)]
pub struct Shape<'s> {
    /// Which source, from 0.
    pub(crate) source: SourceId,
    /// The places of the plan's headings in it, for each repeat; one where a row makes one record.
    pub(crate) numbers: &'s [Bound],
    /// The same for the repeat at hand.
    pub columns: Option<&'s Bound>,
    /// What the repeat at hand is called; nothing where a row makes one record.
    pub label: &'s str,
    /// Which row of a record this one is, where a record has several.
    pub record_row: RecordRow,
    /// The name of the group of that row.
    pub group: &'s str,
    /// How many headings it has.
    pub width: usize,
    /// Rows may end before the last column, and hold blank cells behind it.
    pub(crate) ragged: bool,
    /// Rows may end before the last column.
    missing_are_blank: bool,
    /// Rows end with a delimiter more than the header has.
    blank_end: bool,
    /// The headings as they stand.
    pub(crate) headings: &'s [String],
    /// What closing lines begin with.
    pub(crate) closing: &'s [String],
    /// How the cells are parted and quoted.
    pub dialect: &'s Dialect,
    /// What was corrected in it, and which rows are kept out.
    pub(crate) patches: &'s Patches,
}

impl<'s> Shape<'s> {
    /// The shape of a source.
    pub fn of(source: &'s Source, source_id: SourceId, numbers: &'s [Bound]) -> Self {
        Self {
            source: source_id,
            numbers,
            columns: numbers.first(),
            label: "",
            record_row: RecordRow::Whole,
            group: "",
            width: source.columns.len(),
            ragged: source.dialect.is_sheet(),
            missing_are_blank: source.missing_are_blank,
            blank_end: source.blank_end,
            headings: &source.headings,
            closing: &source.closing,
            dialect: &source.dialect,
            patches: source.patches(),
        }
    }

    /// The same for each record that a row makes: each repeat of which a column holds something.
    pub fn records(&self, row: &RowCells<'_>, plan: &'s Plan<'_>) -> Vec<Self> {
        if let Some(groups) = &plan.groups {
            return self.rows_by_group(row, plan, groups);
        }
        let Some(planned) = &plan.repeat else { return vec![self.clone()] };
        let holds_something = |columns: &&'s Bound| holds_something(row, plan, &planned.slots, columns);
        let numbers = self.numbers.iter().enumerate().filter(|(_, columns)| holds_something(columns));
        let labelled = |(met, (place, columns)): (usize, (usize, &'s Bound))| {
            let label = if planned.repeat.in_order { met } else { place };
            Self {
                columns: Some(columns),
                label: planned.labels.get(label).map_or("", String::as_str),
                ..self.clone()
            }
        };
        numbers.enumerate().map(labelled).collect()
    }

    /// The rows of a record: its plain fields, then each repeat of each group that holds something.
    fn rows_by_group(&self, row: &RowCells<'_>, plan: &'s Plan<'_>, groups: &'s PlannedGroups) -> Vec<Self> {
        let in_order = plan.repeat.as_ref().is_some_and(|planned| planned.repeat.in_order);
        let mut rows = Vec::new();
        for (place, group) in groups.groups.iter().enumerate() {
            let bound = group.repeats.iter().filter_map(|at| Some((*at, self.numbers.get(*at)?)));
            let filled = bound.filter(|(_, columns)| holds_something(row, plan, &group.columns, columns));
            for (met, (at, columns)) in filled.enumerate() {
                let labels = plan.repeat.as_ref().map(|planned| &planned.labels);
                rows.push(Self {
                    columns: Some(columns),
                    record_row: RecordRow::Group(place),
                    group: &group.name,
                    label: labels
                        .and_then(|labels| labels.get(if in_order { met } else { at }))
                        .map_or("", String::as_str),
                    ..self.clone()
                });
            }
        }
        // A row below the first one of its record may leave the plain columns blank.
        let is_plain = plan.repeat.is_some()
            || rows.is_empty()
            || self.columns.is_some_and(|columns| holds_something(row, plan, &groups.plain, columns));
        if is_plain {
            rows.insert(0, Self { record_row: RecordRow::Plain, ..self.clone() });
        }
        rows
    }

    /// The column of a heading that the plan uses, in the repeat at hand. There is always one: slots are made
    /// from the plan's headings, and every one of these was bound.
    #[inline]
    pub fn column(&self, slot: Slot) -> Option<ColumnId> {
        self.columns?.get(slot).copied()
    }

    /// The cell under a heading that the plan uses.
    #[inline]
    pub fn cell<'r>(&self, row: &RowCells<'r>, slot: Slot) -> &'r str {
        self.column(slot).map_or("", |column| row.cell(column))
    }

    /// Whether a row's cells can be told apart: none is missing, too many, or unclosed.
    /// Whether somebody keeps the row out of the batch.
    pub fn is_kept_out(&self, row: &RowCells<'_>) -> bool {
        self.patches.kept_out(row.row()).is_some()
    }

    pub(crate) fn is_whole(&self, row: &RowCells<'_>) -> bool {
        let cells = row.len();
        let fits = cells == self.width
            || self.missing_are_blank && cells < self.width
            || self.blank_end && cells == self.width + 1 && row.nth(self.width).trim().is_empty()
            || self.ragged && (cells < self.width || row.cells().skip(self.width).all(str::is_empty));
        fits && row.is_closed() && !row.is_misquoted() && (!self.ragged || damage(row).is_none())
    }

    /// What the row is if it holds no record although it is not blank.
    pub(super) fn no_record(&self, row: &RowCells<'_>) -> Option<Fault> {
        if self.headings.len() > 1
            && row.nth(0).trim() == self.headings.first().map_or("", String::as_str)
            && row.len() >= self.headings.len()
            && self.headings.iter().zip(row.cells()).all(|(heading, cell)| cell.trim() == heading)
            && row.cells().skip(self.headings.len()).all(|cell| cell.trim().is_empty())
        {
            return Some(Fault::new(RowFact::RepeatsHeader));
        }
        if self.closing.is_empty() {
            return None;
        }
        let first = row.cells().map(|cell| CellKind::of(cell).1.trim()).find(|cell| !cell.is_empty())?;
        let word = self.closing.iter().find(|word| first.starts_with(word.as_str()))?;
        Some(Fault::new(RowFact::ClosingLine { word: word.clone() }))
    }
}

/// Whether a row has anything under some of the headings that the plan uses.
fn holds_something(row: &RowCells<'_>, plan: &Plan<'_>, slots: &[Slot], columns: &Bound) -> bool {
    slots.iter().any(|slot| {
        let cell = columns.get(*slot).map_or("", |column| row.cell(*column));
        let blank = plan.fields.iter().find(|field| field.input.columns().contains(slot));
        !is_blank(cell, blank.map_or(&[], |field| field.blank))
    })
}

/// A cell of several lines one of which has just as many cells as a row.
pub(super) fn holds_a_row<'r>(row: &RowCells<'r>, shape: &Shape<'_>) -> Option<&'r str> {
    const TOO_FEW: usize = 4;
    if shape.width < TOO_FEW || shape.ragged {
        return None;
    }
    let is_row = |line: &str| line.matches(shape.dialect.delimiter()).count() + 1 == shape.width;
    row.cells().find(|cell| cell.contains(['\n', '\r']) && cell.split(['\n', '\r']).skip(1).any(is_row))
}

/// Why the record that a row stands for could not be read, where it could not.
fn damage<'r>(row: &RowCells<'r>) -> Option<&'r str> {
    row.nth(0).strip_prefix(DAMAGED_RECORD)
}

/// What is wrong with a row whose cells cannot be told apart.
pub(super) fn wrong_shape(row: &RowCells<'_>, width: usize) -> Fault {
    if let Some(why) = damage(row) {
        Fault::new(RowFact::DamagedRecord { why: why.to_owned() })
    } else if !row.is_closed() {
        Fault::new(RowFact::UnclosedQuote)
    } else if row.is_misquoted() {
        Fault::new(RowFact::Misquoted)
    } else {
        Fault::new(RowFact::Width { cells: row.len(), header: width })
    }
}
