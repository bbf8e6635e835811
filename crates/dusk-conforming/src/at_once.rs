//! Values that are told at once: most cells of most columns are what the target wants as they stand, or dates in an
//! order that is known. All others go the long way, which comes to the same and says what was done.

use super::byte_classes::{ByteClasses, has_plain_letters_only};
use super::date::DateAtOnce;
use super::outcome::Outcome;
use super::plan::{FieldPlan, Input};
use crate::check_limits;
use dusk_description::{FieldType, NumberType, PlainLayout, TextType, UploadEncoder};
use dusk_inspecting::digits_lost;
use dusk_sources::CellKind;
use dusk_values::{Decimal, Value};
use regex::Regex;

/// Which values of a field can be told at once.
#[derive(Debug)]
pub(crate) enum AtOnce {
    /// None.
    None,
    /// Texts in which nothing is to be cleaned or noticed, with no more bytes than this and of this form.
    Texts(usize, Option<Regex>),
    /// So many digits, whose zeros in front may have been lost.
    Digits(usize),
    /// Plain numbers with no more decimals than this, from the least to the most.
    Numbers { decimals: u32, least: Option<Decimal>, most: Option<Decimal> },
    /// Dates of numbers, in a known order.
    Dates(DateAtOnce),
}

impl AtOnce {
    /// Of a field: none where a decision of the mapping or a crosswalk may be about any value.
    pub(crate) fn of(plan: &FieldPlan<'_>) -> Self {
        let is_decided = plan.field.never_send
            || plan.field.only_part
            || plan.parent.is_some()
            || !plan.values.decided.lines().is_empty()
            || plan.source.holds_several();
        match &plan.field.kind {
            _ if is_decided || !plan.cells_are_values => Self::None,
            FieldType::Text(TextType { digits: Some(digits), pattern: None, .. }) => Self::Digits(*digits),
            FieldType::Text(TextType { digits: None, max_length, pattern }) => {
                let pattern = pattern.as_ref().map(|(regex, _)| regex.clone());
                Self::Texts(max_length.unwrap_or(usize::MAX), pattern)
            }
            FieldType::Number(NumberType { min, max, .. }) if takes_plain_numbers(plan) => {
                Self::Numbers { decimals: decimals_at_once(plan), least: *min, most: *max }
            }
            FieldType::Date(kind) => DateAtOnce::of(kind, &plan.source).map_or(Self::None, Self::Dates),
            _ => Self::None,
        }
    }

    /// What a clean text means, where it is what the target wants as it stands.
    #[inline]
    fn value_as_it_stands(&self, text: &str) -> Option<Value> {
        match self {
            Self::Texts(most, pattern) => {
                let fits =
                    text.len() <= *most && pattern.as_ref().is_none_or(|pattern| pattern.is_match(text));
                (fits && is_plain_text(text)).then_some(Value::Text)
            }
            Self::Numbers { decimals, least, most } => {
                let number = Decimal::canonical(text, *decimals)?;
                let fits =
                    least.is_none_or(|least| least <= number) && most.is_none_or(|most| number <= most);
                fits.then_some(Value::Number(number))
            }
            _ => None,
        }
    }

    /// Whether these values stay as they are, so that remembering them saves nothing.
    #[inline]
    pub(crate) fn is_as_it_stands(&self) -> bool {
        matches!(self, Self::Texts(..) | Self::Numbers { .. })
    }
}

/// Whether a plain number can mean that number only.
fn takes_plain_numbers(plan: &FieldPlan<'_>) -> bool {
    !plan.source.number.units_in_cells
        && plan.values.wanted.conversion.is_none()
        && !plan.source.unit_open
        && !plan.reads_percents
}

/// How many decimals a number may have that is told at once: none where nobody says that a point stands before them.
fn decimals_at_once(plan: &FieldPlan<'_>) -> u32 {
    if plan.source.number.decimal_mark == Some('.') { plan.values.wanted.decimals } else { 0 }
}

/// Whether a cell in which nothing is to be cleaned is the value that is converted.
pub(crate) fn cells_are_values(plan: &FieldPlan<'_>) -> bool {
    matches!(plan.input, Input::Column(_))
        && plan.is_plain()
        && plan.part.is_none()
        && plan.blank.is_empty()
        && plan.line_mark.is_none()
        && !plan.values.text.straight_quotes
}

/// How the values of a field get into the upload file where nothing is in the way.
#[derive(Debug, Clone)]
pub(crate) struct Written {
    classes: ByteClasses,
    layout: Option<PlainLayout>,
}

impl Written {
    /// Of an upload. `alone` says that the field shares its row with nothing, not even with a blank column.
    pub(crate) fn into(layout: Option<PlainLayout>, has_blanks_or_is_alone: bool) -> Self {
        let layout = layout.filter(|_| !has_blanks_or_is_alone);
        Self { classes: ByteClasses::of(layout), layout }
    }
}

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

/// Whether a text whose bytes ask for this needs no cleaning.
#[inline]
fn is_clean(class: u8, text: &str) -> bool {
    class & ByteClasses::ODD == 0 && (class & ByteClasses::HIGH == 0 || has_plain_letters_only(text))
}

/// Whether a clean text is no word for an error, and no number that lost digits: for both it begins or ends with a
/// digit.
#[inline]
fn is_plain_text(text: &str) -> bool {
    let bytes = text.as_bytes();
    let may_be_error = bytes.last().is_some_and(u8::is_ascii_digit) && bytes.contains(&b':');
    let may_have_lost = bytes.len() > 15 && bytes.first().is_some_and(u8::is_ascii_digit);
    let is_damaged = may_be_error && CellKind::Text.holds_error(text)
        || may_have_lost && digits_lost(CellKind::Text, text).is_some();
    !is_damaged
}
