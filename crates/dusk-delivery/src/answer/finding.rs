//! What is wrong with a line of an answer, in words.

use serde::Serialize;

/// A line of an answer that cannot be taken as it is.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct AnswerFinding {
    /// The line, the row, or the number of the entry in the answer.
    pub at: u64,
    /// What is wrong.
    pub wrong: AnswerWrong,
}

/// What is wrong with it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case", tag = "is")]
pub enum AnswerWrong {
    /// It names no record.
    NamesNothing,
    /// It names none of the upload files.
    NoSuchFile {
        /// What it names.
        file: String,
        /// Those that there are.
        files: Vec<String>,
    },
    /// The batch has several upload files, and it does not say which one it means.
    WhichFile {
        /// Those that there are.
        files: Vec<String>,
    },
    /// What names the line or the record is not a whole number.
    NotANumber {
        /// What is there.
        text: String,
    },
    /// No record is on that line.
    NoSuchLine {
        /// The line.
        line: u64,
        /// The upload file.
        file: String,
        /// On which line the first record begins, and the last.
        between: (u64, u64),
    },
    /// No record has that number.
    NoSuchRecord {
        /// The number, as it is written.
        number: String,
        /// The upload file.
        file: String,
        /// How many there are.
        records: u64,
    },
    /// No record has that key.
    NoSuchKey {
        /// The key.
        key: String,
    },
    /// Several records have it.
    KeyOfSeveral {
        /// The key.
        key: String,
        /// How many.
        records: usize,
    },
    /// It names one record by its line or number, and another by its key.
    TwoRecords {
        /// The key that it names.
        key: String,
        /// The record on that line, as people name it.
        other: String,
    },
    /// Nothing says what its word means.
    UnknownWord {
        /// The word.
        word: String,
    },
    /// An earlier line, or an earlier answer, says the opposite of the same record.
    Contradicts {
        /// The record's key, or where it is.
        record: String,
        /// What was said of it.
        said: String,
        /// What this line says.
        says: String,
    },
}

impl AnswerWrong {
    /// What is wrong, what is expected and what to do, in a sentence.
    pub fn says(&self) -> String {
        match self {
            Self::NamesNothing => "names no record; a line, a number or a key is expected".into(),
            Self::NoSuchFile { file, files } => {
                format!("is about \"{file}\", and this batch wrote {}", files.join(", "))
            }
            Self::WhichFile { files } => {
                format!("does not say which upload file it means: {}; add --file NAME", files.join(", "))
            }
            Self::NotANumber { text } => {
                format!("has \"{text}\" where the number of a line or a record is expected")
            }
            Self::NoSuchLine { line, file, between: (first, last) } => format!(
                "names line {line} of {file}, whose records are on lines {first} to {last}; where the target counts \
                 records, [answer] says record instead of line"
            ),
            Self::NoSuchRecord { number, file, records } => format!(
                "names record {number} of {file}, which has {records}; where the target counts from 0, [answer] says \
                 record_from = 0"
            ),
            Self::NoSuchKey { key } => format!("names \"{key}\", and no record that was sent has that key"),
            Self::KeyOfSeveral { key, records } => {
                format!(
                    "names \"{key}\", which is the key of {records} records; a line or a number is needed as well"
                )
            }
            Self::TwoRecords { key, other } => {
                format!("names \"{key}\" and the line of {other}; is it the answer about another batch?")
            }
            Self::UnknownWord { word } if word.is_empty() => "does not say how it went".into(),
            Self::UnknownWord { word } => format!(
                "says \"{word}\", and [answer] does not know what that means; write it under loaded, warned or refused"
            ),
            Self::Contradicts { record, said, says } => {
                format!("says that {record} is {says}, and it was said to be {said}")
            }
        }
    }
}
