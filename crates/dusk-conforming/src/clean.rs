//! Text is cleaned: white space, characters that nobody sees, separate accents, and text that was
//! decoded wrongly once. No other letter is ever touched, and what was done is said.

use std::borrow::Cow;

use unicode_normalization::{IsNormalized, UnicodeNormalization as _, is_nfc_quick};

use super::{Basis, Trail};
use dusk_description::fold;
use dusk_inspecting::undo_wrong_decoding;
use dusk_mapping::TextReading;
use dusk_sources::CellKind;
use dusk_values::{Invisible, is_curly_quote, is_no_break_space, is_odd_space};

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
        trail.took(&broken, || Basis::LineBreakMark { mark: mark.to_owned() });
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
    in_form(text, reading, trail)
}

/// The text in the form that the mapping wants.
fn in_form<'t>(text: Cow<'t, str>, reading: TextReading, trail: &mut Trail) -> Cow<'t, str> {
    let Some(form) = reading.form else { return text };
    let formed = form.of(&text);
    if formed == *text {
        return text;
    }
    trail.took(&formed, || Basis::TextForm(form));
    Cow::Owned(formed)
}

fn clean_once<'t>(mut text: Cow<'t, str>, reading: TextReading, trail: &mut Trail) -> Cow<'t, str> {
    if !text.is_ascii() {
        text = clean_letters(text, reading, trail);
    }
    if reading.trim {
        text = without_ends(text, trail);
    }
    if reading.plain_spaces && !text.is_ascii() && text.contains(is_odd_space) {
        let count = text.chars().filter(|c| is_odd_space(*c)).count();
        let all_no_break = text.chars().filter(|c| is_odd_space(*c)).all(is_no_break_space);
        let plain: String = text.chars().map(|c| if is_odd_space(c) { ' ' } else { c }).collect();
        trail.took(&plain, || Basis::Spaces { count, all_no_break });
        text = Cow::Owned(plain);
    }
    if reading.one_line && text.contains(['\r', '\n']) {
        let lines: Vec<&str> =
            text.split(['\r', '\n']).map(str::trim).filter(|line| !line.is_empty()).collect();
        let one = lines.join(" ");
        let count = lines.len().saturating_sub(1);
        trail.took(&one, || Basis::LineBreaks { count });
        text = Cow::Owned(one);
    }
    text
}

/// Takes white space at the ends away.
fn without_ends<'t>(text: Cow<'t, str>, trail: &mut Trail) -> Cow<'t, str> {
    let trimmed = text.trim();
    if trimmed.len() == text.len() {
        return text;
    }
    let start = text.len() - text.trim_start().len();
    let before = text.get(..start).unwrap_or_default();
    let behind = text.get(start + trimmed.len()..).filter(|_| !trimmed.is_empty()).unwrap_or_default();
    trail.took(trimmed, || Basis::Ends { before: before.to_owned(), behind: behind.to_owned() });
    match text {
        Cow::Borrowed(text) => Cow::Borrowed(text.trim()),
        Cow::Owned(text) => Cow::Owned(text.trim().to_owned()),
    }
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
        trail.took(&before, || Basis::WronglyDecoded { encoding: encoding.to_string() });
        text = Cow::Owned(before);
    }
    let invisible = Invisible::in_text(&text);
    let hides = |c: char| invisible.hides(c);
    if reading.no_hidden && text.contains(hides) {
        let shown: String = text.chars().filter(|c| !hides(*c)).collect();
        trail.took(&shown, || Basis::Hidden(text.chars().filter(|c| hides(*c)).collect()));
        text = Cow::Owned(shown);
    }
    if reading.composed && is_nfc_quick(text.chars()) != IsNormalized::Yes {
        let composed: String = text.nfc().collect();
        if composed != *text {
            trail.took(&composed, || Basis::Composed);
            text = Cow::Owned(composed);
        }
    }
    if reading.straight_quotes && text.contains(is_curly_quote) {
        let straight: String = text.chars().map(straight).collect();
        trail.took(&straight, || Basis::Quotes);
        text = Cow::Owned(straight);
    }
    text
}

fn straight(c: char) -> char {
    match c {
        '\u{2018}'..='\u{201b}' => '\'',
        c if is_curly_quote(c) => '"',
        c => c,
    }
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
    use crate::Step;

    proptest! {
        /// Cleaning takes away white space only, and cleaning again does nothing.
        #[test]
        fn cleaning_touches_white_space_only_and_is_done_once(text in "[abÃ–é \u{a0}\u{202f}\t\r\n]{0,20}", one_line in any::<bool>()) {
            let reading = TextReading { one_line, ..TextReading::default() };
            let mut trail = Trail::keeping();
            let cleaned = clean(&text, reading, None, &mut trail).into_owned();
            let letters = |text: &str| text.chars().filter(|c| !c.is_whitespace()).collect::<String>();
            if trail.taken.iter().all(|taken| taken.basis.step() != Step::Decoding) {
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
