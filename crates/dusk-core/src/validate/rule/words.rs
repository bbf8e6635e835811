//! A rule's text is split into words.

use super::{Comparison, RuleError, error};

#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Word {
    Name(String),
    Number(String),
    Text(String),
    Compare(Comparison),
    Open,
    Close,
}

impl std::fmt::Display for Word {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Name(text) | Self::Number(text) => f.write_str(text),
            Self::Text(text) => write!(f, "\"{text}\""),
            Self::Compare(comparison) => {
                f.write_str(SIGNS.iter().find(|(_, known)| known == comparison).map_or("=", |(sign, _)| sign))
            }
            Self::Open => f.write_str("("),
            Self::Close => f.write_str(")"),
        }
    }
}

/// The longer signs first, so that "<=" is not taken for "<".
const SIGNS: [(&str, Comparison); 6] = [
    ("<=", Comparison::LessOrEqual),
    (">=", Comparison::GreaterOrEqual),
    ("!=", Comparison::NotEqual),
    ("<", Comparison::Less),
    (">", Comparison::Greater),
    ("=", Comparison::Equal),
];

pub(super) fn split(text: &str) -> Result<Vec<Word>, RuleError> {
    let mut words = Vec::new();
    let mut rest = text.trim_start();
    while let Some(letter) = rest.chars().next() {
        let (word, length) = if letter == '(' {
            (Word::Open, 1)
        } else if letter == ')' {
            (Word::Close, 1)
        } else if letter == '"' {
            let inner: String = rest.chars().skip(1).take_while(|c| *c != '"').collect();
            if rest.len() < inner.len() + 2 {
                return Err(error("a quote is not closed", "put a text between two quotes"));
            }
            let length = inner.len() + 2;
            (Word::Text(inner), length)
        } else if let Some((sign, comparison)) = SIGNS.iter().find(|(sign, _)| rest.starts_with(sign)) {
            (Word::Compare(*comparison), sign.len())
        } else if letter.is_ascii_digit() || letter == '-' || letter == '+' {
            let number: String =
                rest.chars().take_while(|c| c.is_ascii_digit() || matches!(c, '-' | '+' | '.')).collect();
            let length = number.len();
            (Word::Number(number), length)
        } else if letter.is_alphanumeric() || letter == '_' {
            let name: String = rest.chars().take_while(|c| c.is_alphanumeric() || *c == '_').collect();
            let length = name.len();
            (Word::Name(name), length)
        } else {
            return Err(error(
                format!("\"{letter}\" means nothing here"),
                "compare with =, !=, <, <=, > or >=, and join with and, or",
            ));
        };
        words.push(word);
        rest = rest.get(length..).unwrap_or_default().trim_start();
    }
    Ok(words)
}
