//! What comes by of a record file while it is read, and what of it is refused.

use dusk_evidence::Refusal;

use crate::node::Node;

/// The most that one record may take, in bytes.
pub(crate) const LONGEST_RECORD: u64 = 8 << 20;

/// The most columns that the records of a file may have together.
pub(crate) const MOST_COLUMNS: usize = 16_384;

/// What comes by of a file.
#[derive(Debug, PartialEq, Eq)]
pub(crate) enum Record {
    /// A record.
    Read(Node),
    /// One that cannot be read, and why.
    Damaged(String),
    /// Nothing, where a record might be.
    Blank,
}

/// Takes a record of the list at a path; a refusal ends the reading.
pub(crate) type Met<'m> = dyn FnMut(&str, Record) -> Result<(), Refusal> + 'm;

/// A list of records in a file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct ListSeen {
    pub(crate) path: String,
    pub(crate) records: u64,
    /// Whether it is in no other list.
    pub(crate) is_outer: bool,
}

pub(crate) fn damaged(format: &str, what: &str) -> Refusal {
    Refusal::new(
        format!("is a damaged {format}: {what}"),
        "check that the export was finished, and ask for it again",
    )
}

pub(crate) fn too_long() -> Refusal {
    Refusal::new(
        format!("has a record of more than {} MB, and was not read", LONGEST_RECORD >> 20),
        "ask the person who sent it; if it is right, export it with fewer values in a record",
    )
}
