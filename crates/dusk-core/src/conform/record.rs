//! The cells of one row become one record: fields in the order in which they need one another,
//! then the rules between them.

use std::borrow::Cow;

use super::Outcome;
use super::cell::{JOINT, shown_raw};
use super::memo::{FieldMemo, Found, MemoKey, NOT_REMEMBERED, State};
use super::plan::{FieldPlan, Input, Plan};
use super::shape::{Shape, holds_a_row, wrong_shape};
use crate::finding::{Fault, Finding, Kind, Severity};
use crate::inspect::DateSigns;
use crate::source::{Rejoined, RowCells, ShortText, group_mark};
use crate::target::UploadEncoder;
use crate::validate::{KeyPrint, RecordShare};
use crate::value::Value;

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
    /// Every cell is blank.
    LeftOut,
    /// At least one finding keeps it out.
    Rejected,
    /// It fits.
    Accepted,
}

/// What makes a change what it is: conforming is a pure function of these.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct ChangeKey {
    /// The field, by its place.
    pub(crate) field: usize,
    /// The raw value.
    pub(crate) raw: String,
    /// The code of the field's parent, where it has one.
    pub(crate) inside: String,
}

/// The changes of a block's accepted records. Changes of remembered values have numbers; the
/// others are noted one by one.
#[derive(Debug, Default)]
pub(crate) struct Changes {
    /// Numbers of changes, record after record.
    pub(crate) numbers: Vec<u32>,
    /// The changes met for the first time, numbered on from the last.
    pub(crate) new: Vec<ChangeKey>,
    /// Changes without a number, record after record.
    pub(crate) singles: Vec<Single>,
}

/// A change without a number.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Single {
    /// Of a short value in a field without a parent, by its place.
    Short(usize, ShortText),
    /// Of any other value.
    Long(ChangeKey),
}

/// Conforms row after row, remembering values. One for each thread.
#[derive(Debug)]
pub(crate) struct Conformer<'p> {
    plan: &'p Plan<'p>,
    encoder: UploadEncoder<'p>,
    memos: Vec<FieldMemo>,
    /// For each field, where the current row's outcome is.
    current: Vec<Found>,
    key_fields: Vec<usize>,
    /// What a key looks like in the upload file when all of it is blank.
    blank_key: Vec<u8>,
    /// The current record as it stands in the upload file, each value with a delimiter after it.
    record: Vec<u8>,
    /// The numbers of its changes that have one.
    noted: Vec<u32>,
    /// Whether any value has faults, and whether any change has no number yet.
    faulty: bool,
    remarked: bool,
    unnumbered: bool,
    /// What the dates of each field say about how its column was treated.
    signs: Vec<DateSigns>,
    joined: String,
    scratch: Vec<u8>,
    numbered: u32,
    /// How many rows were conformed.
    rows: u64,
}

impl<'p> Conformer<'p> {
    /// A conformer for this plan, whose outcomes keep their steps if `keeps_steps` says so.
    ///
    /// # Errors
    /// [`Error::Invariant`](crate::Error::Invariant) when the layout was not checked before.
    pub(crate) fn new(plan: &'p Plan<'p>, keeps_steps: bool) -> crate::Result<Self> {
        let is_key = |place: usize| plan.fields.get(place).is_some_and(|field| field.field.key);
        let key_fields: Vec<usize> = (0..plan.fields.len()).filter(|place| is_key(*place)).collect();
        let mut encoder = UploadEncoder::new(&plan.target.upload).map_err(crate::Error::Invariant)?;
        let mut blank_key = Vec::new();
        for field in key_fields.iter().filter_map(|place| plan.fields.get(*place)) {
            // Where a blank cannot be written, no record has a blank key either.
            blank_key.extend(field.blank(&mut encoder));
        }
        Ok(Self {
            plan,
            encoder,
            memos: plan.fields.iter().map(|_| FieldMemo::new(keeps_steps)).collect(),
            current: vec![Found::NOTHING; plan.fields.len()],
            key_fields,
            blank_key,
            record: Vec::new(),
            noted: Vec::new(),
            faulty: false,
            remarked: false,
            unnumbered: false,
            signs: vec![DateSigns::default(); plan.fields.len()],
            joined: String::new(),
            scratch: Vec::new(),
            numbered: 0,
            rows: 0,
        })
    }

    /// Conforms a row of the given shape; what is found in it goes to `findings`. A row that a
    /// delimiter inside a value has split is put together first, in `room`, where only one way fits.
    /// Gives the row as it was judged.
    pub(crate) fn judge<'b>(
        &mut self,
        row: RowCells<'b>,
        shape: &Shape<'_>,
        room: &'b mut Rejoined,
        findings: &mut Vec<Finding>,
    ) -> (RowCells<'b>, Judged) {
        if row.len() > shape.width && !row.is_blank() && shape.no_record(&row).is_none() {
            let finding = |fault: Fault| Finding {
                source: shape.source,
                row: row.row(),
                line: row.line(),
                field: None,
                about: "the row".into(),
                value: String::new(),
                fault,
            };
            match self.rejoin(&row, shape, room) {
                Ok((joined, fault)) => {
                    findings.push(finding(fault));
                    let judged = self.judge_whole(&joined, shape, findings);
                    return (joined, judged);
                }
                Err(Some(fault)) => {
                    findings.push(finding(fault));
                    return (row, Judged::Rejected);
                }
                Err(None) => {}
            }
        }
        let judged = self.judge_whole(&row, shape, findings);
        (row, judged)
    }

    fn judge_whole(&mut self, row: &RowCells<'_>, shape: &Shape<'_>, findings: &mut Vec<Finding>) -> Judged {
        if row.is_blank() {
            return Judged::LeftOut;
        }
        let before = findings.len();
        let whole_row = |fault: Fault, value: String| Finding {
            source: shape.source,
            row: row.row(),
            line: row.line(),
            field: None,
            about: "the row".into(),
            value,
            fault,
        };
        if let Some(fault) = shape.no_record(row) {
            findings.push(whole_row(fault, String::new()));
            return Judged::LeftOut;
        }
        if !shape.is_whole(row) {
            findings.push(whole_row(wrong_shape(row, shape.width), String::new()));
            return Judged::Rejected;
        }
        if row.lines() > 1
            && let Some(cell) = holds_a_row(row, shape)
        {
            let fault = Fault::new(
                Kind::RowsInCell,
                "holds a line that would be a whole row; a quote may not have been closed",
                "look at the row in the export",
            );
            findings.push(whole_row(fault, cell.to_owned()));
        }
        self.conform_row(row, shape);
        if self.faulty || self.remarked {
            self.collect_faults(row, shape, findings);
        }
        self.check_rules(row, shape.source, findings);
        let rejects = |finding: &Finding| finding.fault.kind.severity() == Severity::Reject;
        let found = findings.get(before..).unwrap_or_default();
        if found.iter().any(rejects) { Judged::Rejected } else { Judged::Accepted }
    }

    fn conform_row(&mut self, row: &RowCells<'_>, shape: &Shape<'_>) {
        let plan = self.plan;
        self.rows += 1;
        self.record.clear();
        self.noted.clear();
        (self.faulty, self.remarked, self.unnumbered) = (false, false, false);
        for &place in &plan.order {
            self.conform_field(place, row, shape.columns);
        }
    }

    /// Puts a row together again that an unquoted delimiter inside a value has split, if the
    /// dictionary leaves exactly one way. Gives the row and says which way, or every way that fits.
    fn rejoin<'b>(
        &mut self,
        row: &RowCells<'b>,
        shape: &Shape<'_>,
        room: &'b mut Rejoined,
    ) -> Result<(RowCells<'b>, Fault), Option<Fault>> {
        // With every cell more the ways and the doubt grow.
        const MOST_EXTRA: usize = 2;
        let extra = row.len().saturating_sub(shape.width);
        if extra == 0 || extra > MOST_EXTRA || shape.ragged || row.is_misquoted() || !row.is_closed() {
            return Err(None);
        }
        let mut ways: Vec<Vec<usize>> = Vec::new();
        let mut broken = Vec::new();
        let mut tried = Rejoined::default();
        for first in 0..shape.width {
            // A second split may be of the same value or of any after it.
            let seconds = if extra == 1 { first..first + 1 } else { first..shape.width };
            for second in seconds {
                let both = [first, second];
                let places = both.get(..extra).unwrap_or_default();
                let Some(joined) = row.rejoined(places, &mut tried) else { continue };
                self.conform_row(&joined, shape);
                self.check_rules(&joined, shape.source, &mut broken);
                // A way that only warns is a way.
                broken.retain(|finding| finding.fault.kind.severity() == Severity::Reject);
                if !self.faulty && broken.is_empty() {
                    ways.push(places.to_vec());
                }
                broken.clear();
            }
        }
        let value = |places: &[usize], joined: &RowCells<'_>| {
            let mut places = places.to_vec();
            places.dedup();
            let each = places.iter().map(|place| {
                let heading = shape.headings.get(*place).map_or("", String::as_str);
                format!("{heading} \"{}\"", joined.cell(*place))
            });
            each.collect::<Vec<_>>().join(" and ")
        };
        match ways.as_slice() {
            [places] => {
                let joined = row.rejoined(places, room).ok_or(None)?;
                let says = format!(
                    "had {} cells because of an unquoted delimiter, and was put together again in the only way that fits: {}",
                    row.len(),
                    value(places, &joined)
                );
                Ok((joined, Fault::new(Kind::RowRejoined, says, "quotes around the value, in the export")))
            }
            [] => Err(None),
            several => {
                let all: Vec<String> = several
                    .iter()
                    .take(4)
                    .filter_map(|places| Some(value(places, &row.rejoined(places, &mut tried)?)))
                    .collect();
                let says = format!(
                    "has {} cells, and the header has {}; it could be put together in {} ways",
                    row.len(),
                    shape.width,
                    several.len()
                );
                let right = format!("quotes around the right one, in the export: {}", all.join(", or "));
                Err(Some(Fault::new(Kind::RowTooLong, says, right)))
            }
        }
    }

    fn conform_field(&mut self, place: usize, row: &RowCells<'_>, columns: &[usize]) {
        let plan = self.plan;
        let (Some(field), Some(memo), Some(current)) =
            (plan.fields.get(place), self.memos.get(place), self.current.get(place))
        else {
            return;
        };
        let column = |slot: &usize| columns.get(*slot).copied().unwrap_or(usize::MAX);
        let short = match &field.input {
            Input::Nothing | Input::Constant(_) => {
                if field.parent.is_none() && current.place != NOT_REMEMBERED {
                    // It is the same in every row, and was found in the first.
                    let found = *current;
                    return self.take(place, found);
                }
                Some(ShortText::default())
            }
            Input::Column(slot) if field.row_groups.is_empty() => row.short_cell(column(slot)),
            Input::Column(slot) => {
                grouped_raw(field, row, column(slot), &mut self.joined);
                ShortText::within(self.joined.as_bytes(), 0, self.joined.len())
            }
            Input::Join(_) => {
                join_raw(&field.input, row, columns, &mut self.joined);
                ShortText::within(self.joined.as_bytes(), 0, self.joined.len())
            }
        };
        let raw = || match &field.input {
            Input::Nothing | Input::Constant(_) => "",
            Input::Column(slot) if field.row_groups.is_empty() => row.cell(column(slot)),
            Input::Column(_) | Input::Join(_) => self.joined.as_str(),
        };
        // Inside a parent the same value may mean another code, so it is remembered with it.
        let parent =
            field.parent.map(|parent| self.current.get(parent).map_or(NOT_REMEMBERED, |found| found.place));
        let key = match (parent, short) {
            (None, Some(short)) => MemoKey::Short(short, 0),
            (None, None) => MemoKey::Long(raw()),
            (Some(NOT_REMEMBERED), _) | (Some(_), None) => MemoKey::None,
            (Some(parent), Some(short)) => {
                u32::try_from(parent).map_or(MemoKey::None, |parent| MemoKey::Short(short, parent))
            }
        };
        let found = match memo.find(key) {
            Some(found) => found,
            None => {
                let met = (key, self.rows);
                let found = new_outcome(
                    &mut self.memos,
                    &self.current,
                    &mut self.encoder,
                    (place, field),
                    raw(),
                    met,
                );
                let met = self.memos.get(place).and_then(|memo| memo.outcome(found.place));
                if let (Some(outcome), Some(signs)) = (met, self.signs.get_mut(place)) {
                    signs.add(outcome.signs);
                }
                found
            }
        };
        if let Some(current) = self.current.get_mut(place) {
            *current = found;
        }
        self.take(place, found);
    }

    /// Takes an outcome into the current record.
    #[inline]
    fn take(&mut self, place: usize, found: Found) {
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

    /// A cell's raw value and its parent's code, again.
    fn raw<'r>(&'r self, place: usize, row: &RowCells<'r>, columns: &[usize]) -> (Cow<'r, str>, &'r str) {
        let Some(field) = self.plan.fields.get(place) else { return (Cow::Borrowed(""), "") };
        let raw = match &field.input {
            Input::Nothing | Input::Constant(_) => Cow::Borrowed(""),
            Input::Column(slot) => {
                let column = columns.get(*slot).copied().unwrap_or(usize::MAX);
                if field.row_groups.is_empty() {
                    Cow::Borrowed(row.cell(column))
                } else {
                    let mut raw = String::new();
                    grouped_raw(field, row, column, &mut raw);
                    Cow::Owned(raw)
                }
            }
            Input::Join(_) => {
                let mut joined = String::new();
                join_raw(&field.input, row, columns, &mut joined);
                Cow::Owned(joined)
            }
        };
        (
            raw,
            field.parent.and_then(|parent| self.outcome(parent)).map_or("", |outcome| outcome.text.as_str()),
        )
    }

    /// What each field's date says about how its column was treated, for all rows so far.
    pub(crate) fn signs(&self) -> &[DateSigns] {
        &self.signs
    }

    fn collect_faults(&self, row: &RowCells<'_>, shape: &Shape<'_>, findings: &mut Vec<Finding>) {
        let columns = shape.columns;
        for (place, field) in self.plan.fields.iter().enumerate() {
            let Some(outcome) = self.outcome(place) else { continue };
            for fault in outcome.faults.iter().chain(&outcome.remarks) {
                findings.push(Finding {
                    source: shape.source,
                    row: row.row(),
                    line: row.line(),
                    field: Some(place),
                    about: field.field.name.clone(),
                    value: shown_raw(&self.raw(place, row, columns).0),
                    fault: fault.clone(),
                });
            }
        }
    }

    /// The value of a field in the current row and its text, as rules see it: blank where it is faulty.
    fn value(&self, place: usize) -> (Value, &str) {
        match self.outcome(place) {
            Some(outcome) if outcome.faults.is_empty() => (outcome.value, outcome.text.as_str()),
            _ => (Value::Blank, ""),
        }
    }

    fn check_rules(&self, row: &RowCells<'_>, source: usize, findings: &mut Vec<Finding>) {
        let value = |place: usize| self.value(place);
        for rule in &self.plan.row_rules {
            if rule.holds(self.plan.today, &value) == Some(false) {
                let values: Vec<String> = rule
                    .fields()
                    .into_iter()
                    .filter_map(|place| {
                        Some(format!("{} {}", self.plan.fields.get(place)?.field.name, value(place).1))
                    })
                    .collect();
                let (kind, does) = match rule.text.severity {
                    Severity::Reject => (Kind::RuleBroken, "breaks"),
                    Severity::Warn | Severity::Note => (Kind::RuleNotMet, "does not meet"),
                };
                findings.push(Finding {
                    source,
                    row: row.row(),
                    line: row.line(),
                    field: None,
                    about: rule.text.name.clone(),
                    value: values.join(", "),
                    fault: Fault::new(
                        kind,
                        format!("{does} a rule: {}", rule.text.says),
                        rule.text.must.clone(),
                    ),
                });
            }
        }
    }

    /// What the current record adds to each rule over many records, in the order of these rules.
    pub(crate) fn shares(&self, out: &mut Vec<Option<RecordShare>>) {
        let value = |place: usize| self.value(place);
        out.extend(self.plan.batch_rules.iter().map(|rule| rule.share(self.plan.today, &value)));
    }

    /// What became of a field in the current row.
    pub(crate) fn outcome(&self, place: usize) -> Option<&Outcome> {
        self.memos.get(place)?.outcome(self.current.get(place)?.place)
    }

    /// Appends the current record as it stands in the upload file.
    pub(crate) fn write(&mut self, out: &mut Vec<u8>) {
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
    pub(crate) fn key(&mut self) -> Option<KeyPrint> {
        self.scratch.clear();
        for &place in &self.key_fields {
            let (memo, found) = (self.memos.get(place)?, *self.current.get(place)?);
            let unjudged = || memo.outcome(found.place).is_none_or(|outcome| outcome.unjudged);
            if found.state == State::FAULTY || found.place == NOT_REMEMBERED && unjudged() {
                return None;
            }
            memo.append(found, &mut self.scratch);
        }
        (self.scratch != self.blank_key).then(|| KeyPrint::of(&self.scratch))
    }

    /// The current record's key as people read it.
    pub(crate) fn shown_key(&self) -> (String, String) {
        let keys = self.plan.fields.iter().enumerate().filter(|(_, field)| field.field.key);
        let (names, values): (Vec<&str>, Vec<&str>) = keys
            .map(|(place, field)| {
                (field.field.name.as_str(), self.outcome(place).map_or("", |outcome| outcome.text.as_str()))
            })
            .unzip();
        (names.join(" + "), values.join(" + "))
    }

    /// Notes the current record's changes; gives back how many there are.
    pub(crate) fn note_changes(
        &mut self,
        row: &RowCells<'_>,
        columns: &[usize],
        changes: &mut Changes,
    ) -> u32 {
        changes.numbers.extend_from_slice(&self.noted);
        let mut count = u32::try_from(self.noted.len()).unwrap_or(u32::MAX);
        if !self.unnumbered && !self.remarked {
            return count;
        }
        for place in 0..self.current.len() {
            let Some(found) = self.current.get(place).copied() else { continue };
            let remarked = found.state == State::REMARKED
                && self.outcome(place).is_some_and(|outcome| outcome.trail.changed());
            if found.state != State::CHANGED && !remarked {
                continue;
            }
            count += 1;
            let (raw, inside) = self.raw(place, row, columns);
            let short = ShortText::within(raw.as_bytes(), 0, raw.len()).filter(|_| inside.is_empty());
            let key = || ChangeKey { field: place, raw: raw.to_string(), inside: inside.to_owned() };
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
        count
    }

    /// Conforms the value of a change again.
    pub(crate) fn again(&mut self, change: &ChangeKey) -> Outcome {
        let mut outcome = Outcome::new(true);
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

/// The parts of a join as one raw value.
fn join_raw(input: &Input, row: &RowCells<'_>, columns: &[usize], joined: &mut String) {
    joined.clear();
    for (index, slot) in input.columns().enumerate() {
        if index > 0 {
            joined.push(JOINT);
        }
        let part = columns.get(*slot).map_or("", |column| row.cell(*column));
        if memchr::memchr(JOINT as u8, part.as_bytes()).is_some() {
            // Read as a joint it would move what follows; as a lost character it is rejected.
            joined.push_str(&part.replace(JOINT, "\u{fffd}"));
        } else {
            joined.push_str(part);
        }
    }
}

/// Conforms a value that is not remembered, and remembers it where that pays.
fn new_outcome(
    memos: &mut [FieldMemo],
    current: &[Found],
    encoder: &mut UploadEncoder<'_>,
    (place, field): (usize, &FieldPlan<'_>),
    raw: &str,
    (key, row): (MemoKey<'_>, u64),
) -> Found {
    let (memo, parent) = match field.parent {
        None => (memos.get_mut(place), Some(Parent::None)),
        Some(parent_place) => {
            let at = current.get(parent_place).map_or(NOT_REMEMBERED, |found| found.place);
            // A field is never its own parent, so there are two of them.
            let Ok([memo, parent]) = memos.get_disjoint_mut([place, parent_place]) else {
                return Found::NOTHING;
            };
            let parent = match parent.outcome(at) {
                Some(outcome) if !outcome.faults.is_empty() => None,
                Some(outcome) if !outcome.text.is_empty() => Some(Parent::Code(&outcome.text)),
                _ => Some(Parent::Blank(field.parent_name)),
            };
            (Some(memo), parent)
        }
    };
    let Some(memo) = memo else { return Found::NOTHING };
    let Some(parent) = parent else {
        // The parent is rejected in this row, so nobody can say what is valid inside it.
        memo.leave_unjudged();
        return Found::NOTHING;
    };
    let at = memo.place_for(key, row);
    if let Some(outcome) = memo.outcome_mut(at) {
        field.conform(raw, parent, encoder, outcome);
    }
    memo.settle(at, key)
}

/// The raw value of a column in which groups of rows are told apart: the group's mark before it.
fn grouped_raw(field: &FieldPlan<'_>, row: &RowCells<'_>, column: usize, raw: &mut String) {
    raw.clear();
    let number = row.row().0;
    let group = field.row_groups.iter().position(|(first, last)| (*first..=*last).contains(&number));
    raw.extend(group.and_then(group_mark));
    raw.push_str(row.cell(column));
}
