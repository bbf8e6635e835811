//! The values of held records, read back from the disk.

use std::fs::File;
use std::io::{Read, Seek, SeekFrom};

use dusk_evidence::{Error, FieldId, Result, Row};

use crate::HeldRecords;

/// Reads held records back, for one thread.
#[derive(Debug)]
pub struct HeldReader<'h> {
    /// The records.
    pub records: &'h HeldRecords,
    file: File,
    bytes: Vec<u8>,
}

/// One held record.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct HeldRecord {
    /// Which list it is in, from 0.
    pub list: usize,
    /// Its row there.
    pub row: Row,
    /// Its values as the target writes them, in the order of the fields that are known.
    pub texts: Vec<String>,
}

impl<'h> HeldReader<'h> {
    pub(crate) fn new(records: &'h HeldRecords, file: File) -> Self {
        Self { records, file, bytes: Vec::new() }
    }

    /// The record with this number.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be read; [`Error::Invariant`] where it is not as it was written.
    pub fn read(&mut self, number: u32) -> Result<HeldRecord> {
        let lost = || Error::Invariant(format!("the values of held record {number} were lost"));
        let (start, end) = self.records.range(number).ok_or_else(lost)?;
        self.bytes.resize(usize::try_from(end - start).map_err(|_| lost())?, 0);
        let found = self.file.seek(SeekFrom::Start(start));
        let read = found.and_then(|_| self.file.read_exact(&mut self.bytes));
        read.map_err(Error::reading(self.records.path()))?;
        taken_apart(&self.bytes).ok_or_else(lost)
    }
}

/// A record as it was written; nothing for other bytes.
fn taken_apart(bytes: &[u8]) -> Option<HeldRecord> {
    let (list, rest) = bytes.split_first_chunk()?;
    let (row, rest) = rest.split_first_chunk()?;
    let (count, mut rest) = rest.split_first_chunk()?;
    let number = |bytes: &[u8; 4]| usize::try_from(u32::from_le_bytes(*bytes)).ok();
    let mut ends = Vec::new();
    for _ in 0..number(count)? {
        let (end, behind) = rest.split_first_chunk()?;
        ends.push(number(end)?);
        rest = behind;
    }
    let all = std::str::from_utf8(rest).ok()?;
    let mut texts = Vec::with_capacity(ends.len());
    let mut start = 0;
    for end in ends {
        texts.push(all.get(start..end)?.to_owned());
        start = end;
    }
    (start == all.len()).then_some(())?;
    Some(HeldRecord { list: number(list)?, row: Row(u64::from_le_bytes(*row)), texts })
}

impl HeldRecord {
    /// The value of a field; nothing where the lists do not have it.
    pub fn text(&self, records: &HeldRecords, field: FieldId) -> Option<&str> {
        self.texts.get(records.place(field)?).map(String::as_str)
    }
}
