//! Values that are told at once: most cells of most columns are what the target wants as they stand, or dates in an
//! order that is known. All others go the long way, which comes to the same and says what was done.

use super::byte_classes::ByteClasses;
use super::date_at_once::DateAtOnce;
use dusk_description::PlainLayout;
use dusk_inspecting::{digits_lost, has_plain_letters_only};
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
    /// What a clean text means, where it is what the target wants as it stands.
    #[inline]
    pub(super) fn value_as_it_stands(&self, text: &str) -> Option<Value> {
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

/// How the values of a field get into the upload file where nothing is in the way.
#[derive(Debug, Clone)]
pub(crate) struct Written {
    pub(super) classes: ByteClasses,
    pub(super) layout: Option<PlainLayout>,
}

impl Written {
    /// Of an upload. What is alone in its row, or stands beside blank columns, is never written so.
    pub(crate) fn of(layout: Option<PlainLayout>, has_blanks_or_is_alone: bool) -> Self {
        let layout = layout.filter(|_| !has_blanks_or_is_alone);
        Self { classes: ByteClasses::of(layout), layout }
    }
}

/// Whether a text whose bytes ask for this needs no cleaning.
#[inline]
pub(super) fn is_clean(class: u8, text: &str) -> bool {
    class & ByteClasses::ODD == 0 && (class & ByteClasses::HIGH == 0 || has_plain_letters_only(text))
}

/// Whether a clean text is no word for an error, and no number that lost digits: for both it begins or ends with a
/// digit.
#[inline]
pub(super) fn is_plain_text(text: &str) -> bool {
    let bytes = text.as_bytes();
    let may_be_error = bytes.last().is_some_and(u8::is_ascii_digit) && bytes.contains(&b':');
    let may_have_lost = bytes.len() > 15 && bytes.first().is_some_and(u8::is_ascii_digit);
    let is_damaged = may_be_error && CellKind::Text.holds_error(text)
        || may_have_lost && digits_lost(CellKind::Text, text).is_some();
    !is_damaged
}
