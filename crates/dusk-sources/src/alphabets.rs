//! Whether a text can be words: what contradicts a reading of bytes, and which languages have its letters.
//!
//! A wrong reading mixes alphabets inside a word, puts signs between letters and capitals behind small letters,
//! and brings together letters that no language has together.

use std::collections::HashSet;
use std::sync::LazyLock;

use encoding_rs::{BIG5, EUC_JP, GBK};

/// Each language with its letters.
static LANGUAGES: LazyLock<Vec<(&str, HashSet<char>)>> = LazyLock::new(|| {
    let lines = include_str!("alphabets.txt").lines().filter(|line| !line.starts_with('#'));
    lines
        .filter_map(|line| line.split_once(' '))
        .map(|(name, letters)| (name, letters.chars().collect()))
        .collect()
});

/// A kind of letters that stand in one word together.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Alphabet {
    Latin,
    Greek,
    Cyrillic,
    Hebrew,
    Arabic,
    Thai,
    EastAsian,
}

impl Alphabet {
    /// That of a letter; nothing for letters that stand in any word.
    fn of(letter: char) -> Option<Self> {
        Some(match letter {
            'ª' | 'º' | 'µ' => return None,
            'a'..='z' | 'A'..='Z' | '\u{c0}'..='\u{24f}' | '\u{1e00}'..='\u{1eff}' => Self::Latin,
            '\u{370}'..='\u{3ff}' | '\u{1f00}'..='\u{1fff}' => Self::Greek,
            '\u{400}'..='\u{52f}' => Self::Cyrillic,
            '\u{5d0}'..='\u{5f2}' => Self::Hebrew,
            '\u{620}'..='\u{6ff}' | '\u{fb50}'..='\u{fdff}' | '\u{fe70}'..='\u{fefc}' => Self::Arabic,
            '\u{e00}'..='\u{e7f}' => Self::Thai,
            '\u{1100}'..='\u{11ff}'
            | '\u{2e80}'..='\u{9fff}'
            | '\u{ac00}'..='\u{d7af}'
            | '\u{f900}'..='\u{faff}' => Self::EastAsian,
            '\u{ff66}'..='\u{ff9f}' | '\u{20000}'.. => Self::EastAsian,
            _ => return None,
        })
    }
}

/// Signs that may stand between two letters of a word, or of two words without a space.
fn may_stand_between_letters(c: char) -> bool {
    c.is_ascii()
        || c.is_whitespace()
        || matches!(c, '\u{a0}' | '\u{ad}' | '·' | '×' | '«' | '»' | '\u{2010}'..='\u{2015}' | '‘' | '’' | '“' | '”' | '„' | '…' | '\u{300}'..='\u{36f}')
        || ('\u{3000}'..='\u{303f}').contains(&c)
        || ('\u{ff00}'..='\u{ff65}').contains(&c)
        || ('\u{200b}'..='\u{200f}').contains(&c)
        || ('\u{591}'..='\u{5cf}').contains(&c)
        || ('\u{64b}'..='\u{65f}').contains(&c)
        || ('\u{e31}'..='\u{e4e}').contains(&c)
}

/// Signs that touch no letter: of reckoning, and accents without a letter.
fn stands_apart_from_letters(c: char) -> bool {
    matches!(
        c,
        '÷' | '±'
            | '¬'
            | '¦'
            | '‰'
            | '√'
            | '∞'
            | '≈'
            | '≠'
            | '≤'
            | '≥'
            | '∂'
            | '∑'
            | '∏'
            | '∫'
            | '◊'
            | '¨'
            | '¸'
            | '¯'
            | 'ˇ'
            | '˘'
            | '˙'
            | '˛'
            | '˝'
    )
}

/// Whether a word has a letter outside ASCII.
pub(super) fn has_own_letter(word: &str) -> bool {
    word.chars().any(|c| !c.is_ascii() && c.is_alphabetic())
}

/// Whether a word cannot be one: letters of two alphabets side by side, a capital behind a small letter, a sign
/// between letters.
pub(super) fn is_no_word(word: &str) -> bool {
    let letters: Vec<char> = word.chars().collect();
    let before = |at: usize| at.checked_sub(1).and_then(|at| letters.get(at)).copied();
    letters.iter().enumerate().any(|(at, &c)| {
        let (left, right) = (before(at), letters.get(at + 1).copied());
        let is_letter = |c: Option<char>| c.is_some_and(char::is_alphabetic);
        let odd = matches!(c, '\u{e000}'..='\u{f8ff}' | '\u{80}'..='\u{9f}' | '\u{fffd}');
        let drawn = ('\u{2500}'..='\u{259f}').contains(&c) && (is_letter(left) || is_letter(right));
        let money = matches!(c, '¤' | '¢' | '£' | '¥' | '€' | '₪')
            && (is_letter(left) && right.is_none_or(char::is_alphabetic)
                || is_letter(right) && left.is_none_or(char::is_alphabetic));
        let apart = stands_apart_from_letters(c) && (is_letter(left) || is_letter(right));
        let is_sign = |c: char| !c.is_alphanumeric() && !may_stand_between_letters(c);
        let sign = is_sign(c) && is_letter(left) && is_letter(right);
        let signs = is_sign(c) && left.is_some_and(is_sign);
        let Some(left) = left.filter(|_| c.is_alphabetic()) else {
            return odd || drawn || money || apart || sign || signs;
        };
        let plain = left.is_ascii() && c.is_ascii();
        let capital_inside = !plain && left.is_lowercase() && c.is_uppercase();
        let mixed = Alphabet::of(left).zip(Alphabet::of(c)).is_some_and(|(left, own)| left != own);
        odd || capital_inside || mixed
    })
}

/// The language that has the letters of most words, how many words those are, and of how many.
pub(super) fn language_of<'w>(words: impl Iterator<Item = &'w str> + Clone) -> (Option<&'static str>, usize) {
    let of_language = |letters: &HashSet<char>| words.clone().filter(|word| is_of(word, letters)).count();
    let best =
        LANGUAGES.iter().map(|(name, letters)| (*name, of_language(letters))).max_by_key(|(_, count)| *count);
    let east = words.clone().filter(|word| is_everyday_east_asian(word)).count();
    match best {
        Some((name, count)) if count >= east => (Some(name).filter(|_| count > 0), count),
        _ => (Some("East Asian").filter(|_| east > 0), east),
    }
}

/// How many words have the letters of one of two languages, of those two that have most together.
pub(super) fn of_two_languages(words: &[&str]) -> usize {
    let has = |letters: &HashSet<char>| words.iter().map(|word| is_of(word, letters)).collect::<Vec<bool>>();
    let east = words.iter().map(|word| is_everyday_east_asian(word)).collect::<Vec<bool>>();
    let languages: Vec<Vec<bool>> = LANGUAGES.iter().map(|(_, letters)| has(letters)).chain([east]).collect();
    let together =
        |one: &[bool], other: &[bool]| one.iter().zip(other).filter(|(one, other)| **one || **other).count();
    let pairs = languages
        .iter()
        .enumerate()
        .flat_map(|(at, one)| languages.iter().skip(at).map(move |other| (one, other)));
    pairs.map(|(one, other)| together(one, other)).max().unwrap_or(0)
}

/// Whether a language has every letter outside ASCII of a word.
fn is_of(word: &str, letters: &HashSet<char>) -> bool {
    let mut odd = word.chars().filter(|c| !c.is_ascii() && c.is_alphabetic()).peekable();
    odd.peek().is_some()
        && odd.all(|c| letters.contains(&c) || c.to_lowercase().all(|small| letters.contains(&small)))
}

/// Whether every letter of a word is one that East Asian texts are made of: kana, hangul and everyday Han.
fn is_everyday_east_asian(word: &str) -> bool {
    let mut odd = word.chars().filter(|c| !c.is_ascii() && c.is_alphabetic()).peekable();
    odd.peek().is_some()
        && odd.all(|c| match c {
            '\u{3040}'..='\u{30ff}' | '\u{ac00}'..='\u{d7af}' => true,
            '\u{4e00}'..='\u{9fff}' => is_everyday_han(c),
            _ => false,
        })
}

/// The first levels of the national sets hold what is used every day.
fn is_everyday_han(c: char) -> bool {
    let mut room = [0; 4];
    let text = c.encode_utf8(&mut room);
    let lead = |encoding: &'static encoding_rs::Encoding| {
        let (bytes, _, lost) = encoding.encode(text);
        bytes.first().copied().filter(|_| !lost)
    };
    lead(GBK).is_some_and(|lead| (0xb0..=0xd7).contains(&lead))
        || lead(BIG5).is_some_and(|lead| (0xa4..=0xc6).contains(&lead))
        || lead(EUC_JP).is_some_and(|lead| (0xb0..=0xcf).contains(&lead))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_cannot_be_a_word_is_told() {
        for word in
            ["Chвteau", "Chβteau", "Ch‚teau", "cafÉ", "Z黵ich", "Ch╨teau", "семь€", "£ód", "caf\u{e9}\u{90}"]
        {
            assert!(is_no_word(word), "{word}");
        }
        for word in ["Château", "L’été", "Øst", "ÖST", "iPhone", "Пчела", "蜂の巣", "5€", "µm", "Ærø"]
        {
            assert!(!is_no_word(word), "{word}");
        }
    }

    #[test]
    fn the_language_that_has_most_words_is_found() {
        let words = ["père", "déjà", "cœur"];
        assert_eq!(language_of(words.iter().copied()), (Some("French"), 3));
        let wrong = ["pčre", "déjŕ", "cśur"];
        assert!(language_of(wrong.iter().copied()).1 < 3);
        assert_eq!(language_of(["蜂蜜", "ミツバチ"].iter().copied()), (Some("East Asian"), 2));
    }
}
