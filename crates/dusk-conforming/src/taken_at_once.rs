//! A value taken at once: looked at byte by byte, and put into the record or its outcome.

use super::at_once::{AtOnce, is_clean, is_plain_text};
use super::byte_classes::ByteClasses;
use super::outcome::Outcome;
use super::plan::FieldPlan;
use crate::check_limits;
use dusk_description::UploadEncoder;
use dusk_inspecting::has_plain_letters_only;
use dusk_values::Value;

impl FieldPlan<'_> {
    /// Whether nothing in a text is to be cleaned or noticed.
    #[inline]
    pub(super) fn needs_nothing(&self, text: &str) -> bool {
        is_clean(self.written.classes.in_text(text.as_bytes()), text)
    }

    /// Puts a cell into the record with the delimiter behind it, where it is what the target wants as it stands and
    /// needs no quotes; gives its value. Nothing, and nothing is put there, where that takes a closer look.
    #[inline]
    pub(super) fn stands(&self, cell: &str, record: &mut Vec<u8>) -> Option<Value> {
        if !self.at_once.is_as_it_stands() {
            return None;
        }
        let layout = self.written.layout?;
        if cell.is_empty() {
            let is_left_blank = !self.field.required && self.if_blank.is_none();
            is_left_blank.then(|| record.push(layout.delimiter))?;
            return Some(Value::Blank);
        }
        let class = self.written.classes.in_text(cell.as_bytes());
        let fits =
            class == 0 || class == ByteClasses::HIGH && layout.is_utf_8 && has_plain_letters_only(cell);
        let value = if fits { self.at_once.value_as_it_stands(cell)? } else { return None };
        record.reserve(cell.len() + 1);
        record.extend_from_slice(cell.as_bytes());
        record.push(layout.delimiter);
        Some(value)
    }

    /// Takes a raw value, where what becomes of it can be told at once; false where that is to be found out the long
    /// way, and then nothing is said of it.
    #[inline]
    pub(super) fn takes_at_once(
        &self,
        raw: &str,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) -> bool {
        if matches!(self.at_once, AtOnce::None) {
            return false;
        }
        out.clear();
        if raw.is_empty() {
            let is_left_blank = !self.field.required && self.if_blank.is_none();
            return is_left_blank && self.encode(None, encoder, out).is_ok();
        }
        let class = self.written.classes.in_text(raw.as_bytes());
        if !is_clean(class, raw) {
            return false;
        }
        let value = match &self.at_once {
            AtOnce::None => None,
            AtOnce::Texts(..) | AtOnce::Numbers { .. } => self.at_once.value_as_it_stands(raw),
            AtOnce::Digits(digits) => return self.takes_digits(raw, *digits, encoder, out),
            AtOnce::Dates(dates) => {
                let Some(value) = dates.take(raw, out) else { return false };
                out.value = value;
                let text = std::mem::take(&mut out.text);
                let fits = self.is_within_limits(&text, value, out);
                out.text = text;
                // What the upload file cannot hold is said the long way.
                return fits && self.write_figures(encoder, out);
            }
        };
        let Some(value) = value else { return false };
        out.text.push_str(raw);
        out.value = value;
        match self.written.layout {
            Some(layout) if class == 0 || class == ByteClasses::HIGH && layout.is_utf_8 => {
                out.encoded.extend_from_slice(raw.as_bytes());
                out.encoded.push(layout.delimiter);
                true
            }
            _ => self.encode(None, encoder, out).is_ok(),
        }
    }

    /// Puts lost zeros back in front of digits.
    fn takes_digits(
        &self,
        raw: &str,
        digits: usize,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) -> bool {
        if out.trail.keeps() || raw.len() > digits || !dusk_values::is_digits(raw) || !is_plain_text(raw) {
            return false;
        }
        if raw.len() < digits {
            (raw.len()..digits).for_each(|_| out.text.push('0'));
            out.trail.changed_somehow();
        }
        out.text.push_str(raw);
        out.value = Value::Text;
        self.write_figures(encoder, out)
    }

    /// Writes figures, as dates have them, which hardly ever need quotes; false where the upload file cannot hold them.
    fn write_figures(&self, encoder: &mut UploadEncoder<'_>, out: &mut Outcome) -> bool {
        let class = self.written.classes.in_text(out.text.as_bytes());
        match self.written.layout {
            Some(layout) if class == 0 => {
                out.encoded.extend_from_slice(out.text.as_bytes());
                out.encoded.push(layout.delimiter);
                true
            }
            _ => self.encode(None, encoder, out).is_ok(),
        }
    }

    /// Whether a value is within the limits of the dictionary; where it is not, that is said the long way.
    fn is_within_limits(&self, text: &str, value: Value, out: &mut Outcome) -> bool {
        let days = (self.values.not_before, self.values.not_after);
        check_limits(self.field, days, text, value, &mut out.faults);
        out.faults.is_empty()
    }
}
