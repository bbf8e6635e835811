//! Colours and other marks. Nothing is said by colour alone.
//!
//! A style stands in a text as a noncharacter of Unicode until the text is printed, so that what a file holds can never
//! be taken for one.

use anstyle::{AnsiColor, Style};

/// A style, as it stands in a text that is not printed yet.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Ink(char);

/// Something that is kept out or went wrong.
pub(super) const WRONG: Ink = Ink('\u{1fffe}');
/// Something that goes in.
pub(super) const GOOD: Ink = Ink('\u{1ffff}');
/// Something to look at.
pub(super) const REMARK: Ink = Ink('\u{2fffe}');
/// A name of the steward's own: a field, a file.
pub(super) const NAME: Ink = Ink('\u{2ffff}');
/// A command to type or a line to write.
pub(super) const COMMAND: Ink = Ink('\u{3fffe}');
/// What is there to be read second.
pub(super) const QUIET: Ink = Ink('\u{3ffff}');

/// Where a style ends.
const END: char = '\u{4fffe}';

/// Puts a style around a text.
pub(super) fn styled(style: Ink, text: &str) -> String {
    if text.is_empty() { String::new() } else { format!("{}{text}{END}", style.0) }
}

/// What a terminal is told for a mark of a style; nothing for any other character.
pub(super) fn printed(mark: char) -> Option<String> {
    let style = match Ink(mark) {
        WRONG => AnsiColor::Red.on_default().bold(),
        GOOD => AnsiColor::Green.on_default().bold(),
        REMARK => AnsiColor::Yellow.on_default(),
        NAME => Style::new().bold(),
        COMMAND => AnsiColor::Cyan.on_default(),
        QUIET => Style::new().dimmed(),
        Ink(END) => return Some(anstyle::Reset.to_string()),
        Ink(_) => return None,
    };
    Some(style.to_string())
}

/// Why a command could not be done.
pub(crate) fn failure(says: &str) -> String {
    format!("{} {says}", styled(WRONG, "dusk:"))
}
