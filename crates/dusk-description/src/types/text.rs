//! Text.

use regex::Regex;
use serde_json::{Map, Value as Json};

use super::{Described, FieldType, TypeWord, listed};
use crate::beside::{Beside, Open};
use dusk_files::Settings;

pub(super) static TEXT: TypeWord = TypeWord {
    word: "text",
    called: &[
        "text",
        "string",
        "str",
        "char",
        "character",
        "characters",
        "varchar",
        "varchar2",
        "nvarchar",
        "nchar",
        "alphanumeric",
        "alphanum",
        "alpha",
        "an",
        "a",
        "x",
        "c",
        "freetext",
        "memo",
        "longtext",
        "shorttext",
        "identifier",
        "id",
        "note",
        "url",
        "email",
    ],
    keys: &["digits", "max_length", "pattern"],
    read,
};

/// Any text, within its limits.
#[derive(Debug, Default)]
pub struct TextType {
    /// Always so many digits.
    pub digits: Option<usize>,
    /// The most characters it may have.
    pub max_length: Option<usize>,
    /// A regular expression that the whole text must match, and as it was written.
    pub pattern: Option<(Regex, String)>,
}

impl Described for TextType {
    fn word(&self) -> &'static str {
        TEXT.word
    }

    fn format(&self) -> String {
        let digits = self.digits.map(|digits| format!("{digits} digits"));
        let length = self.max_length.map(|length| format!("up to {length} characters"));
        let pattern = self.pattern.as_ref().map(|(_, written)| format!("form {written}"));
        listed([digits, length, pattern])
    }

    fn datatype(&self, datatype: &mut Map<String, Json>) {
        datatype.insert("base".into(), "string".into());
        let format = match (self.digits, &self.pattern) {
            (Some(digits), _) => Some(format!("[0-9]{{{digits}}}")),
            (None, pattern) => pattern.as_ref().map(|(_, written)| written.clone()),
        };
        if let Some(format) = format {
            datatype.insert("format".into(), format.into());
        }
        if let Some(length) = self.max_length {
            datatype.insert("maxLength".into(), length.into());
        }
    }
}

fn read(field: &mut Settings<'_>, _: &Beside<'_>) -> (FieldType, Open) {
    let digits = field.whole("digits", 1).map(|digits| digits.value as usize);
    let max_length = field.whole("max_length", 1).map(|length| length.value as usize);
    let pattern = read_pattern(field);
    if let (Some(digits), Some(most)) = (digits, max_length)
        && digits > most
    {
        let says = format!("digits {digits} and max_length {most} leave no value that fits");
        field.problem(field.line(), says, |_| {});
    }
    if let Some((_, written)) = &pattern {
        check_possible(field, written, digits, max_length);
    }
    (FieldType::Text(TextType { digits, max_length, pattern }), Open::default())
}

fn read_pattern(field: &mut Settings<'_>) -> Option<(Regex, String)> {
    let pattern = field.text("pattern")?;
    match Regex::new(&format!("^(?:{})$", pattern.value)) {
        Ok(regex) => Some((regex, pattern.value)),
        Err(error) => {
            let reason = error.to_string();
            let reason = reason.lines().last().unwrap_or_default().trim_start_matches("error: ").to_owned();
            let says = format!("pattern \"{}\" cannot be read: {reason}", pattern.value);
            field.problem(pattern.line, says, |_| {});
            None
        }
    }
}

/// A pattern that nothing can match, or nothing of the length that the other keys demand.
fn check_possible(field: &Settings<'_>, written: &str, digits: Option<usize>, max_length: Option<usize>) {
    let Ok(form) = regex_syntax::parse(written) else { return };
    let shortest = form.properties().minimum_len();
    let longest = form.properties().maximum_len();
    let most = digits.or(max_length);
    let says = match (shortest, most) {
        (None, _) => format!("pattern \"{written}\" matches nothing"),
        // A character has up to four bytes.
        (Some(shortest), Some(most)) if shortest > most * 4 || written.is_ascii() && shortest > most => {
            format!("pattern \"{written}\" needs {shortest} characters or more, and the field takes {most}")
        }
        _ => match (longest, digits) {
            (Some(longest), Some(digits)) if longest < digits => {
                format!(
                    "pattern \"{written}\" takes {longest} characters at most, and digits demands {digits}"
                )
            }
            _ => return,
        },
    };
    field.problem(field.line(), says, |problem| {
        problem.hint("no record could satisfy the field; change one of the two")
    });
}
