//! Numbers, whole and decimal.

use super::{Conforms, Days, Given};
use crate::outcome::Outcome;
use crate::value_plan::ValuePlan;
use crate::{digits, number};
use dusk_description::{Bare, NumberType, UploadEncoder};
use dusk_evidence::{Before, Fault, NumberFact, TextFact};
use dusk_mapping::NumberReading;
use dusk_sources::CellKind;
use dusk_values::Value;

/// How many zeros a number lacks behind its point; a blank lacks none.
fn missing_zeros(text: &str, decimals: u32) -> usize {
    let there = text.split_once('.').map_or(0, |(_, behind)| behind.len());
    if text.is_empty() { 0 } else { (decimals as usize).saturating_sub(there) }
}

impl Conforms for NumberType {
    fn convert<'a>(
        &'a self,
        given: &Given<'a, '_>,
        out: &mut Outcome,
    ) -> Result<Option<Vec<&'a str>>, Fault> {
        let Given { plan, text, cell, readings, .. } = *given;
        if matches!(cell.kind, CellKind::Date | CellKind::Duration) {
            return Err(Fault::new(TextFact::TurnedIntoDate(Before::Number)));
        }
        let text = if readings.fixed { text } else { digits::apostrophe(text, &mut out.trail) };
        // A typed number has no marks that could be misread.
        let typed =
            NumberReading { decimal_mark: Some('.'), thousands_mark: None, proven: false, ..readings.number };
        let reading = if cell.kind == CellKind::Number { &typed } else { &readings.number };
        // A constant and a default are in the target's own unit.
        let conversion = plan.wanted.conversion.filter(|_| readings.number.unit.is_some());
        let wanted = number::NumberWanted { conversion, ..plan.wanted };
        let (text, number) = number::conform(text, reading, &wanted, &mut out.trail)?;
        if readings.unit_open {
            return Err(Fault::new(NumberFact::UnitUndecided));
        }
        out.text = text;
        out.value = Value::Number(number);
        Ok(None)
    }

    fn check_limits(&self, _: Days, _: &str, value: Value, faults: &mut Vec<Fault>) {
        let Value::Number(number) = value else { return };
        let unit = self.unit;
        if let Some(least) = self.min.filter(|least| number < *least) {
            faults.push(Fault::new(NumberFact::BelowMinimum { number, least, unit }));
        }
        if let Some(most) = self.max.filter(|most| number > *most) {
            faults.push(Fault::new(NumberFact::AboveMaximum { number, most, unit }));
        }
    }

    fn bare(&self) -> Bare {
        Bare::Number
    }

    fn encode(
        &self,
        plan: &ValuePlan<'_>,
        _codes: Option<&[&str]>,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) -> Result<(), Fault> {
        let zeros = if self.all_decimals { missing_zeros(&out.text, self.decimals) } else { 0 };
        let mut text = std::borrow::Cow::Borrowed(out.text.as_str());
        if zeros > 0 {
            let text = text.to_mut();
            if !text.contains('.') {
                text.push('.');
            }
            (0..zeros).for_each(|_| text.push('0'));
        }
        encoder.column(plan.field.heading(), plan.bare, &text, plan.alone, &mut out.encoded)
    }
}
