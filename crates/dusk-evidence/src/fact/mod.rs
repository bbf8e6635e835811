//! What was found, as data: which values, which limits, which codes are near. The words are made in
//! `wording`, and nothing reads them back.
//!
//! ```text
//! row     rows that are none, that are split, or that are left out
//! text    texts that are blank, damaged, too long, or not of the form demanded
//! number  numbers that are none, that can be read in two ways, or outside their limits
//! date    days and times
//! code    codes, words for true and false, references, files
//! record  keys, rules, and what the target holds
//! upload  what the upload file cannot hold
//! ```
//!
//! Each family is an enumeration that says which [`Kind`] each of its facts is.

mod code;
mod date;
mod number;
mod record;
mod row;
mod text;
mod upload;

pub use code::{Choices, CodeFact, CodeWords, NamedCode};
pub use date::{DateFact, DateWanted, Missing, NotThere, WhyOpen};
pub use number::{NumberFact, NumberMarks};
pub use record::{EarlierRecord, HeldAt, RecordFact};
pub use row::{HeadedValue, RowFact};
pub use text::{Before, TextFact};
pub use upload::UploadFact;

use crate::Kind;

/// What was found.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Fact {
    /// About a row, a column or a sheet.
    Row(RowFact),
    /// About a text, or about any value before it is read.
    Text(TextFact),
    /// About a number.
    Number(NumberFact),
    /// About a day or a time.
    Date(DateFact),
    /// About a code, a word for true or false, a reference, a file.
    Code(CodeFact),
    /// About a whole record, or all of them.
    Record(RecordFact),
    /// About what the upload file cannot hold.
    Upload(UploadFact),
    /// About one of several values in a cell.
    Part {
        /// The value.
        part: String,
        /// The heading of its column, where the values come from several.
        column: Option<String>,
        /// What was found about it.
        fact: Box<Fact>,
    },
    /// About a value that nothing matches, with what the description says of such values.
    Unmatched {
        /// What becomes of it.
        fate: Fate,
        /// What was found about it.
        fact: Box<Fact>,
    },
}

/// What becomes of a value that nothing matches, where its record is not rejected.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fate {
    /// The field is left blank.
    LeftBlank,
    /// One of several values is left out.
    LeftOut,
    /// It is sent as it is.
    Kept,
    /// It may be a new term of an open list, and waits for somebody's yes.
    NewTerm,
}

impl Fact {
    /// The kind of finding that it is.
    pub fn kind(&self) -> Kind {
        match self {
            Self::Row(fact) => fact.kind(),
            Self::Text(fact) => fact.kind(),
            Self::Number(fact) => fact.kind(),
            Self::Date(fact) => fact.kind(),
            Self::Code(fact) => fact.kind(),
            Self::Record(fact) => fact.kind(),
            Self::Upload(fact) => fact.kind(),
            Self::Part { fact, .. } => fact.kind(),
            Self::Unmatched { fate: Fate::LeftBlank | Fate::LeftOut, .. } => Kind::LeftBlank,
            Self::Unmatched { fate: Fate::Kept, .. } => Kind::KeptUnmatched,
            Self::Unmatched { fate: Fate::NewTerm, .. } => Kind::NewTerm,
        }
    }

    /// What was found about the value itself, without what it is part of and what becomes of it.
    pub fn innermost(&self) -> &Self {
        match self {
            Self::Part { fact, .. } | Self::Unmatched { fact, .. } => fact.innermost(),
            own => own,
        }
    }
}

macro_rules! family_of_facts {
    ($($family:ident: $facts:ident),*) => {$(
        impl From<$facts> for Fact {
            fn from(fact: $facts) -> Self {
                Self::$family(fact)
            }
        }
    )*};
}

family_of_facts!(Row: RowFact, Text: TextFact, Number: NumberFact, Date: DateFact, Code: CodeFact, Record: RecordFact, Upload: UploadFact);
