//! A source: bytes become text, text becomes rows of cells.
//!
//! ```text
//! encoding   bytes → text, by a mark, by proof or by what the mapping says
//! delimiter  which character parts the cells, by proof or by what the mapping says
//! rows       text → rows of cells (RFC 4180 and its everyday variants)
//! delimited  a file opened: its header found, ready to be read as often as needed
//! blocks     the file read once more, cut into blocks of whole rows
//! ```

mod blocks;
mod delimited;
mod delimiter;
mod encoding;
mod marks;
mod position;
mod rows;
mod short;

pub use blocks::{Block, Blocks, SourcePrint};
pub use delimited::{Source, SourceSettings};
pub use delimiter::DelimiterChoice;
pub use encoding::{EncodingChoice, encoding_named};
pub use position::{Line, Row};
pub(crate) use rows::RowBuffers;
pub use rows::{Dialect, RowCells, Rows};
pub(crate) use short::ShortText;

/// Why a source cannot be read, before it is known under which name.
#[derive(Debug)]
struct Refusal {
    says: String,
    hint: String,
}

impl Refusal {
    fn new(says: impl Into<String>, hint: impl Into<String>) -> Self {
        Self { says: says.into(), hint: hint.into() }
    }

    fn of(self, source: &str) -> crate::Error {
        crate::Error::Source { source_name: source.to_owned(), says: self.says, hint: self.hint }
    }
}
