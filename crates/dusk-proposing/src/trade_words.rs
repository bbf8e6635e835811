//! Words that mean the same thing in headings, in several languages: what "Fundort" and "place found"
//! have in common. They are data, in `data/trade-words.txt`.

use hashbrown::{HashMap, HashSet};
use std::sync::OnceLock;

use super::spelling::{folded, split, stem, without_marks};

/// The table of the repository.
const TABLE: &str = include_str!("../data/trade-words.txt");

/// Which column of the table is German, whose words are written together.
const GERMAN: usize = 1;

/// What may stand between two German words that are written as one.
const LINKS: [&str; 6] = ["", "s", "es", "n", "en", "e"];

/// What a German verb begins with, and means much the same without: angeliefert, eingegangen.
const PREFIXES: [&str; 14] =
    ["an", "ab", "auf", "aus", "ein", "zu", "nach", "vor", "mit", "ver", "weg", "um", "be", "er"];

/// A beginning that may be short for more things is none.
const MOST_THINGS: usize = 3;

/// So long at least is what stands behind such a beginning.
const PREFIXED: usize = 5;

/// A thing that several words mean.
pub(super) type Thing = u16;

/// Words by what they mean.
#[derive(Debug, Default)]
pub struct TradeWords {
    things: HashMap<String, Vec<Thing>>,
    /// The English words of each thing, the first of them its plainest.
    english: Vec<Vec<String>>,
    /// What a beginning of three to five letters may be short for, where that is not many things.
    short: HashMap<String, Vec<Thing>>,
    /// In which languages a word is met, a bit for each.
    languages: HashMap<String, u8>,
    /// German words, which others may be written together with.
    german: HashSet<String>,
}

impl TradeWords {
    /// The words that are known.
    pub fn known() -> &'static Self {
        static KNOWN: OnceLock<TradeWords> = OnceLock::new();
        KNOWN.get_or_init(|| Self::read(TABLE))
    }

    /// No words at all: names are alike by their letters only.
    pub fn none() -> &'static Self {
        static NONE: OnceLock<TradeWords> = OnceLock::new();
        NONE.get_or_init(Self::default)
    }

    /// Reads a table: a thing a line, its words in each language behind a `|`.
    fn read(table: &str) -> Self {
        let mut words = Self::default();
        for line in table.lines().filter(|line| !line.starts_with('#') && !line.trim().is_empty()) {
            let thing = Thing::try_from(words.english.len()).unwrap_or(Thing::MAX);
            for (language, column) in line.split('|').enumerate() {
                for word in column.split_whitespace() {
                    words.add(thing, language, &folded(word));
                }
            }
            let english = line.split('|').next().unwrap_or_default();
            words.english.push(english.split_whitespace().map(|word| stem(&folded(word))).collect());
        }
        // What may be short for many things says nothing.
        words
            .short
            .retain(|beginning, things| things.len() <= MOST_THINGS && !words.things.contains_key(beginning));
        words
    }

    fn add(&mut self, thing: Thing, language: usize, word: &str) {
        let word = word.trim_end_matches('-');
        if language == GERMAN && word.chars().count() >= 3 {
            self.german.insert(word.to_owned());
        }
        *self.languages.entry(word.to_owned()).or_default() |= 1 << language.min(7);
        for beginning in
            (3..=5).filter(|letters| word.len() >= letters + 2).filter_map(|letters| word.get(..letters))
        {
            let things = self.short.entry(beginning.to_owned()).or_default();
            if !things.contains(&thing) {
                things.push(thing);
            }
        }
        for key in [word.to_owned(), stem(word), root(word).to_owned()] {
            let things = self.things.entry(key).or_default();
            if !things.contains(&thing) {
                things.push(thing);
            }
        }
    }

    /// What a word may mean.
    pub(super) fn things(&self, word: &str) -> &[Thing] {
        let known = |word: &str| self.things.get(word).or_else(|| self.things.get(root(word)));
        let bare = || {
            PREFIXES.iter().find_map(|prefix| {
                known(
                    word.strip_prefix(prefix)
                        .filter(|bare| bare.len() > PREFIXED && self.german.contains(*bare))?,
                )
            })
        };
        known(word).or_else(bare).map_or(&[], Vec::as_slice)
    }

    /// Whether two words may mean the same.
    pub(super) fn mean_the_same(&self, a: &str, b: &str) -> bool {
        let theirs = self.things(b);
        self.things(a).iter().any(|thing| theirs.contains(thing))
    }

    /// The language that most words of these texts are of, counted from 0 as in the table; nothing where few say it.
    pub(super) fn language<'t>(&self, texts: impl Iterator<Item = &'t str>) -> Option<usize> {
        /// So many words more must be of the language than of any other.
        const MORE: usize = 3;
        let mut met = [0_usize; 8];
        for text in texts {
            let words = split(&without_marks(text)).into_iter();
            let parts = words.flat_map(|word| match self.parts(&word) {
                Some((first, head)) => vec![first, head],
                None => vec![word],
            });
            for mask in parts.filter_map(|word| self.languages.get(&word).copied()) {
                met.iter_mut().enumerate().for_each(|(bit, met)| *met += usize::from(mask >> bit & 1));
            }
        }
        let (most, count) = met.iter().enumerate().max_by_key(|(_, count)| **count)?;
        let next = met.iter().enumerate().filter(|(bit, _)| *bit != most).map(|(_, count)| *count).max()?;
        (*count >= next + MORE).then_some(most)
    }

    /// Whether a word may be the beginning of one that means what another does: "prof" and depth.
    pub(super) fn may_be_short_for(&self, short: &str, word: &str) -> bool {
        let things = self.things(word);
        self.short.get(short).is_some_and(|short| short.iter().any(|thing| things.contains(thing)))
    }

    /// The English words for what a word may mean.
    pub(super) fn in_english(&self, word: &str) -> impl Iterator<Item = &str> {
        let things = self.things(word).iter();
        things.filter_map(|thing| self.english.get(usize::from(*thing))).flatten().map(String::as_str)
    }

    /// The plainest English word for each thing that a word may mean.
    pub(super) fn plainest(&self, word: &str) -> impl Iterator<Item = &str> {
        let things = self.things(word).iter();
        things.filter_map(|thing| self.english.get(usize::from(*thing))?.first()).map(String::as_str)
    }

    /// The two words that a German one is put together from: Fund and Ort.
    pub(super) fn parts(&self, word: &str) -> Option<(String, String)> {
        /// So long must a word be that another one, which nobody knows, is written before.
        const PLAIN_HEAD: usize = 4;
        if word.len() < 6 || !word.is_ascii() || self.things.contains_key(word) {
            return None;
        }
        let is_known = |first: &str| {
            LINKS.iter().any(|link| first.strip_suffix(link).is_some_and(|bare| self.german.contains(bare)))
        };
        // The longest head first.
        (3..=word.len().saturating_sub(3)).find_map(|at| {
            let (first, head) = (word.get(..at)?, word.get(at..)?);
            let is_head = self.german.contains(head) || self.german.contains(root(head));
            let fits = is_head && (is_known(first) || head.len() > PLAIN_HEAD && first.len() >= PLAIN_HEAD);
            let bare = LINKS
                .iter()
                .rev()
                .find_map(|link| first.strip_suffix(link).filter(|bare| self.german.contains(*bare)));
            fits.then(|| (bare.unwrap_or(first).to_owned(), head.to_owned()))
        })
    }
}

/// A word without the endings that gender and number give it in the Romance languages and in German.
fn root(word: &str) -> &str {
    let mut root = word;
    for endings in [&["s", "n"][..], &["e", "a", "o"]] {
        let shorter = endings.iter().find_map(|ending| root.strip_suffix(ending));
        root = shorter.filter(|shorter| shorter.len() >= 4).unwrap_or(root);
    }
    root
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_of_one_thing_mean_the_same_whatever_their_language_and_ending() {
        let words = TradeWords::known();
        for (a, b) in
            [("date", "fecha"), ("kunde", "customer"), ("livree", "delivery"), ("entregada", "geliefert")]
        {
            assert!(words.mean_the_same(a, b), "{a} and {b}");
            assert!(!TradeWords::none().mean_the_same(a, b));
        }
        assert!(!words.mean_the_same("fecha", "customer"));
        assert_eq!(words.language(["Datum", "Kunde", "Menge", "Ort"].into_iter()), Some(GERMAN));
        assert_eq!(words.language(["No", "Total", "Date"].into_iter()), None);
        assert_eq!(words.parts("fundort"), Some(("fund".into(), "ort".into())));
        assert_eq!(words.parts("lieferdatum"), Some(("liefer".into(), "datum".into())));
        assert_eq!(words.parts("wabenanzahl"), Some(("wabe".into(), "anzahl".into())));
        for whole in ["temperature", "support", "nummer", "transport", "delivery"] {
            assert_eq!(words.parts(whole), None, "{whole}");
        }
    }
}
