//! Comma-separated lists of a batch, `findings.csv` among them: UTF-8, commas, a header, and no cell that a spreadsheet program would
//! run.

use std::path::{Path, PathBuf};

use super::output::{Output, OutputPrint};
use crate::files::guarded;
use crate::finding::Finding;
use crate::source::Source;
use crate::{Error, Result};

/// A comma-separated list being written.
#[derive(Debug)]
pub(crate) struct ListFile {
    path: PathBuf,
    writer: csv::Writer<Output>,
    rows: u64,
}

impl ListFile {
    pub(crate) fn create<'h>(
        folder: &Path,
        name: &str,
        header: impl IntoIterator<Item = &'h str>,
    ) -> Result<Self> {
        let output = Output::create(folder, name)?;
        let path = output.path().to_path_buf();
        let mut writer = csv::WriterBuilder::new().flexible(false).from_writer(output);
        writer.write_record(header).map_err(Output::wrong(&path))?;
        Ok(Self { path, writer, rows: 0 })
    }

    /// Appends a row.
    pub(crate) fn append<'c>(&mut self, cells: impl IntoIterator<Item = &'c str>) -> Result<()> {
        self.rows += 1;
        for cell in cells {
            self.writer.write_field(guarded(cell).as_bytes()).map_err(Output::wrong(&self.path))?;
        }
        self.writer.write_record(None::<&[u8]>).map_err(Output::wrong(&self.path))
    }

    pub(crate) fn finish(self) -> Result<OutputPrint> {
        let mut output =
            self.writer.into_inner().map_err(|error| Error::writing(&self.path)(error.into_error()))?;
        output.rows = self.rows;
        output.finish()
    }
}

/// Every finding, one a row.
#[derive(Debug)]
pub(super) struct FindingsList {
    list: ListFile,
    sources: Vec<String>,
}

impl FindingsList {
    pub(super) fn create(folder: &Path, sources: &[Source]) -> Result<Self> {
        const HEADER: [&str; 9] =
            ["source", "row", "line", "severity", "finding", "about", "value", "wrong", "right"];
        let list = ListFile::create(folder, "findings.csv", HEADER)?;
        Ok(Self { list, sources: sources.iter().map(|source| source.name.clone()).collect() })
    }

    pub(super) fn append(&mut self, finding: &Finding) -> Result<()> {
        let source = self.sources.get(finding.source).map_or("", String::as_str);
        let (row, line) = (finding.row.to_string(), finding.line.to_string());
        let fault = &finding.fault;
        self.list.append([
            source,
            &row,
            &line,
            fault.kind.severity().word(),
            fault.kind.code(),
            &finding.full_about(),
            &finding.value,
            &fault.wrong,
            &fault.right,
        ])
    }

    pub(super) fn finish(self) -> Result<OutputPrint> {
        self.list.finish()
    }
}
