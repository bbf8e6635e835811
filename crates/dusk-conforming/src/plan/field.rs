//! What is needed to conform one field.

use std::sync::Arc;

use super::{Input, Plan, Proven};
use crate::at_once::{AtOnce, Written};
use crate::clean::is_blank;
use crate::number::NumberWanted;
use crate::outcome::Readings;
use crate::types::conforming;
use crate::value_plan::ValuePlan;
use dusk_description::{DateType, Field, FieldRows, FieldType, NumberType, PlainLayout, Upload};
use dusk_evidence::{Error, FieldId, Result, Slot};
use dusk_mapping::{DateReading, Feed, Map, Mapping, NumberReading, Part, TextReading, Which};
use dusk_sources::without_marks;
use dusk_values::{Mention, UnitConversion, Value, Wordy, WrittenDate};

/// What a plan is compiled from, beside the target.
pub(super) struct Around<'p, 'a> {
    pub(super) mapping: &'p Mapping,
    /// The values given for this run.
    pub(super) asked: &'a [(String, String)],
    pub(super) proven: &'a Proven,
}

/// Everything that is needed to conform one field.
#[derive(Debug)]
pub struct FieldPlan<'p> {
    /// The field.
    pub field: &'p Field,
    /// Where its raw value comes from.
    pub input: Input<'p>,
    /// The column whose blank cells hold what the cell above holds.
    pub(crate) filled_from: Option<Slot>,
    /// In which rows of a record it may be filled.
    pub rows: FieldRows,
    /// The part of the cell that is taken.
    pub(crate) part: Option<&'p Part>,
    /// Words that stand for a blank cell, folded.
    pub(crate) blank: &'p [String],
    /// The field whose code decides which codes are valid, by its place.
    pub parent: Option<FieldId>,
    pub(crate) parent_name: &'p str,
    pub(crate) if_blank: Option<&'p str>,
    /// A blank in the source clears what the target holds.
    pub(crate) blank_clears: bool,
    pub(crate) values: ValuePlan<'p>,
    /// What stands for a line break inside a cell of the source.
    pub(crate) line_mark: Option<&'p str>,
    /// The groups of rows whose dates are in an order of their own, first and last row.
    pub(crate) row_groups: Vec<(u64, u64)>,
    /// How the source writes its values.
    pub(crate) source: Readings<'p>,
    /// How the target writes them, for constants and for what is put where the source is blank.
    pub(crate) fixed: Readings<'p>,
    /// Its numbers are in percent, as the source has them, and may be shares of one instead.
    pub(crate) reads_percents: bool,
    /// A cell in which nothing is to be cleaned is the value that is converted.
    pub(crate) cells_are_values: bool,
    /// Which of its values can be told at once.
    pub(crate) at_once: AtOnce,
    /// How its values get into the upload file where nothing is in the way.
    pub(crate) written: Written,
    /// Columns before it, and behind it, that nothing fills.
    pub(crate) blanks_before: usize,
    pub(crate) blanks_behind: usize,
}

impl FieldPlan<'_> {
    /// The year of a value that was written with two digits, and the first of the hundred years in which it is
    /// read.
    pub(crate) fn short_year(&self, raw: &str, value: Value) -> Option<(i16, i16)> {
        let from = self.source.date.years_from?;
        let (_, text) = self.before_conversion(raw)?;
        WrittenDate::read(&text).filter(|(written, _)| written.has_short_year())?;
        match value {
            Value::Date(day) => Some((day.year(), from)),
            Value::DateTime(moment) => Some((moment.year(), from)),
            _ => None,
        }
    }

    /// True where a raw value stands for nothing, or somebody decided what it means.
    pub(crate) fn is_decided(&self, raw: &str) -> bool {
        if self.blank.is_empty() && self.values.decided.lines().is_empty() {
            return false;
        }
        is_blank(raw, self.blank) || self.values.decided.has(&without_marks(raw))
    }

    /// True for a text whose long numbers may have lost their last digits, and are asked about.
    pub(crate) fn is_text_that_may_lose_digits(&self) -> bool {
        matches!(self.field.kind, FieldType::Text(_)) && !self.values.text.keep_rounded
    }

    /// True where the raw value of a column is its cell as it stands.
    pub(crate) fn is_plain(&self) -> bool {
        self.row_groups.is_empty() && self.filled_from.is_none()
    }
}

impl<'p> Plan<'p> {
    /// Compiles a field.
    pub(super) fn field(
        &self,
        id: FieldId,
        field: &'p Field,
        around: &Around<'p, '_>,
    ) -> Result<FieldPlan<'p>> {
        let map = around.mapping.maps.iter().find(|map| map.field == id);
        let input = self.input(field, map, around)?;
        let parent = field.kind.parent();
        let source = source_readings(id, field, map, around.proven);
        let (not_before, not_after, format) = match &field.kind {
            FieldType::Date(DateType { not_before, not_after, format, .. }) => {
                let day = |bound: &Option<dusk_description::Bound>| bound.map(|bound| bound.day(self.today));
                (day(not_before), day(not_after), Some(format))
            }
            _ => (None, None, None),
        };
        let fixed = Readings {
            fixed: true,
            number: NumberReading { decimal_mark: Some('.'), ..NumberReading::default() },
            date: DateReading { pattern: format.cloned(), ..DateReading::default() },
            ..Readings::default()
        };
        let row_groups = source.date.order_where.iter().filter_map(|one| match one.which {
            Which::Rows(first, last) => Some((first, last)),
            Which::Shape(_) => None,
        });
        let columns = Columns::of(id, &self.target.upload_columns());
        let plan = FieldPlan {
            field,
            filled_from: match &input {
                Input::Column(slot) if map.is_some_and(|map| map.fill_down) => Some(*slot),
                _ => None,
            },
            rows: self.target.groups.as_ref().map_or(FieldRows::Every, |groups| groups.rows_of(id, field)),
            part: map.and_then(|map| map.part.as_ref()),
            blank: map.map_or(&[], |map| map.blank.as_slice()),
            input,
            parent,
            parent_name: parent.and_then(|id| self.target.fields.get(id)).map_or("", |field| &field.name),
            if_blank: map.and_then(|map| map.if_blank.as_deref()),
            blank_clears: map.is_some_and(|map| map.blank_clears),
            values: ValuePlan {
                field,
                text: map.map_or_else(TextReading::default, |map| map.text),
                wanted: wanted(field, map)?,
                not_before,
                not_after,
                today: self.today,
                alone: columns.alone,
                bare: conforming(&field.kind).bare(),
                decided: Arc::clone(&source.crosswalk),
            },
            line_mark: around.mapping.source.line_break.as_deref(),
            row_groups: row_groups.collect(),
            reads_percents: reads_percents(field, map),
            source,
            fixed,
            cells_are_values: false,
            at_once: AtOnce::None,
            written: Written::of(
                // A decimal comma and zeros behind it are put in on the long way.
                PlainLayout::of(&self.target.upload)
                    .filter(|_| !is_written_otherwise(field, &self.target.upload)),
                columns.alone || columns.blanks_before + columns.blanks_behind > 0,
            ),
            blanks_before: columns.blanks_before,
            blanks_behind: columns.blanks_behind,
        };
        Ok(plan)
    }
}

/// Whether a field's numbers stand in the upload file otherwise than with a point and the decimals that they have.
fn is_written_otherwise(field: &Field, upload: &Upload) -> bool {
    let FieldType::Number(number) = &field.kind else { return false };
    upload.minus_behind || number.decimals > 0 && (upload.decimal_mark != '.' || number.all_decimals)
}

/// How the source writes a field's values: what the mapping says, and what the data proves.
fn source_readings<'p>(id: FieldId, field: &Field, map: Option<&'p Map>, proven: &Proven) -> Readings<'p> {
    let mut source = map.map_or_else(Readings::default, Readings::of);
    source.several = matches!(field.kind, FieldType::Codes(_));
    if let Some(order) = proven.date_orders.get(&id) {
        source.date.order = Some(*order);
        source.date_proven = true;
    }
    if let Some(Feed::InUnits(heading, _)) = map.map(|map| &map.feed)
        && let Some(Mention::Unit(unit)) = Wordy::of(heading).mention
    {
        // What the heading says of all of them, each has to say as well.
        source.number.unit = Some(unit);
    }
    source.date_open = proven.open.contains(&id);
    source.digits_lost = proven.damaged.contains(&id);
    source.unit_open = proven.open_units.contains(&id);
    if let Some(mark) = proven.decimal_marks.get(&id) {
        source.number.decimal_mark = Some(*mark);
        source.number.proven = true;
    }
    source
}

/// What a field's numbers have to become.
fn wanted(field: &Field, map: Option<&Map>) -> Result<NumberWanted> {
    let FieldType::Number(NumberType { decimals, unit, .. }) = &field.kind else {
        return Ok(NumberWanted { decimals: 0, conversion: None, unit: None });
    };
    let between = map.and_then(|map| map.number.unit).zip(*unit).filter(|(from, to)| from != to);
    // The mapping was read with the same check, so this is a mistake of the program's own; without the
    // conversion every number would be wrong.
    let conversion = between.map(|(from, to)| {
        UnitConversion::new(from, to).map_err(|_| {
            let (from, to) = (from.symbol(), to.symbol());
            Error::Invariant(format!("{} was to be converted from {from} to {to}", field.name))
        })
    });
    Ok(NumberWanted { decimals: *decimals, conversion: conversion.transpose()?, unit: *unit })
}

/// Whether numbers are in percent without being converted, and nobody has said that they may be small.
fn reads_percents(field: &Field, map: Option<&Map>) -> bool {
    let FieldType::Number(NumberType { unit: Some(unit), .. }) = &field.kind else { return false };
    let number = map.map(|map| map.number);
    let converted = number.and_then(|number| number.unit).is_some_and(|own| own != *unit);
    unit.symbol() == "%" && !converted && !number.is_some_and(|number| number.small_percents)
}

/// How a field's columns stand among those of the upload file.
struct Columns {
    alone: bool,
    blanks_before: usize,
    blanks_behind: usize,
}

impl Columns {
    fn of(id: FieldId, columns: &[(Option<FieldId>, &str)]) -> Self {
        let is_blank = |(of, _): &&(Option<FieldId>, &str)| of.is_none();
        let first = columns.iter().position(|(of, _)| *of == Some(id)).unwrap_or(0);
        let is_last = columns.iter().rev().find_map(|(of, _)| *of) == Some(id);
        let behind = if is_last { columns.iter().rev().take_while(is_blank).count() } else { 0 };
        Self {
            alone: columns.len() == 1,
            blanks_before: columns.iter().take(first).rev().take_while(is_blank).count(),
            blanks_behind: behind,
        }
    }
}
