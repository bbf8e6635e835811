//! The mapping on real rows: for each field a value before and after.

use crate::Ready;
use dusk_conforming::{Conformer, Fit, Shape, shown_source};
use dusk_evidence::{FieldId, Id as _, Result, Row, SourceId};
use dusk_sources::Rejoined;

/// How many rows are looked at for examples.
const ROWS: u64 = 5_000;

/// A value of a field, before and after.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FieldExample {
    /// The row.
    pub row: Row,
    /// What the source has; several cells with a plus between them.
    pub before: String,
    /// What the upload file gets.
    pub after: String,
}

/// For each field of the target a value from the first rows: one that is changed where there is one,
/// otherwise one that is not blank.
///
/// # Errors
/// Whatever stops reading.
pub fn examples(ready: &Ready<'_>) -> Result<Vec<Option<FieldExample>>> {
    let fields = ready.plan.fields.len();
    let mut changed: Vec<Option<FieldExample>> = vec![None; fields];
    let mut plain: Vec<Option<FieldExample>> = vec![None; fields];
    let Some(source) = ready.job.sources.first() else { return Ok(plain) };
    let columns = ready.plan.bind(source)?;
    let shape = Shape::of(source, SourceId::FIRST, &columns);
    let mut conformer = Conformer::new(&ready.plan, false)?;
    let mut walk = source.walk()?;
    let mut met = 0;
    'rows: while let Some(mut rows) = walk.more()? {
        while let Some(as_read) = rows.next() {
            met += 1;
            if met > ROWS || changed.iter().all(Option::is_some) {
                break 'rows;
            }
            let (mut room, mut found) = (Rejoined::default(), Vec::new());
            let (row, fit) = conformer.fit(as_read, &shape, &mut room, &mut found);
            for record in if fit == Fit::Whole { shape.records(&row, &ready.plan) } else { Vec::new() } {
                conformer.judge(&row, &record, &mut found);
                for (place, (changed, plain)) in changed.iter_mut().zip(&mut plain).enumerate() {
                    let place = FieldId::new(place);
                    let Some(outcome) = conformer.outcome(place).filter(|outcome| outcome.faults.is_empty())
                    else {
                        continue;
                    };
                    let wanted = if outcome.changed { &mut *changed } else { &mut *plain };
                    if wanted.is_none() && !outcome.unjudged && !outcome.text.is_empty() {
                        *wanted = Some(FieldExample {
                            row: row.row(),
                            before: shown_source(&conformer.raw(place, &row, &record).0),
                            after: outcome.text.to_owned(),
                        });
                    }
                }
            }
            conformer.pass(&as_read, &shape);
        }
    }
    Ok(changed.into_iter().zip(plain).map(|(changed, plain)| changed.or(plain)).collect())
}
