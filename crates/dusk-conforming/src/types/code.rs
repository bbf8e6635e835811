//! One code.

use super::{Conforms, Given, Kept};
use crate::outcome::Outcome;
use dusk_description::CodeType;
use dusk_evidence::Fault;
use dusk_values::Value;

impl Conforms for CodeType {
    fn convert<'a>(
        &'a self,
        given: &Given<'a, '_>,
        out: &mut Outcome,
    ) -> Result<Option<Vec<&'a str>>, Fault> {
        let Given { plan, text, cell, readings, parent } = *given;
        let reading = plan.codes(&self.list, readings);
        match reading.conform(text, cell.kind, parent, &mut out.trail) {
            Ok(code) => {
                out.text.push_str(code);
                out.value = Value::Text;
            }
            Err(fault) => plan.unmatched(text, parent, fault, out)?,
        }
        Ok(None)
    }

    fn kept(&self) -> Kept {
        Kept::Values
    }
}
