//! `findings.csv`: every finding, one a row.

use std::path::Path;

use crate::files::ListFile;
use crate::Result;
use crate::files::OutputPrint;
use crate::finding::Finding;
use crate::source::Source;

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
