//! Comma-separated lists of a batch, `findings.csv` among them: UTF-8, commas, a header, and no cell that a spreadsheet program would
//! run.

use std::path::{Path, PathBuf};

use super::{Output, OutputFile, guarded};
use dusk_evidence::{Error, Result};

/// A comma-separated list being written.
#[derive(Debug)]
pub struct ListFile {
    path: PathBuf,
    writer: csv::Writer<Output>,
    rows: u64,
}

impl ListFile {
    /// Begins the list `name` in `folder` with its header.
    ///
    /// # Errors
    /// [`Error::File`](dusk_evidence::Error::File) when the disk refuses.
    pub fn create<'h>(folder: &Path, name: &str, header: impl IntoIterator<Item = &'h str>) -> Result<Self> {
        let output = Output::create(folder, name)?;
        let path = output.path().to_path_buf();
        let mut writer = csv::WriterBuilder::new().flexible(false).from_writer(output);
        writer.write_record(header).map_err(Output::wrong(&path))?;
        Ok(Self { path, writer, rows: 0 })
    }

    /// Appends a row; cells that a spreadsheet program would run are guarded.
    ///
    /// # Errors
    /// [`Error::File`](dusk_evidence::Error::File) when the disk refuses.
    pub fn append<'c>(&mut self, cells: impl IntoIterator<Item = &'c str>) -> Result<()> {
        self.rows += 1;
        for cell in cells {
            self.writer.write_field(guarded(cell).as_bytes()).map_err(Output::wrong(&self.path))?;
        }
        self.writer.write_record(None::<&[u8]>).map_err(Output::wrong(&self.path))
    }

    /// Writes what is left, and waits until the disk has it.
    ///
    /// # Errors
    /// [`Error::File`](dusk_evidence::Error::File) when the disk refuses.
    pub fn finish(self) -> Result<OutputFile> {
        let mut output =
            self.writer.into_inner().map_err(|error| Error::writing(&self.path)(error.into_error()))?;
        output.rows = self.rows;
        output.finish()
    }
}
