//! Rows of one key that become one record: which of them it is, and what the others add to it.

use hashbrown::HashMap;

use super::{BesideBasis, Conformer, Outcome, Shape};
use dusk_evidence::{EarlierRecord, Fault, FieldId, Finding, RecordFact, Row, SourceId};
use dusk_sources::RowCells;

/// What became of rows that share a key, before the run.
#[derive(Debug, Default)]
pub struct Combined {
    /// By the source and the row.
    pub rows: HashMap<(SourceId, Row), CombinedRow>,
}

/// What became of one of several rows with the same key.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum CombinedRow {
    /// It is the record, with these values where it has none, or less.
    Kept(Vec<(FieldId, String)>),
    /// It went into the record of another row.
    Into(EarlierRecord),
    /// Another row says something else in this field.
    Contradicted {
        /// The field.
        field: FieldId,
        /// What the other row says.
        other: String,
        /// Where that one is.
        at: EarlierRecord,
    },
}

impl Conformer<'_> {
    /// Takes into the current record what other rows of its key add to it.
    pub(super) fn combine(&mut self, at: (SourceId, Row)) -> Option<&CombinedRow> {
        self.added.clear();
        let fate = self.plan.combined.as_deref()?.rows.get(&at)?;
        if let CombinedRow::Kept(values) = fate {
            let plan = self.plan;
            for (id, text) in values {
                let Some(field) = plan.fields.get(*id) else { continue };
                let own = self.own_outcome_in_full(*id);
                let outcome = field.as_held(text, own, BesideBasis::Combined, &mut self.encoder);
                self.added.push((*id, outcome));
            }
        }
        Some(fate)
    }

    /// What other rows have added to a field of the current record.
    #[inline]
    pub(super) fn added(&self, field: FieldId) -> Option<&Outcome> {
        if self.added.is_empty() {
            return None;
        }
        self.added.iter().find(|(id, _)| *id == field).map(|(_, outcome)| outcome)
    }

    /// What other rows add, and the upload file cannot hold.
    pub(super) fn cannot_add(&self, (row, shape): (&RowCells<'_>, &Shape<'_>)) -> Option<Finding> {
        self.added.iter().find_map(|(field, outcome)| {
            let (fault, name) = (outcome.faults.first()?, &self.plan.fields.get(*field)?.field.name);
            let at = (row.row(), row.line());
            Some(Finding::new(shape.source, at, name, &outcome.text, fault.clone()).at_field(*field))
        })
    }

    /// What is to be said of a row that shares its key with others.
    pub(super) fn about_combined(
        &self,
        (row, shape): (&RowCells<'_>, &Shape<'_>),
        fate: &CombinedRow,
    ) -> Option<Finding> {
        let at = (row.row(), row.line());
        let (names, key) = self.shown_key();
        match fate {
            CombinedRow::Kept(_) => None,
            CombinedRow::Into(other) => {
                let fault = Fault::new(RecordFact::MergedInto { other: other.clone() });
                Some(Finding::new(shape.source, at, names, key, fault))
            }
            CombinedRow::Contradicted { field, other, at: place } => {
                let name = &self.plan.fields.get(*field)?.field.name;
                let value = self.own_outcome(*field).map_or("", |told| told.text);
                let fact = RecordFact::Contradicted { other: other.clone(), earlier: place.clone() };
                Some(Finding::new(shape.source, at, name, value, Fault::new(fact)).at_field(*field))
            }
        }
    }
}
