//! The raw value of a field, put together from the cells of a row.

use std::borrow::Cow;

use super::Conformer;
use super::above::Above;
use super::clean::is_blank;
use super::plan::{FieldPlan, Input};
use super::several::{JOINT, Several};
use super::shape::Shape;
use dusk_evidence::{FieldId, Slot};
use dusk_sources::{ABOVE_UNKNOWN, CellKind, FROM_ABOVE, RowCells, STAYS_BLANK, group_mark};

impl Conformer<'_> {
    /// Puts the raw value of a field together in `raw`; false where a field that it is made of is
    /// rejected.
    pub(super) fn put_raw(
        &self,
        field: &FieldPlan<'_>,
        row: &RowCells<'_>,
        shape: &Shape<'_>,
        raw: &mut String,
    ) -> bool {
        raw.clear();
        if !field.rows.holds(shape.record_row) {
            raw.push(STAYS_BLANK);
            return true;
        }
        match &field.input {
            Input::Nothing | Input::Constant(_) => {}
            Input::Number => raw.push_str(shape.label),
            Input::Group => raw.push_str(shape.group),
            Input::Column(slot) => self.put_cell(field, *slot, row, shape, raw),
            Input::Several(slots, _) => {
                for (index, slot) in slots.iter().enumerate() {
                    if index > 0 {
                        raw.push(JOINT);
                    }
                    push_between_joints(shape.cell(row, *slot), raw);
                }
            }
            Input::MadeOf(parts, _) => {
                for (index, part) in parts.iter().enumerate() {
                    let Some(outcome) = self.outcome(*part) else { continue };
                    if outcome.unjudged || !outcome.faults.is_empty() {
                        return false;
                    }
                    if index > 0 {
                        raw.push(JOINT);
                    }
                    push_between_joints(outcome.text, raw);
                }
            }
        }
        true
    }

    /// Puts one cell, or what stands above it, with the mark of its group of rows.
    fn put_cell(
        &self,
        field: &FieldPlan<'_>,
        slot: Slot,
        row: &RowCells<'_>,
        shape: &Shape<'_>,
        raw: &mut String,
    ) {
        let number = row.row().0;
        let group = field.row_groups.iter().position(|(first, last)| (*first..=*last).contains(&number));
        raw.extend(group.and_then(group_mark));
        let cell = shape.cell(row, slot);
        match self.above.of(slot) {
            Above::Text(above) if field.filled_from.is_some() && is_blank(cell, field.blank) => {
                raw.push(FROM_ABOVE);
                raw.push_str(above);
            }
            Above::Unknown if field.filled_from.is_some() && is_blank(cell, field.blank) => {
                raw.push(ABOVE_UNKNOWN);
            }
            _ => raw.push_str(cell),
        }
    }

    /// What the value of a field is read from in a record that was not conformed: what a workbook says that
    /// it is, its text, and which of its columns speaks first. Nothing where nothing can be read.
    pub fn before_conversion(
        &self,
        place: FieldId,
        row: &RowCells<'_>,
        shape: &Shape<'_>,
    ) -> Option<(CellKind, String, usize)> {
        let field = self.plan.fields.get(place)?;
        let mut raw = String::new();
        self.put_raw(field, row, shape, &mut raw);
        let (kind, text) = field.before_conversion(&raw)?;
        let speaks = |slot: &Slot| !is_blank(shape.cell(row, *slot), field.blank);
        let speaker = match &field.input {
            Input::Several(slots, Several::FirstOf(_) | Several::Together(_)) => {
                slots.iter().position(speaks)
            }
            _ => None,
        };
        Some((kind, text, speaker.unwrap_or(0)))
    }

    /// A cell's raw value and its parent's code, again.
    pub fn raw<'r>(
        &'r self,
        place: FieldId,
        row: &RowCells<'r>,
        shape: &Shape<'_>,
    ) -> (Cow<'r, str>, &'r str) {
        let Some(field) = self.plan.fields.get(place) else { return (Cow::Borrowed(""), "") };
        let raw = match &field.input {
            Input::Column(slot) if field.is_plain() && field.rows.holds(shape.record_row) => {
                Cow::Borrowed(shape.cell(row, *slot))
            }
            _ => {
                let mut raw = String::new();
                self.put_raw(field, row, shape, &mut raw);
                Cow::Owned(raw)
            }
        };
        (raw, field.parent.and_then(|parent| self.outcome(parent)).map_or("", |told| told.text))
    }
}

/// Adds a cell to a raw value of several.
fn push_between_joints(cell: &str, raw: &mut String) {
    if memchr::memchr(JOINT as u8, cell.as_bytes()).is_some() {
        // Read as a joint it would move what follows; as a lost character it is rejected.
        raw.push_str(&cell.replace(JOINT, "\u{fffd}"));
    } else {
        raw.push_str(cell);
    }
}
