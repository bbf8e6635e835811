//! The cells of one row become one record: fields in the order in which they need one another,
//! then the rules between them.

use super::cell::JOINT;
use super::memo::FieldMemo;
use super::plan::{Input, Plan};
use super::{Outcome, Trail};
use crate::finding::{Fault, Finding, Kind};
use crate::source::RowCells;
use crate::target::UploadEncoder;
use crate::validate::KeyPrint;
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

/// A change that this conformer meets for the first time.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct NewChange {
    pub(crate) field: usize,
    pub(crate) before: String,
    pub(crate) after: String,
    pub(crate) trail: Trail,
}

/// Conforms row after row, remembering values. One for each thread.
#[derive(Debug)]
pub(crate) struct Conformer<'p> {
    plan: &'p Plan<'p>,
    encoder: UploadEncoder<'p>,
    memos: Vec<FieldMemo>,
    /// For each field, where the current row's outcome is in its memo.
    current: Vec<usize>,
    raw: String,
    announced: u32,
}

impl<'p> Conformer<'p> {
    /// A conformer for this plan.
    ///
    /// # Errors
    /// [`Error::Invariant`](crate::Error::Invariant) when the layout was not checked before.
    pub(crate) fn new(plan: &'p Plan<'p>) -> crate::Result<Self> {
        Ok(Self {
            plan,
            encoder: UploadEncoder::new(&plan.target.upload).map_err(crate::Error::Invariant)?,
            memos: plan.fields.iter().map(|_| FieldMemo::new()).collect(),
            current: vec![0; plan.fields.len()],
            raw: String::new(),
            announced: 0,
        })
    }

    /// Conforms a row; what is wrong with it goes to `findings`. `columns` are the places of the
    /// plan's headings in this source, `width` is the number of its headings.
    pub(crate) fn judge(
        &mut self,
        row: &RowCells<'_>,
        columns: &[usize],
        width: usize,
        source: usize,
        findings: &mut Vec<Finding>,
    ) -> Judged {
        if row.is_blank() {
            return Judged::LeftOut;
        }
        let before = findings.len();
        if let Some(fault) = wrong_shape(row, width) {
            let about = "row".to_owned();
            findings.push(Finding {
                source,
                row: row.row(),
                line: row.line(),
                field: None,
                about,
                value: String::new(),
                fault,
            });
            return Judged::Rejected;
        }
        let plan = self.plan;
        for &place in &plan.order {
            self.conform_field(place, row, columns);
        }
        for (place, field) in plan.fields.iter().enumerate() {
            let Some(outcome) = self.outcome(place) else { continue };
            for fault in &outcome.faults {
                findings.push(Finding {
                    source,
                    row: row.row(),
                    line: row.line(),
                    field: Some(place),
                    about: field.field.name.clone(),
                    value: outcome.raw.clone(),
                    fault: fault.clone(),
                });
            }
        }
        self.check_rules(row, source, findings);
        if findings.len() > before { Judged::Rejected } else { Judged::Accepted }
    }

    fn conform_field(&mut self, place: usize, row: &RowCells<'_>, columns: &[usize]) {
        let plan = self.plan;
        let Some(field) = plan.fields.get(place) else { return };
        let cell = |slot: &usize| columns.get(*slot).map_or("", |column| row.cell(*column));
        let raw: &str = match &field.input {
            Input::Nothing | Input::Constant(_) => "",
            Input::Column(slot) => cell(slot),
            Input::Join(_) => {
                self.raw.clear();
                for (index, slot) in field.input.columns().enumerate() {
                    if index > 0 {
                        self.raw.push(JOINT);
                    }
                    self.raw.push_str(cell(slot));
                }
                ""
            }
        };
        let joined = matches!(field.input, Input::Join(_));
        let parent = match field.parent {
            None => None,
            Some(parent) => {
                let at = self.current.get(parent).copied().unwrap_or(0);
                self.memos
                    .get(parent)
                    .and_then(|memo| memo.outcome(at))
                    .map(|outcome| (outcome.faults.is_empty(), outcome.text.clone()))
            }
        };
        // Inside a parent the same value may mean another code, so both are remembered together.
        let key: &str = match &parent {
            Some((_, code)) => {
                if !joined {
                    self.raw.clear();
                    self.raw.push_str(raw);
                }
                self.raw.push(JOINT);
                self.raw.push_str(code);
                &self.raw
            }
            None if joined => &self.raw,
            None => raw,
        };
        let (Some(memo), Some(current)) = (self.memos.get_mut(place), self.current.get_mut(place)) else {
            return;
        };
        if let Some((false, _)) = parent {
            // The parent is rejected in this row, so nobody can say what is valid inside it.
            *current = 0;
            if let Some(outcome) = memo.outcome_mut(0) {
                *outcome = Outcome::default();
            }
            return;
        }
        if let Some(found) = memo.find(key) {
            *current = found;
            return;
        }
        *current = memo.place_for(key);
        let inside = match &parent {
            None => Parent::None,
            Some((_, code)) if code.is_empty() => Parent::Blank(field.parent_name),
            Some((_, code)) => Parent::Code(code),
        };
        let raw = match (&parent, joined) {
            (Some((_, code)), true) => {
                key.get(..key.len() - code.len() - JOINT.len_utf8()).unwrap_or_default()
            }
            (None, true) => key,
            _ => raw,
        };
        if let Some(outcome) = memo.outcome_mut(*current) {
            field.conform(raw, inside, &mut self.encoder, outcome);
        }
    }

    fn check_rules(&self, row: &RowCells<'_>, source: usize, findings: &mut Vec<Finding>) {
        for rule in &self.plan.target.rules {
            let value = |place: usize| match self.outcome(place) {
                Some(outcome) if outcome.faults.is_empty() => (outcome.value, outcome.text.as_str()),
                _ => (Value::Blank, ""),
            };
            if rule.holds(&value) == Some(false) {
                let values: Vec<String> = rule
                    .fields()
                    .into_iter()
                    .filter_map(|place| {
                        Some(format!("{} {}", self.plan.fields.get(place)?.field.name, value(place).1))
                    })
                    .collect();
                findings.push(Finding {
                    source,
                    row: row.row(),
                    line: row.line(),
                    field: None,
                    about: rule.name.clone(),
                    value: values.join(", "),
                    fault: Fault::new(
                        Kind::RuleBroken,
                        format!("breaks a rule: {}", rule.says),
                        rule.must.clone(),
                    ),
                });
            }
        }
    }

    /// What became of a field in the current row.
    pub(crate) fn outcome(&self, place: usize) -> Option<&Outcome> {
        self.memos.get(place)?.outcome(*self.current.get(place)?)
    }

    /// Appends the current record as it stands in the upload file.
    pub(crate) fn write(&self, out: &mut Vec<u8>) {
        for place in 0..self.plan.fields.len() {
            if place > 0 {
                out.extend_from_slice(self.encoder.delimiter());
            }
            if let Some(outcome) = self.outcome(place) {
                out.extend_from_slice(&outcome.encoded);
            }
        }
        out.extend_from_slice(self.encoder.line_end());
    }

    /// What identifies the current record; nothing when the target has no key or the row's is
    /// blank or faulty.
    pub(crate) fn key(&self) -> Option<KeyPrint> {
        let mut parts = KeyPrint::of_parts();
        let mut filled = false;
        for (place, _) in self.plan.fields.iter().enumerate().filter(|(_, field)| field.field.key) {
            let outcome = self.outcome(place)?;
            if !outcome.faults.is_empty() {
                return None;
            }
            filled |= !outcome.text.is_empty();
            parts.add(&outcome.text);
        }
        filled.then(|| parts.finish())
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

    /// Appends the numbers of the current record's changes, announcing those met for the first
    /// time.
    pub(crate) fn note_changes(&mut self, changes: &mut Vec<u32>, new: &mut Vec<NewChange>) {
        for (place, (memo, current)) in self.memos.iter_mut().zip(&self.current).enumerate() {
            let Some(outcome) = memo.outcome_mut(*current) else { continue };
            if outcome.trail.taken.is_empty() {
                continue;
            }
            let number = *outcome.change.get_or_insert_with(|| {
                new.push(NewChange {
                    field: place,
                    before: outcome.raw.clone(),
                    after: outcome.text.clone(),
                    trail: outcome.trail.clone(),
                });
                self.announced += 1;
                self.announced - 1
            });
            changes.push(number);
        }
    }

    /// How many changes have been announced since the numbering began.
    pub(crate) fn announced(&self) -> u32 {
        self.announced
    }

    /// Begins numbering changes anew.
    pub(crate) fn renumber(&mut self) {
        self.announced = 0;
        self.memos.iter_mut().for_each(FieldMemo::forget);
    }
}

fn wrong_shape(row: &RowCells<'_>, width: usize) -> Option<Fault> {
    let cells = row.len();
    if row.is_misquoted() {
        return Some(Fault::new(
            Kind::Misquoted,
            "has a quote inside a quoted cell that is not doubled, so where the cell ends is not certain",
            "double the quote in the export",
        ));
    }
    if cells < width {
        return Some(Fault::new(
            Kind::RowTooShort,
            format!("has {cells} cells, and the header has {width}"),
            "the missing cells, in the export; nothing was moved",
        ));
    }
    (cells > width).then(|| {
        Fault::new(
            Kind::RowTooLong,
            format!("has {cells} cells, and the header has {width}"),
            "quotes around a value that holds the delimiter, in the export; nothing was moved",
        )
    })
}
