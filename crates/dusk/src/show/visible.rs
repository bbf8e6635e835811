//! Outside text is made safe and visible before a terminal gets it: control characters cannot
//! act, and characters that nobody sees are shown by a mark.

use std::borrow::Cow;

/// The text with every character visible that would otherwise act or hide.
pub(crate) fn visible(text: &str) -> Cow<'_, str> {
    if !text.chars().any(is_hidden) {
        return Cow::Borrowed(text);
    }
    let mut shown = String::with_capacity(text.len() + 8);
    for letter in text.chars() {
        match letter {
            '\n' => shown.push('⏎'),
            '\t' => shown.push('⇥'),
            '\u{a0}' | '\u{2007}' | '\u{202f}' => shown.push('⍽'),
            // Unicode has pictures for the C0 controls, in their order.
            '\u{0}'..='\u{1f}' => shown.extend(char::from_u32(0x2400 + u32::from(letter))),
            '\u{7f}' => shown.push('␡'),
            letter if is_hidden(letter) => shown.push_str(&format!("‹U+{:04X}›", u32::from(letter))),
            letter => shown.push(letter),
        }
    }
    Cow::Owned(shown)
}

fn is_hidden(letter: char) -> bool {
    letter.is_control()
        || matches!(letter,
            '\u{a0}' | '\u{ad}' | '\u{2000}'..='\u{200f}' | '\u{2028}'..='\u{202f}' | '\u{205f}'..='\u{206f}'
            | '\u{feff}' | '\u{fff9}'..='\u{fffb}')
}

/// A text with characters that act or hide as one word, which every shell of POSIX can print: nothing in it is
/// hidden, and it is exact.
fn printed_word(text: &str) -> String {
    let mut word = String::from("\"$(printf -- '");
    for letter in text.chars() {
        match letter {
            '\'' => word.push_str("'\\''"),
            '\\' => word.push_str("\\\\"),
            '%' => word.push_str("%%"),
            letter if is_hidden(letter) => {
                let mut bytes = [0; 4];
                letter
                    .encode_utf8(&mut bytes)
                    .bytes()
                    .for_each(|byte| word.push_str(&format!("\\{byte:03o}")));
            }
            letter => word.push(letter),
        }
    }
    word.push_str("')\"");
    word
}

/// The text as one word of a shell command.
pub(crate) fn shell_word(text: &str) -> String {
    let plain = |c: char| c.is_alphanumeric() || matches!(c, '_' | '-' | '.' | '/' | ':' | '@' | '+');
    if !text.is_empty() && text.chars().all(plain) {
        return text.to_owned();
    }
    if text.chars().any(is_hidden) {
        return printed_word(text);
    }
    if !text.contains(['"', '$', '`', '\\', '!']) {
        return format!("\"{text}\"");
    }
    format!("'{}'", text.replace('\'', "'\\''"))
}

#[cfg(test)]
mod tests {
    use super::{shell_word, visible};

    #[test]
    fn nothing_acts_on_the_terminal_and_nothing_hides() {
        assert_eq!(visible("\u{1b}[31mred"), "␛[31mred");
        assert_eq!(visible("a\u{a0}b\u{200b}\r\n"), "a⍽b‹U+200B›␍⏎");
        assert_eq!(visible("plain ü 蜂"), "plain ü 蜂");
    }

    #[test]
    fn values_survive_the_shell() {
        assert_eq!(shell_word("yel."), "yel.");
        assert_eq!(shell_word("pale yellow"), "\"pale yellow\"");
        assert_eq!(shell_word("it's $5"), "'it'\\''s $5'");
        assert_eq!(shell_word(""), "\"\"");
        assert_eq!(shell_word("50%\nö's\\"), r#""$(printf -- '50%%\012ö'\''s\\')""#);
    }

    #[cfg(unix)]
    proptest::proptest! {
        #![proptest_config(proptest::prelude::ProptestConfig::with_cases(96))]

        /// What is printed as a word is, for a shell, the text.
        #[test]
        fn a_shell_reads_every_word_as_it_was(text in "[a-zé '\"$`\\\\!%*~;=#\\-\t\n\u{1}\u{7f}\u{a0}\u{202e}]{1,12}") {
            // A shell takes line ends away at the end of what a command prints; values are trimmed.
            let text = text.trim_end_matches('\n');
            let words = format!("printf '%s' {}", shell_word(text));
            let ran = std::process::Command::new("/bin/sh").args(["-c", &words]).output().unwrap();
            proptest::prop_assert_eq!(visible(&words), words.as_str());
            proptest::prop_assert_eq!(String::from_utf8(ran.stdout).unwrap(), text, "{}", words);
        }
    }
}
