//! What each type of field makes of a value, what its limits are, and how it is written: one file for each.

mod boolean;
mod code;
mod codes;
mod date;
mod file;
mod number;
mod reference;
mod text;

pub(super) use codes::lay_out;

use jiff::civil::Date;

use crate::Parent;
use crate::outcome::{Cell, Outcome, Readings};
use crate::value_plan::ValuePlan;
use dusk_description::{Bare, Field, FieldType, UploadEncoder};
use dusk_evidence::Fault;
use dusk_values::Value;

/// A value that is to become the field's, cleaned, and all that goes with it.
#[derive(Clone, Copy)]
pub(super) struct Given<'a, 't> {
    /// What is settled about the field's values.
    pub(super) plan: &'a ValuePlan<'a>,
    /// What the value says; never empty.
    pub(super) text: &'t str,
    /// What its cell says that it is.
    pub(super) cell: Cell,
    /// How it is written.
    pub(super) readings: &'a Readings<'a>,
    /// What the field's parent holds.
    pub(super) parent: Parent<'t>,
}

/// What is kept of a field's values.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Kept {
    /// Nothing.
    Nothing,
    /// Each value.
    Values,
    /// The shapes of values.
    Shapes,
}

/// The first and the last day allowed, once the day of the run is known.
pub(super) type Days = (Option<Date>, Option<Date>);

/// What every type does with values; what most have in common is said here.
pub(super) trait Conforms {
    /// Converts a value into `out`. Several codes are given back one by one.
    fn convert<'a>(&'a self, given: &Given<'a, '_>, out: &mut Outcome)
    -> Result<Option<Vec<&'a str>>, Fault>;

    /// Checks a conformed value against the dictionary.
    fn check_limits(&self, _days: Days, _text: &str, _value: Value, _faults: &mut Vec<Fault>) {}

    /// What is kept of the values that were met, for next month.
    fn kept(&self) -> Kept {
        Kept::Nothing
    }

    /// How its values are written where the upload format knows more than texts.
    fn bare(&self) -> Bare {
        Bare::Never
    }

    /// Writes the field's columns, each with the delimiter that follows it.
    fn encode(
        &self,
        plan: &ValuePlan<'_>,
        _codes: Option<&[&str]>,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) -> Result<(), Fault> {
        encoder.column(plan.field.heading(), plan.bare, &out.text, plan.alone, &mut out.encoded)
    }
}

/// The type of a field, as what conforms its values.
pub(super) fn conforming(kind: &FieldType) -> &dyn Conforms {
    match kind {
        FieldType::Text(own) => own,
        FieldType::Number(own) => own,
        FieldType::Date(own) => own,
        FieldType::Boolean(own) => own,
        FieldType::Code(own) => own,
        FieldType::Codes(own) => own,
        FieldType::File(own) => own,
        FieldType::Reference(own) => own,
    }
}

/// Checks a conformed value against the dictionary; `days` are the first and the last day allowed.
pub fn check_limits(field: &Field, days: Days, text: &str, value: Value, faults: &mut Vec<Fault>) {
    conforming(&field.kind).check_limits(days, text, value, faults);
}
