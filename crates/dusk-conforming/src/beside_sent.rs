//! What is sent for what the target holds: held values where a record says nothing, its identifier, the word for what is
//! to be done.

use super::beside::{Beside, Matched};
use super::changed::{ChangeKey, Changes, Single};
use super::plan::FieldPlan;
use super::shape::Shape;
use super::types::lay_out;
use super::{Basis, BesideBasis, Conformer, Outcome, Parent};
use dusk_description::{CodesType, FieldType, Standing, UploadEncoder};
use dusk_evidence::{Fault, FieldId};
use dusk_held::{HeldRecord, HeldRecords};
use dusk_sources::RowCells;
use dusk_values::Value;

impl Conformer<'_> {
    /// Notes the required fields that the current record leaves blank, and that the held one fills.
    pub(super) fn fill_required(&self, records: &HeldRecords, held: &HeldRecord, beside: &mut Beside) {
        for (id, field) in self.plan.fields.with_ids().filter(|(_, field)| field.field.required) {
            let is_held = held.text(records, id).is_some_and(|was| !was.is_empty());
            if is_held && self.says_nothing(id) && !field.blank_clears {
                beside.filled.push(id);
            }
        }
    }

    /// Puts what the target holds where the current record says nothing, or may say nothing.
    pub(super) fn keep_what_is_held(
        &mut self,
        records: &HeldRecords,
        held: &HeldRecord,
        matched: Matched,
        beside: &mut Beside,
    ) {
        let plan = self.plan;
        for (id, field) in plan.fields.with_ids() {
            let Some(was) = held.text(records, id).filter(|_| field.field.is_sent()) else { continue };
            let Some(now) = self.said(id) else { continue };
            let (is_other, is_blank) = (now != was, self.says_nothing(id));
            let why = if field.field.given_by_target {
                BesideBasis::Identifier
            } else if field.field.key && !matched.is_written_so {
                BesideBasis::Key
            } else if field.field.only_when_new {
                BesideBasis::OnlyWhenNew
            } else if is_blank && field.blank_clears {
                BesideBasis::Clears
            } else if is_blank {
                BesideBasis::BlankLeaves
            } else {
                continue;
            };
            // What it does not hold stays blank in a field for new records only.
            let is_kept_blank = was.is_empty() && why != BesideBasis::OnlyWhenNew;
            if !is_other || is_kept_blank {
                continue;
            }
            let upload = &plan.target.upload;
            let text = match why {
                // Blank in the file already says so.
                BesideBasis::BlankLeaves if upload.blank_leaves => continue,
                BesideBasis::Clears => match &upload.clearing {
                    Some(word) => word.as_str(),
                    None => continue,
                },
                _ => was,
            };
            let own = self.own_outcome_in_full(id);
            let outcome = field.as_held(text, own, why, &mut self.encoder);
            beside.instead.push((id, outcome, why));
        }
    }

    /// Puts the target's word for what is to be done into the field that says it.
    pub(super) fn tell_operation(&mut self, beside: &mut Beside, standing: Standing) {
        let plan = self.plan;
        for (id, field) in plan.fields.with_ids() {
            let Some(words) = &field.field.operation else { continue };
            let (why, word) = (BesideBasis::Operation, words.of(standing));
            let outcome = field.as_held(word, Outcome::new(true), why, &mut self.encoder);
            beside.instead.push((id, outcome, why));
        }
    }

    /// Appends the current record as it stands in the upload file, with what is sent instead.
    pub(super) fn write_beside(&mut self, out: &mut Vec<u8>) {
        let mut columns = std::mem::take(&mut self.scratch);
        columns.clear();
        let mut lost = false;
        for (id, field) in self.plan.fields.with_ids() {
            match self.beside.instead(id).or_else(|| self.added(id)) {
                // A sent field has its delimiter at least: without it the columns after it would move.
                Some(outcome) => {
                    lost |= field.field.is_sent() && outcome.encoded.is_empty();
                    columns.extend_from_slice(&outcome.encoded);
                }
                None => lost |= self.append(id, &mut columns).is_none(),
            }
        }
        self.lost |= lost;
        self.encoder.record(&columns, out);
        self.scratch = columns;
    }

    /// Appends a held record as it stands in the upload file, to be removed; every field that the lists do not have
    /// is blank.
    ///
    /// # Errors
    /// The field whose held value the upload file cannot hold, and why.
    pub fn write_removal(
        &mut self,
        records: &HeldRecords,
        held: &HeldRecord,
        out: &mut Vec<u8>,
    ) -> Result<(), (FieldId, Fault)> {
        let plan = self.plan;
        let mut columns = Vec::new();
        for (id, field) in plan.fields.with_ids() {
            let word = field.field.operation.as_ref().and_then(|words| words.gone.as_deref());
            let text = word.or_else(|| held.text(records, id)).unwrap_or_default();
            let outcome = field.as_held(text, Outcome::default(), BesideBasis::Operation, &mut self.encoder);
            if let Some(fault) = outcome.faults.into_iter().next() {
                return Err((id, fault));
            }
            columns.extend_from_slice(&outcome.encoded);
        }
        self.encoder.record(&columns, out);
        Ok(())
    }

    /// Notes what is sent instead among the changes; gives back how many there are.
    pub(super) fn note_beside(&self, row: &RowCells<'_>, shape: &Shape<'_>, changes: &mut Changes) -> u32 {
        let mut count = 0;
        let added = self.added.iter().map(|(field, outcome)| (field, outcome, &BesideBasis::Combined));
        let instead = self.beside.instead.iter().map(|(field, outcome, why)| (field, outcome, why));
        for (field, outcome, why) in added.chain(instead) {
            let raw = self.raw(*field, row, shape).0.into_owned();
            let key = ChangeKey { field: *field, raw, inside: outcome.text.clone(), beside: Some(*why) };
            changes.singles.push(Single::Long(key));
            count += 1;
        }
        count
    }
}

impl FieldPlan<'_> {
    /// What is sent for what the target holds, written as the target writes it.
    pub(super) fn as_held(
        &self,
        text: &str,
        own: Outcome,
        why: BesideBasis,
        encoder: &mut UploadEncoder<'_>,
    ) -> Outcome {
        let mut outcome = Outcome::default();
        match &self.field.kind {
            FieldType::Codes(CodesType { layout, .. }) if !text.is_empty() => {
                let codes = layout.codes_of(text);
                outcome.value = Value::Text;
                let laid_out = lay_out(&codes, layout, &mut outcome);
                let _ = laid_out.and_then(|()| self.encode(Some(&codes), encoder, &mut outcome));
            }
            _ => self.conform_fixed(text, Parent::None, encoder, &mut outcome),
        }
        if !outcome.faults.is_empty() || outcome.encoded.is_empty() {
            // What the dictionary does not allow any more, or is allowed inside a parent, is in the target as it is.
            outcome = Outcome { text: text.to_owned(), value: Value::Text, ..Outcome::default() };
            outcome.encoded.clear();
            // Codes that still have a column of their own keep it; the others have none to stand in.
            let codes = match &self.field.kind {
                FieldType::Codes(CodesType { layout, .. }) if !text.is_empty() => Some(layout.codes_of(text)),
                _ => None,
            };
            if let Err(fault) = self.encode(codes.as_deref(), encoder, &mut outcome) {
                outcome.encoded.clear();
                outcome.faults.push(fault);
            }
        }
        outcome.trail = own.trail.kept();
        outcome.trail.took(text, || Basis::Beside(why));
        outcome
    }
}
