//! How many rows each field accepts: what a mapping that is being made would do.

use hashbrown::HashMap;

use crate::Ready;
use dusk_evidence::{FieldId, Finding, Result, Row, Severity, Share};
use dusk_sources::Progress;

/// What a run does to each field.
#[derive(Debug, Clone, Default)]
pub struct Accepting {
    rows: u64,
    fields: HashMap<FieldId, Refused>,
}

/// What a field refuses.
#[derive(Debug, Clone)]
struct Refused {
    rows: u64,
    last: Row,
    first: String,
}

impl Accepting {
    /// Runs a mapping over its sources and counts; nothing is written.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub fn of(ready: &Ready<'_>, progress: &Progress<'_>) -> Result<Self> {
        let mut counted = Self::default();
        let summary = ready.run(&mut counted, progress)?;
        counted.rows = summary.totals.accepted + summary.totals.rejected;
        Ok(counted)
    }

    /// In how many of the rows that hold records a field's value is accepted.
    pub fn share(&self, field: FieldId) -> Share {
        let refused = self.fields.get(&field).map_or(0, |refused| refused.rows);
        Share { fit: self.rows.saturating_sub(refused), of: self.rows }
    }

    /// The first value of a field that is not accepted.
    pub fn first_refused(&self, field: FieldId) -> Option<&str> {
        self.fields.get(&field).map(|refused| refused.first.as_str())
    }
}

impl crate::Sink for Accepting {
    fn finding(&mut self, finding: &Finding) -> Result<()> {
        let Some(field) = finding.field.filter(|_| finding.fault.kind().severity() == Severity::Reject)
        else {
            return Ok(());
        };
        let refused = self.fields.entry(field).or_insert_with(|| Refused {
            rows: 0,
            last: Row(0),
            first: finding.value.clone(),
        });
        // One row may have several findings about a field.
        if refused.last != finding.row {
            refused.rows += 1;
            refused.last = finding.row;
        }
        Ok(())
    }
}
