//! What was changed in a record: told apart by what makes each change what it is, and conformed again when somebody
//! wants to know how.

use super::remembered::{NOT_REMEMBERED, State};
use super::shape::Shape;
use super::{Basis, BesideBasis, Conformer, Outcome, Parent};
use dusk_evidence::FieldId;
use dusk_sources::RowCells;
use dusk_values::ShortText;

/// What makes a change what it is: conforming is a pure function of these.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ChangeKey {
    /// The field.
    pub field: FieldId,
    /// The raw value.
    pub raw: String,
    /// The code of the field's parent, where it has one; what is sent instead, where that is for what the target
    /// holds.
    pub inside: String,
    /// Why something else is sent than the value comes to.
    pub beside: Option<BesideBasis>,
}

/// The changes of a block's accepted records. Changes of remembered values have numbers; the
/// others are noted one by one.
#[derive(Debug, Default)]
pub struct Changes {
    /// Numbers of changes, record after record.
    pub numbers: Vec<u32>,
    /// The changes met for the first time, numbered on from the last.
    pub new: Vec<ChangeKey>,
    /// Changes without a number, record after record.
    pub singles: Vec<Single>,
}

/// A change without a number.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Single {
    /// Of a short value in a field without a parent.
    Short(FieldId, ShortText),
    /// Of any other value.
    Long(ChangeKey),
}

impl Conformer<'_> {
    /// Whether a field of the current row may have been changed, and where its outcome is remembered, if
    /// it is.
    pub fn change_at(&self, place: FieldId) -> Option<Option<usize>> {
        let found = self.current.get(place).filter(|found| found.state != State::UNCHANGED)?;
        Some(Some(found.place).filter(|place| *place != NOT_REMEMBERED))
    }

    /// Notes the current record's changes; gives back how many there are.
    pub fn note_changes(&mut self, row: &RowCells<'_>, shape: &Shape<'_>, changes: &mut Changes) -> u32 {
        changes.numbers.extend_from_slice(&self.noted);
        let mut count = u32::try_from(self.noted.len()).unwrap_or(u32::MAX);
        let unnumbered = std::mem::take(&mut self.unnumbered);
        for &place in &unnumbered {
            let Some(found) = self.current.get(place).copied() else { continue };
            let remarked =
                found.state == State::REMARKED && self.outcome(place).is_some_and(|told| told.changed);
            if found.state != State::CHANGED && !remarked {
                continue;
            }
            count += 1;
            let (raw, inside) = self.raw(place, row, shape);
            let short = ShortText::within(raw.as_bytes(), 0, raw.len()).filter(|_| inside.is_empty());
            let key =
                || ChangeKey { field: place, raw: raw.to_string(), inside: inside.to_owned(), beside: None };
            if found.place == NOT_REMEMBERED || remarked {
                changes
                    .singles
                    .push(short.map_or_else(|| Single::Long(key()), |raw| Single::Short(place, raw)));
                continue;
            }
            changes.new.push(key());
            changes.numbers.push(self.numbered);
            if let (Some(memo), Some(current)) = (self.memos.get_mut(place), self.current.get_mut(place)) {
                memo.number(found, self.numbered);
                current.state = State::numbered(self.numbered);
            }
            self.numbered += 1;
        }
        self.unnumbered = unnumbered;
        count + self.note_beside(row, shape, changes)
    }

    /// Conforms the value of a change again.
    pub fn again(&mut self, change: &ChangeKey) -> Outcome {
        let mut outcome = Outcome::new(true);
        if let Some(why) = change.beside {
            outcome.text.clone_from(&change.inside);
            outcome.trail.took(&change.inside, || Basis::Beside(why));
            return outcome;
        }
        if let Some(field) = self.plan.fields.get(change.field) {
            let parent = match (field.parent, change.inside.as_str()) {
                (None, _) => Parent::None,
                (Some(_), "") => Parent::Blank(field.parent_name),
                (Some(_), code) => Parent::Code(code),
            };
            field.conform(&change.raw, parent, &mut self.encoder, &mut outcome);
        }
        outcome
    }
}
