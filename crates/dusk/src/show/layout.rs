//! Widths and lines: wide characters measured right, long texts broken at spaces.

use std::fmt;

use unicode_width::UnicodeWidthStr as _;

use super::style::{QUIET, styled};
use super::visible::visible;

/// How many columns there are to write in: the terminal's, or what COLUMNS says where there is none; between 80 and 200.
pub(super) fn width() -> usize {
    let terminal = terminal_size::terminal_size().map(|(width, _)| usize::from(width.0));
    let said = || std::env::var("COLUMNS").ok()?.parse().ok();
    // A pipe has no width; a hundred columns suit most places that a text ends up in.
    terminal.or_else(said).unwrap_or(100).clamp(80, 200)
}

/// How many columns a text takes.
pub(super) fn columns(text: &str) -> usize {
    text.width()
}

/// The text with spaces after it up to `width` columns.
pub(super) fn padded(text: &str, width: usize) -> String {
    format!("{text}{}", " ".repeat(width.saturating_sub(columns(text))))
}

/// The text cut to `width` columns, with a mark where something was cut.
pub(crate) fn cut(text: &str, width: usize) -> String {
    if columns(text) <= width {
        return text.to_owned();
    }
    let mut kept = String::new();
    for letter in text.chars() {
        let mut buffer = [0; 4];
        if columns(&kept) + columns(letter.encode_utf8(&mut buffer)) + 1 > width {
            break;
        }
        kept.push(letter);
    }
    kept.push('…');
    kept
}

/// A number with commas between groups of three digits.
pub(crate) fn grouped(number: u64) -> String {
    let digits = number.to_string();
    let mut grouped = String::new();
    for (place, digit) in digits.chars().enumerate() {
        if place > 0 && (digits.len() - place).is_multiple_of(3) {
            grouped.push(',');
        }
        grouped.push(digit);
    }
    grouped
}

/// So many of something: "1 row", "1,204 rows".
pub(crate) fn counted(count: u64, one: &str) -> String {
    format!("{} {one}{}", grouped(count), if count == 1 { "" } else { "s" })
}

/// How many rows a file has, in a column of its own; nothing for one without rows.
pub(super) fn rows_of_file(rows: Option<u64>) -> String {
    let says = match rows {
        None => String::new(),
        Some(1) => "1 row ".to_owned(),
        Some(rows) => counted(rows, "row"),
    };
    format!("{says:>14}")
}

/// A text behind its name, on as many lines as it needs; nothing for an empty one.
pub(super) fn item(name: &str, text: &str) -> String {
    const MARGIN: usize = 14;
    if text.is_empty() {
        return String::new();
    }
    let mut out = String::new();
    for (number, line) in wrapped(&visible(text), width().saturating_sub(MARGIN), 0).iter().enumerate() {
        let name = if number == 0 { name } else { "" };
        out.push_str(&format!("  {}{line}\n", styled(QUIET, &padded(name, MARGIN - 2))));
    }
    out
}

/// A text behind something that takes so many columns, with its further lines below its beginning.
pub(super) fn behind(before: &str, margin: usize, text: &str) -> String {
    let room = width().saturating_sub(margin).max(20);
    let lines = wrapped(text, room, 0);
    let line = |(place, line): (usize, &String)| match place {
        0 => format!("{before}{line}\n"),
        _ => format!("{}{line}\n", " ".repeat(margin)),
    };
    lines.iter().enumerate().map(line).collect()
}

/// A text in lines of the screen's width, each with its end.
pub(crate) fn wrapped_page(text: &str) -> String {
    wrapped(text, width(), 0).iter().map(|line| format!("{line}\n")).collect()
}

/// Breaks a text at spaces into lines of at most `width` columns. The first line may have begun
/// already, `begun` columns in.
pub(crate) fn wrapped(text: &str, width: usize, begun: usize) -> Vec<String> {
    let mut lines = Vec::new();
    let mut line = String::new();
    let mut used = begun;
    for word in text.split(' ') {
        let wide = columns(word);
        let space = usize::from(!line.is_empty());
        if used + space + wide > width && (used > 0) {
            lines.push(std::mem::take(&mut line));
            used = 0;
        }
        if !line.is_empty() {
            line.push(' ');
            used += 1;
        }
        line.push_str(word);
        used += wide;
    }
    lines.push(line);
    lines
}

/// A label and what it is about on one line, or on several where it is long.
pub(super) fn labelled(f: &mut fmt::Formatter<'_>, label: &str, text: &str) -> fmt::Result {
    const MARGIN: usize = 14;
    for (place, line) in wrapped(text, width() - MARGIN, 0).iter().enumerate() {
        let label = if place == 0 { label } else { "" };
        // A label that fills its column still stands apart from what it is about.
        let label = if label.len() < MARGIN - 2 { label.to_owned() } else { format!("{label} ") };
        writeln!(f, "  {}{line}", styled(QUIET, &padded(&label, MARGIN - 2)))?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn wide_characters_are_measured_and_numbers_grouped() {
        assert_eq!(padded("蜂蜜", 6), "蜂蜜  ");
        assert_eq!(cut("蜂蜜 honey", 6), "蜂蜜 …");
        assert_eq!([0, 999, 1000, 1234567].map(grouped), ["0", "999", "1,000", "1,234,567"]);
        assert_eq!(wrapped("one two three", 9, 4), ["one", "two three"]);
    }

    proptest::proptest! {
        /// Lines hold all the words in their order, and only a word that is too long alone passes the edge.
        #[test]
        fn a_text_is_broken_at_spaces_only(text in "[a-z蜂]{0,9}( [a-z蜂]{0,9}){0,8}", width in 1..30_usize, begun in 0..12_usize) {
            let lines = wrapped(&text, width, begun);
            let words = |text: &str| text.split_whitespace().map(str::to_owned).collect::<Vec<_>>();
            proptest::prop_assert_eq!(words(&lines.join(" ")), words(&text));
            for (place, line) in lines.iter().enumerate() {
                let room = if place == 0 { width.saturating_sub(begun) } else { width };
                proptest::prop_assert!(columns(line) <= room || !line.trim().contains(' '), "{:?} in {}", line, room);
            }
        }

        /// What is cut fits, and tells that it was cut.
        #[test]
        fn a_text_is_cut_to_its_room(text in "[a-z蜂é ]{0,20}", width in 1..20_usize) {
            let shown = cut(&text, width);
            proptest::prop_assert!(columns(&shown) <= width.max(1));
            match shown.strip_suffix('…') {
                Some(begin) => proptest::prop_assert!(text.starts_with(begin) && columns(&text) > width),
                None => proptest::prop_assert_eq!(shown, text),
            }
        }
    }
}
