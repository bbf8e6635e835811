//! Cells that a spreadsheet program would run as formulas, made harmless and brought back.
//!
//! A spreadsheet program that opens delimited text takes a cell for a formula when it begins with one of a
//! few signs, and a cell begins wherever the program believes it does: opened with another delimiter than it
//! was written with, a file falls into other cells. So an apostrophe goes before every such sign at which a
//! cell might begin, and is taken away again when the file is read back.

use std::borrow::Cow;

/// The signs with which a formula begins, in their wide forms as well.
fn begins_formula(letter: char) -> bool {
    matches!(letter, '=' | '+' | '-' | '@' | '＝' | '＋' | '－' | '＠')
}

/// What may part cells in a program that was told another delimiter.
fn parts_cells(letter: char) -> bool {
    matches!(letter, ',' | ';' | '\t' | '|' | '\n' | '\r')
}

/// Whether a piece of text would be run: behind white space, quotes and apostrophes that are there already
/// stands a sign with which a formula begins. A plain number is none.
fn is_dangerous(piece: &str) -> bool {
    let bare =
        piece.trim_start_matches(|letter: char| letter.is_whitespace() || matches!(letter, '\'' | '"'));
    let starts = bare.chars().next().is_some_and(begins_formula);
    let figures = |text: &str| {
        text.chars().all(|letter| letter.is_ascii_digit() || letter == '.')
            && text.bytes().any(|byte| byte.is_ascii_digit())
    };
    let number = piece.strip_prefix(['-', '+']).is_some_and(figures);
    starts && !number
}

/// Whether one of the signs stands where a cell might begin, as far as single bytes tell: nearly every text is
/// cleared by this.
fn may_be_dangerous(text: &[u8]) -> bool {
    // Most texts hold none of the signs; this pass tells so many bytes at a time.
    if text
        .iter()
        .fold(0, |seen, byte| seen | u8::from(*byte >= 128 || matches!(byte, b'=' | b'+' | b'-' | b'@')))
        == 0
    {
        return false;
    }
    let mut begins = true;
    for byte in text {
        match byte {
            b',' | b';' | b'\t' | b'|' | b'\n' | b'\r' => begins = true,
            b' ' | b'\'' | b'"' => {}
            b'=' | b'+' | b'-' | b'@' => {
                if begins {
                    return true;
                }
            }
            // The wide signs, and white space of more than one byte.
            128.. if begins => return true,
            _ => begins = false,
        }
    }
    false
}

/// The pieces of a text at which a cell might begin, each with what parts it from the next.
fn pieces(text: &str) -> impl Iterator<Item = &str> {
    text.split_inclusive(parts_cells)
}

/// The text with an apostrophe before everything that a spreadsheet program would run.
pub fn guarded(text: &str) -> Cow<'_, str> {
    if !may_be_dangerous(text.as_bytes()) || !pieces(text).any(is_dangerous) {
        return Cow::Borrowed(text);
    }
    let mut out = String::with_capacity(text.len() + 4);
    for piece in pieces(text) {
        if is_dangerous(piece) {
            out.push('\'');
        }
        out.push_str(piece);
    }
    Cow::Owned(out)
}

/// The text as it was before [`guarded`].
pub fn unguarded(text: &str) -> Cow<'_, str> {
    let stripped = |piece: &str| piece.strip_prefix('\'').is_some_and(is_dangerous);
    if !text.contains('\'') || !pieces(text).any(stripped) {
        return Cow::Borrowed(text);
    }
    pieces(text)
        .map(|piece| match piece.strip_prefix('\'') {
            Some(rest) if is_dangerous(rest) => rest,
            _ => piece,
        })
        .collect::<String>()
        .into()
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn what_would_run_is_guarded_and_what_would_not_is_left_alone() {
        assert_eq!(guarded("=1+1"), "'=1+1");
        assert_eq!(guarded(" @sum"), "' @sum");
        assert_eq!(guarded("a;=b\n-c"), "a;'=b\n'-c");
        assert_eq!(guarded("x,\"=1\""), "x,'\"=1\"");
        for harmless in ["-5", "+49.5", "a=b", "2026-03-25", "it's", "'quoted'", ""] {
            assert_eq!(guarded(harmless), harmless);
        }
    }

    proptest! {
        #[test]
        fn whatever_is_guarded_comes_back_as_it_was(text in "[-=+@'a1.;, \n\"＝]{0,12}") {
            let guarded = guarded(&text);
            let runs = |piece: &str| {
                piece.trim_start_matches([' ', '"']).starts_with(begins_formula) && is_dangerous(piece)
            };
            prop_assert!(!pieces(&guarded).any(runs), "{}", guarded);
            prop_assert_eq!(unguarded(&guarded), text.as_str());
        }
    }
}
