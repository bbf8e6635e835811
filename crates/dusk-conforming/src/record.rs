//! The cells of one row become one record: fields in the order in which they need one another,
//! then the rules between them.

use std::borrow::Cow;

use super::Outcome;
use super::above::{Above, AboveCells};
use super::cell::shown_raw;
use super::clean::is_blank;
use super::memo::{FieldMemo, MemoKey, NOT_REMEMBERED, Remembered, State};
use super::met::Met;
use super::plan::{FieldPlan, Input, Plan};
use super::several::JOINT;
use super::shape::Shape;
use crate::KeyHash;
use dusk_description::{RecordShare, UploadEncoder};
use dusk_evidence::{ById, Fault, FieldId, Finding, Kind, RecordFact, Severity, Slot, SourceId};
use dusk_inspecting::DateSigns;
use dusk_sources::{ABOVE_UNKNOWN, FROM_ABOVE, RowCells, group_mark};
use dusk_values::{ShortText, Value};

/// What a code's parent field holds in the same row.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Parent<'r> {
    /// The field has no parent.
    None,
    /// The parent's code.
    Code(&'r str),
    /// The parent is blank; its name.
    Blank(&'r str),
}

/// What becomes of a row, before rows are compared with one another.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Judged {
    /// It holds no record, or somebody decided to keep its record out.
    LeftOut,
    /// At least one finding keeps it out.
    Rejected,
    /// It fits.
    Accepted,
}

/// Conforms row after row, remembering values. One for each thread.
#[derive(Debug)]
pub struct Conformer<'p> {
    pub(super) plan: &'p Plan<'p>,
    pub(super) encoder: UploadEncoder<'p>,
    pub(super) memos: ById<FieldId, FieldMemo>,
    /// For each field, where the current row's outcome is.
    pub(super) current: ById<FieldId, Remembered>,
    key_fields: Vec<FieldId>,
    /// What a key looks like in the upload file when all of it is blank.
    blank_key: Vec<u8>,
    /// The current record as it stands in the upload file, each value with a delimiter after it.
    record: Vec<u8>,
    /// The numbers of its changes that have one.
    pub(super) noted: Vec<u32>,
    /// Whether any value has faults, and whether any change has no number yet.
    pub(super) faulty: bool,
    pub(super) remarked: bool,
    pub(super) unnumbered: bool,
    /// What the dates of each field say about how its column was treated.
    signs: ById<FieldId, DateSigns>,
    joined: String,
    /// What stands above the current row in the columns that are filled down.
    pub(super) above: AboveCells<'p>,
    /// What was met in the columns of fields.
    met: Met,
    scratch: Vec<u8>,
    pub(super) numbered: u32,
    /// How many rows were conformed.
    rows: u64,
    /// True once something that the plan made could not be found.
    lost: bool,
    /// Tries ways of putting a split row together, so that they leave no traces here.
    pub(super) tries: Option<Box<Self>>,
}

impl<'p> Conformer<'p> {
    /// A conformer for this plan, whose outcomes keep their steps if `keeps_steps` says so.
    ///
    /// # Errors
    /// [`Error::Invariant`](dusk_evidence::Error::Invariant) when the layout was not checked before.
    pub fn new(plan: &'p Plan<'p>, keeps_steps: bool) -> dusk_evidence::Result<Self> {
        let keys = plan.fields.with_ids().filter(|(_, field)| field.field.key);
        let key_fields: Vec<FieldId> = keys.map(|(id, _)| id).collect();
        let mut encoder = UploadEncoder::new(&plan.target.upload).map_err(dusk_evidence::Error::Invariant)?;
        let mut blank_key = Vec::new();
        for field in key_fields.iter().filter_map(|place| plan.fields.get(*place)) {
            // Where a blank cannot be written, no record has a blank key either.
            blank_key.extend(field.blank(&mut encoder));
        }
        Ok(Self {
            plan,
            encoder,
            memos: plan.fields.iter().map(|_| FieldMemo::new(keeps_steps)).collect(),
            current: ById::like(&plan.fields, Remembered::NOTHING),
            key_fields,
            blank_key,
            record: Vec::new(),
            noted: Vec::new(),
            faulty: false,
            remarked: false,
            unnumbered: false,
            signs: ById::like(&plan.fields, DateSigns::default()),
            joined: String::new(),
            above: AboveCells::new(plan),
            met: Met::new(&plan.fields),
            scratch: Vec::new(),
            numbered: 0,
            rows: 0,
            lost: false,
            tries: None,
        })
    }

    /// Conforms one record of a row that fits, of the repeat that `shape` is at; what is found in it
    /// goes to `findings`.
    pub fn judge(&mut self, row: &RowCells<'_>, shape: &Shape<'_>, findings: &mut Vec<Finding>) -> Judged {
        let before = findings.len();
        self.conform_row(row, shape);
        if self.faulty || self.remarked {
            self.collect_faults(row, shape, findings);
        }
        self.check_rules(row, shape.source, findings);
        if !self.plan.held.is_empty() {
            self.check_held(row, shape, findings);
        }
        if !shape.label.is_empty() {
            for finding in findings.get_mut(before..).unwrap_or_default() {
                finding.repeat = shape.label.to_owned();
            }
        }
        let rejects = |finding: &Finding| finding.fault.kind().severity() == Severity::Reject;
        let found = findings.get(before..).unwrap_or_default();
        if found.iter().any(|finding| finding.fault.kind() == Kind::KeptOut) {
            return Judged::LeftOut;
        }
        if found.iter().any(rejects) { Judged::Rejected } else { Judged::Accepted }
    }

    /// What the target holds already and may not be changed.
    fn check_held(&mut self, row: &RowCells<'_>, shape: &Shape<'_>, findings: &mut Vec<Finding>) {
        let plan = self.plan;
        let Some(held) = self.key().and_then(|key| plan.held.get(&key)) else { return };
        for (place, holds) in held {
            let Some(outcome) = self.outcome(*place) else { continue };
            if !outcome.faults.is_empty() || outcome.text.is_empty() || outcome.text == *holds {
                continue;
            }
            let fault = Fault::new(RecordFact::SetOnce { holds: holds.clone() });
            let name = plan.fields.get(*place).map_or("", |field| field.field.name.as_str());
            let at = (row.row(), row.line());
            findings.push(Finding::new(shape.source, at, name, outcome.text.clone(), fault).at_field(*place));
        }
    }

    /// True where something that the plan made could not be found, by a mistake of the program's own. What
    /// was judged is not to be used then.
    pub fn has_lost_something(&self) -> bool {
        self.lost
    }

    /// What was met in the columns of fields since this was asked the last time.
    pub fn take_met(&mut self) -> Vec<(u64, Vec<String>)> {
        self.met.take()
    }

    /// Begins below these cells.
    pub fn start_below(&mut self, above: &[Above]) {
        self.above.start(above);
    }

    /// Goes on below a row, which was judged or not.
    pub fn pass(&mut self, row: &RowCells<'_>, shape: &Shape<'_>) {
        self.above.pass(row, shape);
    }

    pub(super) fn conform_row(&mut self, row: &RowCells<'_>, shape: &Shape<'_>) {
        let plan = self.plan;
        self.rows += 1;
        self.record.clear();
        self.noted.clear();
        (self.faulty, self.remarked, self.unnumbered) = (false, false, false);
        for &field in &plan.order {
            if self.conform_field(field, row, shape).is_none() {
                self.lost = true;
            }
        }
    }

    /// Conforms one field of the current row. Nothing where something that this plan made cannot be found,
    /// which only a mistake of the program's own can do.
    fn conform_field(&mut self, id: FieldId, row: &RowCells<'_>, shape: &Shape<'_>) -> Option<()> {
        let plan = self.plan;
        let field = plan.fields.get(id)?;
        let current = *self.current.get(id)?;
        if field.input.is_the_same() && field.parent.is_none() && current.place != NOT_REMEMBERED {
            // It was found in the first row.
            self.take(id, current);
            return Some(());
        }
        let plain = match &field.input {
            Input::Column(slot) if field.is_plain() => Some(shape.column(*slot)?),
            _ => None,
        };
        let short = match plain {
            Some(column) => {
                let short = row.short_cell(column);
                if short == Some(ShortText::default()) {
                    self.met.blank(id);
                }
                short
            }
            None => {
                let mut raw = std::mem::take(&mut self.joined);
                let known = self.put_raw(field, row, shape, &mut raw);
                self.joined = raw;
                if !known {
                    // One of its parts is rejected, so nobody can say what is made of them.
                    self.memos.get_mut(id)?.leave_unjudged();
                    *self.current.get_mut(id)? = Remembered::NOTHING;
                    self.take(id, Remembered::NOTHING);
                    return Some(());
                }
                ShortText::within(self.joined.as_bytes(), 0, self.joined.len())
            }
        };
        let raw = || plain.map_or(self.joined.as_str(), |column| row.cell(column));
        let key = self.memo_key(field, short, raw())?;
        let found = match self.memos.get(id)?.find(key) {
            Some(found) => found,
            None => {
                self.met.value(id, raw());
                let met = (key, self.rows);
                let (memos, current, encoder) = (&mut self.memos, &self.current, &mut self.encoder);
                let found = new_outcome(memos, current, encoder, (id, field), raw(), met)?;
                if let Some(outcome) = self.memos.get(id)?.outcome(found.place) {
                    self.signs.get_mut(id)?.add(outcome.signs);
                }
                found
            }
        };
        *self.current.get_mut(id)? = found;
        self.take(id, found);
        Some(())
    }

    /// By what a value is remembered. Inside a parent the same value may mean another code, so it is
    /// remembered with it.
    fn memo_key<'t>(
        &self,
        field: &FieldPlan<'_>,
        short: Option<ShortText>,
        raw: &'t str,
    ) -> Option<MemoKey<'t>> {
        let parent = match field.parent {
            Some(parent) => Some(self.current.get(parent)?.place),
            None => None,
        };
        Some(match (parent, short) {
            (None, Some(short)) => MemoKey::Short(short, 0),
            (None, None) => MemoKey::Long(raw),
            (Some(NOT_REMEMBERED), _) | (Some(_), None) => MemoKey::None,
            (Some(parent), Some(short)) => {
                u32::try_from(parent).map_or(MemoKey::None, |parent| MemoKey::Short(short, parent))
            }
        })
    }

    /// Takes an outcome into the current record.
    #[inline]
    fn take(&mut self, place: FieldId, found: Remembered) {
        match found.state.number() {
            Some(number) => self.noted.push(number),
            None => {
                self.faulty |= found.state == State::FAULTY;
                self.remarked |= found.state == State::REMARKED;
                self.unnumbered |= found.state == State::CHANGED;
            }
        }
        if self.plan.in_order
            && let Some(memo) = self.memos.get(place)
        {
            memo.append(found, &mut self.record);
        }
    }

    /// Puts the raw value of a field together in `raw`; false where a field that it is made of is
    /// rejected.
    fn put_raw(
        &self,
        field: &FieldPlan<'_>,
        row: &RowCells<'_>,
        shape: &Shape<'_>,
        raw: &mut String,
    ) -> bool {
        raw.clear();
        let cell = |slot: &Slot| shape.cell(row, *slot);
        match &field.input {
            Input::Nothing | Input::Constant(_) => {}
            Input::Number => raw.push_str(shape.label),
            Input::Column(slot) => {
                let number = row.row().0;
                let group =
                    field.row_groups.iter().position(|(first, last)| (*first..=*last).contains(&number));
                raw.extend(group.and_then(group_mark));
                let cell = cell(slot);
                match self.above.of(*slot) {
                    Above::Text(above) if field.filled_from.is_some() && is_blank(cell, field.blank) => {
                        raw.push(FROM_ABOVE);
                        raw.push_str(above);
                    }
                    Above::Unknown if field.filled_from.is_some() && is_blank(cell, field.blank) => {
                        raw.push(ABOVE_UNKNOWN);
                    }
                    _ => raw.push_str(cell),
                }
            }
            Input::Several(slots, _) => {
                for (index, slot) in slots.iter().enumerate() {
                    if index > 0 {
                        raw.push(JOINT);
                    }
                    push_between_joints(cell(slot), raw);
                }
            }
            Input::MadeOf(parts, _) => {
                for (index, part) in parts.iter().enumerate() {
                    let Some(outcome) = self.outcome(*part) else { continue };
                    if outcome.unjudged || !outcome.faults.is_empty() {
                        return false;
                    }
                    if index > 0 {
                        raw.push(JOINT);
                    }
                    push_between_joints(&outcome.text, raw);
                }
            }
        }
        true
    }

    /// A cell's raw value and its parent's code, again.
    pub fn raw<'r>(
        &'r self,
        place: FieldId,
        row: &RowCells<'r>,
        shape: &Shape<'_>,
    ) -> (Cow<'r, str>, &'r str) {
        let Some(field) = self.plan.fields.get(place) else { return (Cow::Borrowed(""), "") };
        let raw = match &field.input {
            Input::Column(slot) if field.is_plain() => Cow::Borrowed(shape.cell(row, *slot)),
            _ => {
                let mut raw = String::new();
                self.put_raw(field, row, shape, &mut raw);
                Cow::Owned(raw)
            }
        };
        (
            raw,
            field.parent.and_then(|parent| self.outcome(parent)).map_or("", |outcome| outcome.text.as_str()),
        )
    }

    /// What each field's date says about how its column was treated, for all rows so far.
    pub fn signs(&self) -> &ById<FieldId, DateSigns> {
        &self.signs
    }

    fn collect_faults(&self, row: &RowCells<'_>, shape: &Shape<'_>, findings: &mut Vec<Finding>) {
        for (place, field) in self.plan.fields.with_ids() {
            let Some(outcome) = self.outcome(place) else { continue };
            for fault in outcome.faults.iter().chain(&outcome.remarks) {
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

    /// The value of a field in the current row and its text, as rules see it: blank where it is faulty.
    pub fn value(&self, place: FieldId) -> (Value, &str) {
        match self.outcome(place) {
            Some(outcome) if outcome.faults.is_empty() => (outcome.value, outcome.text.as_str()),
            _ => (Value::Blank, ""),
        }
    }

    pub(super) fn check_rules(&self, row: &RowCells<'_>, source: SourceId, findings: &mut Vec<Finding>) {
        let value = |place: FieldId| self.value(place);
        for rule in &self.plan.row_rules {
            if rule.holds(self.plan.today, &value) == Some(false) {
                let values: Vec<String> = rule
                    .fields()
                    .into_iter()
                    .filter_map(|place| {
                        Some(format!("{} {}", self.plan.fields.get(place)?.field.name, value(place).1))
                    })
                    .collect();
                let fact = RecordFact::RuleBroken {
                    severity: rule.text.severity,
                    says: rule.text.says.clone(),
                    must: rule.text.must.clone(),
                };
                findings.push(Finding::new(
                    source,
                    (row.row(), row.line()),
                    rule.text.name.clone(),
                    values.join(", "),
                    Fault::new(fact),
                ));
            }
        }
    }

    /// What the current record adds to each rule over many records, in the order of these rules.
    pub fn shares(&self, out: &mut Vec<Option<RecordShare>>) {
        let value = |place: FieldId| self.value(place);
        out.extend(self.plan.batch_rules.iter().map(|rule| rule.share(self.plan.today, &value)));
    }

    /// What became of a field in the current row.
    pub fn outcome(&self, place: FieldId) -> Option<&Outcome> {
        self.memos.get(place)?.outcome(self.current.get(place)?.place)
    }

    /// Appends the current record as it stands in the upload file.
    pub fn write(&mut self, out: &mut Vec<u8>) {
        if !self.plan.in_order {
            for (memo, current) in self.memos.iter().zip(&self.current) {
                memo.append(*current, &mut self.record);
            }
        }
        self.encoder.record(&self.record, out);
    }

    /// What identifies the current record; nothing when the target has no key or the row's is
    /// blank or faulty. It is made of the key as it stands in the upload file, where different
    /// values never look alike.
    pub fn key(&mut self) -> Option<KeyHash> {
        self.scratch.clear();
        for &place in &self.key_fields {
            let (memo, found) = (self.memos.get(place)?, *self.current.get(place)?);
            let unjudged = || memo.outcome(found.place).is_none_or(|outcome| outcome.unjudged);
            if found.state == State::FAULTY || found.place == NOT_REMEMBERED && unjudged() {
                return None;
            }
            memo.append(found, &mut self.scratch);
        }
        (self.scratch != self.blank_key).then(|| KeyHash::of(&self.scratch))
    }

    /// The current record's key as people read it.
    pub fn shown_key(&self) -> (String, String) {
        let keys = self.plan.fields.with_ids().filter(|(_, field)| field.field.key);
        let (names, values): (Vec<&str>, Vec<&str>) = keys
            .map(|(place, field)| {
                (field.field.name.as_str(), self.outcome(place).map_or("", |outcome| outcome.text.as_str()))
            })
            .unzip();
        (names.join(" + "), values.join(" + "))
    }
}

/// Adds a cell to a raw value of several.
fn push_between_joints(cell: &str, raw: &mut String) {
    if memchr::memchr(JOINT as u8, cell.as_bytes()).is_some() {
        // Read as a joint it would move what follows; as a lost character it is rejected.
        raw.push_str(&cell.replace(JOINT, "\u{fffd}"));
    } else {
        raw.push_str(cell);
    }
}

/// Conforms a value that is not remembered, and remembers it where that pays. Nothing where a field is not
/// there, or is its own parent.
fn new_outcome(
    memos: &mut ById<FieldId, FieldMemo>,
    current: &ById<FieldId, Remembered>,
    encoder: &mut UploadEncoder<'_>,
    (id, field): (FieldId, &FieldPlan<'_>),
    raw: &str,
    (key, row): (MemoKey<'_>, u64),
) -> Option<Remembered> {
    let (memo, parent) = match field.parent {
        None => (memos.get_mut(id)?, Parent::None),
        Some(parent) => {
            let at = current.get(parent)?.place;
            let [memo, parent] = memos.get_two_mut(id, parent)?;
            match parent.outcome(at) {
                Some(outcome) if !outcome.faults.is_empty() => {
                    // The parent is rejected in this row, so nobody can say what is valid inside it.
                    memo.leave_unjudged();
                    return Some(Remembered::NOTHING);
                }
                Some(outcome) if !outcome.text.is_empty() => (memo, Parent::Code(&outcome.text)),
                _ => (memo, Parent::Blank(field.parent_name)),
            }
        }
    };
    let at = memo.place_for(key, row);
    field.conform(raw, parent, encoder, memo.outcome_mut(at)?);
    Some(memo.settle(at, key))
}
