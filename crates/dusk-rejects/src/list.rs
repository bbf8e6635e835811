//! `rejects.csv`: UTF-8, commas, a header, and no cell that a spreadsheet program would run.

use std::path::Path;

use super::layout::{RejectLayout, RejectedRow};
use dusk_evidence::Result;
use dusk_files::{ListFile, OutputFile};

/// The rejected rows as the source has them, the reasons first.
#[derive(Debug)]
pub struct RejectsList {
    list: ListFile,
}

impl RejectsList {
    /// Begins `rejects.csv` in `folder`.
    ///
    /// # Errors
    /// [`Error::File`](dusk_evidence::Error::File) when the disk refuses.
    pub fn create(folder: &Path, layout: &RejectLayout) -> Result<Self> {
        let headings = layout.headings();
        Ok(Self { list: ListFile::create(folder, "rejects.csv", headings.iter().map(AsRef::as_ref))? })
    }

    /// Appends a rejected row.
    ///
    /// # Errors
    /// [`Error::File`](dusk_evidence::Error::File) when the disk refuses.
    pub fn append(&mut self, row: &RejectedRow) -> Result<()> {
        self.list.append(row.texts())
    }

    /// Writes what is left, and waits until the disk has it.
    ///
    /// # Errors
    /// [`Error::File`](dusk_evidence::Error::File) when the disk refuses.
    pub fn finish(self) -> Result<OutputFile> {
        self.list.finish()
    }
}
