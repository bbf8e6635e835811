//! True or false.

use super::{Conforms, Given, Kept};
use crate::outcome::Outcome;
use crate::{Basis, boolean, code};
use dusk_description::{Bare, BooleanType, fold};
use dusk_evidence::Fault;
use dusk_sources::CellKind;
use dusk_values::Value;

/// True where one value is among several.
fn is_among(own: &BooleanType, wanted: &str, given: &Given<'_, '_>, out: &mut Outcome) {
    let folded = fold(wanted);
    let value = given.readings.values(given.text).into_iter().any(|value| fold(value) == folded);
    let word = if value { &own.yes } else { &own.no };
    out.trail.took(word, || Basis::Among { wanted: wanted.to_owned(), is_there: value });
    out.text.push_str(word);
    out.value = Value::Boolean(value);
}

impl Conforms for BooleanType {
    fn convert<'a>(
        &'a self,
        given: &Given<'a, '_>,
        out: &mut Outcome,
    ) -> Result<Option<Vec<&'a str>>, Fault> {
        let readings = given.readings;
        if let Some(wanted) = readings.true_where {
            is_among(self, wanted, given, out);
            return Ok(None);
        }
        let by_crosswalk = readings.crosswalk.find(given.text, None);
        let text = by_crosswalk.map_or(given.text, |line| line.code.as_str());
        if let Some(line) = by_crosswalk.filter(|line| line.code != given.text) {
            out.trail.took(&line.code, || code::decided(line));
        }
        let wanted = (self.yes.as_str(), self.no.as_str());
        // A crosswalk, a constant and a default speak in the target's words and no others.
        let only = match &readings.words {
            _ if readings.fixed || by_crosswalk.is_some() => Some(wanted),
            // A typed value needs no words to be understood.
            _ if given.cell.kind == CellKind::Boolean => Some(("TRUE", "FALSE")),
            words => words.as_ref().map(|(yes, no)| (yes.as_str(), no.as_str())),
        };
        let (word, value) = boolean::conform(text, only, wanted, &mut out.trail)?;
        out.text.push_str(word);
        out.value = Value::Boolean(value);
        Ok(None)
    }

    fn kept(&self) -> Kept {
        Kept::Values
    }

    fn bare(&self) -> Bare {
        if self.yes == "true" && self.no == "false" { Bare::Boolean } else { Bare::Never }
    }
}
