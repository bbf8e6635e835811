//! A value that the target holds already.

use super::{Conforms, Given};
use crate::Basis;
use crate::outcome::Outcome;
use dusk_description::ReferenceType;
use dusk_evidence::{CodeFact, Fault};
use dusk_values::Value;

impl Conforms for ReferenceType {
    fn convert<'a>(
        &'a self,
        given: &Given<'a, '_>,
        out: &mut Outcome,
    ) -> Result<Option<Vec<&'a str>>, Fault> {
        let known = &self.known;
        let Some((value, had_zeros)) = known.find(given.text) else {
            let fact = CodeFact::UnknownReference {
                file: known.file.clone(),
                column: known.column.clone(),
                values: known.len(),
            };
            given.plan.unmatched(given.text, given.parent, Fault::new(fact), out)?;
            return Ok(None);
        };
        if value != given.text {
            out.trail.took(value, || Basis::Known {
                column: known.column.clone(),
                file: known.file.clone(),
                had_zeros,
            });
        }
        out.text.push_str(value);
        out.value = Value::Text;
        Ok(None)
    }
}
