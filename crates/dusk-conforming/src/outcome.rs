//! What goes into the conforming of one value beside the value, and what comes out.

use std::sync::Arc;

use super::Trail;
use super::several::JOINT;
use super::translations::Translations;
use dusk_description::ReadAs;
use dusk_evidence::Fault;
use dusk_inspecting::DateSigns;
use dusk_mapping::{DateReading, Map, NumberReading};
use dusk_sources::CellKind;
use dusk_values::Value;

/// What a cell is, beside its text.
#[derive(Debug, Clone, Copy)]
pub(super) struct Cell {
    /// What a workbook says that it is.
    pub(super) kind: CellKind,
    /// The group of rows that it stands in, where the mapping tells them apart.
    pub(super) group: Option<usize>,
}

impl Default for Cell {
    fn default() -> Self {
        Self { kind: CellKind::Text, group: None }
    }
}

/// What became of one cell.
#[derive(Debug, Clone, Default)]
pub struct Outcome {
    /// The conformed text; several codes are parted by bars.
    pub text: String,
    /// The same as a value.
    pub value: Value,
    /// What is wrong with it; then the text and the value mean nothing.
    pub faults: Vec<Fault>,
    /// What is to be said about it although it fits.
    pub remarks: Vec<Fault>,
    /// What a date says about how its column was treated.
    pub(crate) signs: DateSigns,
    /// True when nobody can say what the value means, because its parent is rejected in this row.
    pub unjudged: bool,
    /// The steps that were taken.
    pub trail: Trail,
    /// The field's columns as they stand in the upload file.
    pub(crate) encoded: Vec<u8>,
}

impl Outcome {
    /// An outcome to be filled, which keeps its steps or only whether there were any.
    pub(super) fn new(keeps_steps: bool) -> Self {
        Self { trail: if keeps_steps { Trail::keeping() } else { Trail::default() }, ..Self::default() }
    }

    /// Empties it, so that it can be filled again.
    pub(super) fn clear(&mut self) {
        self.text.clear();
        self.value = Value::Blank;
        self.faults.clear();
        self.remarks.clear();
        self.signs = DateSigns::default();
        self.unjudged = false;
        self.trail.clear();
        self.encoded.clear();
    }
}

/// What became of one cell of the current record, wherever that is kept.
#[derive(Debug, Clone, Copy)]
pub struct Told<'c> {
    /// The conformed text; several codes are parted by bars.
    pub text: &'c str,
    /// The same as a value.
    pub value: Value,
    /// What is wrong with it; then the text and the value mean nothing.
    pub faults: &'c [Fault],
    /// What is to be said about it although it fits.
    pub remarks: &'c [Fault],
    /// True when nobody can say what the value means, because its parent is rejected in this row.
    pub unjudged: bool,
    /// True when any step was taken.
    pub changed: bool,
}

impl<'c> Told<'c> {
    /// Of a value that is as it stands in the source.
    pub(super) fn as_it_stands(text: &'c str, value: Value) -> Self {
        Self { text, value, faults: &[], remarks: &[], unjudged: false, changed: false }
    }
}

impl<'c> From<&'c Outcome> for Told<'c> {
    fn from(outcome: &'c Outcome) -> Self {
        Self {
            text: &outcome.text,
            value: outcome.value,
            faults: &outcome.faults,
            remarks: &outcome.remarks,
            unjudged: outcome.unjudged,
            changed: outcome.trail.changed(),
        }
    }
}

/// How values of a field are written, by the source or by the target.
#[derive(Debug, Default)]
pub(super) struct Readings<'p> {
    /// True when values are written as the target writes them.
    pub(super) fixed: bool,
    pub(super) number: NumberReading,
    pub(super) date: DateReading,
    pub(super) date_proven: bool,
    /// Nobody knows the order of dates yet.
    pub(super) date_open: bool,
    /// Nobody knows the unit of numbers yet.
    pub(super) unit_open: bool,
    /// The last digits of its long numbers are lost.
    pub(super) digits_lost: bool,
    pub(super) words: Option<(String, String)>,
    pub(super) read_as: ReadAs,
    pub(super) between: &'p [String],
    pub(super) true_where: Option<&'p str>,
    /// The field holds several codes.
    pub(super) several: bool,
    pub(super) crosswalk: Arc<Translations<'p>>,
}

impl<'p> Readings<'p> {
    pub(super) fn of(map: &'p Map) -> Self {
        Self {
            fixed: false,
            number: map.number,
            date: map.date.clone(),
            date_proven: false,
            date_open: false,
            unit_open: false,
            digits_lost: false,
            words: map.words.clone(),
            read_as: map.read_as,
            between: &map.between,
            true_where: map.true_where.as_deref(),
            several: false,
            crosswalk: Arc::new(Translations::of(&map.crosswalk)),
        }
    }

    /// Whether a cell may hold several values.
    pub(super) fn holds_several(&self) -> bool {
        self.several || self.true_where.is_some()
    }

    /// The values of a cell that may hold several.
    pub(super) fn values<'t>(&self, text: &'t str) -> Vec<&'t str> {
        let mut parted: Vec<&str> = text.split(JOINT).collect();
        for between in self.between {
            parted = parted.into_iter().flat_map(|value| value.split(between.as_str())).collect();
        }
        parted.into_iter().map(str::trim).filter(|value| !value.is_empty()).collect()
    }
}
