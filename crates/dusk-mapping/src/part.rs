//! Cells that hold several parts, and how one of them is taken out.

use std::collections::BTreeSet;

use dusk_files::{Piece, Template};

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

    /// Takes the part from a cell.
    ///
    /// # Errors
    /// When the cell does not have the form, or can be taken apart in several ways that give different parts.
    pub fn take<'t>(&self, text: &'t str) -> Result<&'t str, NotTaken> {
        /// How many ways are tried before the cell counts as unclear.
        const MOST_TRIED: usize = 20_000;
        let mut ways = Ways { taken: self.taken, found: BTreeSet::new(), left: MOST_TRIED };
        ways.walk(&self.pieces, 0, text.trim(), None);
        let mut found = ways.found.iter();
        match (found.next(), found.next()) {
            (Some(one), None) if ways.left > 0 => Ok(one),
            (None, _) if ways.left > 0 => Err(NotTaken::NotInForm),
            (one, two) => Err(NotTaken::InSeveralWays(
                one.into_iter().chain(two).map(|way| (*way).to_owned()).collect(),
            )),
        }
    }
}

/// Why no part could be taken from a cell.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum NotTaken {
    /// It does not have the form.
    NotInForm,
    /// It can be taken apart in several ways: some of the parts that these give.
    InSeveralWays(Vec<String>),
}

/// The different texts that a part may be.
struct Ways<'t> {
    taken: usize,
    found: BTreeSet<&'t str>,
    left: usize,
}

impl<'t> Ways<'t> {
    fn walk(&mut self, pieces: &[PartPiece], place: usize, rest: &'t str, taken: Option<&'t str>) {
        if self.left == 0 || self.found.len() > 1 {
            return;
        }
        self.left -= 1;
        let Some((piece, later)) = pieces.split_first() else {
            if rest.is_empty() {
                self.found.extend(taken);
            }
            return;
        };
        match piece {
            PartPiece::Text(text) => {
                if let Some(rest) = rest.strip_prefix(text.as_str()) {
                    self.walk(later, place + 1, rest, taken);
                }
            }
            PartPiece::Part(_, made_of) => {
                for end in ends(rest, later.first()) {
                    let (Some(value), Some(after)) = (rest.get(..end), rest.get(end..)) else { continue };
                    if is_part(value, *made_of) {
                        let taken = if place == self.taken { Some(value) } else { taken };
                        self.walk(later, place + 1, after, taken);
                    }
                }
            }
        }
    }
}

/// Where a part may end: only where the next text stands, or at the end.
fn ends(rest: &str, next: Option<&PartPiece>) -> Vec<usize> {
    let Some(PartPiece::Text(next)) = next else { return vec![rest.len()] };
    let stands = |at: &usize| rest.get(*at..).is_some_and(|rest| rest.starts_with(next.as_str()));
    rest.char_indices().map(|(at, _)| at).filter(stands).collect()
}

/// A part is never blank, and has no white space at its ends.
fn is_part(value: &str, made_of: MadeOf) -> bool {
    !value.is_empty() && value.trim().len() == value.len() && made_of.takes(value)
}
