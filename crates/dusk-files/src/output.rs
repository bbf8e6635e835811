//! A file of a batch, written and hashed by a thread of its own, so that a slow disk does not hold
//! up the run.

use std::fs::File;
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::thread::JoinHandle;

use crossbeam_channel::{Receiver, Sender, bounded};
use serde::{Deserialize, Serialize};

use super::disk::DiskFile;
use dusk_evidence::{Error, Result};

/// How much is gathered before it is handed on, in bytes.
const BUFFER: usize = 128 * 1024;

/// How many full buffers may wait for the disk.
const WAITING: usize = 8;

/// What identifies a file that was written.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct OutputFile {
    /// The file's name inside the batch folder.
    pub file: String,
    /// Records in it; nothing for files that are no tables.
    pub rows: Option<u64>,
    /// Its size in bytes.
    pub bytes: u64,
    /// Its BLAKE3 hash, in hexadecimal digits.
    pub blake3: String,
}

impl OutputFile {
    /// Of a file that was written by other means: waits until the disk has it, and reads it once more.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be read again.
    pub fn of_file(path: &Path, name: &str, rows: u64) -> Result<Self> {
        let file = File::open(path).map_err(Error::reading(path))?;
        file.sync_all().map_err(Error::writing(path))?;
        let mut hasher = blake3::Hasher::new();
        let bytes = io::copy(&mut io::BufReader::new(file), &mut hasher).map_err(Error::reading(path))?;
        let blake3 = hasher.finalize().to_hex().to_string();
        Ok(Self { file: name.to_owned(), rows: Some(rows), bytes, blake3 })
    }
}

/// The BLAKE3 hash of some bytes, in hexadecimal digits.
pub fn hash_of(bytes: &[u8]) -> String {
    blake3::hash(bytes).to_hex().to_string()
}

/// A file being written.
#[derive(Debug)]
pub struct Output {
    name: String,
    path: PathBuf,
    buffer: Vec<u8>,
    full: Option<Sender<Vec<u8>>>,
    empty: Receiver<Vec<u8>>,
    writing: Option<JoinHandle<io::Result<Written>>>,
    /// How many records it holds, counted by whoever writes them.
    pub rows: u64,
}

/// What the writing thread has done when it is done.
#[derive(Debug)]
struct Written {
    file: DiskFile,
    bytes: u64,
    hash: blake3::Hash,
}

impl Output {
    /// Begins the file `name` in `folder`.
    pub fn create(folder: &Path, name: &str) -> Result<Self> {
        let path = folder.join(name);
        let file = DiskFile::create_new(&path).map_err(Error::writing(&path))?;
        let (full_in, full_out) = bounded(WAITING);
        let (empty_in, empty_out) = bounded(WAITING);
        let writing = std::thread::spawn(move || write(file, &full_out, &empty_in));
        Ok(Self {
            name: name.to_owned(),
            path,
            buffer: Vec::new(),
            full: Some(full_in),
            empty: empty_out,
            writing: Some(writing),
            rows: 0,
        })
    }

    /// Appends bytes.
    pub fn append(&mut self, bytes: &[u8]) -> Result<()> {
        // What an error says is made only where there is one: this is done for every record.
        self.write_all(bytes).map_err(|error| Error::writing(&self.path)(error))
    }

    /// An error of writing this file, for writers that wrap it.
    pub fn wrong(path: &Path) -> impl Fn(csv::Error) -> Error + '_ {
        move |error| Error::writing(path)(error.into())
    }

    /// Where the file is while it is written.
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// Writes what is left, and waits until the disk has it.
    pub fn finish(mut self) -> Result<OutputFile> {
        let written = self.hand_on().and_then(|()| self.join());
        let written = written.and_then(|written| written.file.sync().map(|()| written));
        let written = written.map_err(Error::writing(&self.path))?;
        Ok(OutputFile {
            file: self.name,
            rows: Some(self.rows),
            bytes: written.bytes,
            blake3: written.hash.to_hex().to_string(),
        })
    }

    /// Hands the buffer to the writing thread. If that has given up, says why.
    fn hand_on(&mut self) -> io::Result<()> {
        let next = self.empty.try_recv().unwrap_or_else(|_| Vec::with_capacity(BUFFER + 4096));
        let buffer = std::mem::replace(&mut self.buffer, next);
        match &self.full {
            Some(full) if full.send(buffer).is_ok() => Ok(()),
            _ => self.join().map(|_| ()),
        }
    }

    /// Waits for the writing thread.
    fn join(&mut self) -> io::Result<Written> {
        self.full = None;
        let stopped = || io::Error::other("the writing thread stopped");
        self.writing.take().and_then(|writing| writing.join().ok()).unwrap_or_else(|| Err(stopped()))
    }
}

impl Write for Output {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.buffer.extend_from_slice(bytes);
        if self.buffer.len() >= BUFFER {
            self.hand_on()?;
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

/// Writes buffers as they come, and gives them back empty.
fn write(mut file: DiskFile, full: &Receiver<Vec<u8>>, empty: &Sender<Vec<u8>>) -> io::Result<Written> {
    let mut hasher = blake3::Hasher::new();
    let mut bytes = 0;
    for mut buffer in full {
        hasher.update(&buffer);
        file.write_all(&buffer)?;
        bytes += buffer.len() as u64;
        buffer.clear();
        // Where nobody waits for it, it is let go.
        let _ = empty.try_send(buffer);
    }
    Ok(Written { file, bytes, hash: hasher.finalize() })
}
