//! Which values of a field can be told at once, once its plan is made.

use super::field::FieldPlan;
use super::input::Input;
use crate::at_once::AtOnce;
use crate::date_at_once::DateAtOnce;
use dusk_description::{FieldRows, FieldType, NumberType, TextType};

impl FieldPlan<'_> {
    /// The plan, with what can be told of the field's values at once.
    pub(super) fn telling(mut self) -> Self {
        self.cells_are_values = cells_are_values(&self);
        self.at_once = at_once(&self);
        self
    }
}

/// Which values can be told at once: none where a decision of the mapping or a crosswalk may be about any value.
fn at_once(plan: &FieldPlan<'_>) -> AtOnce {
    let is_decided = plan.field.never_send
        || plan.rows == FieldRows::AnyGroup
        || plan.field.only_part
        || plan.parent.is_some()
        || !plan.values.decided.lines().is_empty()
        || plan.source.holds_several();
    match &plan.field.kind {
        _ if is_decided || !plan.cells_are_values => AtOnce::None,
        FieldType::Text(TextType { digits: Some(digits), pattern: None, .. }) => AtOnce::Digits(*digits),
        FieldType::Text(TextType { digits: None, max_length, pattern }) => {
            let pattern = pattern.as_ref().map(|(regex, _)| regex.clone());
            AtOnce::Texts(max_length.unwrap_or(usize::MAX), pattern)
        }
        FieldType::Number(NumberType { min, max, .. }) if takes_plain_numbers(plan) => {
            AtOnce::Numbers { decimals: decimals_at_once(plan), least: *min, most: *max }
        }
        FieldType::Date(kind) => DateAtOnce::of(kind, &plan.source).map_or(AtOnce::None, AtOnce::Dates),
        _ => AtOnce::None,
    }
}

/// Whether a plain number can mean that number only.
fn takes_plain_numbers(plan: &FieldPlan<'_>) -> bool {
    !plan.source.number.units_in_cells
        && plan.values.wanted.conversion.is_none()
        && !plan.source.unit_open
        && !plan.reads_percents
}

/// How many decimals a number may have that is told at once. Where nobody says that a point stands before them, it
/// could stand before a group of three digits, and before no other.
fn decimals_at_once(plan: &FieldPlan<'_>) -> u32 {
    let decimals = plan.values.wanted.decimals;
    match plan.source.number.decimal_mark {
        Some('.') => decimals,
        Some(_) => 0,
        None => decimals.min(2),
    }
}

/// Whether a cell in which nothing is to be cleaned is the value that is converted.
fn cells_are_values(plan: &FieldPlan<'_>) -> bool {
    matches!(plan.input, Input::Column(_))
        && plan.is_plain()
        && plan.part.is_none()
        && plan.blank.is_empty()
        && plan.line_mark.is_none()
        && !plan.values.text.straight_quotes
        && plan.values.text.form.is_none()
        && plan.source.date.form.is_none()
}
