//! What is found in a record beside those that the target holds.

use super::Conformer;
use super::beside::{Beside, Difference};
use super::shape::Shape;
use dusk_evidence::{Fault, FieldId, Finding, RecordFact};
use dusk_held::{Found, HeldReader, HeldRecord, HeldRecords, Way};
use dusk_sources::RowCells;

impl Conformer<'_> {
    /// What may be set only once, and would be changed.
    pub(super) fn check_set_once(
        &self,
        records: &HeldRecords,
        held: &HeldRecord,
        beside: &Beside,
        at: (&RowCells<'_>, &Shape<'_>),
        findings: &mut Vec<Finding>,
    ) {
        for Difference { field, was, now } in &beside.differences {
            let is_set_once = self.plan.fields.get(*field).is_some_and(|plan| plan.field.set_once);
            if is_set_once && !was.is_empty() && !now.is_empty() && held.text(records, *field).is_some() {
                let fact = RecordFact::SetOnce { holds: was.clone() };
                findings.extend(self.about_field(*field, now, at, fact));
            }
        }
    }

    /// A record that is held already where only new ones are taken.
    pub(super) fn check_known(
        &self,
        reader: &mut HeldReader<'_>,
        number: u32,
        at: (&RowCells<'_>, &Shape<'_>),
        findings: &mut Vec<Finding>,
    ) -> dusk_evidence::Result<()> {
        let refuses = self.plan.target.holds.as_ref().is_some_and(|holds| holds.refuses_known);
        if let Some(way) = reader.records.ways.last().filter(|_| refuses) {
            let fact = RecordFact::HeldAlready { at: reader.records.at(&reader.read(number)?) };
            findings.extend(self.about_key(way, at, fact));
        }
        Ok(())
    }

    /// Values that another held record has, and that may not come twice.
    pub(super) fn check_unique(
        &self,
        reader: &mut HeldReader<'_>,
        own: Option<u32>,
        at: (&RowCells<'_>, &Shape<'_>),
        findings: &mut Vec<Finding>,
    ) -> dusk_evidence::Result<()> {
        for (id, field) in self.plan.fields.with_ids().filter(|(_, field)| field.field.unique) {
            let Some(text) = self.said(id).filter(|text| !text.is_empty()) else { continue };
            let other = match reader.records.with_unique(id, &field.field.kind, text) {
                Found::None => continue,
                Found::One(number) => number,
                Found::Several(first, others) if own == Some(first) => match others.first() {
                    Some(number) => *number,
                    None => continue,
                },
                Found::Several(first, _) => first,
            };
            if own != Some(other) {
                let fact = RecordFact::ValueTaken { at: reader.records.at(&reader.read(other)?) };
                findings.extend(self.about_field(id, text, at, fact));
            }
        }
        Ok(())
    }

    /// What the target holds, is to be sent as it is, and the upload file cannot hold.
    pub(super) fn cannot_send_back(&self, at: (&RowCells<'_>, &Shape<'_>)) -> Option<Finding> {
        self.beside.instead.iter().find_map(|(field, outcome, _)| {
            let why = outcome.faults.first()?.wrong();
            self.about_field(*field, &outcome.text, at, RecordFact::HeldUnwritable { why })
        })
    }

    /// That a record's identifier is that of another one than its other fields.
    pub(super) fn of_another(
        &self,
        reader: &mut HeldReader<'_>,
        other: u32,
        at: (&RowCells<'_>, &Shape<'_>),
    ) -> dusk_evidence::Result<Option<Finding>> {
        let records = reader.records;
        let Some(way) = records.ways.iter().find(|way| way.by.given_by_target) else { return Ok(None) };
        let held = reader.read(other)?;
        let has: Vec<&str> = way.by.fields.iter().filter_map(|id| held.text(records, *id)).collect();
        let fact = RecordFact::IdentifierOfAnother { at: records.at(&held), has: has.join(" + ") };
        Ok(self.about_key(way, at, fact))
    }

    /// That the target writes a key otherwise.
    pub(super) fn about_spelling(
        &self,
        reader: &mut HeldReader<'_>,
        way: &Way,
        number: u32,
        at: (&RowCells<'_>, &Shape<'_>),
    ) -> dusk_evidence::Result<Option<Finding>> {
        let is_key = |id: &FieldId| self.plan.fields.get(*id).is_some_and(|plan| plan.field.key);
        if !way.by.fields.iter().any(is_key) {
            return Ok(None);
        }
        let held = reader.read(number)?;
        let holds: Vec<&str> = way.by.fields.iter().filter_map(|id| held.text(reader.records, *id)).collect();
        Ok(self.about_key(way, at, RecordFact::KeyWritten { holds: holds.join(" + ") }))
    }

    /// A finding about the fields by which a record is found.
    pub(super) fn about_key(
        &self,
        way: &Way,
        at: (&RowCells<'_>, &Shape<'_>),
        fact: RecordFact,
    ) -> Option<Finding> {
        let values: Vec<&str> = way.by.fields.iter().filter_map(|id| self.said(*id)).collect();
        self.about_field(*way.by.fields.first()?, &values.join(" + "), at, fact)
    }

    pub(super) fn about_field(
        &self,
        field: FieldId,
        value: &str,
        (row, shape): (&RowCells<'_>, &Shape<'_>),
        fact: RecordFact,
    ) -> Option<Finding> {
        let name = &self.plan.fields.get(field)?.field.name;
        let at = (row.row(), row.line());
        Some(Finding::new(shape.source, at, name, value, Fault::new(fact)).at_field(field))
    }
}
