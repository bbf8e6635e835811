//! Text is cleaned: white space, characters that nobody sees, separate accents, and text that was
//! decoded wrongly once. No other letter is ever touched, and what was done is said.

use std::borrow::Cow;

use unicode_normalization::{IsNormalized, UnicodeNormalization as _, is_nfc_quick};

use super::{Step, Trail};
use dusk_description::fold;
use dusk_inspecting::undo_wrong_decoding;
use dusk_mapping::TextReading;
use dusk_sources::CellKind;
use dusk_values::{
    is_curly_quote, is_hidden, is_no_break_space, is_odd_space, is_right_to_left, named_character,
};

/// Cleans a text. Nothing is allocated when nothing has to be done. `line_mark` is what stands for
/// a line break in the source.
pub(super) fn clean<'t>(
    text: &'t str,
    reading: TextReading,
    line_mark: Option<&str>,
    trail: &mut Trail,
) -> Cow<'t, str> {
    let mut text = Cow::Borrowed(text);
    if let Some(mark) = line_mark.filter(|mark| text.contains(*mark)) {
        let broken = text.replace(mark, "\n");
        trail.took(Step::LineBreakMark, &broken, || {
            format!("\"{mark}\" stands for a line break, as the mapping says")
        });
        text = Cow::Owned(broken);
    }
    text = clean_once(text, reading, trail);
    // With an odd space gone, the rest may be seen to have been decoded wrongly.
    while !text.is_ascii() {
        let before = text.len();
        let mut again = trail.another();
        text = clean_once(text, reading, &mut again);
        if text.len() == before && !again.changed() {
            break;
        }
        trail.append(again);
    }
    text
}

fn clean_once<'t>(mut text: Cow<'t, str>, reading: TextReading, trail: &mut Trail) -> Cow<'t, str> {
    if !text.is_ascii() {
        text = clean_letters(text, reading, trail);
    }
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
    if reading.plain_spaces && !text.is_ascii() && text.contains(is_odd_space) {
        let count = text.chars().filter(|c| is_odd_space(*c)).count();
        let all_no_break = text.chars().filter(|c| is_odd_space(*c)).all(is_no_break_space);
        let plain: String = text.chars().map(|c| if is_odd_space(c) { ' ' } else { c }).collect();
        let what = if all_no_break { "no-break space" } else { "unusual space" };
        trail.took(Step::Spaces, &plain, || format!("made {} ordinary", counted(count, what)));
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

/// What only text outside ASCII needs.
fn clean_letters<'t>(mut text: Cow<'t, str>, reading: TextReading, trail: &mut Trail) -> Cow<'t, str> {
    // Text that went through two such programs was decoded wrongly twice.
    for _ in 0..3 {
        let Some((before, encoding)) =
            Some(()).filter(|()| reading.redecoded).and_then(|()| undo_wrong_decoding(&text))
        else {
            break;
        };
        trail.took(Step::Decoding, &before, || {
            format!("it was UTF-8, read as {encoding} and saved; the way back is exact")
        });
        text = Cow::Owned(before);
    }
    let one_direction = !text.chars().any(is_right_to_left);
    let hides = |c: char| is_hidden(c, one_direction);
    if reading.no_hidden && text.contains(hides) {
        let shown: String = text.chars().filter(|c| !hides(*c)).collect();
        trail.took(Step::Hidden, &shown, || {
            let gone: Vec<String> = text
                .chars()
                .filter(|c| hides(*c))
                .map(|c| named_character(c).split_off(c.len_utf8() + 3))
                .collect();
            format!("took away {}", gone.join(", "))
        });
        text = Cow::Owned(shown);
    }
    if reading.composed && is_nfc_quick(text.chars()) != IsNormalized::Yes {
        let composed: String = text.nfc().collect();
        if composed != *text {
            trail.took(Step::Letters, &composed, || {
                "letters and accents put together (Unicode NFC), which look the same".into()
            });
            text = Cow::Owned(composed);
        }
    }
    if reading.straight_quotes && text.contains(is_curly_quote) {
        let straight: String = text
            .chars()
            .map(|c| match c {
                '\u{2018}'..='\u{201b}' => '\'',
                c if is_curly_quote(c) => '"',
                c => c,
            })
            .collect();
        trail.took(Step::Quotes, &straight, || "curly quotes made straight, as the mapping says".into());
        text = Cow::Owned(straight);
    }
    text
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

/// True for a cell that holds nothing, or a word that stands for that.
pub(super) fn is_blank(cell: &str, words: &[String]) -> bool {
    let text = CellKind::of(cell).1.trim();
    text.is_empty() || !words.is_empty() && words.contains(&fold(text))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// Cleaning takes away white space only, and cleaning again does nothing.
        #[test]
        fn cleaning_touches_white_space_only_and_is_done_once(text in "[abÃ–é \u{a0}\u{202f}\t\r\n]{0,20}", one_line in any::<bool>()) {
            let reading = TextReading { one_line, ..TextReading::default() };
            let mut trail = Trail::keeping();
            let cleaned = clean(&text, reading, None, &mut trail).into_owned();
            let letters = |text: &str| text.chars().filter(|c| !c.is_whitespace()).collect::<String>();
            if trail.taken.iter().all(|taken| taken.step != Step::Decoding) {
                prop_assert_eq!(letters(&cleaned), letters(&text));
            }
            prop_assert_eq!(trail.changed(), cleaned != text, "{:?}", trail);
            prop_assert!(trail.taken.last().is_none_or(|taken| taken.after == cleaned));
            let mut again = Trail::keeping();
            prop_assert_eq!(clean(&cleaned, reading, None, &mut again), cleaned.as_str());
            prop_assert!(!again.changed());
        }
    }
}
