//! Text, whole or so many digits.

use super::{Conforms, Days, Given, Kept};
use crate::outcome::Outcome;
use crate::{Basis, digits};
use dusk_description::TextType;
use dusk_evidence::{Before, Fault, Severity, TextFact};
use dusk_inspecting::{digits_lost, is_power_of_ten, power_of_ten, whole_power};
use dusk_sources::CellKind;
use dusk_values::Value;

impl Conforms for TextType {
    fn convert<'a>(
        &'a self,
        given: &Given<'a, '_>,
        out: &mut Outcome,
    ) -> Result<Option<Vec<&'a str>>, Fault> {
        let Given { plan, text, readings, .. } = *given;
        let kind = given.cell.kind;
        if kind == CellKind::Date && !plan.text.dates_as_iso {
            return Err(Fault::new(TextFact::TurnedIntoDate(Before::Text)));
        }
        if !readings.fixed
            && !plan.text.keep_rounded
            && let Some(lost) = digits_lost(kind, text)
        {
            if readings.digits_lost {
                return Err(Fault::new(TextFact::DigitsLost { digits: text.len(), kept: text.len() - 1 }));
            }
            if lost.kind().severity() == Severity::Reject {
                return Err(lost);
            }
            out.remarks.push(lost);
        }
        match self.digits {
            Some(digits) => digits::restore(text, digits, &mut out.trail, &mut out.text)?,
            None if !readings.fixed && text.contains("E+") && is_power_of_ten(text) => {
                let whole = whole_power(text).ok_or_else(|| power_of_ten(text))?;
                out.trail.took(&whole, || Basis::WholePower);
                out.text = whole;
            }
            None => out.text.push_str(text),
        }
        out.value = Value::Text;
        Ok(None)
    }

    fn check_limits(&self, _: Days, text: &str, _: Value, faults: &mut Vec<Fault>) {
        // Most texts are short enough by their bytes.
        if let Some(most) = self.max_length.filter(|most| text.len() > *most) {
            let length = text.chars().count();
            if length > most {
                faults.push(Fault::new(TextFact::TooLong { length, most }));
            }
        }
        if let Some((regex, written)) = &self.pattern
            && !regex.is_match(text)
        {
            faults.push(Fault::new(TextFact::WrongPattern { pattern: written.clone() }));
        }
    }

    fn kept(&self) -> Kept {
        if self.digits.is_some() || self.pattern.is_some() { Kept::Shapes } else { Kept::Nothing }
    }
}
