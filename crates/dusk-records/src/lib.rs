//! Record files become rows of cells: each record a row, each value under its path.
//!
//! A file is read twice, record by record: once for the paths that its records have, once to write them into a temporary
//! delimited file of the program's own, as sheets are, so that everything after it works as for any other source. A
//! record takes a bounded part of the memory, however long the file is.
//!
//! ```text
//! decoded       the file as UTF-8
//! json          JSON documents and JSON Lines
//! xml           XML documents
//! iso2709       bibliographic records, in binary form
//! tagged_lines  the same as lines of text
//! node          one record as a tree, and the rows that it makes
//! unpack        which list is meant, its columns, and its rows
//! ```

mod decoded;
mod iso2709;
mod json;
mod node;
mod tagged_lines;
mod unpack;
mod xml;

use dusk_evidence::Refusal;
use node::Node;

pub use unpack::{RecordChoice, RecordFacts, Unpacked, unpack};

/// The most that one record may take, in bytes.
const LONGEST_RECORD: u64 = 8 << 20;

/// The most columns that the records of a file may have together.
const MOST_COLUMNS: usize = 16_384;

/// What kind of record file it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RecordFormat {
    /// One JSON document (RFC 8259).
    Json,
    /// A JSON value on each line.
    JsonLines,
    /// An XML document.
    Xml,
    /// Bibliographic records in binary form (ISO 2709).
    Iso2709,
    /// The same as lines of text.
    TaggedLines,
}

impl RecordFormat {
    /// What people call it.
    pub fn name(self) -> &'static str {
        match self {
            Self::Json => "JSON",
            Self::JsonLines => "JSON Lines",
            Self::Xml => "XML",
            Self::Iso2709 => "ISO 2709",
            Self::TaggedLines => "records as lines of text",
        }
    }
}

/// What kind of record file begins with these bytes; nothing where it is another file.
pub fn format_of(head: &[u8]) -> Option<RecordFormat> {
    if iso2709::is_one(head) {
        return Some(RecordFormat::Iso2709);
    }
    let text = match encoding_rs::Encoding::for_bom(head) {
        Some((encoding, mark)) => {
            encoding.decode_without_bom_handling(head.get(mark..).unwrap_or_default()).0
        }
        None => String::from_utf8_lossy(head),
    };
    let text = text.trim_start();
    let behind = |mark: char| text.strip_prefix(mark).map(str::trim_start);
    if let Some(rest) = behind('{').filter(|rest| rest.starts_with(['"', '}'])) {
        let first = text.lines().next().unwrap_or_default().trim_end();
        let next = text.lines().skip(1).find(|line| !line.trim().is_empty());
        let is_lines = first.ends_with('}') && next.is_some_and(|next| next.trim_start().starts_with('{'));
        let has_shape = rest.starts_with('}') || rest.contains(':');
        return has_shape.then_some(if is_lines { RecordFormat::JsonLines } else { RecordFormat::Json });
    }
    if behind('[').is_some_and(|rest| rest.starts_with(['{', ']'])) {
        return Some(RecordFormat::Json);
    }
    let is_element =
        text.strip_prefix('<').is_some_and(|rest| rest.starts_with(|c: char| c.is_alphabetic() || c == '!'))
            && (text.contains("</") || text.contains("/>"));
    let begins = text.get(..text.len().min(200)).unwrap_or(text).to_ascii_lowercase();
    if (text.starts_with("<?xml") || is_element)
        && !begins.contains("<html")
        && !begins.contains("<!doctype html")
    {
        return Some(RecordFormat::Xml);
    }
    tagged_lines::is_one(text).then_some(RecordFormat::TaggedLines)
}

/// What comes by of a file.
#[derive(Debug, PartialEq, Eq)]
enum Record {
    /// A record.
    Read(Node),
    /// One that cannot be read, and why.
    Damaged(String),
    /// Nothing, where a record might be.
    Blank,
}

/// Takes a record of the list at a path; a refusal ends the reading.
type Met<'m> = dyn FnMut(&str, Record) -> Result<(), Refusal> + 'm;

/// A list of records in a file.
#[derive(Debug, Clone, PartialEq, Eq)]
struct ListSeen {
    path: String,
    records: u64,
    /// Whether it is in no other list.
    is_outer: bool,
}

fn damaged(format: &str, what: &str) -> Refusal {
    Refusal::new(
        format!("is a damaged {format}: {what}"),
        "check that the export was finished, and ask for it again",
    )
}

fn too_long() -> Refusal {
    Refusal::new(
        format!("has a record of more than {} MB, and was not read", LONGEST_RECORD >> 20),
        "ask whoever sent it; if it is right, export it with fewer values in a record",
    )
}
