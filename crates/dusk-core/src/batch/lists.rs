//! `findings.csv` and `rejects.csv`: UTF-8, commas, a header.

use std::path::{Path, PathBuf};

use super::output::{Output, OutputPrint};
use crate::finding::Finding;
use crate::source::{RowCells, Source, without_marks};
use crate::{Error, Result};

/// A comma-separated list being written.
#[derive(Debug)]
pub(super) struct ListFile {
    path: PathBuf,
    writer: csv::Writer<Output>,
    rows: u64,
}

impl ListFile {
    pub(super) fn create<'h>(
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
    pub(super) fn append<'c>(&mut self, cells: impl IntoIterator<Item = &'c str>) -> Result<()> {
        self.rows += 1;
        self.writer.write_record(cells).map_err(Output::wrong(&self.path))
    }

    pub(super) fn finish(self) -> Result<OutputPrint> {
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

/// The rejected rows as the source has them, the reasons first.
#[derive(Debug)]
pub(super) struct RejectsList {
    list: ListFile,
    sources: Vec<SourceShape>,
    columns: usize,
}

#[derive(Debug)]
struct SourceShape {
    name: String,
    delimiter: String,
    /// For each column of the list, where it is in the source.
    places: Vec<Option<usize>>,
    width: usize,
}

impl RejectsList {
    pub(super) fn create(folder: &Path, sources: &[Source]) -> Result<Self> {
        // Sources of one batch mostly have the same columns; those that only some have come after.
        // A heading that a source has twice is two columns.
        let mut columns: Vec<(&str, usize)> = Vec::new();
        let numbered = |source: &Source| {
            let names: Vec<(String, usize)> = source
                .columns
                .iter()
                .enumerate()
                .map(|(place, name)| {
                    (name.clone(), source.columns.iter().take(place).filter(|other| *other == name).count())
                })
                .collect();
            names
        };
        let all: Vec<Vec<(String, usize)>> = sources.iter().map(numbered).collect();
        for (name, again) in all.iter().flatten() {
            if !columns.contains(&(name, *again)) {
                columns.push((name, *again));
            }
        }
        let places = |names: &[(String, usize)]| {
            columns
                .iter()
                .map(|column| names.iter().position(|(name, again)| (name.as_str(), *again) == *column))
                .collect()
        };
        let shapes = sources
            .iter()
            .zip(&all)
            .map(|(source, names)| SourceShape {
                name: source.name.clone(),
                delimiter: source.dialect.delimiter().to_owned(),
                places: places(names),
                width: source.columns.len(),
            })
            .collect();
        let header = ["source", "row", "line", "reasons"]
            .into_iter()
            .chain(columns.iter().map(|(name, _)| *name))
            .chain(["beyond the header"]);
        let list = ListFile::create(folder, "rejects.csv", header)?;
        Ok(Self { list, sources: shapes, columns: columns.len() })
    }

    pub(super) fn append(&mut self, source: usize, row: &RowCells<'_>, findings: &[Finding]) -> Result<()> {
        let Some(shape) = self.sources.get(source) else { return Ok(()) };
        let reasons: Vec<String> = findings.iter().map(reason).collect();
        let (number, line, reasons) = (row.row().to_string(), row.line().to_string(), reasons.join("; "));
        let beyond: Vec<&str> = row.cells().skip(shape.width).collect();
        let beyond = beyond.join(&shape.delimiter);
        let cells: Vec<_> = shape
            .places
            .iter()
            .take(self.columns)
            .map(|place| place.map_or("".into(), |place| without_marks(row.cell(place))))
            .collect();
        let head = [shape.name.as_str(), &number, &line, &reasons];
        self.list.append(head.into_iter().chain(cells.iter().map(AsRef::as_ref)).chain([beyond.as_str()]))
    }

    pub(super) fn finish(self) -> Result<OutputPrint> {
        self.list.finish()
    }
}

/// One finding in a sentence: what it is about, the value, what is wrong, what would be right.
fn reason(finding: &Finding) -> String {
    let fault = &finding.fault;
    let value = if finding.value.is_empty() { String::new() } else { format!(" \"{}\"", finding.value) };
    let right = if fault.right.is_empty() { String::new() } else { format!(" (right: {})", fault.right) };
    format!("{}{value} {}{right}", finding.full_about(), fault.wrong)
}
