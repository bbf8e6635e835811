//! Words for types, with their sizes: "Text(6)", "N5.1", "Date DD/MM/YYYY".

use super::facts::{DictionaryColumn, FieldFact, FieldKind, fold};
use super::limit_words::sizes;
use super::listed::pair_of_words;
use super::vocabulary::{Words, meaning};
use dusk_description::TYPE_WORDS;

/// Words for numbers, whole or not.
const NUMBERS: [&str; 5] = ["number", "numeric", "num", "n", "nr"];

/// The type that dictionaries call so.
fn kind_of(called: &str) -> Option<FieldKind> {
    if NUMBERS.contains(&called) {
        return Some(FieldKind::Number);
    }
    let called_so = TYPE_WORDS.iter().find(|word| word.called.contains(&called)).map(|word| word.word);
    match called_so.or_else(|| meaning(Words::Type, called))? {
        "number" => Some(FieldKind::Number),
        word => FieldKind::of_word(word),
    }
}

/// A type's word, with its size behind it or in brackets: "Text(6)", "N5.1", "varchar2 (30)". `phrase` reads
/// what stands in the brackets.
pub(super) fn typed(
    text: &str,
    phrase: fn(&str, DictionaryColumn) -> Option<Vec<FieldFact>>,
) -> Option<Vec<FieldFact>> {
    if let Some(kind) = kind_of(&fold(text)) {
        return Some(vec![FieldFact::Kind(kind)]);
    }
    let bracket = text.find(['(', '[']).unwrap_or(text.len());
    let digit =
        text.find(|c: char| c.is_ascii_digit() || matches!(c, '(' | '[' | '.' | ':')).unwrap_or(text.len());
    let known_before = |at: &usize| text.get(..*at).is_some_and(|word| kind_of(&fold(word)).is_some());
    let ends = [bracket, digit].into_iter().find(known_before).unwrap_or(digit);
    let (mut word, mut rest) = text.split_at_checked(ends)?;
    if kind_of(&fold(word)).is_none() {
        // "Date DD/MM/YYYY", "decimal min 0".
        (word, rest) = text.split_once([' ', '\n', ','])?;
    }
    let kind = kind_of(&fold(word))?;
    let mut found = vec![FieldFact::Kind(kind)];
    let inner = rest.trim().trim_matches(['(', ')', '[', ']', ' ', ':', '.', ',']);
    if inner.is_empty() {
        return Some(found);
    }
    let plain_sizes =
        inner.bytes().all(|byte| byte.is_ascii_digit() || matches!(byte, b',' | b'.' | b' ' | b';'));
    if kind == FieldKind::Code && meaning(Words::Several, inner).is_some() {
        return Some(vec![FieldFact::Kind(FieldKind::Codes)]);
    }
    match (kind, sizes(inner).as_slice()) {
        (FieldKind::Text, [length]) if plain_sizes => found.push(FieldFact::Length(*length)),
        (FieldKind::Decimal | FieldKind::Number, [total, decimals]) if plain_sizes => {
            found.push(FieldFact::Precision(*total, *decimals))
        }
        (FieldKind::Integer | FieldKind::Number, [total]) if plain_sizes => {
            found.push(FieldFact::Precision(*total, 0))
        }
        (
            FieldKind::Code | FieldKind::Codes | FieldKind::Boolean | FieldKind::Date | FieldKind::DateTime,
            [_],
        ) if plain_sizes => {}
        _ => {
            if let Some((yes, no)) = pair_of_words(inner) {
                found.push(FieldFact::Words(yes, no));
            } else {
                let more = phrase(inner, DictionaryColumn::Format)?;
                // The most of a text is its length.
                found.extend(more.into_iter().map(|fact| match fact {
                    FieldFact::Max(most) if kind == FieldKind::Text => {
                        most.parse().map_or(FieldFact::Max(most), FieldFact::Length)
                    }
                    other => other,
                }));
            }
        }
    }
    Some(found)
}
