//! What becomes of a value that nothing matches, and of a text that is no value.

use super::code;
use super::outcome::{Outcome, Readings};
use super::plan::FieldPlan;
use super::several::error_cell;
use dusk_description::{CodeList, Unmatched};
use dusk_evidence::{Fact, Fate, Fault, Kind, TextFact};
use dusk_sources::CellKind;
use dusk_values::Value;

impl FieldPlan<'_> {
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

/// Why a text is no value: an error of a spreadsheet program, or a character that was lost.
pub(super) fn no_value(text: &str, kind: CellKind) -> Option<Fault> {
    if kind.holds_error(text) {
        return Some(error_cell());
    }
    text.contains('\u{fffd}').then(|| Fault::new(TextFact::LostCharacter))
}
