//! The upload files: exactly what the target asked for, split where it limits their rows.

use std::path::{Path, PathBuf};

use jiff::civil::Date;

use super::output::{Output, OutputPrint};
use crate::target::{Target, UploadEncoder};
use crate::{Error, Result};

/// Writes the upload files of a batch.
#[derive(Debug)]
pub(super) struct UploadFiles<'t> {
    target: &'t Target,
    folder: PathBuf,
    batch: String,
    today: String,
    head: Vec<u8>,
    current: Option<Output>,
    done: Vec<OutputPrint>,
}

impl<'t> UploadFiles<'t> {
    /// Begins the files in `folder`/upload.
    pub(super) fn create(target: &'t Target, folder: &Path, batch: &str, today: Date) -> Result<Self> {
        let upload = folder.join("upload");
        std::fs::create_dir(&upload).map_err(Error::writing(&upload))?;
        Ok(Self {
            target,
            folder: folder.to_path_buf(),
            batch: batch.to_owned(),
            today: today.to_string(),
            head: head(target)?,
            current: None,
            done: Vec::new(),
        })
    }

    /// Appends a record, beginning a new file where the target's limit is reached.
    pub(super) fn append(&mut self, record: &[u8]) -> Result<()> {
        let most = self.target.upload.max_rows.unwrap_or(u64::MAX);
        if self.current.as_ref().is_some_and(|file| file.rows >= most) {
            self.close()?;
        }
        if self.current.is_none() {
            self.current = Some(self.begin()?);
        }
        if let Some(file) = &mut self.current {
            file.append(record)?;
            file.rows += 1;
        }
        Ok(())
    }

    /// Closes the last file. A batch without a record has one file with the header alone.
    pub(super) fn finish(mut self) -> Result<Vec<OutputPrint>> {
        if self.current.is_none() && self.done.is_empty() {
            self.current = Some(self.begin()?);
        }
        self.close()?;
        Ok(self.done)
    }

    fn begin(&self) -> Result<Output> {
        let part = (self.done.len() + 1).to_string();
        let name = self.target.upload.file_name.fill(|name| match name {
            "batch" => Some(self.batch.as_str()),
            "part" => Some(part.as_str()),
            "today" => Some(self.today.as_str()),
            _ => None,
        });
        let name = name.ok_or_else(|| Error::Invariant("the upload file's name was not checked".into()))?;
        let mut file = Output::create(&self.folder, &format!("upload/{name}"))?;
        file.append(&self.head)?;
        Ok(file)
    }

    fn close(&mut self) -> Result<()> {
        if let Some(file) = self.current.take() {
            self.done.push(file.finish()?);
        }
        Ok(())
    }
}

/// What every upload file begins with: a byte order mark and the headings, where wanted.
fn head(target: &Target) -> Result<Vec<u8>> {
    let mut encoder = UploadEncoder::new(&target.upload).map_err(Error::Invariant)?;
    let mut head = encoder.mark();
    if target.upload.header {
        let headings = target.headings();
        for (place, heading) in headings.iter().enumerate() {
            if place > 0 {
                head.extend_from_slice(encoder.delimiter());
            }
            encoder.value(heading, headings.len() == 1, &mut head).map_err(|fault| {
                Error::Request(format!("the heading \"{heading}\" {}; {}", fault.wrong, fault.right))
            })?;
        }
        head.extend_from_slice(encoder.line_end());
    }
    Ok(head)
}
