//! Letters of other alphabets that look like Latin ones.

/// The letters, and the Latin ones that they look like.
const PAIRS: [(&str, &str, &str); 2] = [
    ("Cyrillic", "АВЕЅІЈКМНОРСТХУаеѕіјорсхуԛԝ", "ABESIJKMHOPCTXYaesijopcxyqw"),
    ("Greek", "ΑΒΕΖΗΙΚΜΝΟΡΤΥΧονι", "ABEZHIKMNOPTYXovi"),
];

/// The alphabet of a letter that looks like a Latin one, and that one.
pub fn looks_like(letter: char) -> Option<(&'static str, char)> {
    PAIRS.iter().find_map(|(alphabet, letters, latin)| {
        let place = letters.chars().position(|other| other == letter)?;
        Some((*alphabet, latin.chars().nth(place)?))
    })
}

/// The text with Latin letters in the place of those that look like them; nothing where there are none.
pub fn in_latin_letters(text: &str) -> Option<String> {
    let latin: String = text.chars().map(|c| looks_like(c).map_or(c, |(_, latin)| latin)).collect();
    (latin != text).then_some(latin)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn letters_are_told_from_those_that_look_like_them() {
        assert!(PAIRS.iter().all(|(_, letters, latin)| letters.chars().count() == latin.chars().count()));
        assert_eq!(looks_like('М'), Some(("Cyrillic", 'M')));
        assert_eq!(looks_like('M'), None);
        assert_eq!(in_latin_letters("М4").as_deref(), Some("M4"));
        assert_eq!(in_latin_letters("ΑΒ1").as_deref(), Some("AB1"));
        assert_eq!(in_latin_letters("M4"), None);
    }
}
