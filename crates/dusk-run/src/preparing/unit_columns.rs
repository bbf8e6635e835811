//! Columns beside numbers whose cells name the unit of each row's.

use crate::Job;
use dusk_evidence::{ColumnId, Example, Id as _, Line, Reading, Result, Row};
use dusk_mapping::{Feed, Map};
use dusk_sources::{CellKind, RowCells, Source};
use dusk_values::{Mention, Unit, UnitConversion};

/// How many cells at least have to be units; half of them all are enough.
const LEAST: u64 = 2;

/// A column whose cells name units.
#[derive(Debug, Clone)]
pub(super) struct UnitColumn {
    pub(super) heading: String,
    /// The units, in the order in which they are met.
    pub(super) units: Vec<UnitMet>,
    /// Cells that are no unit that the numbers could be in; the first of them.
    others: u64,
    first_other: Option<Example>,
}

/// A unit that cells name.
#[derive(Debug, Clone)]
pub(super) struct UnitMet {
    pub(super) unit: &'static Unit,
    cells: u64,
    /// The first cell that names it.
    word: String,
    at: (Row, Line),
}

impl UnitColumn {
    fn new(heading: &str) -> Self {
        Self { heading: heading.to_owned(), units: Vec::new(), others: 0, first_other: None }
    }

    /// The one unit that all of its cells name.
    pub(super) fn only(&self) -> Option<&'static Unit> {
        match self.units.as_slice() {
            [only] if self.others == 0 => Some(only.unit),
            _ => None,
        }
    }

    /// Whether it holds units, and few other words if any.
    fn holds_units(&self) -> bool {
        let units: u64 = self.units.iter().map(|met| met.cells).sum();
        units >= LEAST && units >= self.others
    }

    /// What each of its units speaks for.
    pub(super) fn readings(&self) -> impl Iterator<Item = Reading> {
        let others = (self.others > 0).then(|| Reading {
            name: "?".to_owned(),
            supports: self.others,
            counted: format!("rows of \"{}\" name no unit that is known here", self.heading),
            examples: self.first_other.iter().cloned().collect(),
            ..Reading::default()
        });
        let units = self.units.iter().map(|met| Reading {
            name: met.unit.symbol().to_owned(),
            supports: met.cells,
            counted: format!("rows of \"{}\" say so", self.heading),
            examples: vec![Example {
                place: format!("row {}", met.at.0.with_line(met.at.1)),
                value: met.word.clone(),
                reads: met.unit.name().to_owned(),
            }],
            ..Reading::default()
        });
        units.chain(others)
    }

    /// Takes in a cell, which may be a unit that `wanted` could be converted from.
    fn take(&mut self, row: &RowCells<'_>, column: ColumnId, wanted: &'static Unit) {
        let (_, text) = CellKind::of(row.cell(column));
        if text.trim().is_empty() {
            return;
        }
        let place = || format!("row {}", row.row().with_line(row.line()));
        let unit = match Mention::of(text) {
            Some(Mention::Unit(unit)) if unit == wanted || UnitConversion::new(unit, wanted).is_ok() => unit,
            _ => {
                self.others += 1;
                self.first_other.get_or_insert_with(|| Example {
                    place: place(),
                    value: text.trim().to_owned(),
                    reads: String::new(),
                });
                return;
            }
        };
        match self.units.iter_mut().find(|met| met.unit == unit) {
            Some(met) => met.cells += 1,
            None => self.units.push(UnitMet {
                unit,
                cells: 1,
                word: text.trim().to_owned(),
                at: (row.row(), row.line()),
            }),
        }
    }
}

impl Job<'_> {
    /// The column that stands beside the numbers of a `[[map]]` and names a unit in every row, one that numbers in
    /// `wanted` may be in, or nearly every one. What the mapping leaves out says nothing.
    pub(super) fn unit_column(&self, map: &Map, wanted: &'static Unit) -> Result<Option<UnitColumn>> {
        let Feed::Column(heading) = &map.feed else { return Ok(None) };
        let Some(source) = self.sources.first() else { return Ok(None) };
        let beside = source.column(heading).into_iter().flat_map(|own| {
            let (before, behind) = (own.index().checked_sub(1), own.index() + 1);
            before.into_iter().chain([behind]).rev().map(ColumnId::new)
        });
        let is_free = |column: &ColumnId| {
            let heading = source.heading(*column);
            let of_others = self
                .mapping
                .maps
                .iter()
                .any(|map| matches!(&map.feed, Feed::InUnits(_, unit) if unit == heading));
            !of_others && !self.mapping.leave_out.iter().any(|left| left == heading)
        };
        for column in beside.filter(is_free) {
            if let Some(found) = self.units_in(source, column, wanted)? {
                return Ok(Some(found));
            }
        }
        Ok(None)
    }

    /// The units that a column names in all rows of all sources; nothing where a cell is anything else.
    fn units_in(
        &self,
        first: &Source,
        column: ColumnId,
        wanted: &'static Unit,
    ) -> Result<Option<UnitColumn>> {
        let mut found = UnitColumn::new(first.heading(column));
        for source in self.sources {
            let Some(column) = source.column(&found.heading) else { continue };
            let mut walk = source.walk()?;
            while let Some(mut rows) = walk.more()? {
                while let Some(row) = rows.next() {
                    found.take(&row, column, wanted);
                }
                if !found.holds_units() {
                    return Ok(None);
                }
            }
        }
        Ok(found.holds_units().then_some(found))
    }
}
