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

/// The text as one word of a shell command.
pub(crate) fn shell_word(text: &str) -> String {
    let plain = |c: char| c.is_alphanumeric() || matches!(c, '_' | '-' | '.' | '/' | ':' | '@' | '+');
    if !text.is_empty() && text.chars().all(plain) {
        return text.to_owned();
    }
    if text.chars().any(|c| c.is_control()) {
        return format!("$'{}'", text.escape_default());
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
    }
}
