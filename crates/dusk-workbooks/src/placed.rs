//! An open file that several readers share, each at a place of its own.

use std::fs::File;
use std::io::{self, Read, Seek, SeekFrom};
use std::sync::Arc;

/// Reads a file at a place of its own, whoever else reads the same open file.
#[derive(Debug, Clone)]
pub struct PlacedFile {
    file: Arc<File>,
    at: u64,
}

impl PlacedFile {
    /// At the beginning of the file.
    pub fn new(file: &Arc<File>) -> Self {
        Self::at(file, 0)
    }

    /// At this byte of the file.
    pub fn at(file: &Arc<File>, at: u64) -> Self {
        Self { file: Arc::clone(file), at }
    }
}

impl Read for PlacedFile {
    fn read(&mut self, bytes: &mut [u8]) -> io::Result<usize> {
        let read = read_at(&self.file, bytes, self.at)?;
        self.at += read as u64;
        Ok(read)
    }
}

impl Seek for PlacedFile {
    fn seek(&mut self, to: SeekFrom) -> io::Result<u64> {
        let moved = match to {
            SeekFrom::Start(at) => Some(at),
            SeekFrom::Current(by) => self.at.checked_add_signed(by),
            SeekFrom::End(by) => self.file.metadata()?.len().checked_add_signed(by),
        };
        self.at = moved.ok_or_else(|| io::Error::from(io::ErrorKind::InvalidInput))?;
        Ok(self.at)
    }
}

#[cfg(unix)]
fn read_at(file: &File, bytes: &mut [u8], at: u64) -> io::Result<usize> {
    std::os::unix::fs::FileExt::read_at(file, bytes, at)
}

#[cfg(windows)]
fn read_at(file: &File, bytes: &mut [u8], at: u64) -> io::Result<usize> {
    std::os::windows::fs::FileExt::seek_read(file, bytes, at)
}
