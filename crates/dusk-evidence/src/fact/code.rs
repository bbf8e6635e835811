//! Codes, words for true and false, references and files: values that have to be those of a list.

use std::fmt;

use jiff::civil::Date;

use crate::Kind;

/// A code with its label.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct NamedCode {
    /// The code.
    pub code: String,
    /// Its label; may be empty.
    pub label: String,
}

impl fmt::Display for NamedCode {
    /// "Y Yellow".
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.code)?;
        if self.label.is_empty() || self.label == self.code { Ok(()) } else { write!(f, " {}", self.label) }
    }
}

/// A few codes to choose from.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Choices {
    /// The first ones.
    pub first: Vec<NamedCode>,
    /// How many more there are.
    pub more: usize,
}

/// What of a code list a value may be.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum CodeWords {
    /// A code or a label.
    Either,
    /// A code only.
    Codes,
    /// A label only.
    Labels,
}

/// What was found about a value that has to be one of a list. `list` is the code list's name.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum CodeFact {
    /// It is not one.
    NotACode {
        /// The list.
        list: String,
        /// What it may be.
        words: CodeWords,
        /// The code that is spelt most nearly so.
        nearest: Option<NamedCode>,
        /// Where none is near, a few to choose from.
        choices: Choices,
        /// A letter of another alphabet in it, but for which it would be a code.
        foreign: Option<char>,
    },
    /// It is a typed date, and no code.
    DateForCode {
        /// The list.
        list: String,
        /// A few to choose from.
        choices: Choices,
    },
    /// It could mean more than one.
    Undecided {
        /// The list.
        list: String,
        /// Those that it could mean.
        codes: Vec<NamedCode>,
    },
    /// A spreadsheet program may have made it of more than one.
    ChangedUndecided {
        /// The list.
        list: String,
        /// Those that it may have been.
        codes: Vec<NamedCode>,
    },
    /// It was retired.
    Retired {
        /// The code.
        code: NamedCode,
        /// Its last day.
        until: Date,
        /// What replaces it.
        successor: Option<NamedCode>,
    },
    /// It is not valid inside its parent.
    OutsideParent {
        /// The list.
        list: String,
        /// The parent's code.
        parent: String,
        /// The parents to which it belongs; none where they are not known.
        belongs_to: Vec<String>,
        /// A few that are valid there.
        choices: Choices,
    },
    /// Its parent is blank.
    WithoutParent {
        /// The parent field.
        field: String,
    },
    /// There are more codes than columns.
    TooMany {
        /// How many codes.
        codes: usize,
        /// How many columns.
        columns: usize,
    },
    /// Somebody decided that it keeps its record out.
    KeepsOut {
        /// Who decided so; empty where nobody says.
        by: String,
        /// When; empty where nobody says.
        on: String,
    },
    /// Somebody decided that it is left blank.
    LeavesBlank {
        /// Who decided so; empty where nobody says.
        by: String,
        /// When; empty where nobody says.
        on: String,
    },
    /// Somebody allowed it as a new term of an open list.
    TermAllowed {
        /// The term as it goes in.
        term: String,
        /// Who allowed it; empty where nobody says.
        by: String,
        /// When; empty where nobody says.
        on: String,
    },
    /// It is not a word for true or false.
    NotABoolean {
        /// The pairs of words that are known.
        known: Vec<String>,
    },
    /// It could mean true and could mean false.
    BooleanUndecided,
    /// The target does not hold it.
    UnknownReference {
        /// What the target holds.
        file: String,
        /// The column of that file.
        column: String,
        /// How many values it has.
        values: usize,
    },
    /// There is no such file.
    FileMissing {
        /// The folder.
        folder: String,
    },
    /// The file has an ending that the target does not take.
    FileEnding {
        /// Its ending.
        ending: String,
        /// Those that the target takes.
        taken: Vec<String>,
    },
    /// The file is too large.
    FileTooLarge {
        /// Its size in bytes.
        bytes: u64,
        /// The largest, in bytes.
        most: u64,
    },
    /// No accepted record names the file.
    FileNotNamed {
        /// The folder.
        folder: String,
    },
}

impl CodeFact {
    pub(super) fn kind(&self) -> Kind {
        match self {
            Self::NotACode { .. } => Kind::NotACode,
            Self::DateForCode { .. } => Kind::TurnedIntoDate,
            Self::Undecided { .. } | Self::ChangedUndecided { .. } => Kind::CodeUndecided,
            Self::Retired { .. } => Kind::CodeRetired,
            Self::OutsideParent { .. } => Kind::CodeOutsideParent,
            Self::WithoutParent { .. } => Kind::CodeWithoutParent,
            Self::TooMany { .. } => Kind::TooManyCodes,
            Self::KeepsOut { .. } => Kind::KeptOut,
            Self::LeavesBlank { .. } => Kind::DecidedBlank,
            Self::TermAllowed { .. } => Kind::TermAllowed,
            Self::NotABoolean { .. } | Self::BooleanUndecided => Kind::NotABoolean,
            Self::UnknownReference { .. } => Kind::UnknownReference,
            Self::FileMissing { .. } => Kind::FileMissing,
            Self::FileEnding { .. } => Kind::FileEnding,
            Self::FileTooLarge { .. } => Kind::FileTooLarge,
            Self::FileNotNamed { .. } => Kind::FileNotNamed,
        }
    }
}
