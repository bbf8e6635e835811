//! What every kind of upload file does with records.

use dusk_description::{Upload, cells_of};
use dusk_evidence::{Error, Result};
use dusk_files::OutputFile;

/// A file being written: each kind of upload has one.
pub(super) trait UploadFile: Send {
    /// Appends a record.
    fn append(&mut self, record: &[u8]) -> Result<()>;

    /// Whether the target's limits leave no room for the record.
    fn is_full_for(&self, record: &[u8], upload: &Upload) -> bool;

    /// Closes it; it is there when this returns.
    fn finish(self: Box<Self>) -> Result<OutputFile>;
}

/// The cells of a record that goes to a sheet or a table.
pub(super) fn cells_in(record: &[u8]) -> Result<Vec<&str>> {
    cells_of(record).ok_or_else(|| Error::Invariant("a record's cells cannot be told apart".into()))
}
