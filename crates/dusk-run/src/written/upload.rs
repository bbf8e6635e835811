//! The upload files: exactly what the target asked for, split where it limits or divides them.

use std::path::{Path, PathBuf};

use hashbrown::HashMap;
use jiff::civil::Date;

use crate::SheetFile;
use dusk_database::TableLoad;
use dusk_description::{CELL_END, Target, Upload, UploadEncoder, UploadFormat};
use dusk_evidence::{Error, Result};
use dusk_files::{Output, OutputPrint};

/// The most files that are open at once.
const MOST_OPEN: usize = 200;

/// Writes the upload files of a batch.
pub(crate) struct UploadFiles<'t> {
    target: &'t Target,
    folder: PathBuf,
    batch: String,
    today: Date,
    head: Vec<u8>,
    /// The values by which the records are divided, in the order in which they were met.
    values: Vec<Divided>,
    /// Where each of them is in `values`.
    places: HashMap<String, usize>,
    done: Vec<OutputPrint>,
    table: Option<Box<dyn TableLoad>>,
}

/// What was written, and the rows that wait to stay in a table.
pub(crate) type Finished = (Vec<OutputPrint>, Option<Box<dyn TableLoad>>);

/// A value by which the records are divided; the empty one where they are not.
struct Divided {
    /// How many files it has.
    parts: usize,
    /// The file at hand.
    file: OpenFile,
}

/// A file being written.
enum OpenFile {
    Text { output: Output, bytes: u64 },
    Sheet(Box<SheetFile>),
}

impl<'t> UploadFiles<'t> {
    /// Begins the files in `folder`/upload; for a database, begins the transaction.
    pub(crate) fn create(target: &'t Target, folder: &Path, batch: &str, today: Date) -> Result<Self> {
        let upload = folder.join("upload");
        std::fs::create_dir(&upload).map_err(Error::writing(&upload))?;
        let table = match &target.upload.format {
            UploadFormat::Database { path, table } => {
                Some(dusk_database::load(path, table, &target.headings())?)
            }
            _ => None,
        };
        Ok(Self {
            target,
            folder: folder.to_path_buf(),
            batch: batch.to_owned(),
            today,
            head: head(target)?,
            values: Vec::new(),
            places: HashMap::new(),
            done: Vec::new(),
            table,
        })
    }

    /// Appends a record to the file for the value `split`, beginning a new file where the target's
    /// limits are reached.
    pub(crate) fn append(&mut self, record: &[u8], split: &str) -> Result<()> {
        let place = self.place_for(record, split)?;
        let cells = || record.strip_suffix(b"\n").unwrap_or(record).split(|byte| *byte == CELL_END);
        if let Some(table) = &mut self.table {
            table.insert(
                &cells().map(|cell| std::str::from_utf8(cell).unwrap_or_default()).collect::<Vec<_>>(),
            )?;
        }
        match self.values.get_mut(place).map(|value| &mut value.file) {
            Some(OpenFile::Text { output, bytes }) => {
                if self.table.is_some() {
                    output.append(&as_csv(cells())?)?;
                } else {
                    output.append(record)?;
                }
                output.rows += 1;
                *bytes += record.len() as u64;
                Ok(())
            }
            Some(OpenFile::Sheet(sheet)) => sheet.append(cells()),
            None => Err(Error::Invariant("an upload file was lost".into())),
        }
    }

    /// Where the value `split` is among those met, with a file that has room for the record.
    fn place_for(&mut self, record: &[u8], split: &str) -> Result<usize> {
        let known = match self.target.upload.split_by {
            // Nothing to look up. Comparing empty texts is slow where they point to no memory.
            None => (!self.values.is_empty()).then_some(0),
            Some(_) => self.places.get(split).copied(),
        };
        let Some(place) = known else {
            let file = self.begin(split, 1)?;
            self.places.insert(split.to_owned(), self.values.len());
            self.values.push(Divided { parts: 1, file });
            return Ok(self.values.len() - 1);
        };
        let upload = &self.target.upload;
        let is_full = |value: &&Divided| value.file.is_full_for(record, upload);
        if let Some(parts) = self.values.get(place).filter(is_full).map(|value| value.parts + 1) {
            let file = self.begin(split, parts)?;
            if let Some(value) = self.values.get_mut(place) {
                let full = std::mem::replace(value, Divided { parts, file });
                self.done.push(full.file.finish()?);
            }
        }
        Ok(place)
    }

    /// Closes the last files. A batch without a record has one file with the header alone. What goes
    /// into a table is there once the table's load is committed.
    pub(crate) fn finish(mut self) -> Result<Finished> {
        if self.values.is_empty() {
            let file = self.begin("", 1)?;
            self.values.push(Divided { parts: 1, file });
        }
        for value in std::mem::take(&mut self.values) {
            self.done.push(value.file.finish()?);
        }
        Ok((self.done, self.table))
    }

    /// Begins the `part`th file of a value, from 1.
    fn begin(&self, split: &str, part: usize) -> Result<OpenFile> {
        if part == 1 && self.values.len() >= MOST_OPEN {
            return Err(Error::Request(format!(
                "[upload] split_by divides the records into more than {MOST_OPEN} files; the {}th value is \"{split}\"",
                MOST_OPEN + 1
            )));
        }
        let part = part.to_string();
        let today = self.today.to_string();
        let field = self
            .target
            .upload
            .split_by
            .and_then(|place| self.target.fields.get(place))
            .map(|field| field.name.as_str());
        let value = file_word(split);
        let name = self.target.upload.file_name.fill(|name| match name {
            "batch" => Some(self.batch.as_str()),
            "part" => Some(part.as_str()),
            "today" => Some(today.as_str()),
            name if Some(name) == field => Some(value.as_str()),
            _ => None,
        });
        let name = name.ok_or_else(|| Error::Invariant("the upload file's name was not checked".into()))?;
        let path = format!("upload/{name}");
        if self.folder.join(&path).exists() {
            return Err(Error::Request(format!(
                "two upload files would be called {name}; \"{split}\" looks like another value in a file's name"
            )));
        }
        if let UploadFormat::Workbook { sheet, typed } = &self.target.upload.format {
            let file = SheetFile::create(self.target, &self.folder, &path, sheet, *typed, self.today)?;
            return Ok(OpenFile::Sheet(Box::new(file)));
        }
        let mut output = Output::create(&self.folder, &path)?;
        output.append(&self.head)?;
        Ok(OpenFile::Text { output, bytes: self.head.len() as u64 })
    }
}

impl OpenFile {
    /// Whether the target's limits leave no room for the record.
    fn is_full_for(&self, record: &[u8], upload: &Upload) -> bool {
        let most_rows = upload.max_rows.unwrap_or(u64::MAX);
        let most_bytes = upload.max_bytes.unwrap_or(u64::MAX);
        match self {
            Self::Text { output, bytes } => {
                output.rows >= most_rows || output.rows > 0 && bytes + record.len() as u64 > most_bytes
            }
            Self::Sheet(sheet) => sheet.rows() >= most_rows || sheet.is_full(),
        }
    }

    fn finish(self) -> Result<OutputPrint> {
        match self {
            Self::Text { output, .. } => output.finish(),
            Self::Sheet(sheet) => sheet.finish(),
        }
    }
}

/// A value as a part of a file's name.
fn file_word(value: &str) -> String {
    let plain = |c: char| if c.is_control() || "/\\:*?\"<>|".contains(c) { '_' } else { c };
    let word: String = value.chars().map(plain).collect();
    let word = word.trim_matches(['.', ' ']);
    if word.is_empty() { "blank".into() } else { word.to_owned() }
}

fn as_csv<'c>(cells: impl Iterator<Item = &'c [u8]>) -> Result<Vec<u8>> {
    let mut writer = csv::WriterBuilder::new().flexible(true).from_writer(Vec::new());
    writer.write_record(cells).map_err(|error| Error::Invariant(error.to_string()))?;
    writer.into_inner().map_err(|error| Error::Invariant(error.to_string()))
}

/// What every upload file begins with: a byte order mark and the headings, where wanted.
fn head(target: &Target) -> Result<Vec<u8>> {
    let columns = target.upload_columns();
    let headings: Vec<&str> = columns.iter().map(|(_, heading)| *heading).collect();
    match &target.upload.format {
        UploadFormat::JsonLines | UploadFormat::Workbook { .. } => return Ok(Vec::new()),
        UploadFormat::Database { .. } => return as_csv(headings.iter().map(|heading| heading.as_bytes())),
        UploadFormat::Delimited => {}
    }
    let mut encoder = UploadEncoder::new(&target.upload).map_err(Error::Invariant)?;
    let mut head = encoder.mark();
    for row in target.header_rows() {
        for (place, heading) in row.iter().enumerate() {
            if place > 0 {
                head.extend_from_slice(encoder.delimiter());
            }
            encoder.value(heading, row.len() == 1, &mut head).map_err(|fault| {
                Error::Request(format!("the heading \"{heading}\" {}; {}", fault.wrong(), fault.right()))
            })?;
        }
        head.extend_from_slice(encoder.line_end());
    }
    Ok(head)
}
