//! What a description shows of a value's form: letters and figures that it counts, and examples.

use super::spelling::without_marks;

/// What a character is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Of {
    Letters,
    Figures,
}

/// Words for small numbers, the first for 1.
const COUNTS: [&[&str]; 12] = [
    &["one", "a", "ein", "eine", "einem", "un", "une", "una"],
    &["two", "zwei", "deux", "dos"],
    &["three", "drei", "trois", "tres"],
    &["four", "vier", "quatre", "cuatro"],
    &["five", "funf", "cinq", "cinco"],
    &["six", "sechs", "seis"],
    &["seven", "sieben", "sept", "siete"],
    &["eight", "acht", "huit", "ocho"],
    &["nine", "neun", "neuf", "nueve"],
    &["ten", "zehn", "dix", "diez"],
    &["eleven", "elf", "onze", "once"],
    &["twelve", "zwolf", "douze", "doce"],
];

/// Words for letters and for figures.
const LETTERS: [&str; 10] = [
    "letter",
    "letters",
    "buchstabe",
    "buchstaben",
    "lettre",
    "lettres",
    "letra",
    "letras",
    "capital",
    "capitals",
];
const FIGURES: [&str; 12] = [
    "digit", "digits", "figure", "figures", "ziffer", "ziffern", "chiffre", "chiffres", "cifra", "cifras",
    "stellen", "digitos",
];

/// The letters and figures that a description counts: "Four digits and a letter".
pub(super) fn mask(text: &str) -> Vec<(usize, Of)> {
    let plain = without_marks(&text.to_lowercase());
    let words: Vec<&str> =
        plain.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).collect();
    let count = |word: &str| {
        let by_word = COUNTS.iter().position(|words| words.contains(&word)).map(|place| place + 1);
        by_word.or_else(|| word.parse().ok().filter(|count| (1..=20).contains(count)))
    };
    let of = |word: &str| match word {
        _ if LETTERS.contains(&word) => Some(Of::Letters),
        _ if FIGURES.contains(&word) => Some(Of::Figures),
        _ => None,
    };
    words.windows(2).filter_map(|two| Some((count(two.first()?)?, of(two.last()?)?))).collect()
}

/// What leads examples in, or ends them.
const EXAMPLES: [&str; 9] =
    ["…", "...", "e.g.", "for example", "such as", "z. b.", "z.b.", "par exemple", "por ejemplo"];

/// The examples that a description gives: "Widow, son, sister …".
pub(super) fn examples(text: &str) -> Vec<String> {
    let lower = text.to_lowercase();
    let Some((at, mark)) = EXAMPLES.iter().find_map(|mark| Some((lower.find(mark)?, *mark))) else {
        return Vec::new();
    };
    let (before, behind) =
        (lower.get(..at).unwrap_or_default(), lower.get(at + mark.len()..).unwrap_or_default());
    let listed = if behind.trim_matches(['.', ' ', ')']).is_empty() { before } else { behind };
    let parts = listed.split([',', ';', '.', '(', ')']).flat_map(|part| part.split(" or "));
    parts.map(|part| part.trim().to_owned()).filter(|part| !part.is_empty()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn letters_figures_and_examples_are_read_from_words() {
        use Of::{Figures, Letters};
        for (text, wanted) in [
            ("Two letters and six digits.", vec![(2, Letters), (6, Figures)]),
            ("Four digits and a letter", vec![(4, Figures), (1, Letters)]),
            ("Zwei Buchstaben, dann fünf Ziffern", vec![(2, Letters), (5, Figures)]),
            ("6 chiffres", vec![(6, Figures)]),
            ("Six of them", vec![]),
        ] {
            assert_eq!(mask(text), wanted, "{text}");
        }
        assert_eq!(examples("Widow, son, sister …"), ["widow", "son", "sister"]);
        assert_eq!(examples("What it is, for example oak or ash."), ["oak", "ash"]);
        assert_eq!(examples("Keys, hours, whom to ask."), Vec::<String>::new());
    }
}
