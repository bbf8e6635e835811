//! Single words of names: how a name is split into them, and how alike two of them are.

use strsim::damerau_levenshtein;
use unicode_normalization::UnicodeNormalization as _;

use super::names::SAME;
use super::trade_words::TradeWords;

/// The least at which two words are taken for one.
pub(super) const ONE_WORD: u32 = 740;

/// Letters that are written with others where there are no marks.
const PLAINLY: [(char, &str); 6] =
    [('ß', "ss"), ('æ', "ae"), ('œ', "oe"), ('ø', "o"), ('ł', "l"), ('đ', "d")];

/// A text without marks on its letters.
pub(super) fn without_marks(text: &str) -> String {
    // N° is a number as Nº is.
    let numbered;
    let text = if text.contains("N°") || text.contains("n°") {
        numbered = text.replace("N°", "No").replace("n°", "no");
        numbered.as_str()
    } else {
        text
    };
    let mut plain: String = text.nfkd().filter(|c| !('\u{300}'..='\u{36f}').contains(c)).collect();
    for (letter, plainly) in PLAINLY {
        if plain.contains(letter) {
            plain = plain.replace(letter, plainly);
        }
    }
    plain
}

/// The letters and digits of a text alone, in lower case and without marks.
pub(super) fn folded(text: &str) -> String {
    without_marks(text).chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}

/// Everyday abbreviations, and other words for the same thing in headings.
pub(super) const SPELT_OUT: [(&str, &[&str]); 44] = [
    ("no", &["number"]),
    ("nr", &["number"]),
    ("num", &["number"]),
    ("nbr", &["number"]),
    ("#", &["number"]),
    ("id", &["id"]),
    ("ident", &["id"]),
    ("identifier", &["id"]),
    ("dt", &["date"]),
    ("nm", &["name"]),
    ("tm", &["time"]),
    ("tme", &["time"]),
    ("day", &["date"]),
    ("qty", &["quantity"]),
    ("amt", &["amount"]),
    ("cnt", &["count"]),
    ("pcs", &["piece"]),
    ("wt", &["weight"]),
    ("ht", &["height"]),
    ("lgth", &["length"]),
    ("temp", &["temperature"]),
    ("desc", &["description"]),
    ("descr", &["description"]),
    ("tel", &["telephone"]),
    ("phone", &["telephone"]),
    ("ph", &["telephone"]),
    ("mob", &["mobile"]),
    ("addr", &["address"]),
    ("lat", &["latitude"]),
    ("lon", &["longitude"]),
    ("lng", &["longitude"]),
    ("yr", &["year"]),
    ("mth", &["month"]),
    ("hrs", &["hour"]),
    ("mins", &["minute"]),
    ("pct", &["percent"]),
    ("avg", &["average"]),
    ("max", &["maximum"]),
    ("min", &["minimum"]),
    ("colour", &["color"]),
    ("dob", &["date", "birth"]),
    ("zip", &["postcode"]),
    ("postal", &["postcode"]),
    ("surname", &["last", "name"]),
];

/// Words in lower case: parted by anything that is no letter or digit, between small and capital
/// letters, and between letters and digits.
pub(super) fn split(text: &str) -> Vec<String> {
    let mut words: Vec<String> = Vec::new();
    let mut word = String::new();
    let mut last: Option<char> = None;
    let mut letters = text.chars().peekable();
    while let Some(letter) = letters.next() {
        if letter == '#' {
            words.extend((!word.is_empty()).then(|| std::mem::take(&mut word)));
            words.push("#".into());
            last = None;
            continue;
        }
        if !letter.is_alphanumeric() {
            // An apostrophe parts no words: keeper's.
            if !matches!(letter, '\'' | '\u{2019}') {
                words.extend((!word.is_empty()).then(|| std::mem::take(&mut word)));
                last = None;
            }
            continue;
        }
        let breaks = last.is_some_and(|last| {
            let into_word = last.is_uppercase()
                && letter.is_uppercase()
                && letters.peek().is_some_and(|next| next.is_lowercase());
            last.is_lowercase() && letter.is_uppercase()
                || into_word
                || last.is_ascii_digit() != letter.is_ascii_digit()
        });
        if breaks {
            words.extend((!word.is_empty()).then(|| std::mem::take(&mut word)));
        }
        word.extend(letter.to_lowercase());
        last = Some(letter);
    }
    words.extend((!word.is_empty()).then_some(word));
    words
}

/// How alike two words are that only mean the same.
pub(super) const SAME_MEANING: u32 = 830;

/// A word without the ending of its plural.
pub(super) fn stem(word: &str) -> String {
    let letters = word.chars().count();
    if letters > 4
        && let Some(stem) = word.strip_suffix("ies")
    {
        return format!("{stem}y");
    }
    for ending in ["sses", "xes", "ches", "shes"] {
        if letters > 5 && word.ends_with(ending) {
            return word.strip_suffix("es").unwrap_or(word).to_owned();
        }
    }
    match word.strip_suffix('s') {
        Some(stem)
            if letters > 3 && !word.ends_with("ss") && !word.ends_with("us") && !word.ends_with("is") =>
        {
            stem.to_owned()
        }
        _ => word.to_owned(),
    }
}

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
