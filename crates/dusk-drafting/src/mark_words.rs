//! Marks by their names and signs: "joined with +", "separated by commas", "une barre verticale".

use super::vocabulary::{Words, meaning, named};

/// The signs that part values, where a text shows one instead of naming it.
const SIGNS: [char; 9] = ['+', '/', '|', ';', ',', '&', '~', '#', '^'];

/// So many letters before or behind the word that says so a mark is looked for.
const NEAR: usize = 40;

/// A mark that stands in a text, by its name or as a sign of its own.
#[derive(Debug)]
pub(super) struct Mark {
    /// Where it begins.
    pub(super) at: usize,
    /// The mark itself.
    pub(super) sign: String,
}

/// The marks that a text names or shows, in order; those that it says are not meant are left out.
pub(super) fn marks(text: &str) -> Vec<Mark> {
    let lower = text.to_lowercase();
    let mut found: Vec<Mark> = named(Words::Mark, &lower)
        .map(|(at, word)| Mark { at, sign: sign(meaning(Words::Mark, word).unwrap_or_default()) })
        .collect();
    let mut at = 0;
    for word in lower.split(' ') {
        let bare = word.trim_matches(['(', ')', '"', '\'', '“', '”', '„', '«', '»', '‘', '’', '`']);
        let bare = if bare.chars().count() == 2 { bare.trim_end_matches(['.', ',', ';']) } else { bare };
        let mut letters = bare.chars();
        let is_quoted = bare.len() < word.trim_end_matches(['.', ',', ';']).len();
        if let (Some(sign), None) = (letters.next(), letters.next())
            && (SIGNS.contains(&sign) || is_quoted && matches!(sign, '.' | ':' | '-' | '_'))
        {
            found.push(Mark { at, sign: sign.to_string() });
        }
        at += word.len() + 1;
    }
    found.retain(|mark| !is_denied(&lower, mark.at));
    found.sort_by_key(|mark| mark.at);
    found
}

/// The sign that stands for a mark in the vocabulary.
fn sign(meant: &str) -> String {
    match meant {
        "tab" => "\t".into(),
        "space" => " ".into(),
        sign => sign.into(),
    }
}

/// Whether "no" or "without" stands right before a place: "no blank".
pub(super) fn is_denied(lower: &str, at: usize) -> bool {
    let before = lower.get(..at).unwrap_or_default();
    before.split_whitespace().rev().take(2).any(|word| meaning(Words::Without, word).is_some())
}

/// The mark by which a text says that several things are joined or parted.
pub(super) fn joined_by(text: &str) -> Option<String> {
    let lower = text.to_lowercase();
    let marks = marks(text);
    let (at, word) = named(Words::Join, &lower).find(|(at, _)| !is_denied(&lower, *at))?;
    let ends = at + word.len();
    let behind = marks.iter().find(|mark| mark.at >= ends && mark.at - ends <= NEAR);
    let before = || marks.iter().rev().find(|mark| mark.at < at && at - mark.at <= NEAR);
    behind.or_else(before).map(|mark| mark.sign.clone())
}

#[cfg(test)]
mod tests {
    use super::joined_by;

    #[test]
    fn the_mark_between_several_values_is_told_by_its_name_or_its_sign() {
        for (text, mark) in [
            ("separated by a comma", ","),
            ("More than one: join them with + and no blank, e.g. CL+UV.", "+"),
            ("one or more of the words, a comma between them and no blank", ","),
            ("mehrere Schlüssel durch Komma ohne Leerzeichen getrennt", ","),
            ("plusieurs valeurs séparées par une barre verticale |", "|"),
            ("Varios, separados\npor punto y coma\nsin espacios", ";"),
            ("flera koder avgränsade med semikolon", ";"),
            ("parted by \"/\"", "/"),
            ("Up to three, the strongest first, joined with + and no blank: BK+RD", "+"),
            ("the family and the branch are parted", ""),
            ("no comma between them", ""),
        ] {
            assert_eq!(joined_by(text).unwrap_or_default(), mark, "{text}");
        }
    }
}
