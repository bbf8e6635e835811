//! Damage to text: what can be undone exactly is undone, all else is said.

use encoding_rs::{EncoderResult, Encoding, MACINTOSH, WINDOWS_1250, WINDOWS_1252};
use unicode_script::{Script, UnicodeScript as _};

use dusk_evidence::{Fault, Kind, TextFact};

/// What text is mostly decoded as that was UTF-8.
const WRONG: [&Encoding; 3] = [WINDOWS_1252, WINDOWS_1250, MACINTOSH];

/// Undoes a wrong decoding: the bytes of `text` in a one-byte encoding are UTF-8 as a whole, so that
/// "Ã–st" was "Öst". Gives the text and the encoding; nothing unless it is exact and reversible and
/// leaves one reading.
pub fn undo_wrong_decoding(text: &str) -> Option<(String, &'static str)> {
    let mut odd = text.chars().skip_while(char::is_ascii);
    let [first, second] = [odd.next()?, odd.next().filter(|c| !c.is_ascii())?];
    let undone = |encoding: &'static Encoding| {
        let (bytes, _, lost) = encoding.encode(text);
        let before = std::str::from_utf8(&bytes).ok().filter(|_| !lost)?;
        let again = encoding.decode_without_bom_handling(before.as_bytes()).0;
        let fits = again == text && is_no_text_as_it_stands(encoding, text) && is_text(before);
        fits.then(|| before.to_owned())
    };
    // Of most texts the first two letters outside ASCII show already that their bytes were no UTF-8.
    let likely = WRONG.iter().filter(|encoding| may_be_utf_8(encoding, first, second));
    let mut readings = likely.filter_map(|encoding| Some((undone(encoding)?, encoding.name())));
    let first = readings.next()?;
    readings.all(|other| other.0 == first.0).then_some(first)
}

/// Whether the bytes of two letters in a one-byte encoding can be the first two of one character in UTF-8.
fn may_be_utf_8(encoding: &'static Encoding, first: char, second: char) -> bool {
    let byte = |c: char| {
        let (mut letter, mut bytes) = ([0; 4], [0; 4]);
        let text: &str = c.encode_utf8(&mut letter);
        let mut encoder = encoding.new_encoder();
        let (result, _, written) = encoder.encode_from_utf8_without_replacement(text, &mut bytes, true);
        let is_there = result == EncoderResult::InputEmpty && written == 1;
        bytes.first().copied().filter(|_| is_there)
    };
    matches!(byte(first), Some(0xc2..=0xf4)) && matches!(byte(second), Some(0x80..=0xbf))
}

/// Words of two letters outside ASCII can happen to be UTF-8; symbols after letters do not happen.
fn is_no_text_as_it_stands(encoding: &'static Encoding, text: &str) -> bool {
    let mut odd = text.chars().filter(|c| !c.is_ascii());
    if encoding == MACINTOSH {
        // What Latin letters begin with is a symbol there.
        return odd.any(|c| matches!(c, '√' | '¬' | 'ƒ' | '≈' | '‚'));
    }
    if encoding == WINDOWS_1250 {
        return odd.any(|c| !c.is_alphabetic());
    }
    odd.any(|c| !c.is_alphabetic() || matches!(c, 'ƒ' | 'Œ' | 'œ' | 'Š' | 'š' | 'Ž' | 'ž' | 'Ÿ' | 'º' | 'ª'))
}

/// Whether what a wrong decoding would have been made of is text that people write: letters of an
/// everyday alphabet beside small letters, or punctuation. "CAFÉ–BAR" would bring out neither.
fn is_text(text: &str) -> bool {
    let small = |c: Option<&char>| c.is_some_and(|c| c.is_lowercase());
    let letters: Vec<char> = text.chars().collect();
    (0..).zip(&letters).filter(|(_, c)| !c.is_ascii()).all(|(place, c): (usize, &char)| {
        let before = place.checked_sub(1).and_then(|before| letters.get(before));
        let beside_small = small(before) || small(letters.get(place + 1));
        match c {
            '\u{aa}' | '\u{ba}' => true,
            '\u{c0}'..='\u{24f}' | '\u{370}'..='\u{52f}' => c.is_alphabetic() && beside_small,
            '\u{a0}'..='\u{bf}' | '\u{2010}'..='\u{2026}' | '€' | '™' => {
                beside_small || !before.is_some_and(|before| before.is_uppercase())
            }
            _ => u32::from(*c) > 0x1_f000,
        }
    })
}

/// What is to be said about a text that stays as it is.
pub fn notice(text: &str, remarks: &mut Vec<Fault>) {
    if let Some(control) = text.trim().chars().find(|c| c.is_control() && !matches!(c, '\n' | '\r')) {
        remarks.push(Fault::new(TextFact::ControlCharacter(control)));
    }
    if has_question_mark_in_word(text) {
        remarks.push(Fault::new(TextFact::QuestionMark));
    }
    if text.is_ascii() {
        return;
    }
    if looks_decoded_wrongly(text) {
        remarks.push(Fault::new(TextFact::DecodedWrongly));
    }
    if let Some(letter) = look_alike(text) {
        remarks.push(Fault::new(TextFact::MixedAlphabets(letter)));
    }
}

/// The kinds of what is to be said about a text that stays as it is.
pub(crate) fn notice_text(text: &str) -> Vec<Kind> {
    let mut remarks = Vec::new();
    notice(text, &mut remarks);
    remarks.into_iter().map(|remark| remark.kind()).collect()
}

/// True for "Ch?teau", not for "really?" or an address.
fn has_question_mark_in_word(text: &str) -> bool {
    if !text.contains('?') || text.contains("://") || text.contains('=') {
        return false;
    }
    let letters: Vec<char> = text.chars().collect();
    letters.windows(3).any(|three| matches!(three, [a, '?', b] if a.is_alphabetic() && b.is_lowercase()))
}

/// The pairs that letters outside ASCII become when UTF-8 is read as a one-byte encoding.
pub(crate) fn looks_decoded_wrongly(text: &str) -> bool {
    let follows = |c: char| {
        let mut letter = [0; 4];
        let (bytes, _, lost) = WINDOWS_1252.encode(c.encode_utf8(&mut letter));
        !lost && matches!(*bytes, [0x80..=0xbf])
    };
    let mut before = ' ';
    text.chars().any(|c| {
        let pair = matches!(before, 'Ã' | 'Â') && follows(c) || before == 'â' && c == '€';
        before = c;
        pair
    })
}

/// A letter of the Cyrillic or Greek alphabet in a word with Latin letters: the one of the fewer.
fn look_alike(text: &str) -> Option<char> {
    // Most texts have no letter that could belong to one of these alphabets, or no other.
    if !text.chars().any(may_be_greek_or_cyrillic)
        || text.chars().all(|c| may_be_greek_or_cyrillic(c) || !c.is_alphabetic())
    {
        return None;
    }
    text.split(|c: char| !c.is_alphabetic()).find_map(|word| {
        let foreign =
            word.chars().find(|c| matches!(c.script(), Script::Cyrillic | Script::Greek) && *c != 'µ')?;
        let latin = word.chars().filter(|c| c.script() == Script::Latin).count();
        let others = word.chars().count() - latin;
        match latin {
            0 => None,
            _ if others <= latin => Some(foreign),
            _ => word.chars().find(|c| c.script() == Script::Latin),
        }
    })
}

/// True for every letter of the Greek and the Cyrillic alphabet, and for some others that stand among them.
fn may_be_greek_or_cyrillic(c: char) -> bool {
    matches!(c, '\u{370}'..='\u{52f}' | '\u{1c80}'..='\u{1dbf}' | '\u{1f00}'..='\u{1fff}' | '\u{2126}'
        | '\u{2de0}'..='\u{2dff}' | '\u{a640}'..='\u{a69f}' | '\u{ab65}' | '\u{fe2e}' | '\u{fe2f}'
        | '\u{10140}'..='\u{101a0}' | '\u{1d200}'..='\u{1d245}' | '\u{1df00}'..='\u{1dfff}' | '\u{1e030}'..='\u{1e08f}')
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn wrong_decodings_are_undone_where_that_is_exact() {
        let undone = |text: &str| undo_wrong_decoding(text).map(|(text, _)| text);
        assert_eq!(undone("Ã–st Quay").as_deref(), Some("Öst Quay"));
        assert_eq!(undone("ChÃ¢teau â€œLaneâ€\u{9d}").as_deref(), Some("Château “Lane”"));
        assert_eq!(undone("√ñst").as_deref(), Some("Öst"));
        assert_eq!(undone("Öst Quay"), None);
        assert_eq!(undone("Ã–st Öst"), None, "only a part");
        for text in ["蜂蜜", "café––", "CAFÉ–BAR", "AMANHÃ–TARDE", "IRMÃ”", "Ã–", "naïve «Ãé»"]
        {
            assert_eq!(undone(text), None);
        }
    }

    #[test]
    fn no_letter_of_these_alphabets_is_passed_over() {
        let theirs = |c: &char| matches!(c.script(), Script::Cyrillic | Script::Greek);
        let missed = ('\0'..=char::MAX).filter(theirs).find(|c| !may_be_greek_or_cyrillic(*c));
        assert_eq!(missed, None);
    }

    #[test]
    fn what_cannot_be_undone_is_said() {
        let said = |text: &str| {
            let mut remarks = Vec::new();
            notice(text, &mut remarks);
            remarks.iter().map(|remark| remark.kind().code()).collect::<Vec<_>>().join(" ")
        };
        assert_eq!(said("Ch?teau"), "question-mark");
        assert_eq!(said("really? yes"), "");
        assert_eq!(said("Ã–st Öst"), "decoded-wrongly");
        assert_eq!(said("\u{421}alm colony"), "mixed-alphabets");
        assert_eq!(said("bell\u{7}"), "control-character");
        assert_eq!(said("Öst Quay, 5 µm"), "");
    }
}
