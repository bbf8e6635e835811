//! What a value becomes in a field, by the field's type.

use super::date_part::PartOfDate;
use super::outcome::{Cell, Outcome, Readings};
use super::plan::FieldPlan;
use super::several::error_cell;
use super::{Parent, Step, boolean, code, date, date_part, digits, number};
use dusk_description::{FieldType, Unmatched, fold};
use dusk_evidence::{Before, CodeFact, Fact, Fate, Fault, Kind, Severity, TextFact};
use dusk_mapping::NumberReading;
use dusk_sources::CellKind;
use dusk_values::Value;

impl FieldPlan<'_> {
    /// Converts by type. Several codes are given back one by one.
    pub(super) fn convert<'a>(
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
                    return Err(Fault::new(TextFact::TurnedIntoDate(Before::Text)));
                }
                if !readings.fixed
                    && !self.text.keep_rounded
                    && let Some(lost) = dusk_inspecting::digits_lost(cell.kind, text)
                {
                    if lost.kind().severity() == Severity::Reject {
                        return Err(lost);
                    }
                    out.remarks.push(lost);
                }
                match digits {
                    Some(digits) => digits::restore(text, *digits, trail, &mut out.text)?,
                    None if !readings.fixed
                        && text.contains("E+")
                        && dusk_inspecting::is_power_of_ten(text) =>
                    {
                        return Err(dusk_inspecting::power_of_ten());
                    }
                    None => out.text.push_str(text),
                }
                out.value = Value::Text;
            }
            FieldType::Number { .. } => {
                if matches!(cell.kind, CellKind::Date | CellKind::Duration) {
                    return Err(Fault::new(TextFact::TurnedIntoDate(Before::Number)));
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
                    && let Some(part) = PartOfDate::read(text) =>
            {
                let formats = (month_format.as_ref(), year_format.as_ref());
                date_part::conform(
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
            FieldType::Boolean { yes, no } if readings.true_where.is_some() => {
                let wanted_value = readings.true_where.unwrap_or_default();
                let wanted = fold(wanted_value);
                let value = readings.values(text).into_iter().any(|value| fold(value) == wanted);
                let word = if value { yes } else { no };
                trail.took(Step::Boolean, word, || {
                    format!("\"{wanted_value}\" is {}among the values", if value { "" } else { "not " })
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
                    Fault::new(CodeFact::FileMissing { folder: files.folder.display().to_string() })
                })?;
                let ending = name.rsplit_once('.').map_or(String::new(), |(_, ending)| ending.to_lowercase());
                if !endings.is_empty() && !endings.contains(&ending) {
                    return Err(Fault::new(CodeFact::FileEnding { ending, taken: endings.clone() }));
                }
                if let Some(most) = max_bytes.filter(|most| size > *most) {
                    return Err(Fault::new(CodeFact::FileTooLarge { bytes: size, most }));
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
                        let fault = Fault::new(CodeFact::UnknownReference {
                            file: known.file.clone(),
                            column: known.column.clone(),
                            values: known.len(),
                        });
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
        if !matches!(fault.kind(), Kind::NotACode | Kind::UnknownReference) {
            return Err(fault);
        }
        let (fate, kept) = match self.field.unmatched {
            Unmatched::Reject => return Err(fault),
            Unmatched::Blank if self.field.required => return Err(fault),
            Unmatched::Blank => (Fate::LeftBlank, ""),
            Unmatched::Keep => (Fate::Kept, text),
            Unmatched::Open => (Fate::NewTerm, text),
        };
        remarks.push(Fault { fact: Box::new(Fact::Unmatched { fate, fact: fault.fact }), ..fault });
        Ok(kept)
    }

    fn wanted_of(&self, readings: &Readings<'_>) -> number::Wanted {
        // A constant and a default are in the target's own unit.
        let conversion = self.wanted.conversion.filter(|_| readings.number.unit.is_some());
        number::Wanted { conversion, ..self.wanted }
    }

    pub(super) fn codes<'a>(
        &'a self,
        list: &'a dusk_description::CodeList,
        readings: &'a Readings<'_>,
    ) -> code::Reading<'a> {
        code::Reading { list, crosswalk: &readings.crosswalk, read_as: readings.read_as, today: self.today }
    }
}

/// Why a text is no value: an error of a spreadsheet program, or a character that was lost.
pub(super) fn no_value(text: &str, kind: CellKind) -> Option<Fault> {
    if kind.holds_error(text) {
        return Some(error_cell());
    }
    text.contains('\u{fffd}').then(|| Fault::new(TextFact::LostCharacter))
}
