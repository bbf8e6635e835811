//! What a record is beside those that the target holds, and what is sent for that.
//!
//! A blank in the source leaves alone what the target holds: what is sent then is the held value, which every target
//! understands. Only what both sides say is compared.

use super::shape::Shape;
use super::{BesideBasis, Conformer, Outcome};
use dusk_description::Standing;
use dusk_evidence::{Fact, Fault, FieldId, Finding, RecordFact, TextFact};
use dusk_held::{
    Facts, Found, HeldReader, HeldRecord, HeldRecords, KeyHash, KeyRoom, means_the_same, unique_hash,
};
use dusk_sources::RowCells;
use dusk_values::Value;

/// What the current record is beside the held ones.
#[derive(Debug, Default)]
pub struct Beside {
    /// What it is; nothing where that cannot be told.
    pub standing: Option<Standing>,
    /// The held record that it is.
    pub number: Option<u32>,
    /// True where its key could not be read, so that it may be any held record.
    pub is_unplaced: bool,
    /// What it says otherwise than the held one, field by field.
    pub differences: Vec<Difference>,
    /// What is sent instead of what its own cells come to.
    pub(super) instead: Vec<(FieldId, Outcome, BesideBasis)>,
    /// Room for what is hashed of it.
    facts: Facts,
    room: KeyRoom,
    /// Required fields that it leaves blank, and that the held one fills.
    pub(super) filled: Vec<FieldId>,
}

/// A field in which a record says something else than the target holds.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Difference {
    /// The field.
    pub field: FieldId,
    /// What the target holds.
    pub was: String,
    /// What the record says.
    pub now: String,
}

impl Beside {
    /// Forgets the last record.
    pub(super) fn clear(&mut self) {
        (self.standing, self.number, self.is_unplaced) = (None, None, false);
        self.differences.clear();
        self.instead.clear();
        self.filled.clear();
    }

    /// What is sent instead of a field's own value.
    #[inline]
    pub(super) fn instead(&self, field: FieldId) -> Option<&Outcome> {
        if self.instead.is_empty() {
            return None;
        }
        self.instead.iter().find(|(id, ..)| *id == field).map(|(_, outcome, _)| outcome)
    }

    /// Whether anything is sent that the record's own cells do not come to.
    pub(super) fn writes_otherwise(&self) -> bool {
        !self.instead.is_empty()
    }

    /// Whether a fault of the record is none, since the held one has what is missing.
    pub(super) fn forgives(&self, field: FieldId, fault: &Fault) -> bool {
        is_blank_fault(fault) && self.filled.contains(&field)
    }
}

fn is_blank_fault(fault: &Fault) -> bool {
    *fault.fact == Fact::from(TextFact::RequiredBlank)
}

/// What a field of several codes holds that has none of them, unlike one that is blank.
const NONE_OF_THEM: &str = "|";

/// How a record was found among the held ones.
#[derive(Debug, Clone, Copy)]
pub(super) struct Matched {
    pub(super) number: u32,
    /// Its key is written as the target writes it.
    pub(super) is_written_so: bool,
}

/// What looking a record up came to.
enum LookedUp {
    New,
    Held(Matched),
    /// It cannot be told which it is.
    Open,
}

impl<'p> Conformer<'p> {
    /// What the current record is beside those that the target holds.
    pub fn beside(&self) -> &Beside {
        &self.beside
    }

    /// Says what the current record is beside the held ones, and what is to be said of it.
    pub(super) fn stand_beside(&mut self, at: (&RowCells<'_>, &Shape<'_>), findings: &mut Vec<Finding>) {
        let Some(mut reader) = self.held.take() else { return };
        let mut beside = std::mem::take(&mut self.beside);
        if self.compare(&mut reader, &mut beside, at, findings).is_err() {
            // What the program itself has written cannot be read back.
            self.lost = true;
        }
        (self.held, self.beside) = (Some(reader), beside);
    }

    fn compare(
        &mut self,
        reader: &mut HeldReader<'p>,
        beside: &mut Beside,
        at: (&RowCells<'_>, &Shape<'_>),
        findings: &mut Vec<Finding>,
    ) -> dusk_evidence::Result<()> {
        let records = reader.records;
        let found = self.look_up(reader, beside, at, findings)?;
        let sending = self.plan.target.holds.as_ref().map(|holds| holds.sending).unwrap_or_default();
        let matched = match found {
            LookedUp::Open => return Ok(()),
            LookedUp::New => {
                beside.standing = Some(Standing::New);
                if self.plan.tells_new {
                    self.tell_all(beside);
                }
                if sending.takes(Standing::New) {
                    self.tell_operation(beside, Standing::New);
                }
                return Ok(());
            }
            LookedUp::Held(matched) => matched,
        };
        beside.number = Some(matched.number);
        let mut held = None;
        if records.facts(matched.number) != self.facts_beside(records, &mut beside.facts) {
            let record = reader.read(matched.number)?;
            self.tell_differences(records, &record, beside);
            held = Some(record);
        }
        if self.faulty {
            let record = held.take().map_or_else(|| reader.read(matched.number), Ok)?;
            self.fill_required(records, &record, beside);
            held = Some(record);
        }
        let standing = if beside.differences.is_empty() { Standing::Same } else { Standing::Changed };
        beside.standing = Some(standing);
        if sending.takes(standing) {
            // Where both sides say the same everywhere, there is nothing else to keep.
            if held.is_some() || !matched.is_written_so || !records.are_compared_whole() {
                let record = held.take().map_or_else(|| reader.read(matched.number), Ok)?;
                self.keep_what_is_held(records, &record, matched, beside);
                held = Some(record);
            }
            self.tell_operation(beside, standing);
        }
        if let Some(record) = &held {
            self.check_set_once(records, record, beside, at, findings);
        }
        self.check_known(reader, matched.number, at, findings)?;
        self.check_unique(reader, Some(matched.number), at, findings)
    }

    /// The hash of a value that may not come twice; nothing where it is blank.
    pub fn unique_hash(&self, field: FieldId) -> Option<KeyHash> {
        let (plan, said) = (self.plan.fields.get(field)?, self.said(field)?);
        (!said.is_empty()).then(|| unique_hash(&plan.field.kind, said))
    }

    /// What the current record says in a field: nothing where nobody can say what it means.
    pub fn said(&self, field: FieldId) -> Option<&str> {
        let told = self.own_outcome(field)?;
        match told.faults {
            [] if told.unjudged => None,
            [] => Some(told.text),
            [only] if is_blank_fault(only) => Some(""),
            _ => None,
        }
    }

    /// Whether the current record says nothing in a field. That there is none of something is said.
    pub fn says_nothing(&self, field: FieldId) -> bool {
        self.own_outcome(field).is_none_or(|told| told.text.is_empty() && told.value == Value::Blank)
    }

    /// The hash of what the current record says in the fields that are compared; nothing where a part cannot be told.
    fn facts_beside(&self, records: &HeldRecords, facts: &mut Facts) -> Option<u64> {
        facts.clear();
        for id in &records.compared {
            facts.add(&self.plan.fields.get(*id)?.field.kind, self.said(*id)?);
        }
        Some(facts.hash())
    }

    /// Finds the current record among the held ones.
    fn look_up(
        &mut self,
        reader: &mut HeldReader<'p>,
        beside: &mut Beside,
        at: (&RowCells<'_>, &Shape<'_>),
        findings: &mut Vec<Finding>,
    ) -> dusk_evidence::Result<LookedUp> {
        let records = reader.records;
        let (mut by_identifier, mut is_open) = (None, false);
        for way in &records.ways {
            let key = way.by.key(self.plan.target, &mut beside.room, |field| self.said(field));
            let Some((key, written)) = key else {
                let is_told = way.by.fields.iter().all(|field| self.said(*field).is_some());
                // An identifier that is blank, or that nothing feeds, is no reason to look no further.
                beside.is_unplaced |= !is_told || !way.by.given_by_target;
                is_open |= !is_told;
                continue;
            };
            let found = match way.find(key) {
                Found::None if way.by.given_by_target => {
                    findings.extend(self.about_key(way, at, RecordFact::UnknownIdentifier));
                    return Ok(LookedUp::Open);
                }
                Found::None => continue,
                Found::One(number) => number,
                Found::Several(first, others) => {
                    let same = std::iter::once(first).chain(others.iter().copied());
                    let mut written_so = same.filter(|number| way.is_written_so(*number, written));
                    match (written_so.next(), written_so.next()) {
                        (Some(number), None) => number,
                        _ => {
                            let first = records.at(&reader.read(first)?);
                            let count = 1 + others.len() as u64;
                            findings.extend(self.about_key(way, at, RecordFact::HeldTwice { first, count }));
                            return Ok(LookedUp::Open);
                        }
                    }
                }
            };
            if by_identifier.is_some_and(|known: Matched| known.number != found) {
                findings.extend(self.of_another(reader, found, at)?);
                return Ok(LookedUp::Open);
            }
            let is_written_so = way.is_written_so(found, written);
            let matched = Matched { number: found, is_written_so };
            if way.by.given_by_target {
                by_identifier = Some(matched);
                continue;
            }
            if !is_written_so {
                findings.extend(self.about_spelling(reader, way, found, at)?);
            }
            return Ok(LookedUp::Held(matched));
        }
        Ok(match by_identifier {
            Some(matched) => LookedUp::Held(matched),
            None if is_open => LookedUp::Open,
            None => {
                self.check_unique(reader, None, at, findings)?;
                LookedUp::New
            }
        })
    }

    /// What the current record says otherwise. A blank says nothing, unless it is to clear.
    fn tell_differences(&self, records: &HeldRecords, held: &HeldRecord, beside: &mut Beside) {
        for id in &records.compared {
            let (Some(field), Some(now), Some(was)) =
                (self.plan.fields.get(*id), self.said(*id), held.text(records, *id))
            else {
                continue;
            };
            let leaves = self.says_nothing(*id) && !field.blank_clears;
            if !leaves && !means_the_same(&field.field.kind, was, now) {
                let was = if was == NONE_OF_THEM { "" } else { was };
                let (was, now) = (was.to_owned(), now.to_owned());
                beside.differences.push(Difference { field: *id, was, now });
            }
        }
    }

    /// What a new record says, field by field.
    fn tell_all(&self, beside: &mut Beside) {
        for (field, plan) in self.plan.fields.with_ids().filter(|(_, plan)| plan.field.is_sent()) {
            let now = self.said(field).filter(|now| !now.is_empty() && plan.field.operation.is_none());
            let told = now.map(|now| Difference { field, was: String::new(), now: now.to_owned() });
            beside.differences.extend(told);
        }
    }

    /// Appends a field of a held record as the target writes it: conformed, or as the list has it where the dictionary
    /// does not allow that.
    pub fn held_text(&self, field: FieldId, row: &RowCells<'_>, shape: &Shape<'_>, out: &mut String) {
        match self.said(field) {
            Some("") if !self.says_nothing(field) => out.push_str(NONE_OF_THEM),
            Some(text) => out.push_str(text),
            None => out.push_str(super::cell::shown_source(&self.raw(field, row, shape).0).trim()),
        }
    }
}
