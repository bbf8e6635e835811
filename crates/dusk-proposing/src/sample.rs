//! Some of what a column holds: its first values, each with how often it was met.

use hashbrown::HashMap;

use dusk_description::{CodeList, Lookup, ReadAs};
use dusk_evidence::{Result, Share};
use dusk_sources::{CellKind, Source};

/// How many rows are looked at.
pub(super) const ROWS: usize = 4_000;

/// How many different values of a column are kept.
const VALUES: usize = 400;

/// Some of a column's values, each with how often it was met.
#[derive(Debug, Clone, Default)]
pub(super) struct Sample {
    values: Vec<(CellKind, String, u64)>,
    places: HashMap<String, usize>,
    /// How many cells were filled.
    pub(super) filled: u64,
}

impl Sample {
    pub(super) fn add(&mut self, cell: &str) {
        let (kind, text) = CellKind::of(cell);
        let text = text.trim();
        if text.is_empty() {
            return;
        }
        self.filled += 1;
        if let Some((.., count)) = self.places.get(text).and_then(|place| self.values.get_mut(*place)) {
            *count += 1;
        } else if self.values.len() < VALUES {
            self.places.insert(text.to_owned(), self.values.len());
            self.values.push((kind, text.to_owned(), 1));
        }
    }

    /// How many of the values that were kept there are, and how many of them `fit`.
    pub(super) fn share(&self, fit: impl Fn(CellKind, &str) -> bool) -> Share {
        let mut share = Share::default();
        for (kind, text, count) in &self.values {
            share.of += count;
            if fit(*kind, text) {
                share.fit += count;
            }
        }
        share
    }

    /// How many different values were met.
    pub(super) fn different(&self) -> usize {
        self.values.len()
    }

    /// The value of every filled cell, where all hold the same.
    pub(super) fn only_value(&self) -> Option<&str> {
        match self.values.as_slice() {
            [(_, only, _)] => Some(only),
            _ => None,
        }
    }

    /// How many of the values have letters.
    pub(super) fn with_letters(&self) -> Share {
        self.share(|kind, text| kind != CellKind::Date && text.chars().any(char::is_alphabetic))
    }

    /// How many of the values have figures.
    pub(super) fn with_figures(&self) -> Share {
        self.share(|_, text| text.chars().any(|c| c.is_ascii_digit()))
    }

    /// Whether chance would hardly ever have put so many different values among these codes. In a list of the
    /// figures 1 to 5 nearly every column of small numbers is; four letters of five are no chance.
    pub(super) fn is_beyond_chance(&self, list: &CodeList) -> bool {
        /// One column in so many.
        const SELDOM: u64 = 500;
        let one_in = self.texts().filter(|text| is_in(list, text)).map(|text| one_in(text, list));
        one_in.fold(1, u64::saturating_mul) >= SELDOM
    }

    /// The first and the last word of each value.
    pub(super) fn ends(&self) -> impl Iterator<Item = (&str, &str)> {
        self.texts().filter_map(|text| {
            let mut words = text.split([' ', ',']).filter(|word| !word.is_empty());
            Some((words.next()?, words.next_back()?))
        })
    }

    /// How many of the values are written as people's names are: two words that begin with capitals, or more with
    /// an initial or a particle between them.
    pub(super) fn of_persons(&self) -> Share {
        self.share(|kind, text| {
            let words: Vec<&str> = text.split([' ', ',']).filter(|word| !word.is_empty()).collect();
            let is_name = |word: &&str| {
                word.chars().next().is_some_and(char::is_uppercase)
                    && word.chars().all(|c| c.is_alphabetic() || matches!(c, '.' | '-' | '\'' | '\u{2019}'))
            };
            let is_short = |word: &&str| word.trim_end_matches('.').chars().count() <= 3;
            let (ends, between) = match words.as_slice() {
                [first, between @ .., last] => (is_name(first) && is_name(last), between),
                _ => return false,
            };
            kind == CellKind::Text && ends && between.len() <= 2 && between.iter().all(is_short)
        })
    }

    /// True where most values are words, and not letters that may mean anything.
    pub(super) fn is_of_words(&self) -> bool {
        let words = self.share(|_, text| text.chars().filter(|c| c.is_alphabetic()).count() >= 3);
        words.percent() > 50
    }

    /// The values, each with how often it was met.
    pub(super) fn counted(&self) -> impl Iterator<Item = (&str, u64)> {
        self.values.iter().map(|(_, text, count)| (text.as_str(), *count))
    }

    /// How many of the filled cells hold a value that another one holds as well.
    pub(super) fn repeated(&self) -> Share {
        let mut share = Share::default();
        for (.., count) in &self.values {
            share.of += count;
            share.fit += count - 1;
        }
        share
    }

    /// The values, as far as they were kept.
    pub(super) fn texts(&self) -> impl Iterator<Item = &str> {
        self.values.iter().map(|(_, text, _)| text.as_str())
    }
}

/// Samples of every column of a source, from its first rows.
pub(super) fn samples(source: &Source) -> Result<Vec<Sample>> {
    let mut samples = vec![Sample::default(); source.columns.len()];
    let mut walk = source.walk()?;
    let mut rows_met = 0;
    while rows_met < ROWS
        && let Some(mut rows) = walk.more()?
    {
        while let Some(row) = rows.next() {
            let fits = source.is_whole(&row);
            if rows_met == ROWS || !fits || row.is_blank() {
                continue;
            }
            rows_met += 1;
            for (sample, cell) in samples.iter_mut().zip(row.cells()) {
                sample.add(cell);
            }
        }
    }
    Ok(samples)
}

/// One text in so many of a value's form is in a list: so many codes have that form, among all such texts.
fn one_in(text: &str, list: &CodeList) -> u64 {
    let form = |text: &str| -> (usize, bool, bool) {
        let has = |kind: fn(&char) -> bool| text.chars().any(|c| kind(&c));
        (text.chars().count(), has(|c| c.is_alphabetic()), has(|c| c.is_numeric()))
    };
    let (length, letters, figures) = form(text);
    let texts = list.codes().iter().flat_map(|code| [&code.code, &code.label]);
    let alike = texts.filter(|known| form(known) == form(text)).count();
    let different: u64 = match (letters, figures) {
        // Small numbers are everywhere.
        (false, _) if length == 1 => 1,
        (false, _) => 5,
        (true, false) => 26,
        (true, true) => 30,
    };
    let all = different.pow(u32::try_from(length.min(4)).unwrap_or(4));
    (all / u64::try_from(alike.max(1)).unwrap_or(u64::MAX)).max(1)
}

pub(super) fn is_in(list: &CodeList, text: &str) -> bool {
    list.look_up(text, None, ReadAs::Either) != Lookup::Unknown
}

#[cfg(test)]
mod tests {
    use super::*;
    use dusk_description::Code;

    fn of(values: &[&str]) -> Sample {
        let mut sample = Sample::default();
        values.iter().for_each(|value| sample.add(value));
        sample
    }

    fn list(codes: &[&str]) -> CodeList {
        let code = |code: &&str| Code {
            code: (*code).into(),
            label: String::new(),
            also: Vec::new(),
            within: String::new(),
            until: None,
            replaced_by: String::new(),
        };
        CodeList::new("t".into(), codes.iter().map(code).collect())
    }

    #[test]
    fn small_numbers_are_in_a_list_by_chance_and_letters_and_words_hardly() {
        assert!(!of(&["1", "2", "3", "4", "5"]).is_beyond_chance(&list(&["1", "2", "3", "4", "5"])));
        assert!(of(&["A", "C", "K", "T"]).is_beyond_chance(&list(&["A", "C", "K", "T", "X"])));
        assert!(of(&["Oak", "Ash"]).is_beyond_chance(&list(&["Oak", "Ash", "Elm"])));
        assert!(!of(&["Y", "N"]).is_beyond_chance(&list(&["Y", "N"])));
    }

    #[test]
    fn peoples_names_are_two_words_or_have_a_particle_between() {
        assert_eq!(of(&["Ida Penn", "J. van Moss", "Una B. Ashe", "Ashe, Jon"]).of_persons().percent(), 100);
        assert_eq!(of(&["north mole", "Quay 7", "Slip", "The Old Ropewalk Yard"]).of_persons().percent(), 0);
    }
}
