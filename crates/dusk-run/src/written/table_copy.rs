//! A copy, as delimited text (RFC 4180), of the records that go into a table of a database.

use std::path::Path;

use super::upload_file::UploadFile;
use crate::running::table::cells_in;
use dusk_description::Upload;
use dusk_evidence::{Error, Result};
use dusk_files::{Output, OutputFile};

/// A copy being written.
pub(super) struct TableCopy {
    output: Output,
    lines: u64,
}

impl TableCopy {
    /// Begins the file `name` in `folder` with the headings.
    pub(super) fn create(folder: &Path, name: &str, headings: &[&str]) -> Result<Self> {
        let mut output = Output::create(folder, name)?;
        let head = as_csv(headings)?;
        output.append(&head)?;
        Ok(Self { output, lines: lines_in(&head) })
    }
}

impl UploadFile for TableCopy {
    fn next_line(&self) -> u64 {
        self.lines + 1
    }

    fn append(&mut self, record: &[u8]) -> Result<()> {
        let record = as_csv(&cells_in(record)?)?;
        self.lines += lines_in(&record);
        self.output.append(&record)?;
        self.output.rows += 1;
        Ok(())
    }

    fn is_full_for(&self, _: &[u8], upload: &Upload) -> bool {
        upload.max_rows.is_some_and(|most| self.output.rows >= most)
    }

    fn finish(self: Box<Self>) -> Result<OutputFile> {
        self.output.finish()
    }
}

fn as_csv(cells: &[&str]) -> Result<Vec<u8>> {
    let mut writer = csv::WriterBuilder::new().flexible(true).from_writer(Vec::new());
    writer.write_record(cells).map_err(|error| Error::Invariant(error.to_string()))?;
    writer.into_inner().map_err(|error| Error::Invariant(error.to_string()))
}

fn lines_in(bytes: &[u8]) -> u64 {
    memchr::memchr_iter(b'\n', bytes).count() as u64
}
