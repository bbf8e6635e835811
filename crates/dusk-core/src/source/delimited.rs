//! A delimited file opened: how it is read is settled, its header is found, and it can be read
//! from the first record on as often as needed.

use std::fs::File;
use std::io::Read;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use encoding_rs::Encoding;

use super::blocks::{Blocks, Decoding};
use super::delimiter::{self, DelimiterChoice};
use super::encoding::EncodingChoice;
use super::rows::{Dialect, Rows};
use super::{Line, Refusal};
use crate::files::nearest;
use crate::{Error, Result};

/// How much of a file is looked at to settle how it is read, in bytes.
const HEAD: u64 = 256 * 1024;

/// How a mapping says that its sources are to be read.
#[derive(Debug, Clone)]
pub struct SourceSettings {
    /// The encoding, where it is named.
    pub encoding: Option<&'static Encoding>,
    /// The delimiter, where it is named.
    pub delimiter: Option<String>,
    /// The quote; empty when nothing is ever quoted.
    pub quote: String,
    /// The row that holds the headings, from 1.
    pub header_row: u64,
}

impl Default for SourceSettings {
    fn default() -> Self {
        Self { encoding: None, delimiter: None, quote: "\"".into(), header_row: 1 }
    }
}

/// A delimited file whose reading is settled.
#[derive(Debug)]
pub struct Source {
    /// The source as the steward named it.
    pub name: String,
    path: PathBuf,
    // Standard input and pipes can be read once only; what came through them is kept here.
    _spooled: Option<tempfile::NamedTempFile>,
    /// The encoding, and why.
    pub encoding: EncodingChoice,
    /// The delimiter, and why.
    pub delimiter: DelimiterChoice,
    /// The row that holds the headings.
    pub header_row: u64,
    /// The line on which that row begins.
    pub header_line: Line,
    /// The headings, trimmed.
    pub columns: Arc<[String]>,
    /// The file's size in bytes.
    pub bytes: u64,
}

impl Source {
    /// Opens the file at `path`. `wanted` are the headings that the mapping uses; they are evidence
    /// for the delimiter, and every one of them must be there exactly once.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be read; [`Error::Source`] when how to read it is not proven
    /// or a heading is missing.
    pub fn open(path: &Path, settings: &SourceSettings, wanted: &[&str]) -> Result<Self> {
        let name = path.display().to_string();
        let metadata = std::fs::metadata(path).map_err(Error::reading(path))?;
        if metadata.is_dir() {
            return Err(Error::Source {
                source_name: name,
                says: "is a folder, not a file".into(),
                hint: "name the exported file in it".into(),
            });
        }
        if metadata.is_file() {
            return Self::open_file(name, path.to_path_buf(), None, settings, wanted);
        }
        let mut pipe = File::open(path).map_err(Error::reading(path))?;
        Self::open_stream(name, &mut pipe, settings, wanted)
    }

    /// Opens what comes through a stream, keeping it in a temporary file until the work is done.
    ///
    /// # Errors
    /// As [`Source::open`].
    pub fn open_stream(
        name: String,
        stream: &mut dyn Read,
        settings: &SourceSettings,
        wanted: &[&str],
    ) -> Result<Self> {
        let shown = PathBuf::from(&name);
        let mut spool = tempfile::NamedTempFile::new().map_err(Error::writing(&std::env::temp_dir()))?;
        std::io::copy(stream, &mut spool).map_err(Error::reading(&shown))?;
        let path = spool.path().to_path_buf();
        Self::open_file(name, path, Some(spool), settings, wanted)
    }

    fn open_file(
        name: String,
        path: PathBuf,
        spooled: Option<tempfile::NamedTempFile>,
        settings: &SourceSettings,
        wanted: &[&str],
    ) -> Result<Self> {
        let shown = PathBuf::from(&name);
        let file = File::open(&path).map_err(Error::reading(&shown))?;
        let bytes = file.metadata().map_err(Error::reading(&shown))?.len();
        let mut head = Vec::new();
        file.take(HEAD).read_to_end(&mut head).map_err(Error::reading(&shown))?;
        let wrong = |refusal: Refusal| refusal.of(&name);
        if head.is_empty() {
            return Err(wrong(Refusal::new("is empty", "check that the export was finished")));
        }
        let encoding = EncodingChoice::choose(&head, settings.encoding).map_err(wrong)?;
        let text = {
            let mut decoding = Decoding::new(encoding);
            let mut text = String::new();
            let whole = head.len() as u64 == bytes;
            decoding
                .decode(head.get(encoding.mark..).unwrap_or_default(), whole, &mut text)
                .map_err(|()| wrong(super::blocks::not_utf8(&text)))?;
            text
        };
        let header_row = settings.header_row;
        let delimiter = match &settings.delimiter {
            Some(named) => DelimiterChoice {
                dialect: Dialect::new(named.as_str(), settings.quote.as_str()),
                reason: "as the mapping says".into(),
            },
            None => delimiter::prove(&text, &settings.quote, header_row, wanted).map_err(wrong)?,
        };
        let (columns, header_line) = header(&text, &delimiter.dialect, header_row, wanted).map_err(wrong)?;
        Ok(Self {
            name,
            path,
            _spooled: spooled,
            encoding,
            delimiter,
            header_row,
            header_line,
            columns: columns.into(),
            bytes,
        })
    }

    /// Where a heading stands among the columns, from 0.
    pub fn column(&self, name: &str) -> Option<usize> {
        self.columns.iter().position(|column| column == name)
    }

    /// What the delimiter is called.
    pub fn delimiter_name(&self) -> String {
        delimiter::delimiter_name(self.delimiter.dialect.delimiter())
    }

    /// Reads the records below the header, in blocks.
    ///
    /// # Errors
    /// [`Error::File`] when the file cannot be opened again.
    pub fn blocks(&self) -> Result<Blocks> {
        let file = File::open(&self.path).map_err(Error::reading(Path::new(&self.name)))?;
        Ok(Blocks::new(file, &self.name, self.encoding, self.delimiter.dialect.clone(), self.header_row))
    }
}

/// The headings in row `header_row`, with every wanted one there exactly once.
fn header(
    text: &str,
    dialect: &Dialect,
    header_row: u64,
    wanted: &[&str],
) -> Result<(Vec<String>, Line), Refusal> {
    let mut rows = Rows::new(text, dialect);
    let mut best: Option<(u64, usize)> = None;
    let mut columns: Option<(Vec<String>, Line)> = None;
    while let Some(row) = rows.next() {
        let number = row.row().0;
        if number > header_row.max(40) {
            break;
        }
        let names: Vec<String> = row.cells().map(|cell| cell.trim().to_owned()).collect();
        let found = wanted.iter().filter(|name| names.iter().any(|column| column == *name)).count();
        if found > best.map_or(0, |(_, most)| most) {
            best = Some((number, found));
        }
        if number == header_row {
            if !row.is_closed() {
                return Err(Refusal::new(
                    format!("row {header_row} opens a quote that is never closed"),
                    "check header_row and quote under [source] in the mapping",
                ));
            }
            columns = Some((names, row.line()));
        }
    }
    let elsewhere = best.filter(|(row, _)| *row != header_row).map(|(row, _)| {
        format!("row {row} looks like the header: write header_row = {row} under [source] in the mapping")
    });
    let Some((columns, line)) = columns else {
        return Err(Refusal::new(
            format!("has fewer than {header_row} rows, so there is no header in row {header_row}"),
            elsewhere.unwrap_or_else(|| "check header_row under [source] in the mapping".into()),
        ));
    };
    let count = |name: &str| columns.iter().filter(|column| column.as_str() == name).count();
    let missing: Vec<&str> = wanted.iter().copied().filter(|name| count(name) == 0).collect();
    if !missing.is_empty() {
        let says: Vec<String> = missing
            .iter()
            .map(|name| match nearest(name, columns.iter().map(String::as_str)) {
                Some(near) => format!("\"{name}\" (did you mean \"{near}\"?)"),
                None => format!("\"{name}\""),
            })
            .collect();
        return Err(Refusal::new(
            format!("the header in row {header_row} has no column {}", says.join(", nor ")),
            elsewhere.unwrap_or_else(|| {
                let named: Vec<String> = columns.iter().map(|column| format!("\"{column}\"")).collect();
                format!("its columns are {}", named.join(", "))
            }),
        ));
    }
    if let Some(twice) = wanted.iter().find(|name| count(name) > 1) {
        return Err(Refusal::new(
            format!("the header in row {header_row} has the column \"{twice}\" more than once"),
            "give one of them another name in the export, so that the mapping can tell them apart",
        ));
    }
    Ok((columns, line))
}
