//! Letters, digits and characters that nobody sees: what they are, and what they are called.

use std::sync::LazyLock;

use crate::Invisible;

/// Whether a text is made of ASCII digits, at least one of them.
pub fn is_digits(text: &str) -> bool {
    !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit())
}

/// Brings a text into the form in which code lists compare: without case, white space and joiners, which say
/// how letters are drawn and not which they are (RFC 5892, appendix A).
pub fn fold(text: &str) -> String {
    let counts = |c: &char| !c.is_whitespace() && !matches!(c, '\u{200c}' | '\u{200d}');
    text.chars().filter(counts).flat_map(char::to_lowercase).collect()
}

/// The Unicode names of the characters that this program has to name: of the Latin, Greek and Cyrillic alphabets,
/// of spaces, dashes and quotes, and of those that nobody sees. In the order of their code points.
static NAMES: LazyLock<Vec<(u32, &str)>> = LazyLock::new(|| {
    let named = |line: &'static str| {
        let (code, name) = line.split_once(' ')?;
        Some((u32::from_str_radix(code, 16).ok()?, name))
    };
    include_str!("character_names.txt").lines().filter_map(named).collect()
});

/// The Unicode name of a character, where it is one that has to be named here.
fn name(c: char) -> Option<&'static str> {
    let place = NAMES.binary_search_by_key(&u32::from(c), |(code, _)| *code).ok()?;
    NAMES.get(place).map(|(_, name)| *name)
}

/// A character with its code point and, where it has to be told from others, its Unicode name.
pub fn named_character(c: char) -> String {
    let name = name(c).map_or_else(String::new, |name| format!(" {name}"));
    if c.is_control() {
        format!("U+{:04X}{name}", u32::from(c))
    } else {
        format!("\"{c}\" U+{:04X}{name}", u32::from(c))
    }
}

/// The first character in a text that nobody sees.
pub fn hidden_in(text: &str) -> Option<char> {
    let invisible = Invisible::in_text(text);
    text.chars().find(|c| invisible.hides(*c) || c.is_control())
}

/// Letters of the scripts that are written from right to left.
pub fn is_right_to_left(c: char) -> bool {
    matches!(c, '\u{590}'..='\u{8ff}' | '\u{fb1d}'..='\u{fdcf}' | '\u{fe70}'..='\u{fefc}' | '\u{10800}'..='\u{10fff}' | '\u{1e800}'..='\u{1efff}')
}

/// Spaces other than the ordinary one and the wide one of East Asian text.
pub fn is_odd_space(c: char) -> bool {
    is_no_break_space(c) || matches!(c, '\u{1680}' | '\u{2000}'..='\u{200a}' | '\u{205f}')
}

/// Spaces at which no line may break: U+00A0, U+2007 and U+202F.
pub fn is_no_break_space(c: char) -> bool {
    matches!(c, '\u{a0}' | '\u{2007}' | '\u{202f}')
}

/// Quotes that typesetters use.
pub fn is_curly_quote(c: char) -> bool {
    matches!(c, '\u{2018}'..='\u{201f}')
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn characters_are_called_as_unicode_calls_them() {
        assert_eq!(named_character('\u{200b}'), "\"\u{200b}\" U+200B ZERO WIDTH SPACE");
        assert_eq!(named_character('с'), "\"с\" U+0441 CYRILLIC SMALL LETTER ES");
        assert_eq!(named_character('\u{7}'), "U+0007");
        assert_eq!(named_character('蜂'), "\"蜂\" U+8702");
        assert!(NAMES.is_sorted() && NAMES.len() > 1000);
    }
}
