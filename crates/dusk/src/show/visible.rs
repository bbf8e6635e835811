//! Outside text is made safe and visible before a terminal gets it: control characters cannot
//! act, and characters that nobody sees are shown by a mark.

use std::borrow::Cow;

use anstream::{AutoStream, ColorChoice, stream::RawStream};
use dusk_core::values::Invisible;

use super::style;

/// The text with every character visible that would otherwise act or hide.
pub(crate) fn visible(text: &str) -> Cow<'_, str> {
    shown(text, |_| None)
}

/// A whole text as a stream gets it: styles where they are seen, lines where they end, and every other character
/// visible that would act on a terminal or hide. Whatever is printed goes through here, so that nothing that stands in
/// a file, in its name or in a setting acts.
pub(crate) fn on_screen(text: &str, stream: &impl RawStream) -> String {
    let styles = AutoStream::choice(stream) != ColorChoice::Never;
    let own = |letter| match letter {
        '\n' => Some("\n".to_owned()),
        letter => style::printed(letter).map(|style| if styles { style } else { String::new() }),
    };
    shown(text, own).into_owned()
}

/// JSON with every character escaped that would act on a terminal or hide; for programs it is the same.
pub(crate) fn escaped_json(json: &str) -> Cow<'_, str> {
    if json.is_ascii() {
        return Cow::Borrowed(json);
    }
    let invisible = Invisible::in_text(json);
    let mut escaped = String::with_capacity(json.len() + 8);
    for letter in json.chars() {
        if letter != '\n' && invisible.misleads(letter) {
            let mut units = [0; 2];
            letter
                .encode_utf16(&mut units)
                .iter()
                .for_each(|unit| escaped.push_str(&format!("\\u{unit:04x}")));
        } else {
            escaped.push(letter);
        }
    }
    Cow::Owned(escaped)
}

/// The text with what acts or hides made visible, apart from what the program itself put there.
fn shown(text: &str, own: impl Fn(char) -> Option<String>) -> Cow<'_, str> {
    let invisible = Invisible::in_text(text);
    if !text.chars().any(|letter| is_hidden(letter, invisible)) {
        return Cow::Borrowed(text);
    }
    let mut shown = String::with_capacity(text.len() + 8);
    for letter in text.chars() {
        if !is_hidden(letter, invisible) {
            shown.push(letter);
            continue;
        }
        match own(letter) {
            Some(own) => shown.push_str(&own),
            None => push_mark(letter, &mut shown),
        }
    }
    Cow::Owned(shown)
}

/// What is seen in the place of a character that acts or hides.
fn push_mark(letter: char, shown: &mut String) {
    match letter {
        '\n' => shown.push('⏎'),
        '\t' => shown.push('⇥'),
        '\u{a0}' | '\u{2007}' | '\u{202f}' => shown.push('⍽'),
        // Unicode has pictures for the C0 controls, in their order.
        '\u{0}'..='\u{1f}' => shown.extend(char::from_u32(0x2400 + u32::from(letter))),
        '\u{7f}' => shown.push('␡'),
        letter => shown.push_str(&format!("‹U+{:04X}›", u32::from(letter))),
    }
}

fn is_hidden(letter: char, invisible: Invisible) -> bool {
    // Noncharacters are for a program's own use, and this one's styles are among them.
    let is_noncharacter = u32::from(letter) & 0xfffe == 0xfffe || matches!(letter, '\u{fdd0}'..='\u{fdef}');
    invisible.misleads(letter)
        || is_noncharacter
        || matches!(letter,
            '\u{a0}' | '\u{2000}'..='\u{200b}' | '\u{200e}' | '\u{200f}' | '\u{2028}'..='\u{202f}' | '\u{205f}'..='\u{206f}')
}

/// A text with characters that act or hide as one word, which every shell of POSIX can print: nothing in it is
/// hidden, and it is exact.
fn printed_word(text: &str) -> String {
    let mut word = String::from("\"$(printf -- '");
    let invisible = Invisible::in_text(text);
    for letter in text.chars() {
        match letter {
            '\'' => word.push_str("'\\''"),
            '\\' => word.push_str("\\\\"),
            '%' => word.push_str("%%"),
            letter if is_hidden(letter, invisible) => {
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
    let invisible = Invisible::in_text(text);
    if text.chars().any(|letter| is_hidden(letter, invisible)) {
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
    fn a_style_is_the_programs_own_and_nobody_elses() {
        let printed = super::style::failure("line one\n  \u{1b}[31mred\u{202e}\u{fdd0}\u{7fffe}");
        let screen = super::on_screen(&printed, &Vec::<u8>::new());
        assert_eq!(screen, "dusk: line one\n  ␛[31mred‹U+202E›‹U+FDD0›‹U+7FFFE›");
        assert!(printed.starts_with('\u{1fffe}') && super::style::printed('\u{1fffe}').is_some());
        assert_eq!(super::style::printed('x'), None);
    }

    proptest::proptest! {
        #[test]
        fn json_that_is_escaped_is_the_same_for_a_program(text in proptest::prelude::any::<String>()) {
            let json = serde_json::to_string(&text).unwrap();
            let escaped = super::escaped_json(&json);
            proptest::prop_assert_eq!(&serde_json::from_str::<String>(&escaped).unwrap(), &text);
            let invisible = dusk_core::values::Invisible::in_text(&text);
            proptest::prop_assert!(!escaped.chars().any(|letter| !letter.is_ascii() && invisible.misleads(letter)));
        }
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
