//! A rule's text is split into words, each with its place in the text.

use std::ops::Range;

use jiff::civil::{Date, Time};

use super::RuleError;
use super::tree::{Comparison, SIGNS};
use dusk_values::Decimal;

/// What a word is.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Word {
    Name(String),
    /// A field's name in braces, which may be any text.
    Braced(String),
    Number(Decimal),
    Date(Date),
    Time(Time),
    Text(String),
    Compare(Comparison),
    Plus,
    Minus,
    Times,
    Open,
    Close,
    Comma,
}

/// A word and its place in the rule's text, in bytes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Placed {
    pub(super) word: Word,
    pub(super) at: Range<usize>,
}

pub(super) fn split(text: &str) -> Result<Vec<Placed>, RuleError> {
    let mut words = Vec::new();
    let mut at = 0;
    while let Some(letter) = text.get(at..).and_then(|rest| rest.chars().next()) {
        if letter.is_whitespace() {
            at += letter.len_utf8();
            continue;
        }
        let (word, length) = next(text, at, letter)?;
        words.push(Placed { word, at: at..at + length });
        at += length.max(1);
    }
    Ok(words)
}

fn next(text: &str, at: usize, letter: char) -> Result<(Word, usize), RuleError> {
    let rest = text.get(at..).unwrap_or_default();
    let single = match letter {
        '(' => Some(Word::Open),
        ')' => Some(Word::Close),
        ',' => Some(Word::Comma),
        '+' => Some(Word::Plus),
        '-' | '−' => Some(Word::Minus),
        '*' | '×' => Some(Word::Times),
        _ => None,
    };
    if let Some(word) = single {
        return Ok((word, letter.len_utf8()));
    }
    if letter == '"' {
        return quoted(rest, at);
    }
    if letter == '{' {
        let end = rest.find('}').ok_or_else(|| {
            RuleError::new("a brace is not closed", "write a field's name between two braces", at..at + 1)
        })?;
        let name = rest.get(1..end).unwrap_or_default().trim().to_owned();
        return Ok((Word::Braced(name), end + 1));
    }
    if let Some((sign, comparison)) = SIGNS.iter().find(|(sign, _)| rest.starts_with(sign)) {
        return Ok((Word::Compare(*comparison), sign.len()));
    }
    if letter.is_ascii_digit() {
        return number(rest, at);
    }
    if letter.is_alphanumeric() || letter == '_' {
        let name: String = rest.chars().take_while(|c| c.is_alphanumeric() || *c == '_').collect();
        let length = name.len();
        return Ok((Word::Name(name), length));
    }
    let hint = match letter {
        '/' | '÷' => "there is no division, which is seldom exact; multiply the other side instead",
        _ => "compare with =, !=, <, <=, > or >=, join with and, or",
    };
    Err(RuleError::new(format!("\"{letter}\" means nothing here"), hint, at..at + letter.len_utf8()))
}

/// A text between quotes; a doubled quote is one.
fn quoted(rest: &str, at: usize) -> Result<(Word, usize), RuleError> {
    let mut inner = String::new();
    let mut letters = rest.char_indices().skip(1).peekable();
    while let Some((place, letter)) = letters.next() {
        if letter != '"' {
            inner.push(letter);
        } else if letters.next_if(|(_, next)| *next == '"').is_some() {
            inner.push('"');
        } else {
            return Ok((Word::Text(inner), place + 1));
        }
    }
    Err(RuleError::new("a quote is not closed", "put a text between two quotes", at..at + rest.len()))
}

/// A number, a day or a time of day.
fn number(rest: &str, at: usize) -> Result<(Word, usize), RuleError> {
    let run = |allowed: &dyn Fn(char) -> bool| {
        rest.chars().take_while(|c| allowed(*c)).map(char::len_utf8).sum::<usize>()
    };
    let day = run(&|c| c.is_ascii_digit() || c == '-');
    if let Some(day_text) = rest.get(..10.min(day)).filter(|text| text.len() == 10)
        && let Ok(day) = day_text.parse::<Date>()
    {
        return Ok((Word::Date(day), 10));
    }
    let time = run(&|c| c.is_ascii_digit() || c == ':');
    let text = rest.get(..time).unwrap_or_default();
    if text.contains(':') {
        return match text.parse::<Time>() {
            Ok(clock) => Ok((Word::Time(clock), time)),
            Err(_) => Err(RuleError::new(
                format!("\"{text}\" is not a time of day"),
                "write a time as 09:30",
                at..at + time,
            )),
        };
    }
    let length = run(&|c| c.is_ascii_digit() || c == '.');
    let text = rest.get(..length).unwrap_or_default();
    Decimal::parse(text).map(|number| (Word::Number(number), length)).ok_or_else(|| {
        RuleError::new(
            format!("\"{text}\" is not a number"),
            "write a number as 12.5 and a day as 2026-03-04",
            at..at + length,
        )
    })
}
