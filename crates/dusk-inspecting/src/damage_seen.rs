//! What has happened to the values of a column, as far as each value shows it by itself.

use serde::Serialize;

use super::byte_kinds::Bytes;
use super::lost_digits::{has_lost_digits, is_power_of_ten, whole_power};
use super::plain_letters::has_plain_letters_only;
use super::text_damage::{looks_decoded_wrongly, notice_text, undo_wrong_decoding};
use dusk_evidence::{Example, Kind};
use dusk_sources::CellKind;
use dusk_values::{Invisible, MONTHS, WrittenDate, is_curly_quote, is_odd_space, named_character};

macro_rules! damages {
    ($($(#[doc = $doc:literal])* $name:ident = $code:literal, $what:literal, $mends:literal;)*) => {
        /// A kind of damage to values, or something to know about them.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize)]
        #[serde(rename_all = "kebab-case")]
        pub enum Damage {
            $($(#[doc = $doc])* $name,)*
        }

        impl Damage {
            /// Every kind.
            pub const ALL: &'static [Self] = &[$(Self::$name,)*];

            /// What it is called in results for programs.
            pub fn code(self) -> &'static str {
                match self { $(Self::$name => $code,)* }
            }

            /// What the values have in common, in a few words.
            pub fn what(self) -> &'static str {
                match self { $(Self::$name => $what,)* }
            }

            /// What becomes of it.
            pub fn mends(self) -> &'static str {
                match self { $(Self::$name => $mends,)* }
            }
        }
    };
}

damages! {
    /// Characters were replaced by U+FFFD.
    LostCharacter = "lost-character", "lost characters (\u{fffd})", "lost for good; such rows are rejected";
    /// A question mark stands inside a word.
    QuestionMark = "question-mark", "question marks inside words", "letters lost for good; only said";
    /// The text is UTF-8 that was read as something else, and the way back is exact.
    WrongDecoding = "wrong-decoding", "decoded wrongly once", "undone, since the way back is exact";
    /// The same, but the way back is not exact.
    DecodedWrongly = "decoded-wrongly", "decoded wrongly once, in part", "cannot be undone exactly; only said";
    /// White space stands before or after the value.
    EdgeSpace = "edge-space", "spaces at the ends", "taken away (trim)";
    /// A no-break or other odd space.
    OddSpace = "odd-space", "no-break and odd spaces", "made ordinary (spaces)";
    /// Characters that nobody sees.
    Hidden = "hidden", "hidden characters", "taken away (hidden)";
    /// Control characters.
    Control = "control", "control characters", "only said";
    /// Line breaks.
    LineBreak = "line-break", "line breaks in the cell", "kept, or made spaces (line_breaks)";
    /// Letters with separate accents.
    Decomposed = "decomposed", "letters with separate accents", "put together (letters)";
    /// Curly quotes.
    CurlyQuote = "curly-quote", "curly quotes", "kept, or made straight (quotes)";
    /// Look-alike letters of two alphabets.
    MixedAlphabets = "mixed-alphabets", "words with letters of two alphabets", "only said";
    /// A power of ten.
    PowerOfTen = "power-of-ten", "powers of ten", "digits lost for good; such rows are rejected";
    /// More than 15 digits with zeros at the end.
    DigitsLost = "digits-lost", "digits lost behind the 15th", "lost for good; rejected, or said of the 16th";
    /// A whole number with ".0".
    StrayDecimal = "stray-decimal", "whole numbers with .0", "taken away where whole numbers or digits are wanted";
    /// An apostrophe in front of a number.
    Apostrophe = "apostrophe", "an apostrophe in front", "taken away from numbers";
    /// A day and a month, as spreadsheet programs make of codes.
    DayMonth = "day-month", "a day and a month only, as codes become", "restored where a code list leaves one reading";
    /// An error of the spreadsheet program.
    ErrorCell = "error-cell", "errors of the spreadsheet program", "such rows are rejected";
}

/// The name of the first of the characters that are wanted.
fn names_of(raw: &str, wanted: &dyn Fn(char) -> bool) -> String {
    raw.chars().find(|c| wanted(*c)).map(named_character).unwrap_or_default()
}

impl Damage {
    /// What a value shows that is made of these bytes, each with words about it, as the names of characters.
    pub(super) fn of(kind: CellKind, raw: &str, bytes: Bytes, mut found: impl FnMut(Self, String)) {
        let value = raw.trim();
        if value.len() != raw.len() {
            found(Self::EdgeSpace, String::new());
        }
        if kind.holds_error(value) {
            found(Self::ErrorCell, String::new());
            return;
        }
        if bytes.has(Bytes::CONTROL) {
            if value.contains(['\n', '\r']) {
                found(Self::LineBreak, String::new());
            }
            let control = |c: char| c.is_control() && !matches!(c, '\n' | '\r');
            if value.contains(control) {
                found(Self::Control, names_of(value, &control));
            }
        }
        if bytes.has(Bytes::DIGIT) {
            Self::of_digits(kind, value, &mut found);
        }
        if !bytes.has(Bytes::HIGH) {
            if bytes.has(Bytes::QUESTION) && notice_text(value).contains(&Kind::QuestionMark) {
                found(Self::QuestionMark, String::new());
            }
        } else if bytes.has(Bytes::QUESTION) || raw.contains(is_curly_quote) || !has_plain_letters_only(raw) {
            Self::of_letters(raw, &mut found);
        }
    }

    /// What letters that are not plain Latin show.
    fn of_letters(raw: &str, found: &mut impl FnMut(Self, String)) {
        let value = raw.trim();
        if value.contains('\u{fffd}') {
            found(Self::LostCharacter, String::new());
        }
        match undo_wrong_decoding(value) {
            Some((before, encoding)) => {
                found(Self::WrongDecoding, format!("\"{before}\" read as {encoding}"))
            }
            None if looks_decoded_wrongly(value) => found(Self::DecodedWrongly, String::new()),
            None => {}
        }
        Self::of_characters(raw, found);
        for kind in notice_text(value) {
            match kind {
                Kind::QuestionMark => found(Self::QuestionMark, String::new()),
                Kind::MixedAlphabets => found(Self::MixedAlphabets, String::new()),
                _ => {}
            }
        }
    }

    fn of_digits(kind: CellKind, value: &str, found: &mut impl FnMut(Self, String)) {
        if value.contains("E+") && is_power_of_ten(value) && whole_power(value).is_none() {
            found(Self::PowerOfTen, String::new());
        }
        if value.len() > 15 && has_lost_digits(kind, value) {
            found(Self::DigitsLost, String::new());
        }
        if value.strip_suffix(".0").is_some_and(|whole| whole.bytes().all(|byte| byte.is_ascii_digit())) {
            found(Self::StrayDecimal, String::new());
        }
        if value.starts_with(['\'', '’']) {
            found(Self::Apostrophe, String::new());
        }
        if is_day_and_month(value) {
            found(Self::DayMonth, String::new());
        }
    }

    /// Characters that become others, or go away.
    fn of_characters(raw: &str, found: &mut impl FnMut(Self, String)) {
        // What is taken away is told by the same lists as here, so that nothing is promised that is not done.
        let invisible = Invisible::in_text(raw);
        let seen: [(Self, &dyn Fn(char) -> bool); 4] = [
            (Self::OddSpace, &|c| is_odd_space(c) || c == '\u{3000}'),
            (Self::Hidden, &|c| invisible.hides(c)),
            (Self::CurlyQuote, &is_curly_quote),
            (Self::Decomposed, &|c| matches!(c, '\u{300}'..='\u{36f}')),
        ];
        for (damage, which) in seen {
            if raw.contains(which) {
                found(damage, names_of(raw, which));
            }
        }
    }
}

/// "5-Mar" or "Mar-05".
fn is_day_and_month(value: &str) -> bool {
    let Some((a, b)) = value.split_once('-') else { return false };
    let month = |text: &str| {
        text.len() == 3
            && MONTHS.iter().any(|name| name.get(..3).is_some_and(|short| short.eq_ignore_ascii_case(text)))
    };
    let number = |text: &str| (1..=2).contains(&text.len()) && text.bytes().all(|byte| byte.is_ascii_digit());
    (month(a) && number(b) || number(a) && month(b)) && WrittenDate::read(value).is_none()
}

/// Damage seen in a column.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct DamageSeen {
    /// Which kind.
    pub damage: Damage,
    /// How many values show it.
    pub count: u64,
    /// The first of them; what it reads tells more.
    pub first: Example,
    #[serde(skip)]
    pub(super) first_row: u64,
}
