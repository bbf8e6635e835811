//! What is found in one record: faults of its fields, broken rules, values that may not change.

use super::Conformer;
use super::cell::shown_raw;
use super::shape::Shape;
use dusk_evidence::{Fault, FieldId, Finding, RecordFact, SourceId};
use dusk_sources::RowCells;

impl Conformer<'_> {
    pub(super) fn collect_faults(&self, row: &RowCells<'_>, shape: &Shape<'_>, findings: &mut Vec<Finding>) {
        for (place, field) in self.plan.fields.with_ids() {
            let Some(outcome) = self.own_outcome(place) else { continue };
            for fault in outcome.faults.iter().chain(outcome.remarks) {
                if self.beside.forgives(place, fault) {
                    continue;
                }
                findings.push(
                    Finding::new(
                        shape.source,
                        (row.row(), row.line()),
                        field.field.name.clone(),
                        shown_raw(&self.raw(place, row, shape).0),
                        fault.clone(),
                    )
                    .at_field(place),
                );
            }
        }
    }

    pub(super) fn check_rules(&self, row: &RowCells<'_>, source: SourceId, findings: &mut Vec<Finding>) {
        let value = |place: FieldId| self.value(place);
        for rule in &self.plan.row_rules {
            if rule.holds(self.plan.today, &value) != Some(false) {
                continue;
            }
            let shown = |place: FieldId| {
                Some(format!("{} {}", self.plan.fields.get(place)?.field.name, value(place).1))
            };
            let values: Vec<String> = rule.fields().into_iter().filter_map(shown).collect();
            let fact = RecordFact::RuleBroken {
                severity: rule.text.severity,
                says: rule.text.says.clone(),
                must: rule.text.must.clone(),
            };
            let at = (row.row(), row.line());
            let name = rule.text.name.clone();
            findings.push(Finding::new(source, at, name, values.join(", "), Fault::new(fact)));
        }
    }
}
