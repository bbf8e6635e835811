//! Colours and other marks. Nothing is said by colour alone.

use anstyle::{AnsiColor, Style};

/// Something that is kept out or went wrong.
pub(super) const WRONG: Style = AnsiColor::Red.on_default().bold();
/// Something that goes in.
pub(super) const GOOD: Style = AnsiColor::Green.on_default().bold();
/// Something to look at.
pub(super) const REMARK: Style = AnsiColor::Yellow.on_default();
/// A name of the steward's own: a field, a file.
pub(super) const NAME: Style = Style::new().bold();
/// A command to type or a line to write.
pub(super) const COMMAND: Style = AnsiColor::Cyan.on_default();
/// What is there to be read second.
pub(super) const QUIET: Style = Style::new().dimmed();

/// Puts a style around a text.
pub(super) fn styled(style: Style, text: &str) -> String {
    if text.is_empty() { String::new() } else { format!("{style}{text}{style:#}") }
}

/// Why a command could not be done.
pub(crate) fn failure(says: &str) -> String {
    format!("{} {says}", styled(WRONG, "dusk:"))
}
