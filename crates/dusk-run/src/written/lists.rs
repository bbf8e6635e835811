//! `findings.csv`: every finding, one a row.

use std::path::Path;

use dusk_evidence::{Finding, Id as _, Result};
use dusk_files::{ListFile, OutputFile};
use dusk_sources::Source;

/// Every finding, one a row.
#[derive(Debug)]
pub(crate) struct FindingsList {
    list: ListFile,
    sources: Vec<String>,
}

impl FindingsList {
    pub(crate) fn create(folder: &Path, sources: &[Source]) -> Result<Self> {
        const HEADER: [&str; 9] =
            ["source", "row", "line", "severity", "finding", "about", "value", "wrong", "right"];
        let list = ListFile::create(folder, "findings.csv", HEADER)?;
        Ok(Self { list, sources: sources.iter().map(|source| source.name.clone()).collect() })
    }

    pub(crate) fn append(&mut self, finding: &Finding) -> Result<()> {
        let source = self.sources.get(finding.source.index()).map_or("", String::as_str);
        let (row, line) = (finding.row.to_string(), finding.line.to_string());
        let fault = &finding.fault;
        self.list.append([
            source,
            &row,
            &line,
            fault.kind().severity().word(),
            fault.kind().code(),
            &finding.full_about(),
            &finding.value,
            &fault.wrong(),
            &fault.right(),
        ])
    }

    pub(crate) fn finish(self) -> Result<OutputFile> {
        self.list.finish()
    }
}
