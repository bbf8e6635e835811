//! Codes written into a single cell: "1=White; 2=Yellow", "W, Y, R".

use super::vocabulary::{Words, leads, meaning};

/// The longest code that is believed to be one, in characters.
const LONGEST_CODE: usize = 20;

/// What says yes and what says no, in some languages.
const PAIRS: [(&str, &str); 36] = [
    ("y", "n"),
    ("yes", "no"),
    ("true", "false"),
    ("t", "f"),
    ("1", "0"),
    ("j", "n"),
    ("ja", "nein"),
    ("wahr", "falsch"),
    ("oui", "non"),
    ("o", "n"),
    ("vrai", "faux"),
    ("v", "f"),
    ("sí", "no"),
    ("si", "no"),
    ("sì", "no"),
    ("s", "n"),
    ("verdadero", "falso"),
    ("vero", "falso"),
    ("sim", "não"),
    ("sim", "nao"),
    ("verdadeiro", "falso"),
    ("ja", "nee"),
    ("waar", "onwaar"),
    ("ja", "nej"),
    ("ja", "nei"),
    ("sant", "falskt"),
    ("kyllä", "ei"),
    ("k", "e"),
    ("tak", "nie"),
    ("t", "n"),
    ("ano", "ne"),
    ("a", "n"),
    ("igen", "nem"),
    ("evet", "hayır"),
    ("да", "нет"),
    ("ναι", "όχι"),
];

/// Whether the two mean yes and no.
pub(super) fn is_yes_and_no(yes: &str, no: &str) -> bool {
    PAIRS.contains(&(yes.to_lowercase().as_str(), no.to_lowercase().as_str()))
}

/// Whether a folded word of more than one letter says yes or no.
pub(super) fn says_yes_or_no(folded: &str) -> bool {
    PAIRS.iter().any(|(yes, no)| [yes, no].contains(&&folded))
}

/// What a word of more than one letter says, where it is a yes or a no and not either by its language.
pub(super) fn yes_or_no(word: &str) -> Option<bool> {
    let word = word.to_lowercase();
    if word.chars().count() < 2 {
        return None;
    }
    let is_yes = PAIRS.iter().any(|(yes, _)| *yes == word);
    let is_no = PAIRS.iter().any(|(_, no)| *no == word);
    (is_yes != is_no).then_some(is_yes)
}

/// The words for true and for false, where a cell gives nothing but these.
pub(super) fn pair_of_words(text: &str) -> Option<(String, String)> {
    let is_pair =
        |yes: &str, no: &str| PAIRS.contains(&(yes.to_lowercase().as_str(), no.to_lowercase().as_str()));
    if let Some(codes) = pairs(text) {
        let [(first, first_label), (second, second_label)] = codes.as_slice() else { return None };
        return if is_pair(first_label, second_label) {
            Some((first.clone(), second.clone()))
        } else if is_pair(second_label, first_label) {
            Some((second.clone(), first.clone()))
        } else {
            None
        };
    }
    let parts: Vec<&str> = text.split(['/', ',', ';', '|']).flat_map(split_at_or).map(str::trim).collect();
    let [first, second] = *parts.as_slice() else { return None };
    if is_pair(first, second) {
        Some((first.to_owned(), second.to_owned()))
    } else if is_pair(second, first) {
        Some((second.to_owned(), first.to_owned()))
    } else {
        None
    }
}

/// The parts of a text between words for "or".
fn split_at_or(text: &str) -> impl Iterator<Item = &str> {
    let or = [" or ", " oder ", " ou ", " o ", " of ", " eller ", " tai ", " lub ", " nebo ", " или "];
    let found = or.into_iter().find(|or| text.contains(or));
    let (first, rest) = found.and_then(|or| text.split_once(or)).map_or((text, None), |(a, b)| (a, Some(b)));
    std::iter::once(first).chain(rest)
}

/// The codes that a cell lists, with their labels where it gives them.
pub(super) fn listed_codes(text: &str) -> Option<Vec<(String, String)>> {
    pairs(text).or_else(|| by_first_words(text)).or_else(|| {
        let parts = split(text, &['\n', ';', '|', ',', '/']);
        let codes = parts.len() >= 2 && parts.iter().all(|part| is_code(part));
        codes.then(|| parts.into_iter().map(|code| (code, String::new())).collect())
    })
}

/// Something that may be a code without a label: short, at most two words, and no sentence.
fn is_code(text: &str) -> bool {
    text.chars().count() <= LONGEST_CODE
        && text.split_whitespace().count() <= 2
        && !text.contains(['(', ')', '.', ':', '=', '<', '>'])
        && !matches!(text.to_lowercase().as_str(), "etc" | "max" | "min" | "and" | "or")
}

/// "code = label" for each part; nothing unless every part is of that form.
fn pairs(text: &str) -> Option<Vec<(String, String)>> {
    for between in ["\n", ";", "|", ","] {
        let mut parts = split(text, &between.chars().collect::<Vec<_>>());
        // "see Faults" behind the codes says where more is said of them.
        let is_reference = |part: &String| {
            let lower = part.to_lowercase();
            leads(Words::See)
                .iter()
                .any(|lead| lower.strip_prefix(lead.as_str()).is_some_and(|rest| rest.starts_with(' ')))
        };
        if parts.len() > 2 && parts.last().is_some_and(is_reference) {
            parts.pop();
        }
        for sign in ["=", ":", " – ", " — ", " - ", "–", "\t"] {
            // A line without a sign goes on with the one above it.
            let mut whole: Vec<String> = Vec::new();
            for part in &parts {
                match whole.last_mut() {
                    Some(last) if between == "\n" && !part.contains(sign) => {
                        last.push(' ');
                        last.push_str(part);
                    }
                    _ => whole.push(part.clone()),
                }
            }
            let parts = whole;
            if parts.len() < 2 {
                continue;
            }
            let codes: Option<Vec<(String, String)>> = parts
                .iter()
                .map(|part| {
                    let (code, label) = part.split_once(sign)?;
                    let (code, label) = (code.trim(), label.trim());
                    let good = !code.is_empty() && !label.is_empty() && code.chars().count() <= LONGEST_CODE;
                    good.then(|| (code.to_owned(), label.to_owned()))
                })
                .collect();
            if codes.is_some() {
                return codes;
            }
        }
    }
    None
}

/// "N none, I iron, P plastic" and "G (receiver), M (map)": every part begins with a code of its own and goes on with its
/// label.
fn by_first_words(text: &str) -> Option<Vec<(String, String)>> {
    let parts = split(text, &['\n', ';', '|', ',', '/']);
    let parts = if parts.len() < 2 {
        split(text.trim_end_matches([';', ',', '.']), &['\n', ',', '/'])
    } else {
        parts
    };
    let one = |part: &String| {
        let (code, label) = part.split_once(' ')?;
        let label = label.trim().trim_start_matches('(').trim_end_matches(')').trim();
        let is_short = code.chars().count() <= 4 && code.chars().all(char::is_alphanumeric);
        let is_code = code.chars().all(|c| c.is_ascii_digit()) || code.chars().all(|c| !c.is_lowercase());
        let has_words = label.chars().any(char::is_alphabetic);
        (is_short && is_code && has_words).then(|| (code.to_owned(), label.to_owned()))
    };
    let codes: Vec<(String, String)> = parts.iter().map(one).collect::<Option<_>>()?;
    let differ =
        codes.iter().enumerate().all(|(at, (code, _))| codes.iter().take(at).all(|(other, _)| other != code));
    // "2 decimals, 5 digits" are no codes.
    let is_size = |label: &str| meaning(Words::Size, label).is_some();
    (codes.len() > 1 && differ && !codes.iter().any(|(_, label)| is_size(label))).then_some(codes)
}

fn split(text: &str, by: &[char]) -> Vec<String> {
    // The first separator that occurs parts the list; the others belong to its texts.
    let Some(by) = by.iter().find(|by| text.contains(**by)) else { return vec![text.trim().to_owned()] };
    text.split(*by)
        .map(|part| part.trim().trim_matches(['"', '“', '”']).trim().to_owned())
        .filter(|part| !part.is_empty())
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn codes(text: &str) -> String {
        let codes = listed_codes(text).unwrap_or_default();
        codes.into_iter().map(|(code, label)| format!("[{code}|{label}]")).collect()
    }

    #[test]
    fn codes_in_a_cell_are_told_from_sentences() {
        for (text, found) in [
            ("1=White; 2=Yellow; 3=Red, dark", "[1|White][2|Yellow][3|Red, dark]"),
            ("W - White\nY - Yellow", "[W|White][Y|Yellow]"),
            ("01: North, 02: South", "[01|North][02|South]"),
            ("A|B|C", "[A|][B|][C|]"),
            ("clay / loam / sand", "[clay|][loam|][sand|]"),
            ("any number, but not more than ten of them", ""),
            ("W", ""),
            ("White, Yellow, etc", ""),
        ] {
            assert_eq!(codes(text), found, "{text}");
        }
    }

    #[test]
    fn words_for_true_and_false_are_a_pair_that_everybody_knows() {
        let pair = |text: &str| pair_of_words(text).map_or(String::new(), |(yes, no)| format!("{yes}|{no}"));
        for (text, found) in [
            ("Y/N", "Y|N"),
            ("no, yes", "yes|no"),
            ("1 or 0", "1|0"),
            ("1=Yes; 2=No", "1|2"),
            ("0 = No\n1 = Yes", "1|0"),
            ("A/B", ""),
            ("1=White; 2=Yellow", ""),
            ("Y/N/U", ""),
        ] {
            assert_eq!(pair(text), found, "{text}");
        }
    }
}
