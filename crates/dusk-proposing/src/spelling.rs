//! How a name is split into words, and what a word is without its marks and endings.

use unicode_normalization::UnicodeNormalization as _;

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
