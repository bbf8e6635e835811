//! The upload files: exactly what the target asked for, split where it limits or divides them.

use std::path::{Path, PathBuf};

use hashbrown::HashMap;
use jiff::civil::Date;

use super::sheet::SheetFile;
use super::table_copy::TableCopy;
use super::text_file::{self, Lines, TextFile};
use super::upload_file::UploadFile;
use dusk_description::{Target, UploadFormat};
use dusk_evidence::{Error, Result};
use dusk_files::{FileName, OutputFile, disk};

/// The most files that are open at once.
const MOST_OPEN: usize = 200;

/// Writes the upload files of a batch.
pub(crate) struct UploadFiles<'t> {
    target: &'t Target,
    folder: PathBuf,
    batch: String,
    today: Date,
    /// What each file begins with and ends with.
    frame: (Vec<u8>, Vec<u8>),
    lines: Lines,
    /// The values by which the records are divided, in the order in which they were met.
    values: Vec<Divided>,
    /// Where each of them is in `values`.
    places: HashMap<String, usize>,
    done: Vec<OutputFile>,
}

/// A value by which the records are divided; the empty one where they are not.
struct Divided {
    /// How many files it has.
    parts: usize,
    /// The file at hand.
    file: Box<dyn UploadFile>,
    /// Its name, and how many records it has.
    name: String,
    records: u64,
}

/// Where a record stands in what is uploaded.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct UploadPlace<'u> {
    /// The file's name, without the folder.
    pub(crate) file: &'u str,
    /// The line, or the row of the sheet, on which it begins.
    pub(crate) line: u64,
    /// Its number among the records of the file, from 1.
    pub(crate) record: u64,
}

impl<'t> UploadFiles<'t> {
    /// Begins the files in `folder`/upload.
    pub(crate) fn create(target: &'t Target, folder: &Path, batch: &str, today: Date) -> Result<Self> {
        let upload = folder.join("upload");
        disk::make_folder(&upload).map_err(Error::writing(&upload))?;
        Ok(Self {
            target,
            folder: folder.to_path_buf(),
            batch: batch.to_owned(),
            today,
            frame: text_file::frame(target)?,
            lines: Lines::of(target)?,
            values: Vec::new(),
            places: HashMap::new(),
            done: Vec::new(),
        })
    }

    /// Appends a record to the file for the value `split`, beginning a new file where the target's
    /// limits are reached; gives back where it stands.
    pub(crate) fn append(&mut self, record: &[u8], split: &str) -> Result<UploadPlace<'_>> {
        let place = self.place_for(record, split)?;
        let lost = || Error::Invariant("an upload file was lost".into());
        let divided = self.values.get_mut(place).ok_or_else(lost)?;
        let line = divided.file.next_line();
        divided.file.append(record)?;
        divided.records += 1;
        Ok(UploadPlace { file: &divided.name, line, record: divided.records })
    }

    /// Where the value `split` is among those met, with a file that has room for the record.
    fn place_for(&mut self, record: &[u8], split: &str) -> Result<usize> {
        let known = match self.target.upload.split_by {
            // Nothing to look up. Comparing empty texts is slow where they point to no memory.
            None => (!self.values.is_empty()).then_some(0),
            Some(_) => self.places.get(split).copied(),
        };
        let Some(place) = known else {
            let begun = self.begin(split, 1)?;
            self.places.insert(split.to_owned(), self.values.len());
            self.values.push(begun);
            return Ok(self.values.len() - 1);
        };
        let upload = &self.target.upload;
        let is_full = |value: &&Divided| value.file.is_full_for(record, upload);
        if let Some(parts) = self.values.get(place).filter(is_full).map(|value| value.parts + 1) {
            let begun = self.begin(split, parts)?;
            if let Some(value) = self.values.get_mut(place) {
                let full = std::mem::replace(value, begun);
                self.done.push(full.file.finish()?);
            }
        }
        Ok(place)
    }

    /// Closes the last files. A batch without a record has one file with the header alone.
    pub(crate) fn finish(mut self) -> Result<Vec<OutputFile>> {
        if self.values.is_empty() {
            let begun = self.begin("", 1)?;
            self.values.push(begun);
        }
        for value in std::mem::take(&mut self.values) {
            self.done.push(value.file.finish()?);
        }
        Ok(self.done)
    }

    /// Begins the `part`th file of a value, from 1.
    fn begin(&self, split: &str, parts: usize) -> Result<Divided> {
        if parts == 1 && self.values.len() >= MOST_OPEN {
            return Err(Error::Request(format!(
                "[upload] split_by divides the records into more than {MOST_OPEN} files; the {}th value is \"{split}\"",
                MOST_OPEN + 1
            )));
        }
        let part = parts.to_string();
        let today = self.today.to_string();
        let field = self
            .target
            .upload
            .split_by
            .and_then(|place| self.target.fields.get(place))
            .map(|field| field.name.as_str());
        let value = FileName::word(split);
        let name = self.target.upload.file_name.fill(|name| match name {
            "batch" => Some(self.batch.as_str()),
            "part" => Some(part.as_str()),
            "today" => Some(today.as_str()),
            name if Some(name) == field => Some(value.as_str()),
            _ => None,
        });
        let name = name.ok_or_else(|| Error::Invariant("the upload file's name was not checked".into()))?;
        let name = FileName::checked(&name).map_err(|why| {
            Error::Request(format!(
                "[upload] file_name: an upload file would be called \"{name}\", which {why}"
            ))
        })?;
        let path = format!("upload/{name}");
        if self.folder.join(&path).exists() {
            return Err(Error::Request(format!(
                "two upload files would be called {name}; \"{split}\" looks like another value in a file's name"
            )));
        }
        let file: Box<dyn UploadFile> = match &self.target.upload.format {
            UploadFormat::Workbook { sheet, typed } => {
                let file = SheetFile::create(self.target, &self.folder, &path, sheet, *typed, self.today)?;
                Box::new(file)
            }
            UploadFormat::Database { .. } => {
                Box::new(TableCopy::create(&self.folder, &path, &self.target.headings())?)
            }
            _ => {
                let frame = (self.frame.0.as_slice(), self.frame.1.as_slice());
                Box::new(TextFile::create(&self.folder, &path, frame, self.lines.clone())?)
            }
        };
        Ok(Divided { parts, file, name: name.to_string(), records: 0 })
    }
}
