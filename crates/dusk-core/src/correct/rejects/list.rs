//! `rejects.csv`: UTF-8, commas, a header, and no cell that a spreadsheet program would run.

use std::path::Path;

use super::layout::{RejectLayout, RejectedRow};
use crate::Result;
use crate::files::{ListFile, OutputPrint};

/// The rejected rows as the source has them, the reasons first.
#[derive(Debug)]
pub(crate) struct RejectsList {
    list: ListFile,
}

impl RejectsList {
    pub(crate) fn create(folder: &Path, layout: &RejectLayout) -> Result<Self> {
        let headings = layout.headings();
        Ok(Self { list: ListFile::create(folder, "rejects.csv", headings.iter().map(AsRef::as_ref))? })
    }

    pub(crate) fn append(&mut self, row: &RejectedRow) -> Result<()> {
        self.list.append(row.texts())
    }

    pub(crate) fn finish(self) -> Result<OutputPrint> {
        self.list.finish()
    }
}
