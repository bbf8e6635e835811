//! One value, step by step: put together, cleaned, filled, converted, checked, written.

use std::borrow::Cow;

use super::clean::{clean, is_blank};
use super::digits::apostrophe_of_any;
use super::outcome::{Cell, Outcome, Readings};
use super::plan::{FieldPlan, Input};
use super::several::{JOINT, Put, join, no_value, take_part, take_parts};
use super::types::{Given, conforming, lay_out};
use super::{Basis, Parent, Trail, code, date_form};
use crate::check_limits;
use dusk_decisions::{Answer, CrosswalkLine};
use dusk_description::{Bare, CodesLayout, CodesType, FieldRows, FieldType, MeansA, UploadEncoder};
use dusk_evidence::{Before, Fault, Problems, TextFact};
use dusk_sources::{ABOVE_UNKNOWN, CellKind, FROM_ABOVE, STAYS_BLANK, group_of, without_marks};
use dusk_values::Value;

impl FieldPlan<'_> {
    /// Conforms one raw value. This is a pure function of its arguments, so that values met before
    /// can be remembered, and `explain` can do it again.
    pub(super) fn conform(
        &self,
        raw: &str,
        parent: Parent<'_>,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) {
        out.clear();
        if raw.starts_with(STAYS_BLANK) {
            let blank = self.encode(None, encoder, out);
            out.faults.extend(blank.err());
            return;
        }
        if let Input::Constant(constant) = &self.input {
            out.trail.took(constant, || Basis::Constant);
            self.conform_rest(constant, &self.fixed, parent, encoder, out);
            return;
        }
        if self.cells_are_values && !raw.is_empty() && self.needs_nothing(raw) {
            return self.conform_cell(raw, Cell::default(), &self.source, parent, encoder, out);
        }
        let (group, raw) = group_of(raw);
        let raw = match raw.strip_prefix(FROM_ABOVE) {
            Some(above) => {
                out.trail.took(&without_marks(above), || Basis::FillDown);
                above
            }
            None if raw.starts_with(ABOVE_UNKNOWN) => {
                out.faults.push(Fault::new(TextFact::AboveUnknown));
                return;
            }
            None => raw,
        };
        match self.put_together(raw, &mut out.trail) {
            Err(fault) => out.faults.push(fault),
            Ok(Put::Codes(codes)) => self.conform_codes(codes, parent, encoder, out),
            Ok(Put::Values(values)) => {
                self.conform_text((CellKind::Text, group), values.into(), raw, parent, encoder, out)
            }
            Ok(Put::Value(kind, text)) => self.conform_text((kind, group), text, raw, parent, encoder, out),
        }
    }

    /// What the cells of a raw value come to.
    fn put_together<'r>(&self, raw: &'r str, trail: &mut Trail) -> Result<Put<'r, '_>, Fault> {
        match &self.input {
            Input::Several(_, several) => {
                let words = self.source.words.as_ref().map(|(yes, no)| (yes.as_str(), no.as_str()));
                several.put_together(raw, self.blank, words, self.source.holds_several(), trail)
            }
            Input::MadeOf(_, pieces) => {
                let joined = join(pieces, raw.split(JOINT), &mut Trail::default());
                if !joined.is_empty() {
                    trail.took(&joined, || Basis::MadeOf);
                }
                Ok(Put::Value(CellKind::Text, joined.into()))
            }
            _ => {
                let (kind, text) = CellKind::of(raw);
                Ok(Put::Value(kind, Cow::Borrowed(text)))
            }
        }
    }

    /// Conforms codes that columns of true and false say; nothing where all of them are blank.
    fn conform_codes(
        &self,
        codes: Option<Vec<&str>>,
        parent: Parent<'_>,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) {
        let (Some(codes), FieldType::Codes(CodesType { layout, .. })) = (codes, &self.field.kind) else {
            return self.conform_blank(parent, encoder, out);
        };
        if codes.is_empty() && self.field.required && !matches!(layout, CodesLayout::ColumnPerCode { .. }) {
            return self.conform_rest("", &self.source, parent, encoder, out);
        }
        out.value = Value::Text;
        let laid_out = lay_out(&codes, layout, out).and_then(|()| self.encode(Some(&codes), encoder, out));
        out.faults.extend(laid_out.err());
    }

    /// Conforms the text of one cell, or what several were put together to.
    fn conform_text(
        &self,
        (kind, group): (CellKind, Option<usize>),
        text: Cow<'_, str>,
        raw: &str,
        parent: Parent<'_>,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) {
        let mut cell = Cell { kind, group };
        let cleaned = match self.readable(&mut cell.kind, text, &mut out.trail) {
            Ok(cleaned) => cleaned,
            Err(fault) => {
                out.faults.push(fault);
                return;
            }
        };
        let made_of_dates = matches!(self.input, Input::Several(..))
            && cell.kind == CellKind::Text
            && raw.contains(CellKind::Date.mark());
        if made_of_dates && !self.values.text.dates_as_iso {
            out.faults.push(Fault::new(TextFact::TurnedIntoDate(Before::Text)));
        } else if cleaned.is_empty() {
            self.conform_blank(parent, encoder, out);
        } else {
            if matches!(self.field.kind, FieldType::Text(_)) && no_value(&cleaned, cell.kind).is_none() {
                dusk_inspecting::notice_damage(&cleaned, &mut out.remarks);
            }
            self.conform_dated(&cleaned, cell, parent, encoder, out);
        }
    }

    /// Conforms a value of the source, or what the mapping takes of a date.
    fn conform_dated(
        &self,
        text: &str,
        cell: Cell,
        parent: Parent<'_>,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) {
        let form = self.source.date.form.as_ref();
        // What somebody decided about the whole value comes first, as everywhere.
        match form.filter(|_| self.decided(text, &self.source, parent).is_none()) {
            None => self.conform_cell(text, cell, &self.source, parent, encoder, out),
            Some(form) => match date_form::conform(text, form, (&self.source, cell), &mut out.trail) {
                Ok(part) => self.conform_cell(&part, Cell::default(), &self.source, parent, encoder, out),
                Err(fault) => out.faults.push(fault),
            },
        }
    }

    /// What is to be read of a text: without words for a blank, the part that is wanted, cleaned.
    fn readable<'t>(
        &self,
        kind: &mut CellKind,
        mut text: Cow<'t, str>,
        trail: &mut Trail,
    ) -> Result<Cow<'t, str>, Fault> {
        if !self.blank.is_empty() && !text.trim().is_empty() && is_blank(&text, self.blank) {
            trail.took("", || Basis::BlankWord { word: text.trim().to_owned() });
            (text, *kind) = (Cow::Borrowed(""), CellKind::Text);
        }
        if let Some(part) = self.part.filter(|_| *kind != CellKind::Error && !text.trim().is_empty()) {
            text = Cow::Owned(match self.source.holds_several() {
                true => take_parts(part, self.source.values(&text), trail)?,
                false => take_part(part, &text, trail)?,
            });
        }
        Ok(self.cleaned(text, trail))
    }

    /// What a raw value is before it is converted: what a workbook says that it is, and its text. Nothing
    /// where it cannot be put together or taken apart.
    pub fn before_conversion(&self, raw: &str) -> Option<(CellKind, String)> {
        let raw = group_of(raw).1;
        let raw = raw.strip_prefix(FROM_ABOVE).unwrap_or(raw);
        if raw.starts_with(ABOVE_UNKNOWN) {
            return None;
        }
        let trail = &mut Trail::default();
        let Ok(Put::Value(mut kind, text)) = self.put_together(raw, trail) else { return None };
        let text = self.readable(&mut kind, text, trail).ok()?.into_owned();
        Some((kind, text))
    }

    /// A cell of a column as it is before it is converted.
    pub fn cleaned_cell(&self, cell: &str) -> Option<(CellKind, String)> {
        let (mut kind, text) = CellKind::of(cell);
        let text = self.readable(&mut kind, Cow::Borrowed(text), &mut Trail::default()).ok()?.into_owned();
        Some((kind, text))
    }

    fn cleaned<'t>(&self, text: Cow<'t, str>, trail: &mut Trail) -> Cow<'t, str> {
        match text {
            // Several values are cleaned one by one, by being looked up.
            text if text.contains(JOINT) && self.source.holds_several() => text,
            Cow::Borrowed(text) => clean(text, self.values.text, self.line_mark, trail),
            Cow::Owned(text) => clean(&text, self.values.text, self.line_mark, trail).into_owned().into(),
        }
    }

    pub(super) fn conform_blank(
        &self,
        parent: Parent<'_>,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) {
        match self.if_blank {
            Some(fill) => {
                out.trail.took(fill, || Basis::IfBlank);
                self.conform_rest(fill, &self.fixed, parent, encoder, out);
            }
            None => self.conform_rest("", &self.source, parent, encoder, out),
        }
    }

    /// Conforms a value that is written as the target writes it.
    pub(super) fn conform_fixed(
        &self,
        text: &str,
        parent: Parent<'_>,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) {
        out.clear();
        self.conform_rest(text, &self.fixed, parent, encoder, out);
    }

    pub(super) fn conform_rest(
        &self,
        text: &str,
        readings: &Readings<'_>,
        parent: Parent<'_>,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) {
        self.conform_cell(text, Cell::default(), readings, parent, encoder, out);
    }

    fn conform_cell(
        &self,
        text: &str,
        cell: Cell,
        readings: &Readings<'_>,
        parent: Parent<'_>,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) {
        if self.field.never_send {
            return;
        }
        let decided = self.decided(text, readings, parent);
        match decided.map(|line| (line, line.answer())) {
            Some((line, Answer::KeepOut)) => out.faults.push(code::kept_out(line)),
            Some((line, Answer::LeaveBlank)) => {
                out.trail.took("", || code::decided(line));
                out.remarks.push(code::left_blank(line));
                self.conform_cell("", cell, &self.fixed, parent, encoder, out);
            }
            Some((line, Answer::Means(value))) if self.field.kind.means() == MeansA::Value => {
                if value != text {
                    out.trail.took(value, || code::decided(line));
                }
                self.conform_cell(value, Cell::default(), &self.fixed, parent, encoder, out);
            }
            decided => {
                // What is no value may stand for one, if somebody has decided so.
                let is_certain = readings.fixed || decided.is_some();
                let lost = if is_certain { None } else { no_value(text, cell.kind) };
                let given = Given { plan: &self.values, text, cell, readings, parent };
                let done = lost.map_or_else(|| self.convert(&given, encoder, out), Err);
                out.faults.extend(done.err());
            }
        }
    }

    /// Converts a value, checks it, and writes it where nothing is wrong with it.
    fn convert(
        &self,
        given: &Given<'_, '_>,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) -> Result<(), Fault> {
        let codes = match given.text.is_empty() {
            // A row of a group has the name and the number of its repeat.
            true if self.field.required || self.rows == FieldRows::AnyGroup => {
                return Err(Fault::new(TextFact::RequiredBlank));
            }
            true => None,
            false if given.readings.fixed => conforming(&self.field.kind).convert(given, out)?,
            false => {
                let text = apostrophe_of_any(given.text, &mut out.trail);
                conforming(&self.field.kind).convert(&Given { text, ..*given }, out)?
            }
        };
        if out.value != Value::Blank {
            let bounds = (self.values.not_before, self.values.not_after);
            check_limits(self.field, bounds, &out.text, out.value, &mut out.faults);
        }
        if out.faults.is_empty() { self.encode(codes.as_deref(), encoder, out) } else { Ok(()) }
    }

    /// What was decided about a value as a whole.
    fn decided<'a>(
        &self,
        text: &str,
        readings: &'a Readings<'_>,
        parent: Parent<'_>,
    ) -> Option<&'a CrosswalkLine> {
        if readings.crosswalk.lines().is_empty() || text.is_empty() {
            return None;
        }
        readings.crosswalk.find(text, parent.code())
    }

    /// The values that a crosswalk puts into the field must be what the dictionary allows.
    pub(super) fn check_crosswalk(
        &self,
        encoder: &mut UploadEncoder<'_>,
        problems: &mut Problems,
        file: &str,
    ) {
        if self.field.kind.means() != MeansA::Value {
            return;
        }
        for line in self.source.crosswalk.lines() {
            let Answer::Means(value) = line.answer() else { continue };
            let mut outcome = Outcome::default();
            self.conform_fixed(value, Parent::None, encoder, &mut outcome);
            for fault in &outcome.faults {
                let says = format!("\"{}\" for \"{}\" {}", value, line.value, fault.wrong());
                let problem = problems.at(file, None, says);
                if !fault.right().is_empty() {
                    problem.hint(format!("right would be: {}", fault.right()));
                }
            }
        }
    }

    /// How the field stands in the upload file when it is blank.
    pub(super) fn blank(&self, encoder: &mut UploadEncoder<'_>) -> Vec<u8> {
        let mut outcome = Outcome::default();
        let _ = self.encode(None, encoder, &mut outcome);
        outcome.encoded
    }

    /// Writes the field's columns, each with the delimiter that follows it.
    pub(super) fn encode(
        &self,
        codes: Option<&[&str]>,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) -> Result<(), Fault> {
        if self.field.only_part {
            return Ok(());
        }
        for _ in 0..self.blanks_before {
            encoder.column("", Bare::Never, "", self.values.alone, &mut out.encoded)?;
        }
        conforming(&self.field.kind).encode(&self.values, codes, encoder, out)?;
        for _ in 0..self.blanks_behind {
            encoder.column("", Bare::Never, "", self.values.alone, &mut out.encoded)?;
        }
        Ok(())
    }
}

/// What the source has for a raw value: a cell that is filled from above is blank.
pub fn shown_source(raw: &str) -> String {
    if group_of(raw).1.starts_with(FROM_ABOVE) { String::new() } else { shown_raw(raw) }
}

/// A raw value as a steward sees it: the parts of a join with a plus between them.
pub(crate) fn shown_raw(raw: &str) -> String {
    without_marks(raw).replace(JOINT, " + ")
}
