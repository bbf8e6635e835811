//! Days, days with a time, and times of day.

use super::{Conforms, Days, Given, Kept};
use crate::date;
use crate::date_part::{self, PartOfDate};
use crate::outcome::Outcome;
use dusk_description::DateType;
use dusk_evidence::{DateFact, Fault};
use dusk_sources::CellKind;
use dusk_values::Value;

/// A month or a year alone, where the field takes one.
fn part_of_date(own: &DateType, given: &Given<'_, '_>) -> Option<PartOfDate> {
    let takes_parts = own.month_format.is_some() || own.year_format.is_some();
    // A year typed as a number is a year.
    let is_written = matches!(given.cell.kind, CellKind::Text | CellKind::Number);
    Some(given.text).filter(|_| takes_parts && is_written).and_then(PartOfDate::read)
}

impl Conforms for DateType {
    fn convert<'a>(
        &'a self,
        given: &Given<'a, '_>,
        out: &mut Outcome,
    ) -> Result<Option<Vec<&'a str>>, Fault> {
        let Given { plan, text, cell, readings, .. } = *given;
        if let Some(part) = part_of_date(self, given) {
            let formats = (self.month_format.as_ref(), self.year_format.as_ref());
            let days = (plan.not_before, plan.not_after);
            date_part::conform(part, text, formats, days, &mut out.trail, &mut out.text)?;
            out.value = Value::Text;
            return Ok(None);
        }
        let reading = date::DateGiven {
            reading: &readings.date,
            proven: readings.date_proven,
            open: readings.date_open,
            cell,
            zone: self.zone.as_ref(),
            signs: Default::default(),
        };
        let formats = (&self.format, self.also_formats.as_slice());
        let value = date::conform(text, &reading, self.holds, formats, &mut out.trail, &mut out.text);
        if !readings.fixed {
            out.signs = reading.signs.get();
        }
        out.value = value?;
        Ok(None)
    }

    fn check_limits(&self, days: Days, _: &str, value: Value, faults: &mut Vec<Fault>) {
        let day = match value {
            Value::Date(day) => day,
            Value::DateTime(moment) => moment.date(),
            _ => return,
        };
        if let Some(first) = days.0.filter(|first| day < *first) {
            faults.push(Fault::new(DateFact::TooEarly { day: Some(day), first }));
        }
        if let Some(last) = days.1.filter(|last| day > *last) {
            faults.push(Fault::new(DateFact::TooLate { day: Some(day), last }));
        }
    }

    fn kept(&self) -> Kept {
        Kept::Shapes
    }
}
