//! What every kind of upload file does with records.

use dusk_description::Upload;
use dusk_evidence::Result;
use dusk_files::OutputFile;

/// A file being written: each kind of upload has one.
pub(super) trait UploadFile: Send {
    /// The line on which the next record begins, as an editor numbers lines, or its row in a sheet.
    fn next_line(&self) -> u64;

    /// Appends a record.
    fn append(&mut self, record: &[u8]) -> Result<()>;

    /// Whether the target's limits leave no room for the record.
    fn is_full_for(&self, record: &[u8], upload: &Upload) -> bool;

    /// Closes it; it is there when this returns.
    fn finish(self: Box<Self>) -> Result<OutputFile>;
}
