//! The records that a target holds: kept compactly, found again by their keys, compared by what they mean.
//!
//! ```text
//! keys     what identifies a record: hashes of keys, and tables of them
//! meaning  what a value says, however it is written: by that values are the same, and keys found again
//! index    which held record has a key
//! shape    what is taken of each record, by several threads
//! records  all of them: their hashes in memory, their values on the disk
//! reader   one record's values read back
//! ```
//!
//! In memory a held record is its key (16 bytes and the room between them) and 20 bytes beside it; its values
//! stand in a file of the system's temporary folder, and are read back where they differ.

mod index;
mod keys;
mod meaning;
mod reader;
mod records;
mod shape;
#[cfg(test)]
mod tests;

pub use index::Found;
pub use keys::{KeyHash, Keys};
pub use meaning::{Facts, means_the_same};
pub use reader::{HeldReader, HeldRecord};
pub use records::{HeldBuilder, HeldRecords, HeldSource, Way, unique_hash};
pub use shape::{HeldBlock, HeldShape, KeyRoom, WayFields};
