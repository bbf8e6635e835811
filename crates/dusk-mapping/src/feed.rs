//! Where a field's value comes from: one column or several, put together or taken apart, another
//! file, or the mapping itself.

use std::sync::Arc;

use super::LookUp;
use dusk_files::{Piece, Template};

/// What stands for the repeat's own label in the headings of columns that repeat.
pub const NUMBER_MARK: &str = "{n}";

/// Where a field's value comes from.
#[derive(Debug, Clone)]
pub enum Feed {
    /// A column.
    Column(String),
    /// A column of numbers, and the one that names the unit of each.
    InUnits(String, String),
    /// The same text in every record, with asked values in braces.
    Constant(Template),
    /// Several columns, with text between them.
    Join(Template),
    /// The first of several columns that is not blank.
    FirstOf(Vec<String>),
    /// Several columns, those that are blank left out.
    Together(Vec<String>),
    /// A code for each column of true and false that says true.
    Flags(Vec<(String, String)>),
    /// A value of another file, found by columns of the source.
    LookUp(Arc<LookUp>),
    /// The label of the repeat that the record is of, where a row has several.
    Number,
}

impl Feed {
    /// The headings of the columns that feed it, in order.
    pub fn columns(&self) -> Vec<&str> {
        match self {
            Self::Column(name) => vec![name],
            Self::InUnits(name, unit) => vec![name, unit],
            Self::Join(template) => template.names().collect(),
            Self::FirstOf(names) | Self::Together(names) => names.iter().map(String::as_str).collect(),
            Self::Flags(flags) => flags.iter().map(|(name, _)| name.as_str()).collect(),
            Self::LookUp(look_up) => look_up.by.iter().map(|(name, _)| name.as_str()).collect(),
            Self::Constant(_) | Self::Number => Vec::new(),
        }
    }
}

/// Which part of a cell is taken, where a cell holds several: the reverse of a join.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Part {
    /// How the cell is put together, as `{town}, {region} {postcode:digits}`.
    pub written: String,
    /// Its pieces in order.
    pub pieces: Vec<PartPiece>,
    /// The part that is taken, by its place among the pieces.
    pub taken: usize,
}

/// One piece of a cell that holds several parts.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum PartPiece {
    /// Text between two parts.
    Text(String),
    /// A part: its name and what it may be made of.
    Part(String, MadeOf),
}

/// What a part of a cell may be made of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MadeOf {
    /// Anything.
    Anything,
    /// Digits only.
    Digits,
    /// Letters, digits and signs without white space.
    OneWord,
}

impl MadeOf {
    /// The words behind a part's name.
    pub const WORDS: [(&'static str, Self); 2] = [("digits", Self::Digits), ("word", Self::OneWord)];

    /// Whether a text is made of that.
    pub fn takes(self, text: &str) -> bool {
        match self {
            Self::Anything => true,
            Self::Digits => text.bytes().all(|byte| byte.is_ascii_digit()),
            Self::OneWord => !text.contains(char::is_whitespace),
        }
    }
}

impl PartPiece {
    /// One piece of a form: text, or a part with what it is made of.
    fn of(piece: Piece) -> Result<Self, String> {
        let name = match piece {
            Piece::Text(text) => return Ok(Self::Text(text)),
            Piece::Name(name) => name,
        };
        let (name, word) = name.split_once(':').unwrap_or((&name, ""));
        let made_of = match MadeOf::WORDS.iter().find(|(known, _)| *known == word.trim()) {
            Some((_, made_of)) => *made_of,
            None if word.is_empty() => MadeOf::Anything,
            None => return Err(format!("a part is made of digits or is one word, not \"{}\"", word.trim())),
        };
        Ok(Self::Part(name.trim().to_owned(), made_of))
    }
}

impl Part {
    /// Reads the form of a cell and the name of the part that is taken.
    ///
    /// # Errors
    /// Says what is wrong with the form, or that it has no such part.
    pub fn parse(written: &str, take: &str) -> Result<Self, String> {
        let template = Template::parse(written)?;
        let pieces = template.pieces.into_iter().map(PartPiece::of).collect::<Result<Vec<_>, String>>()?;
        let is_part = |piece: &PartPiece| matches!(piece, PartPiece::Part(..));
        if pieces.windows(2).any(|two| two.iter().all(is_part)) {
            return Err(format!(
                "\"{written}\" has two parts with nothing between them, so nobody can say where one ends"
            ));
        }
        let place = |name: &str| {
            pieces.iter().position(|piece| matches!(piece, PartPiece::Part(part, _) if part == name))
        };
        let taken = place(take).ok_or_else(|| format!("\"{written}\" has no part {{{take}}}"))?;
        Ok(Self { written: written.to_owned(), pieces, taken })
    }
}

/// A row of the source that makes several records: one for each repeat of columns that repeat.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Repeat {
    /// What stands for `{n}` in the headings of each repeat.
    pub numbers: Vec<String>,
    /// Repeats are numbered 1, 2, 3 as they are met in a row, instead of by their labels.
    pub in_order: bool,
}

impl Repeat {
    /// The heading of one repeat.
    pub fn heading(heading: &str, repeat: &str) -> String {
        heading.replace(NUMBER_MARK, repeat)
    }
}

/// What becomes of a record whose key another record has already.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum SameKey {
    /// It is rejected.
    #[default]
    Reject,
    /// It goes into the other one if it says the same in every field; otherwise it is rejected.
    Merge,
}
