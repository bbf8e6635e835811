//! The cells of one row become one record: fields in the order in which they need one another,
//! then the rules between them.

use super::above::{Above, AboveCells};
use super::beside::Beside;
use super::combined::CombinedRow;
use super::memo::FieldMemo;
use super::met::{Met, NewlyMet};
use super::plan::{FieldPlan, Input, Plan};
use super::remembered::{MemoKey, NOT_REMEMBERED, Remembered, State};
use super::shape::Shape;
use super::stood::Stood;
use super::types::{Kept, conforming};
use super::{Outcome, Told};
use dusk_description::{RecordShare, UploadEncoder};
use dusk_evidence::{ById, FieldId, Finding, Kind, Severity};
use dusk_held::{HeldReader, HeldRecords};
use dusk_inspecting::DateSigns;
use dusk_sources::{RowCells, STAYS_BLANK};
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

impl<'r> Parent<'r> {
    /// The parent's code, where there is one.
    pub(super) fn code(self) -> Option<&'r str> {
        match self {
            Self::Code(code) => Some(code),
            Self::None | Self::Blank(_) => None,
        }
    }
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
    /// It went into the record of another row.
    Merged,
}

/// Conforms row after row, remembering values. One for each thread.
#[derive(Debug)]
pub struct Conformer<'p> {
    pub(super) plan: &'p Plan<'p>,
    pub(super) encoder: UploadEncoder<'p>,
    pub(super) memos: ById<FieldId, FieldMemo>,
    /// For each field, where the current row's outcome is.
    pub(super) current: ById<FieldId, Remembered>,
    /// For each field whose value is as it stands, what that is and its place in the record.
    pub(super) stood: ById<FieldId, Stood>,
    pub(super) key_fields: Vec<FieldId>,
    /// What a key looks like in the upload file when all of it is blank.
    pub(super) blank_key: Vec<u8>,
    /// The current record as it stands in the upload file, each value with a delimiter after it.
    pub(super) record: Vec<u8>,
    /// The numbers of its changes that have one, and the fields of those that have none.
    pub(super) noted: Vec<u32>,
    pub(super) unnumbered: Vec<FieldId>,
    /// Whether any value has faults, and whether anything is to be said of one that fits.
    pub(super) faulty: bool,
    pub(super) remarked: bool,
    /// What the dates of each field say about how its column was treated.
    signs: ById<FieldId, DateSigns>,
    joined: String,
    /// What stands above the current row in the columns that are filled down.
    pub(super) above: AboveCells<'p>,
    /// What was met in the columns of fields.
    met: Met,
    pub(super) scratch: Vec<u8>,
    pub(super) numbered: u32,
    /// True once something that the plan made could not be found.
    pub(super) lost: bool,
    /// The records that the target holds, and what the current one is beside them.
    pub(super) held: Option<HeldReader<'p>>,
    pub(super) beside: Beside,
    /// What other rows of its key add to the current record.
    pub(super) added: Vec<(FieldId, Outcome)>,
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
            stood: ById::like(&plan.fields, Stood::default()),
            key_fields,
            blank_key,
            record: Vec::new(),
            noted: Vec::new(),
            unnumbered: Vec::new(),
            faulty: false,
            remarked: false,
            signs: ById::like(&plan.fields, DateSigns::default()),
            joined: String::new(),
            above: AboveCells::new(plan),
            met: Met::new(&plan.fields),
            scratch: Vec::new(),
            numbered: 0,
            lost: false,
            held: plan.held.map(HeldRecords::reader).transpose()?,
            beside: Beside::default(),
            added: Vec::new(),
            tries: None,
        })
    }

    /// Conforms one record of a row that fits, of the repeat that `shape` is at; what is found in it
    /// goes to `findings`.
    pub fn judge(&mut self, row: &RowCells<'_>, shape: &Shape<'_>, findings: &mut Vec<Finding>) -> Judged {
        let before = findings.len();
        self.conform_row(row, shape);
        if let Some(fate) = self.combine((shape.source, row.row())).cloned() {
            let about = self.about_combined((row, shape), &fate);
            let is_merged = matches!(fate, CombinedRow::Into(_));
            findings.extend(about);
            findings.extend(self.cannot_add((row, shape)));
            if is_merged {
                return Judged::Merged;
            }
        }
        if self.held.is_some() {
            self.stand_beside((row, shape), findings);
            findings.extend(self.cannot_send_back((row, shape)));
        }
        if self.faulty || self.remarked {
            self.collect_faults(row, shape, findings);
        }
        self.check_rules(row, shape.source, findings);
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

    /// True where something that the plan made could not be found, by a mistake of the program's own. What
    /// was judged is not to be used then.
    pub fn has_lost_something(&self) -> bool {
        self.lost
    }

    /// What was met in the columns of fields since this was asked the last time.
    pub fn take_met(&mut self) -> Vec<NewlyMet> {
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

    /// Conforms the values of one record and judges nothing, as for records that the target holds. Says whether any
    /// of them is faulty.
    pub fn only_values(&mut self, row: &RowCells<'_>, shape: &Shape<'_>) -> bool {
        self.conform_row(row, shape);
        self.faulty
    }

    pub(super) fn conform_row(&mut self, row: &RowCells<'_>, shape: &Shape<'_>) {
        let plan = self.plan;
        self.beside.clear();
        self.added.clear();
        self.record.clear();
        self.noted.clear();
        self.unnumbered.clear();
        (self.faulty, self.remarked) = (false, false);
        for &field in &plan.order {
            if self.conform_field(field, row, shape).is_none() {
                self.lost = true;
            }
        }
    }

    /// What a raw value would become in a field that has no parent. Nothing where there is no such field.
    pub fn value_of(&mut self, field: FieldId, raw: &str) -> Option<Outcome> {
        let planned = self.plan.fields.get(field)?;
        let mut outcome = Outcome::default();
        planned.conform(raw, Parent::None, &mut self.encoder, &mut outcome);
        Some(outcome)
    }

    /// What becomes of one field in a record that need not be conformed as a whole. Nothing where it cannot be
    /// told.
    pub fn value_alone(&mut self, field: FieldId, row: &RowCells<'_>, shape: &Shape<'_>) -> Option<Told<'_>> {
        self.record.clear();
        self.noted.clear();
        self.unnumbered.clear();
        let planned = self.plan.fields.get(field)?;
        match (&planned.input, planned.parent) {
            (Input::MadeOf(..), _) | (_, Some(_)) => self.conform_row(row, shape),
            _ => self.conform_field(field, row, shape)?,
        }
        self.outcome(field)
    }

    /// Conforms one field of the current row. Nothing where something that this plan made cannot be found,
    /// which only a mistake of the program's own can do.
    fn conform_field(&mut self, id: FieldId, row: &RowCells<'_>, shape: &Shape<'_>) -> Option<()> {
        let plan = self.plan;
        let field = plan.fields.get(id)?;
        let current = *self.current.get(id)?;
        let is_same = field.input.is_the_same() && plan.groups.is_none();
        if is_same && field.parent.is_none() && current.place != NOT_REMEMBERED {
            // It was found in the first row.
            self.take(id, current);
            return Some(());
        }
        let found = match &field.input {
            Input::Column(slot) if field.is_plain() && field.rows.holds(shape.record_row) => {
                let column = shape.column(*slot)?;
                let cell = row.cell(column);
                if cell.is_empty() {
                    self.met.blank(id);
                }
                if plan.in_order && self.take_as_it_stands(id, field, cell)? {
                    return Some(());
                }
                self.found(id, field, || row.short_cell(column), cell)?
            }
            _ => {
                let mut raw = std::mem::take(&mut self.joined);
                let found = if self.put_raw(field, row, shape, &mut raw) {
                    self.found(id, field, || ShortText::within(raw.as_bytes(), 0, raw.len()), &raw)
                } else {
                    // One of its parts is rejected, so nobody can say what is made of them.
                    self.memos.get_mut(id)?.leave_unjudged();
                    Some(Remembered::NOTHING)
                };
                self.joined = raw;
                found?
            }
        };
        *self.current.get_mut(id)? = found;
        self.take(id, found);
        Some(())
    }

    /// Takes a cell into the current record as it stands; false where that takes a closer look.
    #[inline]
    fn take_as_it_stands(&mut self, id: FieldId, field: &FieldPlan<'_>, cell: &str) -> Option<bool> {
        let start = self.record.len();
        let Some(value) = field.stands(cell, &mut self.record) else { return Some(false) };
        self.met.clean(id, cell, cell);
        *self.stood.get_mut(id)? = Stood { value, start, end: self.record.len() };
        *self.current.get_mut(id)? = Remembered::STANDS;
        Some(true)
    }

    /// What becomes of a raw value: remembered, or conformed now.
    #[inline]
    fn found(
        &mut self,
        id: FieldId,
        field: &FieldPlan<'_>,
        short: impl FnOnce() -> Option<ShortText>,
        raw: &str,
    ) -> Option<Remembered> {
        let memo = self.memos.get_mut(id)?;
        if memo.is_off() || field.at_once.is_as_it_stands() {
            let encoder = &mut self.encoder;
            if let Some((found, outcome)) = memo.at_once(|out| field.takes_at_once(raw, encoder, out)) {
                self.met.clean(id, raw, &outcome.text);
                self.signs.get_mut(id)?.add(outcome.signs);
                return Some(found);
            }
        }
        let key = self.memo_key(field, short(), raw)?;
        if let Some(found) = self.memos.get_mut(id)?.find(key) {
            return Some(found);
        }
        self.met_value(id, field, raw);
        let (memos, current, encoder) = (&mut self.memos, &self.current, &mut self.encoder);
        let found = new_outcome(memos, current, encoder, (id, field), raw, key)?;
        self.meet(id, field, raw, found)?;
        Some(found)
    }

    /// Takes a value in among those that were met. What stands for nothing, or was decided on, has no shape that tells anything.
    fn met_value(&mut self, id: FieldId, field: &FieldPlan<'_>, raw: &str) {
        if raw.starts_with(STAYS_BLANK) {
            return;
        }
        let are_shapes = conforming(&field.field.kind).kept() == Kept::Shapes;
        if !(are_shapes && field.is_decided(raw)) {
            self.met.value(id, raw);
        }
    }

    /// Takes in the values of a row that a correction keeps out, which are no news in another one.
    pub fn meet_kept_out(&mut self, row: &RowCells<'_>, shape: &Shape<'_>) {
        if shape.patches.kept_out(row.row()).is_none() || self.plan.makes_several() || !shape.is_whole(row) {
            return;
        }
        let mut raw = std::mem::take(&mut self.joined);
        for (id, field) in self.plan.fields.with_ids() {
            if !matches!(field.input, Input::MadeOf(..)) && self.put_raw(field, row, shape, &mut raw) {
                self.met_value(id, field, &raw);
            }
        }
        self.joined = raw;
    }

    /// Takes in what a value that was not remembered tells of its column.
    fn meet(&mut self, id: FieldId, field: &FieldPlan<'_>, raw: &str, found: Remembered) -> Option<()> {
        if let Some(outcome) = self.memos.get(id)?.outcome(found.place) {
            self.signs.get_mut(id)?.add(outcome.signs);
            match outcome.value {
                Value::Number(number) if field.reads_percents && !raw.contains('%') => {
                    self.met.percent(id, number)
                }
                Value::Date(_) | Value::DateTime(_) => {
                    if let Some((year, from)) = field.short_year(raw, outcome.value) {
                        self.met.short_year(id, year, from);
                    }
                }
                _ if field.is_text_that_may_lose_digits() => self.met.text(id, &outcome.text),
                _ => {}
            }
        }
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
            None if found.state == State::UNCHANGED => {}
            None => {
                self.faulty |= found.state == State::FAULTY;
                self.remarked |= found.state == State::REMARKED;
                self.unnumbered.push(place);
            }
        }
        if self.plan.in_order
            && let Some(memo) = self.memos.get(place)
        {
            memo.append(found, &mut self.record);
        }
    }

    /// What each field's date says about how its column was treated, for all rows so far.
    pub fn signs(&self) -> &ById<FieldId, DateSigns> {
        &self.signs
    }

    /// What the current record adds to each rule over many records, in the order of these rules.
    pub fn shares(&self, out: &mut Vec<Option<RecordShare>>) {
        let value = |place: FieldId| self.value(place);
        out.extend(self.plan.batch_rules.iter().map(|rule| rule.share(self.plan.today, &value)));
    }

    /// Appends the current record as it stands in the upload file.
    pub fn write(&mut self, out: &mut Vec<u8>) {
        if self.beside.writes_otherwise() || !self.added.is_empty() {
            return self.write_beside(out);
        }
        if !self.plan.in_order {
            for (memo, current) in self.memos.iter().zip(&self.current) {
                memo.append(*current, &mut self.record);
            }
        }
        self.encoder.record(&self.record, out);
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
    key: MemoKey<'_>,
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
    let at = memo.place_for(key);
    let outcome = memo.outcome_mut(at)?;
    if !field.takes_at_once(raw, encoder, outcome) {
        field.conform(raw, parent, encoder, outcome);
    }
    Some(memo.settle(at, key))
}
