//! Text is cleaned: only white space is ever touched, and what was taken away is said.

use std::borrow::Cow;

use super::{Step, Trail};
use crate::mapping::TextReading;

/// Cleans a text. Nothing is allocated when nothing has to be done.
pub(super) fn clean<'t>(text: &'t str, reading: TextReading, trail: &mut Trail) -> Cow<'t, str> {
    let mut text = Cow::Borrowed(text);
    if reading.trim {
        let trimmed = text.trim();
        if trimmed.len() != text.len() {
            let start = text.len() - text.trim_start().len();
            let before = text.get(..start).unwrap_or_default();
            let after =
                if trimmed.is_empty() { "" } else { text.get(start + trimmed.len()..).unwrap_or_default() };
            trail.took(Step::Trim, trimmed, || taken_away(before, after));
            text = match text {
                Cow::Borrowed(text) => Cow::Borrowed(text.trim()),
                Cow::Owned(text) => Cow::Owned(text.trim().to_owned()),
            };
        }
    }
    if reading.plain_spaces && !text.is_ascii() && text.contains(is_no_break_space) {
        let count = text.chars().filter(|c| is_no_break_space(*c)).count();
        let plain: String = text.chars().map(|c| if is_no_break_space(c) { ' ' } else { c }).collect();
        trail.took(Step::Spaces, &plain, || format!("made {} ordinary", counted(count, "no-break space")));
        text = Cow::Owned(plain);
    }
    if reading.one_line && text.contains(['\r', '\n']) {
        let lines: Vec<&str> =
            text.split(['\r', '\n']).map(str::trim).filter(|line| !line.is_empty()).collect();
        let one = lines.join(" ");
        let count = lines.len().saturating_sub(1);
        trail.took(Step::LineBreaks, &one, || {
            format!("made {} a space, as the mapping says (line_breaks)", counted(count, "line break"))
        });
        text = Cow::Owned(one);
    }
    text
}

/// Spaces at which no line may break: U+00A0, U+2007 and U+202F.
pub(super) fn is_no_break_space(c: char) -> bool {
    matches!(c, '\u{a0}' | '\u{2007}' | '\u{202f}')
}

/// Says what white space stood at the ends: "took away 2 spaces before, 1 tab after".
fn taken_away(before: &str, after: &str) -> String {
    let mut places = Vec::new();
    for (text, place) in [(before, "before"), (after, "after")] {
        let mut kinds: Vec<(&str, usize)> = Vec::new();
        for c in text.chars() {
            let name = match c {
                ' ' => "space",
                '\t' => "tab",
                '\r' | '\n' => "line break",
                c if is_no_break_space(c) => "no-break space",
                _ => "unusual space",
            };
            match kinds.iter_mut().find(|(known, _)| *known == name) {
                Some((_, count)) => *count += 1,
                None => kinds.push((name, 1)),
            }
        }
        if !kinds.is_empty() {
            let kinds: Vec<String> = kinds.into_iter().map(|(name, count)| counted(count, name)).collect();
            places.push(format!("{} {place}", kinds.join(" and ")));
        }
    }
    format!("took away {}", places.join(", "))
}

fn counted(count: usize, what: &str) -> String {
    if count == 1 { format!("1 {what}") } else { format!("{count} {what}s") }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// Cleaning takes away white space only, and cleaning again does nothing.
        #[test]
        fn cleaning_touches_white_space_only_and_is_done_once(text in "[ab \u{a0}\u{202f}\t\r\n]{0,20}", one_line in any::<bool>()) {
            let reading = TextReading { one_line, ..TextReading::default() };
            let mut trail = Trail::keeping();
            let cleaned = clean(&text, reading, &mut trail).into_owned();
            let letters = |text: &str| text.chars().filter(|c| !c.is_whitespace()).collect::<String>();
            prop_assert_eq!(letters(&cleaned), letters(&text));
            prop_assert_eq!(trail.changed(), cleaned != text, "{:?}", trail);
            prop_assert!(trail.taken.last().is_none_or(|taken| taken.after == cleaned));
            let mut again = Trail::keeping();
            prop_assert_eq!(clean(&cleaned, reading, &mut again), cleaned.as_str());
            prop_assert!(!again.changed());
        }
    }
}
