//! How the target's answer about a delivery is read: `[answer]`.

use dusk_evidence::{FieldId, Line};
use dusk_files::{Piece, Template};
use regex::{Regex, RegexBuilder};

/// What the target says of a record.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum AnswerOutcome {
    /// It is in.
    Loaded,
    /// It is in, and something about it is to be looked at.
    Warned,
    /// It is not in.
    Refused,
}

impl AnswerOutcome {
    /// Each with its word in files.
    pub const WORDS: [(&'static str, Self); 3] =
        [("loaded", Self::Loaded), ("warned", Self::Warned), ("refused", Self::Refused)];

    /// Its word in files.
    pub fn word(self) -> &'static str {
        Self::WORDS.iter().find(|(_, outcome)| *outcome == self).map_or("", |(word, _)| word)
    }

    /// Whether the record is in the target.
    pub fn is_in(self) -> bool {
        self != Self::Refused
    }
}

/// How one kind of answer is read. A target may give several, as one list of what it took and one of what it refused.
#[derive(Debug, Clone, Default)]
pub struct AnswerLayout {
    /// The column that names the line of the upload file.
    pub line: Option<String>,
    /// The column that numbers the record in it.
    pub record: Option<String>,
    /// The number of the first record: 1, or 0.
    pub record_from: u64,
    /// The columns of the key, in the order of the fields that are part of it.
    pub key: Vec<String>,
    /// The column that names the upload file.
    pub file: Option<String>,
    /// The column that says how it went.
    pub outcome: Option<String>,
    /// The target's own words for it.
    pub words: Vec<(String, AnswerOutcome)>,
    /// How it went for every record that is mentioned, where no column says so.
    pub all: Option<AnswerOutcome>,
    /// The columns that say why.
    pub reason: Vec<String>,
    /// What the target says of records that it would have taken but for others: these go again as they are.
    pub retry: Vec<String>,
    /// The column of the number that the target gave.
    pub number: Option<String>,
    /// The field that this number feeds from now on.
    pub number_field: Option<FieldId>,
    /// Where in a JSON document the records are listed, as "result.rows".
    pub records: Option<String>,
    /// Where in a JSON document the target's own counts are.
    pub counts: Vec<(AnswerCount, String)>,
    /// The forms of plain lines.
    pub says: Vec<LineForm>,
    /// Where it is in the description.
    pub at: Option<Line>,
}

/// What the target counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum AnswerCount {
    /// Records that it was given.
    Sent,
    /// Records that it loaded, with a warning or without.
    Loaded,
    /// Records that it loaded with a warning.
    Warned,
    /// Records that it refused.
    Refused,
}

impl AnswerCount {
    /// Each with its word in files.
    pub const WORDS: [(&'static str, Self); 4] = [
        ("sent", Self::Sent),
        ("loaded", Self::Loaded),
        ("warned", Self::Warned),
        ("refused", Self::Refused),
    ];

    /// Its word in files.
    pub fn word(self) -> &'static str {
        Self::WORDS.iter().find(|(_, count)| *count == self).map_or("", |(word, _)| word)
    }
}

impl AnswerLayout {
    /// What a word of the target means; case and blanks do not matter. A reason may follow it behind a colon.
    pub fn outcome_of(&self, word: &str) -> Option<AnswerOutcome> {
        let of = |word: &str| {
            let wanted = crate::fold(word);
            self.words.iter().find(|(known, _)| crate::fold(known) == wanted).map(|(_, outcome)| *outcome)
        };
        of(word).or_else(|| of(word.split_once(':')?.0))
    }

    /// The columns that have to be there.
    pub fn columns(&self) -> Vec<&str> {
        let single = [&self.line, &self.record, &self.file, &self.outcome, &self.number];
        let single = single.into_iter().flatten();
        single.chain(&self.key).chain(&self.reason).map(String::as_str).collect()
    }
}

/// A form of plain lines, as "Line {line}: refused, {reason}". Lines of a form that names no record are passed over, or
/// say the target's counts.
#[derive(Debug, Clone)]
pub struct LineForm {
    form: Regex,
    names: Vec<String>,
    /// The form as it is written.
    pub template: Template,
    /// How it went, where the line itself does not say so.
    pub outcome: Option<AnswerOutcome>,
}

/// The names that a form knows.
const NAMES: [&str; 12] = [
    "line", "record", "key", "file", "outcome", "reason", "number", "sent", "loaded", "warned", "refused",
    "any",
];

/// Those of them that are whole numbers.
const NUMBERS: [&str; 6] = ["line", "record", "sent", "loaded", "warned", "refused"];

impl LineForm {
    /// Reads a form.
    ///
    /// # Errors
    /// What is wrong with it.
    pub fn parse(text: &str, outcome: Option<AnswerOutcome>) -> Result<Self, String> {
        let template = Template::parse(text.trim())?;
        let (mut form, mut names) = (String::from(r"^\s*"), Vec::new());
        for piece in &template.pieces {
            match piece {
                Piece::Text(text) => form.push_str(&spaced(text)),
                Piece::Name(name) if !NAMES.contains(&name.as_str()) => {
                    return Err(format!("\"{text}\" names {{{name}}}; known are {}", NAMES.join(", ")));
                }
                Piece::Name(name) if names.contains(name) && name != "any" => {
                    return Err(format!("\"{text}\" names {{{name}}} twice"));
                }
                Piece::Name(name) => {
                    // What belongs to a number is left to it: 1,180 and 1 180.
                    form.push_str(if NUMBERS.contains(&name.as_str()) {
                        r"([0-9][0-9 .,'\u{a0}\u{202f}]*?)"
                    } else {
                        "(.*?)"
                    });
                    names.push(name.clone());
                }
            }
        }
        form.push_str(r"\s*$");
        let form = RegexBuilder::new(&form).case_insensitive(true).build();
        let form = form.map_err(|_| format!("\"{text}\" is too long for a form of lines"))?;
        Ok(Self { form, names, template, outcome })
    }

    /// What a line says under each name; nothing where it is not of this form.
    pub fn read<'l>(&self, line: &'l str) -> Option<Vec<(&str, &'l str)>> {
        let found = self.form.captures(line)?;
        let values = found.iter().skip(1).map(|value| value.map_or("", |value| value.as_str().trim()));
        Some(self.names.iter().map(String::as_str).zip(values).collect())
    }

    /// Whether it names something.
    pub fn names(&self, name: &str) -> bool {
        self.names.iter().any(|known| known == name)
    }
}

/// A text of a form: blanks in it stand for any number of them.
fn spaced(text: &str) -> String {
    let mut form = String::new();
    let mut is_blank = false;
    for letter in text.chars() {
        if letter.is_whitespace() {
            if !is_blank {
                form.push_str(r"\s+");
            }
        } else {
            form.push_str(&regex::escape(letter.encode_utf8(&mut [0; 4])));
        }
        is_blank = letter.is_whitespace();
    }
    form
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_line_is_read_by_its_form() {
        let form = LineForm::parse("Line {line}: refused,  {reason}", Some(AnswerOutcome::Refused)).unwrap();
        let read = form.read("line 1,204: refused, site closed (3) ");
        assert_eq!(read, Some(vec![("line", "1,204"), ("reason", "site closed (3)")]));
        let counts =
            LineForm::parse("{loaded} loaded, {refused} refused, {warned} with warnings", None).unwrap();
        let read = counts.read("1 180 loaded, 12 refused, 9 with warnings");
        assert_eq!(read, Some(vec![("loaded", "1 180"), ("refused", "12"), ("warned", "9")]));
        assert_eq!(counts.read("x loaded, 12 refused, 9 with warnings"), None);
        for wrong in ["{lime} no", "{line} {line}", "{line"] {
            assert!(LineForm::parse(wrong, None).is_err(), "{wrong}");
        }
    }
}
