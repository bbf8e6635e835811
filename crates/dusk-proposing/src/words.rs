//! How alike two single words are: by their letters, or by what they mean.

use strsim::damerau_levenshtein;

use super::trade_words::TradeWords;

/// Two words or names that are the same.
pub(super) const SAME: u32 = 1000;

/// The least at which two words are taken for one.
pub(super) const ONE_WORD: u32 = 740;

/// How alike two words are that only mean the same.
pub(super) const SAME_MEANING: u32 = 830;

/// How alike two words are, by their letters or by what they mean; the first may be cut short with a point.
pub(super) fn alike(a: &str, b: &str, is_cut: bool, words: &TradeWords) -> u32 {
    let by_letters = alike_letters(a, b, is_cut);
    let means_it = by_letters < SAME_MEANING && words.mean_the_same(a, b);
    match by_letters {
        _ if means_it => SAME_MEANING,
        0 if words.may_be_short_for(a, b) => ONE_WORD,
        by_letters => by_letters,
    }
}

/// Words that are no beginnings of others: "not" is not "note".
const LITTLE: [&str; 14] =
    ["not", "for", "and", "the", "was", "are", "has", "von", "bis", "und", "der", "die", "das", "mit"];

fn alike_letters(a: &str, b: &str, is_cut: bool) -> u32 {
    if a == b {
        return SAME;
    }
    // Little words are short for nothing.
    if [a, b].iter().any(|word| LITTLE.contains(word)) && !is_cut {
        return 0;
    }
    let (short, long) = if a.chars().count() <= b.chars().count() { (a, b) } else { (b, a) };
    let length = short.chars().count();
    if !short.chars().all(char::is_alphabetic) || !long.chars().all(char::is_alphabetic) {
        return 0;
    }
    let longer = long.chars().count();
    let begins = long.starts_with(short);
    if begins && is_cut && short == a {
        return match length {
            1 => ONE_WORD,
            2 => 850,
            _ => 910,
        };
    }
    if begins && length >= 3 {
        return match longer - length {
            0..=2 => 930,
            // A long beginning without a point may well be a word of its own: shelf and shelfmark.
            3.. if length >= 5 => 760,
            _ => 880,
        };
    }
    let distance = damerau_levenshtein(short, long);
    // Short words that differ by a letter are two words: hive and five, form and from.
    if distance == 1 && length == 4 && longer == 4 {
        let sorted = |word: &str| {
            let mut letters: Vec<char> = word.chars().collect();
            letters.sort_unstable();
            letters
        };
        return if sorted(short) == sorted(long) { 760 } else { 0 };
    }
    if distance == 1 && length >= 4 && short.chars().next() == long.chars().next() {
        return 900;
    }
    if distance == 2 && length >= 8 && short.chars().next() == long.chars().next() {
        return 850;
    }
    if length >= 4 && verb_root(short) == verb_root(long) {
        return 880;
    }
    let is_short_of = |least: usize| length >= least && longer > length && is_without_vowels(short);
    if is_short_of(2) && skeleton(long) == short {
        // A few letters may be those of several words.
        return if length >= 3 { 870 } else { 800 };
    }
    if is_short_of(3) && longer > length + 1 && skips_letters(short, long) {
        return 850;
    }
    let begins_skeleton = is_short_of(2) && skeleton(long).starts_with(short);
    if begins_skeleton { ONE_WORD } else { 0 }
}

const VOWELS: [char; 5] = ['a', 'e', 'i', 'o', 'u'];

fn is_without_vowels(word: &str) -> bool {
    word.chars().skip(1).all(|c| !VOWELS.contains(&c))
}

/// A word without its vowels but the first letter, and with no letter twice in a row: "bttl" is "bottle".
fn skeleton(word: &str) -> String {
    let mut skeleton: String = word.chars().take(1).collect();
    skeleton.extend(word.chars().skip(1).filter(|c| !VOWELS.contains(c)));
    skeleton
}

/// Endings that make other words of a verb: brew, brewed, brewing, brewer, delivery.
const ENDINGS: [&str; 15] =
    ["ation", "ement", "ment", "ings", "ing", "ion", "ery", "ers", "ors", "ed", "er", "or", "al", "e", "y"];

/// The beginning of a word that its other forms share.
pub(super) fn verb_root(word: &str) -> &str {
    let mut root = word;
    while let Some(shorter) =
        ENDINGS.iter().find_map(|ending| root.strip_suffix(ending)).filter(|shorter| shorter.len() >= 4)
    {
        root = shorter;
    }
    root
}

/// True when a word is another one with letters left out, the first among them kept.
fn skips_letters(word: &str, other: &str) -> bool {
    let mut rest = other.chars();
    other.chars().next() == word.chars().next()
        && word.chars().all(|letter| rest.any(|other| other == letter))
}
