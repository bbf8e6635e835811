//! The mapping on real rows: for each field a value before and after.

use crate::Ready;
use dusk_conforming::{Conformer, Fit, Shape, Told, shown_source};
use dusk_evidence::{FieldId, Id as _, Result, Row, Share, SourceId};
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
    /// The same day in a form that cannot be misread: 9 May 2026.
    pub day: Option<String>,
}

/// What the first rows show of a field.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct FieldShown {
    /// A value; nothing where none is accepted, or none is filled.
    pub example: Option<FieldExample>,
    /// In how many of the rows that hold a value it is accepted.
    pub accepted: Share,
    /// A value that is not accepted, and what is wrong with it.
    pub refused: Option<(String, String)>,
}

/// How well a value shows what is done: the more the earlier it is taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Shows {
    /// It stays as it is.
    Same,
    /// It is changed.
    Change,
    /// It is changed, and could be read otherwise: a day that could be the month.
    Danger,
}

impl Shows {
    fn of(outcome: &Told<'_>) -> Self {
        match outcome.value.day() {
            Some(day)
                if outcome.changed && day.day() <= 12 && i16::from(day.day()) != i16::from(day.month()) =>
            {
                Self::Danger
            }
            _ if outcome.changed => Self::Change,
            _ => Self::Same,
        }
    }
}

/// What the first rows show of each field of the target. The value is one that could be misread where there is one,
/// otherwise one that is changed, otherwise any that is not blank.
///
/// # Errors
/// Whatever stops reading.
pub fn examples(ready: &Ready<'_>) -> Result<Vec<FieldShown>> {
    let mut shown = vec![FieldShown::default(); ready.plan.fields.len()];
    let mut best: Vec<Option<Shows>> = vec![None; shown.len()];
    let Some(source) = ready.job.sources.first() else { return Ok(shown) };
    let columns = ready.plan.bind(source)?;
    let shape = Shape::of(source, SourceId::FIRST, &columns);
    let mut conformer = Conformer::new(&ready.plan, false)?;
    let mut walk = source.walk()?;
    let mut met = 0;
    'rows: while let Some(mut rows) = walk.more()? {
        while let Some(as_read) = rows.next() {
            met += 1;
            if met > ROWS {
                break 'rows;
            }
            let (mut room, mut found) = (Rejoined::default(), Vec::new());
            let (row, fit) = conformer.fit(as_read, &shape, &mut room, &mut found);
            for record in if fit == Fit::Whole { shape.records(&row, &ready.plan) } else { Vec::new() } {
                conformer.judge(&row, &record, &mut found);
                for (place, (shown, best)) in shown.iter_mut().zip(&mut best).enumerate() {
                    let place = FieldId::new(place);
                    let Some(outcome) = conformer.outcome(place).filter(|outcome| !outcome.unjudged) else {
                        continue;
                    };
                    let before = || shown_source(&conformer.raw(place, &row, &record).0);
                    shown.take(&outcome, row.row(), best, &before);
                }
            }
            conformer.pass(&as_read, &shape);
        }
    }
    Ok(shown)
}

impl FieldShown {
    fn take(&mut self, outcome: &Told<'_>, row: Row, best: &mut Option<Shows>, before: &dyn Fn() -> String) {
        if let Some(fault) = outcome.faults.first() {
            self.accepted.of += 1;
            if self.refused.is_none() {
                self.refused = Some((before(), fault.wrong()));
            }
            return;
        }
        if outcome.text.is_empty() {
            return;
        }
        self.accepted.of += 1;
        self.accepted.fit += 1;
        let shows = Shows::of(outcome);
        if best.is_none_or(|best| shows > best) {
            *best = Some(shows);
            let day = outcome.value.day().map(dusk_values::shown);
            self.example = Some(FieldExample { row, before: before(), after: outcome.text.to_owned(), day });
        }
    }
}
