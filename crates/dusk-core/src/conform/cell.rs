//! One value, step by step: put together, cleaned, filled, converted, checked, written.

use std::borrow::Cow;

use super::outcome::{Cell, Outcome, Readings};
use super::plan::{FieldPlan, Input};
use super::several::{JOINT, Put, error_cell, join, take_part};
use super::text::is_blank;
use super::{Parent, Step, Trail, boolean, code, damage, date, digits, number, text};
use crate::correct::{Answer, CrosswalkLine};
use crate::files::Problems;
use crate::finding::{Fault, Kind, Severity};
use crate::mapping::NumberReading;
use crate::source::{ABOVE_UNKNOWN, CellKind, FROM_ABOVE, group_of, without_marks};
use crate::target::{Bare, CodesLayout, FieldType, Unmatched, UploadEncoder, fold};
use crate::validate::check_limits;
use crate::value::Value;

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
        if let Input::Constant(constant) = &self.input {
            out.trail
                .took(Step::Constant, constant, || "the same in every record, as the mapping says".into());
            self.conform_rest(constant, &self.fixed, parent, encoder, out);
            return;
        }
        let (group, raw) = group_of(raw);
        let raw = match raw.strip_prefix(FROM_ABOVE) {
            Some(above) => {
                out.trail.took(Step::FillDown, &without_marks(above), || {
                    "the cell is blank, and the mapping says to take what stands above (fill_down)".into()
                });
                above
            }
            None if raw.starts_with(ABOVE_UNKNOWN) => {
                out.faults.push(Fault::new(
                    Kind::AboveUnknown,
                    "is blank, and the row above it cannot be told into cells, so nobody can say what stands there",
                    "the row above, mended in the export",
                ));
                return;
            }
            None => raw,
        };
        let put = match &self.input {
            Input::Several(_, several) => {
                let words = self.source.words.as_ref().map(|(yes, no)| (yes.as_str(), no.as_str()));
                let holds_several = self.source.holds_several();
                several.put_together(raw, self.blank, words, holds_several, &mut out.trail)
            }
            Input::MadeOf(_, pieces) => {
                let joined = join(pieces, raw.split(JOINT), &mut Trail::default());
                if !joined.is_empty() {
                    out.trail.took(Step::MadeOf, &joined, || {
                        "made of other fields, as the target wants it".into()
                    });
                }
                Ok(Put::Value(CellKind::Text, joined.into()))
            }
            _ => {
                let (kind, text) = CellKind::of(raw);
                Ok(Put::Value(kind, Cow::Borrowed(text)))
            }
        };
        match put {
            Err(fault) => out.faults.push(fault),
            Ok(Put::Codes(codes)) => self.conform_codes(codes, parent, encoder, out),
            Ok(Put::Values(values)) => {
                self.conform_text((CellKind::Text, group), values.into(), raw, parent, encoder, out)
            }
            Ok(Put::Value(kind, text)) => self.conform_text((kind, group), text, raw, parent, encoder, out),
        }
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
        let mut text = text;
        if !self.blank.is_empty() && !text.trim().is_empty() && is_blank(&text, self.blank) {
            out.trail.took(Step::Blank, "", || {
                format!("\"{}\" stands for a blank cell, as the mapping says", text.trim())
            });
            text = Cow::Borrowed("");
            cell.kind = CellKind::Text;
        }
        if let Some(part) = self.part.filter(|_| cell.kind != CellKind::Error && !text.trim().is_empty()) {
            match take_part(part, &text, &mut out.trail) {
                Ok(taken) => text = Cow::Owned(taken),
                Err(fault) => {
                    out.faults.push(fault);
                    return;
                }
            }
        }
        let cleaned = if text.contains(JOINT) && self.source.holds_several() {
            // Several values are cleaned one by one, by being looked up.
            text
        } else {
            match text {
                Cow::Borrowed(text) => text::clean(text, self.text, self.line_mark, &mut out.trail),
                Cow::Owned(text) => {
                    text::clean(&text, self.text, self.line_mark, &mut out.trail).into_owned().into()
                }
            }
        };
        let made_of_dates = matches!(self.input, Input::Several(..))
            && cell.kind == CellKind::Text
            && raw.contains(CellKind::Date.mark());
        if made_of_dates && !self.text.dates_as_iso {
            out.faults.push(turned_into_date(
                "the text as it was; if these are dates, write dates = \"iso\" for this field in the mapping",
            ));
        } else if cleaned.is_empty() {
            self.conform_blank(parent, encoder, out);
        } else {
            if matches!(self.field.kind, FieldType::Text { .. }) && no_value(&cleaned, cell.kind).is_none() {
                damage::notice(&cleaned, &mut out.remarks);
            }
            self.conform_cell(&cleaned, cell, &self.source, parent, encoder, out);
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
                out.trail.took(Step::IfBlank, fill, || {
                    "the source is blank, and the mapping says what to put there".into()
                });
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
        if let Some(line) = decided {
            match line.answer() {
                Answer::KeepOut => {
                    out.faults.push(code::kept_out(line));
                    return;
                }
                Answer::LeaveBlank => {
                    out.trail.took(Step::Crosswalk, "", || code::decided(line));
                    return self.conform_cell("", cell, &self.fixed, parent, encoder, out);
                }
                Answer::Means(value) if self.takes_values() => {
                    if value != text {
                        out.trail.took(Step::Crosswalk, value, || code::decided(line));
                    }
                    return self.conform_cell(value, Cell::default(), &self.fixed, parent, encoder, out);
                }
                Answer::Means(_) => {}
            }
        }
        let codes = if text.is_empty() {
            if self.field.required {
                out.faults.push(Fault::new(
                    Kind::RequiredBlank,
                    "is blank, and the field must be filled",
                    "fill it in the export, or write if_blank = \"…\" for this field in the mapping",
                ));
                return;
            }
            None
        } else {
            // What is no value may stand for one, if somebody has decided so.
            let lost = if readings.fixed || decided.is_some() { None } else { no_value(text, cell.kind) };
            match lost.map_or_else(|| self.convert(text, cell, readings, parent, out), Err) {
                Ok(codes) => codes,
                Err(fault) => {
                    out.faults.push(fault);
                    return;
                }
            }
        };
        if out.value != Value::Blank {
            check_limits(
                self.field,
                (self.not_before, self.not_after),
                &out.text,
                out.value,
                &mut out.faults,
            );
        }
        if out.faults.is_empty()
            && let Err(fault) = self.encode(codes.as_deref(), encoder, out)
        {
            out.faults.push(fault);
        }
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
        let inside = match parent {
            Parent::Code(code) => Some(code),
            Parent::None | Parent::Blank(_) => None,
        };
        readings.crosswalk.find(text, inside)
    }

    /// Whether a crosswalk says what a value means as the target writes it, and not by a code or a word.
    fn takes_values(&self) -> bool {
        !matches!(
            self.field.kind,
            FieldType::Code { .. } | FieldType::Codes { .. } | FieldType::Boolean { .. }
        )
    }

    /// The values that a crosswalk puts into the field must be what the dictionary allows.
    pub(super) fn check_crosswalk(
        &self,
        encoder: &mut UploadEncoder<'_>,
        problems: &mut Problems,
        file: &str,
    ) {
        if !self.takes_values() {
            return;
        }
        for line in self.source.crosswalk.lines() {
            let Answer::Means(value) = line.answer() else { continue };
            let mut outcome = Outcome::default();
            self.conform_fixed(value, Parent::None, encoder, &mut outcome);
            for fault in &outcome.faults {
                let says = format!("\"{}\" for \"{}\" {}", value, line.value, fault.wrong);
                let problem = problems.at(file, None, says);
                if !fault.right.is_empty() {
                    problem.hint(format!("right would be: {}", fault.right));
                }
            }
        }
    }

    /// Converts by type. Several codes are given back one by one.
    fn convert<'a>(
        &'a self,
        text: &str,
        cell: Cell,
        readings: &'a Readings<'_>,
        parent: Parent<'_>,
        out: &mut Outcome,
    ) -> Result<Option<Vec<&'a str>>, Fault> {
        let trail = &mut out.trail;
        match &self.field.kind {
            FieldType::Text { digits, .. } => {
                if cell.kind == CellKind::Date && !self.text.dates_as_iso {
                    return Err(turned_into_date(
                        "the text as it was; if these are dates, write dates = \"iso\" for this field in the mapping",
                    ));
                }
                if !readings.fixed
                    && !self.text.keep_rounded
                    && let Some(lost) = digits::lost(cell.kind, text)
                {
                    if lost.kind.severity() == Severity::Reject {
                        return Err(lost);
                    }
                    out.remarks.push(lost);
                }
                match digits {
                    Some(digits) => digits::restore(text, *digits, trail, &mut out.text)?,
                    None if !readings.fixed && text.contains("E+") && digits::is_power_of_ten(text) => {
                        return Err(digits::power_of_ten());
                    }
                    None => out.text.push_str(text),
                }
                out.value = Value::Text;
            }
            FieldType::Number { .. } => {
                if matches!(cell.kind, CellKind::Date | CellKind::Duration) {
                    return Err(turned_into_date("the number as it was"));
                }
                let text = if readings.fixed { text } else { digits::apostrophe(text, trail) };
                // A typed number has no marks that could be misread.
                let typed = NumberReading {
                    decimal_mark: Some('.'),
                    thousands_mark: None,
                    proven: false,
                    ..readings.number
                };
                let reading = if cell.kind == CellKind::Number { &typed } else { &readings.number };
                let (text, number) = number::conform(text, reading, &self.wanted_of(readings), trail)?;
                out.text = text;
                out.value = Value::Number(number);
            }
            FieldType::Date { month_format, year_format, .. }
                if cell.kind == CellKind::Text
                    && (month_format.is_some() || year_format.is_some())
                    && let Some(part) = date::PartOfDate::read(text) =>
            {
                let formats = (month_format.as_ref(), year_format.as_ref());
                date::conform_part(
                    part,
                    text,
                    formats,
                    (self.not_before, self.not_after),
                    trail,
                    &mut out.text,
                )?;
                out.value = Value::Text;
            }
            FieldType::Date { holds, format, also_formats, zone, .. } => {
                let reading = date::Given {
                    reading: &readings.date,
                    proven: readings.date_proven,
                    open: readings.date_open,
                    cell,
                    zone: zone.as_ref(),
                    signs: Default::default(),
                };
                let value =
                    date::conform(text, &reading, *holds, (format, also_formats), trail, &mut out.text);
                if !readings.fixed {
                    out.signs = reading.signs.get();
                }
                out.value = value?;
            }
            FieldType::Boolean { yes, no } if readings.holds.is_some() => {
                let holds = readings.holds.unwrap_or_default();
                let wanted = fold(holds);
                let value = readings.values(text).into_iter().any(|value| fold(value) == wanted);
                let word = if value { yes } else { no };
                trail.took(Step::Boolean, word, || {
                    format!("\"{holds}\" is {}among the values", if value { "" } else { "not " })
                });
                out.text.push_str(word);
                out.value = Value::Boolean(value);
            }
            FieldType::Boolean { yes, no } => {
                let by_crosswalk = readings.crosswalk.find(text, None);
                let text = match by_crosswalk {
                    Some(line) if line.code != text => {
                        trail.took(Step::Crosswalk, &line.code, || code::decided(line));
                        line.code.as_str()
                    }
                    Some(line) => line.code.as_str(),
                    None => text,
                };
                // A crosswalk, a constant and a default speak in the target's words and no others.
                let only = match &readings.words {
                    _ if readings.fixed || by_crosswalk.is_some() => Some((yes.as_str(), no.as_str())),
                    // A typed value needs no words to be understood.
                    _ if cell.kind == CellKind::Boolean => Some(("TRUE", "FALSE")),
                    words => words.as_ref().map(|(yes, no)| (yes.as_str(), no.as_str())),
                };
                let (word, value) = boolean::conform(text, only, (yes, no), trail)?;
                out.text.push_str(word);
                out.value = Value::Boolean(value);
            }
            FieldType::Code { list, .. } => {
                let reading = self.codes(list, readings);
                match reading.conform(text, cell.kind, parent, trail) {
                    Ok(code) => out.text.push_str(code),
                    Err(fault) => {
                        let kept = self.unmatched(text, fault, &mut out.remarks)?;
                        if kept.is_empty() {
                            return Ok(None);
                        }
                        out.text.push_str(kept);
                    }
                }
                out.value = Value::Text;
            }
            FieldType::File { files, endings, max_bytes } => {
                let (name, size) = files.find(text).ok_or_else(|| {
                    let wrong = format!("is no file in {}", files.folder.display());
                    Fault::new(
                        Kind::FileMissing,
                        wrong,
                        "the name of a file that is there, or the file itself put there",
                    )
                })?;
                let ending = name.rsplit_once('.').map_or(String::new(), |(_, ending)| ending.to_lowercase());
                if !endings.is_empty() && !endings.contains(&ending) {
                    let wrong = format!("ends in \"{ending}\", and the target takes {}", endings.join(", "));
                    return Err(Fault::new(
                        Kind::FileEnding,
                        wrong,
                        "the file in a form that the target takes",
                    ));
                }
                if let Some(most) = max_bytes.filter(|most| size > *most) {
                    let wrong = format!("has {size} bytes");
                    return Err(Fault::new(Kind::FileTooLarge, wrong, format!("{most} bytes or fewer")));
                }
                if name != text {
                    trail.took(Step::Code, name, || {
                        format!("the one file in {} that is called so", files.folder.display())
                    });
                }
                out.text.push_str(name);
                out.value = Value::Text;
            }
            FieldType::Reference { known } => {
                match known.find(text) {
                    Some((value, zeros)) => {
                        out.text.push_str(value);
                        if value != text {
                            let step = if zeros { Step::Digits } else { Step::Code };
                            trail.took(step, value, || {
                                let how = if zeros {
                                    "lost zeros put back"
                                } else {
                                    "case and spaces do not count"
                                };
                                format!("one value of {} in {}; {how}", known.column, known.file)
                            });
                        }
                    }
                    None => {
                        let fault = Fault::new(
                            Kind::UnknownReference,
                            format!(
                                "is not among the {} values of {} in {}",
                                known.len(),
                                known.column,
                                known.file
                            ),
                            "have it created in the target first, or correct it",
                        );
                        let kept = self.unmatched(text, fault, &mut out.remarks)?;
                        if kept.is_empty() {
                            return Ok(None);
                        }
                        out.text.push_str(kept);
                    }
                }
                out.value = Value::Text;
            }
            FieldType::Codes { list, layout } => {
                return self.convert_codes(text, list, layout, readings, out).map(Some);
            }
        }
        Ok(None)
    }

    /// What becomes of a value that nothing matches, as the description says: it is rejected, left
    /// blank or kept.
    fn unmatched<'t>(&self, text: &'t str, fault: Fault, remarks: &mut Vec<Fault>) -> Result<&'t str, Fault> {
        if !matches!(fault.kind, Kind::NotACode | Kind::UnknownReference) {
            return Err(fault);
        }
        let (kind, says, kept) = match self.field.unmatched {
            Unmatched::Reject => return Err(fault),
            Unmatched::Blank if self.field.required => return Err(fault),
            Unmatched::Blank => (Kind::LeftBlank, "; it is left blank, as the description says", ""),
            Unmatched::Keep => (Kind::KeptUnmatched, "; it is kept as it is, as the description says", text),
            Unmatched::Open => (Kind::NewTerm, "; the list is open, so it is sent as a new term", text),
        };
        remarks.push(Fault { kind, wrong: format!("{}{says}", fault.wrong), ..fault });
        Ok(kept)
    }

    fn wanted_of(&self, readings: &Readings<'_>) -> number::Wanted {
        // A constant and a default are in the target's own unit.
        let conversion = self.wanted.conversion.filter(|_| readings.number.unit.is_some());
        number::Wanted { conversion, ..self.wanted }
    }

    pub(super) fn codes<'a>(
        &'a self,
        list: &'a crate::target::CodeList,
        readings: &'a Readings<'_>,
    ) -> code::Reading<'a> {
        code::Reading { list, crosswalk: &readings.crosswalk, read_as: readings.read_as, today: self.today }
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
            encoder.column("", Bare::Never, "", self.alone, &mut out.encoded)?;
        }
        match &self.field.kind {
            FieldType::Codes { list, layout: CodesLayout::Spread { columns, yes, no } } => {
                for (code, heading) in list.codes().iter().zip(columns) {
                    let word = match codes {
                        None => "",
                        Some(codes) if codes.contains(&code.code.as_str()) => yes,
                        Some(_) => no,
                    };
                    encoder.column(heading, self.bare, word, self.alone, &mut out.encoded)?;
                }
            }
            FieldType::Codes { layout: CodesLayout::Numbered(columns), .. } => {
                let codes = codes.unwrap_or_default();
                for (place, heading) in columns.iter().enumerate() {
                    let code = codes.get(place).copied().unwrap_or_default();
                    encoder.column(heading, self.bare, code, self.alone, &mut out.encoded)?;
                }
            }
            _ => encoder.column(self.field.heading(), self.bare, &out.text, self.alone, &mut out.encoded)?,
        }
        for _ in 0..self.blanks_behind {
            encoder.column("", Bare::Never, "", self.alone, &mut out.encoded)?;
        }
        Ok(())
    }
}

fn turned_into_date(right: &str) -> Fault {
    Fault::new(
        Kind::TurnedIntoDate,
        "is a typed date in the workbook, and what it was before is not certain",
        right,
    )
}

/// What the source has for a raw value: a cell that is filled from above is blank.
pub(crate) fn shown_source(raw: &str) -> String {
    if group_of(raw).1.starts_with(FROM_ABOVE) { String::new() } else { shown_raw(raw) }
}

/// A raw value as a steward sees it: the parts of a join with a plus between them.
pub(crate) fn shown_raw(raw: &str) -> String {
    without_marks(raw).replace(JOINT, " + ")
}

/// Why a text is no value: an error of a spreadsheet program, or a character that was lost.
fn no_value(text: &str, kind: CellKind) -> Option<Fault> {
    if kind.holds_error(text) {
        return Some(error_cell());
    }
    text.contains('\u{fffd}').then(|| {
        Fault::new(
            Kind::LostCharacter,
            "has lost a character (shown as \u{fffd})",
            "the value as it was; check the encoding, or export again",
        )
    })
}
