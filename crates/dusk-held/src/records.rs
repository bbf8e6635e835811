//! All held records: their hashes in memory, their values on the disk.

use std::io::{BufWriter, Write};

use dusk_description::{FieldType, Target};
use dusk_evidence::{Error, FieldId, Result, Row};
use tempfile::NamedTempFile;

use crate::index::Index;
use crate::{Facts, Found, HeldReader, KeyHash, key_word};

/// The fields by which records are found again.
#[derive(Debug, Default)]
pub struct Way {
    /// The fields, in the order of the target.
    pub fields: Vec<FieldId>,
    /// Whether they are identifiers that the target hands out.
    pub given_by_target: bool,
    index: Index,
    /// For each record, a part of the hash of its key as it is written.
    written: Vec<u32>,
}

impl Way {
    /// By these fields.
    pub fn by(fields: Vec<FieldId>, given_by_target: bool) -> Self {
        Self { fields, given_by_target, index: Index::default(), written: Vec::new() }
    }

    /// The held records that have a key, however it is written.
    pub fn find(&self, key: KeyHash) -> Found<'_> {
        self.index.find(key)
    }

    /// Whether a record's key is written in the same way.
    pub fn is_written_so(&self, number: u32, written: u32) -> bool {
        self.written.get(number as usize) == Some(&written)
    }

    /// The key of a record: its hash however it is written, and a part of its hash as it is. Nothing where all of it
    /// is blank, or a part of it is not known.
    pub fn key<'t>(
        &self,
        target: &Target,
        text: impl Fn(FieldId) -> Option<&'t str>,
    ) -> Option<(KeyHash, u32)> {
        let (mut key, mut written) = (String::new(), String::new());
        let mut is_blank = true;
        for id in &self.fields {
            let (kind, text) = (&target.fields.get(*id)?.kind, text(*id)?);
            is_blank &= text.is_empty();
            key.push_str(&key_word(kind, text));
            key.push(PART);
            written.push_str(text);
            written.push(PART);
        }
        let [written, ..] = KeyHash::of(written.as_bytes()).words();
        (!is_blank).then(|| (KeyHash::of(key.as_bytes()), written))
    }
}

/// What stands between two parts of a key: the separator that no cell holds.
const PART: char = '\u{1f}';

/// A list that was read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct HeldSource {
    /// The file or the table as people say it.
    pub name: String,
    /// How many records it has.
    pub records: u64,
    /// The BLAKE3 hash of a file.
    pub blake3: Option<String>,
    /// The fields of which it has no column.
    pub lacks: Vec<FieldId>,
}

/// What is known of one held record when it is taken in.
#[derive(Debug, Clone, Copy)]
pub struct HeldLine<'l> {
    /// Which list it is in, from 0.
    pub list: usize,
    /// Its row there.
    pub row: Row,
    /// Its texts, as the target writes them, one for each field of [`HeldBuilder::fields`].
    pub texts: &'l [&'l str],
}

/// The records of a target.
#[derive(Debug)]
pub struct HeldRecords {
    /// The lists that they are from.
    pub lists: Vec<HeldSource>,
    /// The fields whose values are known, in the order of the target.
    pub fields: Vec<FieldId>,
    /// Those in which records are compared.
    pub compared: Vec<FieldId>,
    /// How a record is found again: by the first that finds one.
    pub ways: Vec<Way>,
    unique: Vec<(FieldId, Index)>,
    facts: Vec<u64>,
    /// Where the values of each record begin in the file; the last one is its end.
    starts: Vec<u64>,
    values: NamedTempFile,
}

impl HeldRecords {
    /// How many there are.
    pub fn len(&self) -> u32 {
        // More than this are refused when they are taken in.
        u32::try_from(self.facts.len()).unwrap_or(u32::MAX)
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.facts.is_empty()
    }

    /// The hash of what a record says in the fields that are compared.
    pub fn facts(&self, number: u32) -> Option<u64> {
        self.facts.get(number as usize).copied()
    }

    /// Where a field's value is among those of a record.
    pub fn place(&self, field: FieldId) -> Option<usize> {
        self.fields.binary_search(&field).ok()
    }

    /// The held records with this value in a field that has no value twice.
    pub fn with_unique(&self, field: FieldId, kind: &FieldType, text: &str) -> Found<'_> {
        let index = self.unique.iter().find(|(known, _)| *known == field);
        index.map_or(Found::None, |(_, index)| index.find(unique_hash(kind, text)))
    }

    /// Reads values back, for one thread.
    ///
    /// # Errors
    /// [`Error::File`] when the file cannot be opened again.
    pub fn reader(&self) -> Result<HeldReader<'_>> {
        let file = self.values.reopen().map_err(Error::reading(self.values.path()))?;
        Ok(HeldReader::new(self, file))
    }

    /// Where the values of a record stand.
    pub(crate) fn range(&self, number: u32) -> Option<(u64, u64)> {
        let number = number as usize;
        Some((*self.starts.get(number)?, *self.starts.get(number + 1)?))
    }

    pub(crate) fn path(&self) -> &std::path::Path {
        self.values.path()
    }
}

/// The hash of a value that no two records may have.
pub fn unique_hash(kind: &FieldType, text: &str) -> KeyHash {
    KeyHash::of(key_word(kind, text).as_bytes())
}

/// Takes held records in.
#[derive(Debug)]
pub struct HeldBuilder<'t> {
    target: &'t Target,
    records: HeldRecords,
    writer: BufWriter<std::fs::File>,
    written: u64,
    line: Vec<u8>,
    hasher: Facts,
}

impl<'t> HeldBuilder<'t> {
    /// For records of which these fields are known, compared in `compared`, found again in these ways.
    ///
    /// # Errors
    /// [`Error::File`] when the system has no temporary folder.
    pub fn new(
        target: &'t Target,
        mut fields: Vec<FieldId>,
        compared: Vec<FieldId>,
        ways: Vec<Way>,
    ) -> Result<Self> {
        let folder = std::path::Path::new("the temporary folder");
        let values = NamedTempFile::with_prefix("dusk-held-").map_err(Error::writing(folder))?;
        let writer = BufWriter::new(values.reopen().map_err(Error::writing(values.path()))?);
        fields.sort_unstable();
        let is_unique = |id: &&FieldId| target.fields.get(**id).is_some_and(|field| field.unique);
        let unique = fields.iter().filter(is_unique).map(|id| (*id, Index::default())).collect();
        let records = HeldRecords {
            lists: Vec::new(),
            fields,
            compared,
            ways,
            unique,
            facts: Vec::new(),
            starts: vec![0],
            values,
        };
        Ok(Self { target, records, writer, written: 0, line: Vec::new(), hasher: Facts::default() })
    }

    /// The fields whose values are taken in, in their order.
    pub fn fields(&self) -> &[FieldId] {
        &self.records.fields
    }

    /// Takes in one record.
    ///
    /// # Errors
    /// [`Error::File`] when the disk is full; [`Error::Request`] for more records than are told apart.
    pub fn add(&mut self, line: &HeldLine<'_>) -> Result<()> {
        let records = &mut self.records;
        let number = u32::try_from(records.facts.len())
            .ok()
            .filter(|number| *number < u32::MAX)
            .ok_or_else(|| Error::Request("the target holds more than 4,294,967,294 records".into()))?;
        let place = |id: FieldId| records.fields.binary_search(&id).ok();
        let text = |id: FieldId| place(id).and_then(|place| line.texts.get(place)).copied();
        self.hasher.clear();
        for id in &records.compared {
            let (Some(field), Some(text)) = (self.target.fields.get(*id), text(*id)) else { continue };
            self.hasher.add(&field.kind, text);
        }
        let keys: Vec<_> = records.ways.iter().map(|way| way.key(self.target, text)).collect();
        let unique: Vec<_> = records
            .unique
            .iter()
            .map(|(id, _)| {
                let (field, text) = (self.target.fields.get(*id)?, text(*id)?);
                (!text.is_empty()).then(|| unique_hash(&field.kind, text))
            })
            .collect();
        for (way, key) in records.ways.iter_mut().zip(keys) {
            if let Some((key, _)) = key {
                way.index.insert(key, number);
            }
            way.written.push(key.map_or(0, |(_, written)| written));
        }
        for ((_, index), hash) in records.unique.iter_mut().zip(unique) {
            if let Some(hash) = hash {
                index.insert(hash, number);
            }
        }
        records.facts.push(self.hasher.hash());
        self.write(line)
    }

    fn write(&mut self, line: &HeldLine<'_>) -> Result<()> {
        self.line.clear();
        self.line.extend_from_slice(&(line.list as u64).to_le_bytes());
        self.line.extend_from_slice(&line.row.0.to_le_bytes());
        for text in line.texts {
            self.line.extend_from_slice(&(text.len() as u64).to_le_bytes());
            self.line.extend_from_slice(text.as_bytes());
        }
        self.writer.write_all(&self.line).map_err(Error::writing(self.records.path()))?;
        self.written += self.line.len() as u64;
        self.records.starts.push(self.written);
        Ok(())
    }

    /// All of them, found again by their keys.
    ///
    /// # Errors
    /// [`Error::File`] when the disk is full.
    pub fn finish(mut self, lists: Vec<HeldSource>) -> Result<HeldRecords> {
        self.writer.flush().map_err(Error::writing(self.records.path()))?;
        self.records.lists = lists;
        Ok(self.records)
    }
}
