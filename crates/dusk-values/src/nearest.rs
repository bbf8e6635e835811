//! The nearest right spelling of a word.

use strsim::damerau_levenshtein;

/// The candidate that `word` was most likely meant to be, if any is near enough to suggest.
///
/// Case, spaces and punctuation do not count. A candidate is near when at most a third of its
/// letters differ and none of its digits, since another number is another thing; or when the word is an abbreviation of it (its beginning, two letters or more,
/// or three or more of its letters in order, the first among them).
pub fn nearest<'a>(word: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    candidates
        .into_iter()
        .filter_map(|candidate| Some((distance_if_near(word, candidate)?, candidate)))
        .min_by_key(|(distance, _)| *distance)
        .map(|(_, candidate)| candidate)
}

/// How far a word is from a candidate, if it is near enough in the sense of [`nearest`].
pub fn distance_if_near(word: &str, candidate: &str) -> Option<usize> {
    let (word, other) = (letters(word), letters(candidate));
    if word.is_empty() || digits(&word) != digits(&other) {
        return None;
    }
    let length = word.chars().count();
    let longer = length.max(other.chars().count());
    let distance = damerau_levenshtein(&word, &other);
    let abbreviates = length >= 2 && other.starts_with(&word) || length >= 3 && skips_letters(&word, &other);
    let near = distance * 3 <= longer || (longer <= 4 && distance <= 1 && longer > 1);
    (near || abbreviates).then_some(distance)
}

/// True when a word is another one with letters left out, as "wht" is of "white".
fn skips_letters(word: &str, other: &str) -> bool {
    let mut rest = other.chars();
    other.chars().next() == word.chars().next()
        && word.chars().all(|letter| rest.any(|other| other == letter))
}

/// The digits of a text, without zeros in front.
fn digits(text: &str) -> String {
    let digits: String = text.chars().filter(char::is_ascii_digit).collect();
    digits.trim_start_matches('0').to_owned()
}

fn letters(text: &str) -> String {
    text.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}

#[cfg(test)]
mod tests {
    use crate::nearest;

    #[test]
    fn slips_and_abbreviations_find_their_word_and_strangers_do_not() {
        let colours = ["White", "Yellow", "Red", "Green", "Blue"];
        assert_eq!(nearest("yel.", colours), Some("Yellow"));
        assert_eq!(nearest("Geren", colours), Some("Green"));
        assert_eq!(nearest("RED ", colours), Some("Red"));
        assert_eq!(nearest("wht", colours), Some("White"));
        assert_eq!(nearest("unmarked", colours), None);
        assert_eq!(nearest("?", colours), None);
        let numbers = ["K-001", "Frame 2", "windows-1252"];
        assert_eq!(nearest("K-002", numbers), None, "another number is another thing");
        assert_eq!(nearest("k 0001", numbers), Some("K-001"));
        assert_eq!(nearest("frme 2", numbers), Some("Frame 2"));
        assert_eq!(nearest("windows1252", numbers), Some("windows-1252"));
    }
}
