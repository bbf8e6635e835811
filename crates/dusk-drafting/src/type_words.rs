//! Words for types, with their sizes: "Text(6)", "N5.1", "Date DD/MM/YYYY".

use super::facts::{Column, Fact, Kind, fold};
use super::limit_words::sizes;
use super::listed::pair_of_words;
use dusk_description::TYPE_WORDS;

/// Words for numbers, whole or not.
const NUMBERS: [&str; 5] = ["number", "numeric", "num", "n", "nr"];

/// The type that dictionaries call so.
fn kind_of(called: &str) -> Option<Kind> {
    if NUMBERS.contains(&called) {
        return Some(Kind::Number);
    }
    TYPE_WORDS.iter().find(|word| word.called.contains(&called)).and_then(|word| Kind::of_word(word.word))
}

/// A type's word, with its size behind it or in brackets: "Text(6)", "N5.1", "varchar2 (30)". `phrase` reads
/// what stands in the brackets.
pub(super) fn typed(text: &str, phrase: fn(&str, Column) -> Option<Vec<Fact>>) -> Option<Vec<Fact>> {
    if let Some(kind) = kind_of(&fold(text)) {
        return Some(vec![Fact::Kind(kind)]);
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
    let mut found = vec![Fact::Kind(kind)];
    let inner = rest.trim().trim_matches(['(', ')', '[', ']', ' ', ':', '.', ',']);
    if inner.is_empty() {
        return Some(found);
    }
    let plain_sizes =
        inner.bytes().all(|byte| byte.is_ascii_digit() || matches!(byte, b',' | b'.' | b' ' | b';'));
    match (kind, sizes(inner).as_slice()) {
        (Kind::Text, [length]) if plain_sizes => found.push(Fact::Length(*length)),
        (Kind::Decimal | Kind::Number, [total, decimals]) if plain_sizes => {
            found.push(Fact::Precision(*total, *decimals))
        }
        (Kind::Integer | Kind::Number, [total]) if plain_sizes => found.push(Fact::Precision(*total, 0)),
        (Kind::Code | Kind::Codes | Kind::Boolean | Kind::Date | Kind::DateTime, [_]) if plain_sizes => {}
        _ => {
            if let Some((yes, no)) = pair_of_words(inner) {
                found.push(Fact::Words(yes, no));
            } else {
                let more = phrase(inner, Column::Format)?;
                // The most of a text is its length.
                found.extend(more.into_iter().map(|fact| match fact {
                    Fact::Max(most) if kind == Kind::Text => {
                        most.parse().map_or(Fact::Max(most), Fact::Length)
                    }
                    other => other,
                }));
            }
        }
    }
    Some(found)
}
