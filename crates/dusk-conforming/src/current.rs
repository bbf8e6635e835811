//! What became of the fields of the record at hand, wherever that is kept: with the values that are remembered, or in
//! the record itself.

use super::record::Conformer;
use super::remembered::{NOT_REMEMBERED, State};
use super::{KeyHash, Outcome, Told, Trail};
use dusk_evidence::FieldId;
use dusk_values::Value;

impl Conformer<'_> {
    /// The value of a field in the current row and its text, as rules see it: blank where it is faulty.
    pub fn value(&self, place: FieldId) -> (Value, &str) {
        match self.outcome(place) {
            Some(told) if told.faults.is_empty() => (told.value, told.text),
            _ => (Value::Blank, ""),
        }
    }

    /// The value of a field in the current record without its text: blank where it is faulty.
    pub fn value_alone_of(&self, place: FieldId) -> Value {
        let is_own = self.beside.instead(place).is_none() && self.added(place).is_none();
        match (self.current.get(place), self.stood.get(place)) {
            (Some(current), Some(stood)) if is_own && current.stands() => stood.value,
            _ => self.value(place).0,
        }
    }

    /// What became of a field in the current row, and what the target keeps there instead.
    pub fn outcome(&self, place: FieldId) -> Option<Told<'_>> {
        match self.beside.instead(place) {
            Some(instead) => Some(Told::from(instead)),
            None => self.own_outcome(place),
        }
    }

    /// What became of a field in the current row, whatever the target holds.
    pub(super) fn own_outcome(&self, place: FieldId) -> Option<Told<'_>> {
        if let Some(added) = self.added(place) {
            return Some(Told::from(added));
        }
        let current = self.current.get(place)?;
        if !current.stands() {
            return self.memos.get(place)?.outcome(current.place).map(Told::from);
        }
        let stood = self.stood.get(place)?;
        // The last byte is the delimiter's.
        let text = self.record.get(stood.start..stood.end.checked_sub(1)?)?;
        Some(Told::as_it_stands(std::str::from_utf8(text).ok()?, stood.value))
    }

    /// The steps that were taken in a field of the current row; nothing where its value is as it stands.
    pub fn trail(&self, place: FieldId) -> Option<&Trail> {
        let current = self.current.get(place).filter(|current| !current.stands())?;
        Some(&self.memos.get(place)?.outcome(current.place)?.trail)
    }

    /// The same with its steps, where they are kept.
    pub fn outcome_in_full(&self, place: FieldId) -> Outcome {
        if let Some(instead) = self.beside.instead(place) {
            return instead.clone();
        }
        self.own_outcome_in_full(place)
    }

    /// The same, whatever the target holds.
    pub(super) fn own_outcome_in_full(&self, place: FieldId) -> Outcome {
        if let Some(added) = self.added(place) {
            return added.clone();
        }
        let current = self.current.get(place).filter(|current| !current.stands());
        let outcome = current.and_then(|current| self.memos.get(place)?.outcome(current.place));
        match (outcome, self.own_outcome(place)) {
            (Some(outcome), _) => outcome.clone(),
            (None, Some(told)) => {
                Outcome { text: told.text.to_owned(), value: told.value, ..Outcome::default() }
            }
            (None, None) => Outcome::default(),
        }
    }

    /// The piece of a field in the current record as it stands in the upload file.
    pub(super) fn append(&self, place: FieldId, out: &mut Vec<u8>) -> Option<()> {
        let current = *self.current.get(place)?;
        if current.stands() {
            let stood = self.stood.get(place)?;
            out.extend_from_slice(self.record.get(stood.start..stood.end)?);
        } else {
            self.memos.get(place)?.append(current, out);
        }
        Some(())
    }

    /// What became of each field of the current record, in order; nothing where that was not looked at.
    pub fn outcomes(&self) -> impl Iterator<Item = (FieldId, Option<Told<'_>>)> {
        self.plan.fields.ids().map(|field| (field, self.outcome(field)))
    }

    /// What identifies the current record; nothing when the target has no key or the row's is
    /// blank or faulty. It is made of the key as it stands in the upload file, where different
    /// values never look alike.
    pub fn key(&mut self) -> Option<KeyHash> {
        let mut key = std::mem::take(&mut self.scratch);
        key.clear();
        let is_whole = self.key_fields.iter().all(|place| {
            let current = self.current.get(*place);
            let unjudged = || self.outcome(*place).is_none_or(|told| told.unjudged);
            let is_there = current.is_some_and(|found| {
                found.state != State::FAULTY && !(found.place == NOT_REMEMBERED && unjudged())
            });
            is_there && self.append(*place, &mut key).is_some()
        });
        self.scratch = key;
        if !is_whole {
            return None;
        }
        (self.scratch != self.blank_key).then(|| KeyHash::of(&self.scratch))
    }

    /// The hash of what the current record says, as it stands in the upload file, but for what the mapping puts
    /// into every record.
    pub fn facts(&mut self) -> u32 {
        if self.plan.is_written_whole {
            return xxhash_rust::xxh3::xxh3_64(&self.record) as u32;
        }
        let mut own = std::mem::take(&mut self.scratch);
        own.clear();
        for (place, _) in self.plan.fields.with_ids().filter(|(_, field)| !field.input.is_the_same()) {
            self.append(place, &mut own);
        }
        self.scratch = own;
        // Half of the bits are enough to tell two versions of one record apart.
        xxhash_rust::xxh3::xxh3_64(&self.scratch) as u32
    }

    /// The current record's key as people read it.
    pub fn shown_key(&self) -> (String, String) {
        self.key_shown_as(|place| self.outcome(place).map_or("", |told| told.text))
    }

    /// Appends the current record's key as people read it.
    pub fn push_shown_key(&self, out: &mut String) {
        let start = out.len();
        for field in &self.key_fields {
            let text = self.outcome(*field).map_or("", |told| told.text);
            // Only in the first row of a record do parts of the key stay blank by right.
            let stays_blank = self.plan.groups.is_some() && text.is_empty();
            if out.len() > start && !stays_blank {
                out.push_str(" + ");
            }
            out.push_str(text);
        }
    }

    /// The same as the source has it, whatever the spelling of the target is.
    pub fn own_key(&self) -> (String, String) {
        self.key_shown_as(|place| self.own_outcome(place).map_or("", |told| told.text))
    }

    fn key_shown_as<'s>(&'s self, text: impl Fn(FieldId) -> &'s str) -> (String, String) {
        let keys = || self.plan.fields.with_ids().filter(|(_, field)| field.field.key);
        let names: Vec<&str> = keys().map(|(_, field)| field.field.name.as_str()).collect();
        let is_there = |text: &&str| self.plan.groups.is_none() || !text.is_empty();
        let values: Vec<&str> = keys().map(|(place, _)| text(place)).filter(is_there).collect();
        (names.join(" + "), values.join(" + "))
    }
}
