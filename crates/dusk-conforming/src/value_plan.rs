//! What is settled about a field's values before the first is converted, and what becomes of a value that
//! nothing matches.

use std::sync::Arc;

use jiff::civil::Date;

use super::code;
use super::number::NumberWanted;
use super::outcome::{Outcome, Readings};
use super::translations::Translations;
use super::{Parent, code::decided};
use dusk_description::{Bare, CodeList, Field, Unmatched};
use dusk_evidence::{CodeFact, Fact, Fate, Fault, Kind};
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
    /// What was decided about its values, new terms among them.
    pub(crate) decided: Arc<Translations<'p>>,
}

impl ValuePlan<'_> {
    /// What becomes of a value that nothing matches, as the description says: it is rejected, left
    /// blank or kept; a new term of an open list goes in once somebody has allowed it.
    pub(super) fn unmatched(
        &self,
        text: &str,
        parent: Parent<'_>,
        fault: Fault,
        out: &mut Outcome,
    ) -> Result<(), Fault> {
        if !matches!(fault.kind(), Kind::NotACode | Kind::UnknownReference) {
            return Err(fault);
        }
        let fate = match self.field.unmatched {
            Unmatched::Reject => return Err(fault),
            Unmatched::Blank if self.field.required => return Err(fault),
            Unmatched::Blank => Fate::LeftBlank,
            Unmatched::Keep => Fate::Kept,
            Unmatched::Open => return self.new_term(text, parent, fault, out),
        };
        if fate != Fate::LeftBlank {
            out.text.push_str(text);
            out.value = Value::Text;
        }
        out.remarks.push(Fault { fact: Box::new(Fact::Unmatched { fate, fact: fault.fact }), ..fault });
        Ok(())
    }

    /// Takes a new term of an open list, if somebody has allowed it.
    fn new_term(&self, text: &str, parent: Parent<'_>, fault: Fault, out: &mut Outcome) -> Result<(), Fault> {
        let Some(line) = self.decided.term(text, parent.code()) else {
            let fact = Fact::Unmatched { fate: Fate::NewTerm, fact: fault.fact };
            return Err(Fault { fact: Box::new(fact), ..fault });
        };
        if line.value != text {
            out.trail.took(&line.value, || decided(line));
        }
        out.text.push_str(&line.value);
        out.value = Value::Text;
        let [term, by, on] = [&line.value, &line.by, &line.on].map(String::clone);
        out.remarks.push(Fault::new(CodeFact::TermAllowed { term, by, on }));
        Ok(())
    }

    /// How the codes of a field are read.
    pub(super) fn codes<'a>(&'a self, list: &'a CodeList, readings: &'a Readings<'_>) -> code::Reading<'a> {
        code::Reading { list, crosswalk: &readings.crosswalk, read_as: readings.read_as, today: self.today }
    }
}
