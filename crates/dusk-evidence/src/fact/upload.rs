//! What the upload file cannot hold.

use crate::Kind;

/// What was found about a value on its way into the upload file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum UploadFact {
    /// The encoding does not have a character.
    NoSuchCharacter {
        /// The character.
        letter: char,
        /// The encoding.
        encoding: String,
    },
    /// It holds a separator of ASCII, which no cell can hold.
    Separator,
    /// It holds what stands for a line break there.
    LineBreakMark {
        /// The mark.
        mark: String,
    },
    /// It takes more characters than its column has.
    TooWide {
        /// How many it takes.
        characters: usize,
        /// How many there are.
        width: usize,
    },
    /// Nothing is quoted there, and it holds the delimiter.
    Delimiter {
        /// The delimiter.
        delimiter: String,
    },
    /// Nothing is quoted there, and it holds a line break.
    LineBreak,
    /// Nothing is quoted there, and it holds a quote.
    Quote {
        /// The quote.
        quote: String,
    },
    /// Nothing is quoted there, and an empty row would be no row.
    EmptyRow,
}

impl UploadFact {
    pub(super) fn kind(&self) -> Kind {
        match self {
            Self::NoSuchCharacter { .. } | Self::Separator => Kind::CannotEncode,
            Self::TooWide { .. } => Kind::TooWide,
            Self::LineBreakMark { .. }
            | Self::Delimiter { .. }
            | Self::LineBreak
            | Self::Quote { .. }
            | Self::EmptyRow => Kind::CannotQuote,
        }
    }
}
