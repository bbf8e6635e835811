//! What is settled about a field's values before the first is converted, and what becomes of a value that
//! nothing matches.

use jiff::civil::Date;

use super::code;
use super::number::NumberWanted;
use super::outcome::{Outcome, Readings};
use dusk_description::{Bare, CodeList, Field, Unmatched};
use dusk_evidence::{Fact, Fate, Fault, Kind};
use dusk_mapping::TextReading;
use dusk_values::Value;

/// What every value of a field has to become, wherever it comes from.
#[derive(Debug)]
pub(crate) struct ValuePlan<'p> {
    pub(crate) field: &'p Field,
    pub(crate) text: TextReading,
    pub(crate) wanted: NumberWanted,
    /// The first and the last day allowed.
    pub(crate) not_before: Option<Date>,
    pub(crate) not_after: Option<Date>,
    pub(crate) today: Date,
    /// The field is the upload file's only column.
    pub(crate) alone: bool,
    /// How its values stand in JSON.
    pub(crate) bare: Bare,
}

impl ValuePlan<'_> {
    /// What becomes of a value that nothing matches, as the description says: it is rejected, left
    /// blank or kept.
    pub(super) fn unmatched(&self, text: &str, fault: Fault, out: &mut Outcome) -> Result<(), Fault> {
        if !matches!(fault.kind(), Kind::NotACode | Kind::UnknownReference) {
            return Err(fault);
        }
        let fate = match self.field.unmatched {
            Unmatched::Reject => return Err(fault),
            Unmatched::Blank if self.field.required => return Err(fault),
            Unmatched::Blank => Fate::LeftBlank,
            Unmatched::Keep => Fate::Kept,
            Unmatched::Open => Fate::NewTerm,
        };
        if fate != Fate::LeftBlank {
            out.text.push_str(text);
            out.value = Value::Text;
        }
        out.remarks.push(Fault { fact: Box::new(Fact::Unmatched { fate, fact: fault.fact }), ..fault });
        Ok(())
    }

    /// How the codes of a field are read.
    pub(super) fn codes<'a>(&'a self, list: &'a CodeList, readings: &'a Readings<'_>) -> code::Reading<'a> {
        code::Reading { list, crosswalk: &readings.crosswalk, read_as: readings.read_as, today: self.today }
    }
}
