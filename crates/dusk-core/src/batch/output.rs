//! A file of a batch, hashed while it is written.

use std::fs::File;
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use serde::Serialize;

use crate::{Error, Result};

/// How much is gathered before it is hashed and written, in bytes.
const BUFFER: usize = 128 * 1024;

/// What identifies a file that was written.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct OutputPrint {
    /// The file's name inside the batch folder.
    pub file: String,
    /// Records in it; nothing for files that are no tables.
    pub rows: Option<u64>,
    /// Its size in bytes.
    pub bytes: u64,
    /// Its BLAKE3 hash, in hexadecimal digits.
    pub blake3: String,
}

/// A file being written.
#[derive(Debug)]
pub(super) struct Output {
    name: String,
    path: PathBuf,
    file: File,
    buffer: Vec<u8>,
    hasher: blake3::Hasher,
    bytes: u64,
    pub(super) rows: u64,
}

impl Output {
    /// Begins the file `name` in `folder`.
    pub(super) fn create(folder: &Path, name: &str) -> Result<Self> {
        let path = folder.join(name);
        let file = File::create_new(&path).map_err(Error::writing(&path))?;
        Ok(Self {
            name: name.to_owned(),
            path,
            file,
            buffer: Vec::with_capacity(BUFFER + 4096),
            hasher: blake3::Hasher::new(),
            bytes: 0,
            rows: 0,
        })
    }

    /// Appends bytes.
    pub(super) fn append(&mut self, bytes: &[u8]) -> Result<()> {
        self.write_all(bytes).map_err(Error::writing(&self.path))
    }

    /// An error of writing this file, for writers that wrap it.
    pub(super) fn wrong(path: &Path) -> impl Fn(csv::Error) -> Error + '_ {
        move |error| Error::writing(path)(error.into())
    }

    /// Where the file is while it is written.
    pub(super) fn path(&self) -> &Path {
        &self.path
    }

    /// Writes what is left, and waits until the disk has it.
    pub(super) fn finish(mut self) -> Result<OutputPrint> {
        let done = self.write_buffer().and_then(|()| self.file.sync_all());
        done.map_err(Error::writing(&self.path))?;
        Ok(OutputPrint {
            file: self.name,
            rows: Some(self.rows),
            bytes: self.bytes,
            blake3: self.hasher.finalize().to_hex().to_string(),
        })
    }

    fn write_buffer(&mut self) -> io::Result<()> {
        self.hasher.update(&self.buffer);
        self.file.write_all(&self.buffer)?;
        self.bytes += self.buffer.len() as u64;
        self.buffer.clear();
        Ok(())
    }
}

impl Write for Output {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.buffer.extend_from_slice(bytes);
        if self.buffer.len() >= BUFFER {
            self.write_buffer()?;
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}
