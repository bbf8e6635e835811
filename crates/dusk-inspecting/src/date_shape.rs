//! The outer shape of a written date. Values that a program converted and values that it left
//! alone mostly differ in it, so that no shape may prove anything about another.

use std::fmt;

use dusk_sources::CellKind;
use dusk_values::WrittenDate;

/// How day and month of one digit are written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) enum Padding {
    /// With a zero in front: 03/04.
    Padded,
    /// Without: 3/4.
    Bare,
    /// Both have two digits anyway: 12/11.
    Either,
}

/// The outer shape of a written date.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct DateShape {
    pub(crate) typed: bool,
    pub(crate) quoted: bool,
    pub(crate) year_first: bool,
    pub(crate) separator: char,
    pub(crate) year_digits: u8,
    pub(crate) padding: Padding,
    pub(crate) time: bool,
}

impl DateShape {
    /// The shape of a date of three numbers; nothing for one with a month's name.
    pub fn of(kind: CellKind, quoted: bool, text: &str, written: WrittenDate) -> Option<Self> {
        let WrittenDate::Numbers(parts) = written else { return None };
        let year_first = matches!(parts, [(_, 4), ..]);
        let [a, b, c] = parts;
        let (others, year) = if year_first { ([b, c], a) } else { ([a, b], c) };
        let padding = if others.iter().any(|(_, width)| *width == 1) {
            Padding::Bare
        } else if others.iter().any(|(value, _)| *value < 10) {
            Padding::Padded
        } else {
            Padding::Either
        };
        let typed = kind == CellKind::Date;
        Some(Self {
            typed,
            quoted,
            year_first,
            separator: text.trim().chars().find(|c| !c.is_ascii_digit()).unwrap_or('-'),
            year_digits: if year.1 == 4 { 4 } else { 2 },
            // A program writes typed cells and ISO dates always alike.
            padding: if typed { Padding::Padded } else { padding },
            time: text.contains(':') && !typed,
        })
    }

    /// True when both shapes differ in the zeros only.
    pub(crate) fn is_sibling(self, other: Self) -> bool {
        Self { padding: other.padding, ..self } == other
    }

    /// The words by which the mapping names the shape: `typed`, or a date of nines with zeros
    /// where there are any (`09/09/9999`), or of twelves where every part has two digits.
    pub fn word(self) -> String {
        if self.typed {
            return "typed".into();
        }
        let part = match self.padding {
            Padding::Padded => "09",
            Padding::Bare => "9",
            Padding::Either => "12",
        };
        let year = if self.year_digits == 4 { "9999" } else { "99" };
        let separator = self.separator;
        let day = match self.year_first {
            true => format!("{year}{separator}{part}{separator}{part}"),
            false => format!("{part}{separator}{part}{separator}{year}"),
        };
        if self.time { format!("{day} 09:09") } else { day }
    }

    /// The shape that the mapping names with these words.
    pub fn named(word: &str) -> Option<Self> {
        if word == "typed" {
            let typed = Self {
                typed: true,
                quoted: false,
                year_first: true,
                separator: '-',
                year_digits: 4,
                padding: Padding::Padded,
                time: false,
            };
            return Some(typed);
        }
        let (written, _) = WrittenDate::read(word)?;
        let shape = Self::of(CellKind::Text, false, word, written).filter(|shape| shape.word() == word)?;
        Some(shape)
    }

    /// Whether a value whose zeros say nothing is of one of the shapes, zeros apart.
    pub fn is_like_some(self, mut shapes: impl Iterator<Item = Self>) -> bool {
        let plain = Self { quoted: false, ..self };
        self.padding == Padding::Either
            && shapes.any(|shape| shape.padding != Padding::Either && shape.is_sibling(plain))
    }

    /// True when a value of this shape has one reading whatever happened to it.
    pub fn year_first_or_certain(self, written: WrittenDate) -> bool {
        let WrittenDate::Numbers([a, b, c]) = written else { return true };
        let (one, other) = if self.year_first { (b.0, c.0) } else { (a.0, b.0) };
        one > 12 || other > 12 || one == other
    }

    /// Whether a value of the shape `value` is of this shape, which the mapping names.
    pub fn covers(self, value: Self) -> bool {
        let value = Self { quoted: false, ..value };
        self == value || self.typed && value.typed
    }
}

impl fmt::Display for DateShape {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.word())?;
        if self.quoted { f.write_str(" in quotes") } else { Ok(()) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn shapes_have_words_that_name_them_again() {
        for (text, word) in [
            ("3/4/2026", "9/9/9999"),
            ("25/3/2026", "9/9/9999"),
            ("25/03/2026", "09/09/9999"),
            ("25.12.26", "12.12.99"),
            ("2026-03-04", "9999-09-09"),
            ("2026-11-12 10:00", "9999-12-12 09:09"),
        ] {
            let (written, _) = WrittenDate::read(text).unwrap();
            let shape = DateShape::of(CellKind::Text, false, text, written).unwrap();
            assert_eq!(shape.word(), word);
            assert!(DateShape::named(word).unwrap_or_else(|| panic!("{word}")).covers(shape), "{word}");
        }
        assert_eq!(DateShape::named("typed").unwrap().word(), "typed");
        assert!(DateShape::named("soon").is_none());
    }
}
