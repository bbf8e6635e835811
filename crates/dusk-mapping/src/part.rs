//! Cells that hold several parts, and how one of them is taken out.

use std::collections::BTreeSet;

use dusk_files::{Piece, Template};

/// Which part of a cell is taken, where a cell holds several: the reverse of a join.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Part {
    /// How the cell is put together, as `{town}, {region} {postcode:digits}`; several forms with "or" between them.
    pub written: String,
    /// The forms that it may have; the first one that it has counts.
    forms: Vec<Form>,
}

/// One form of a cell.
#[derive(Debug, Clone, PartialEq, Eq)]
struct Form {
    /// Its pieces in order.
    pieces: Vec<PartPiece>,
    /// The part that is taken, by its place among the pieces; nothing where this form has no such part.
    taken: Option<usize>,
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
        Self::of_forms(&[written], take)
    }

    /// The same for a cell that may have one of several forms, of which one at least has the part.
    ///
    /// # Errors
    /// As [`Part::parse`].
    pub fn of_forms(written: &[&str], take: &str) -> Result<Self, String> {
        let forms = written.iter().map(|form| Form::parse(form, take)).collect::<Result<Vec<_>, String>>()?;
        let written = written.join("\" or \"");
        if forms.iter().all(|form| form.taken.is_none()) {
            return Err(format!("\"{written}\" has no part {{{take}}}"));
        }
        Ok(Self { written, forms })
    }

    /// Takes the part from a cell; blank where the cell's form has no such part.
    ///
    /// # Errors
    /// When the cell has none of the forms, or can be taken apart in several ways that give different parts.
    pub fn take<'t>(&self, text: &'t str) -> Result<&'t str, NotTaken> {
        let mut taken = self.forms.iter().map(|form| form.take(text));
        taken.find(|taken| *taken != Err(NotTaken::NotInForm)).unwrap_or(Err(NotTaken::NotInForm))
    }
}

impl Form {
    fn parse(written: &str, take: &str) -> Result<Self, String> {
        let template = Template::parse(written)?;
        let pieces = template.pieces.into_iter().map(PartPiece::of).collect::<Result<Vec<_>, String>>()?;
        let is_part = |piece: &PartPiece| matches!(piece, PartPiece::Part(..));
        if pieces.windows(2).any(|two| two.iter().all(is_part)) {
            return Err(format!(
                "\"{written}\" has two parts with nothing between them, so the end of the first is not known"
            ));
        }
        let place = |name: &str| {
            pieces.iter().position(|piece| matches!(piece, PartPiece::Part(part, _) if part == name))
        };
        Ok(Self { taken: place(take), pieces })
    }

    fn take<'t>(&self, text: &'t str) -> Result<&'t str, NotTaken> {
        /// How many ways are tried before the cell counts as unclear.
        const MOST_TRIED: usize = 20_000;
        let mut ways = Ways { taken: self.taken, found: BTreeSet::new(), left: MOST_TRIED };
        // A form without the part that is taken leaves it blank.
        ways.walk(&self.pieces, 0, text.trim(), self.taken.is_none().then_some(""));
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
    taken: Option<usize>,
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
                        let taken = if Some(place) == self.taken { Some(value) } else { taken };
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

#[cfg(test)]
mod tests {
    use super::*;

    fn take(forms: &[&str], name: &str, text: &str) -> Result<String, NotTaken> {
        Part::of_forms(forms, name).unwrap().take(text).map(str::to_owned)
    }

    #[test]
    fn the_first_form_that_a_cell_has_counts() {
        let forms = ["{word} [{from:digits}-{to:digits}]", "{word} [{from:digits}]", "{word}"];
        for (text, word, from, to) in [
            ("oak [1-2]", "oak", "1", "2"),
            ("oak [7]", "oak", "7", ""),
            ("oak", "oak", "", ""),
            ("oak [old]", "oak [old]", "", ""),
            (" red oak [1-2] ", "red oak", "1", "2"),
        ] {
            let parts = ["word", "from", "to"].map(|name| take(&forms, name, text).unwrap());
            assert_eq!(parts, [word, from, to], "{text}");
        }
        assert_eq!(take(&forms[..2], "word", "oak"), Err(NotTaken::NotInForm));
        // What is unclear in the first form that fits is not tried in another.
        let unclear = take(&["{a} {b}", "{a}"], "a", "x y z").unwrap_err();
        assert_eq!(unclear, NotTaken::InSeveralWays(vec!["x".into(), "x y".into()]));
    }

    #[test]
    fn one_form_at_least_has_the_part() {
        assert!(Part::of_forms(&["{a} [{b}]", "{a}"], "b").is_ok());
        let says = Part::of_forms(&["{a} [{b}]", "{a}"], "c").unwrap_err();
        assert_eq!(says, "\"{a} [{b}]\" or \"{a}\" has no part {c}");
        assert!(Part::of_forms(&[], "c").is_err());
        assert!(Part::of_forms(&["{a}", "{a}{b}"], "a").unwrap_err().contains("nothing between"));
    }
}
