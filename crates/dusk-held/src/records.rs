//! All held records: their hashes in memory, their values on the disk.

use std::io::{BufWriter, Write};

use dusk_description::FieldType;
use dusk_evidence::{Error, FieldId, HeldAt, Result};
use jiff::civil::Date;
use tempfile::NamedTempFile;

use crate::index::Index;
use crate::meaning::push_key_word;
use crate::{Found, HeldBlock, HeldReader, HeldRecord, HeldShape, KeyHash, WayFields};

/// A way of finding records again, with the keys of all of them.
#[derive(Debug, Default)]
pub struct Way {
    /// The fields.
    pub by: WayFields,
    index: Index,
    /// For each record, a part of the hash of its key as it is written.
    written: Vec<u32>,
}

impl Way {
    /// The held records that have a key, however it is written.
    pub fn find(&self, key: KeyHash) -> Found<'_> {
        self.index.find(key)
    }

    /// Whether a record's key is written in the same way.
    pub fn is_written_so(&self, number: u32, written: u32) -> bool {
        self.written.get(number as usize) == Some(&written)
    }
}

/// A list that was read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct HeldSource {
    /// The file or the table as people say it.
    pub name: String,
    /// How many records it has.
    pub records: u64,
    /// The BLAKE3 hash of a file.
    pub blake3: Option<String>,
    /// The day on which a file was changed (UTC).
    pub changed_on: Option<Date>,
    /// The fields of which it has no column.
    pub lacks: Vec<FieldId>,
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

    /// Where a record is.
    pub fn at(&self, held: &HeldRecord) -> HeldAt {
        let list = self.lists.get(held.list).map_or_else(String::new, |list| list.name.clone());
        HeldAt { row: held.row.0, list }
    }

    /// The hash of what a record says in the fields that are compared.
    pub fn facts(&self, number: u32) -> Option<u64> {
        self.facts.get(number as usize).copied()
    }

    /// Whether every field that is known is compared, or is what records are found by: records that say the same are
    /// the same then, value by value.
    pub fn are_compared_whole(&self) -> bool {
        let is_key = |field: &FieldId| {
            self.ways.iter().any(|way| !way.by.given_by_target && way.by.fields.contains(field))
        };
        self.fields.iter().all(|field| self.compared.contains(field) || is_key(field))
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
    let mut word = String::new();
    push_key_word(kind, text, &mut word);
    KeyHash::of(word.as_bytes())
}

/// Takes held records in.
#[derive(Debug)]
pub struct HeldBuilder<'t> {
    shape: HeldShape<'t>,
    records: HeldRecords,
    writer: BufWriter<std::fs::File>,
    written: u64,
}

impl<'t> HeldBuilder<'t> {
    /// For records of this shape.
    ///
    /// # Errors
    /// [`Error::File`] when the system has no temporary folder.
    pub fn new(shape: HeldShape<'t>) -> Result<Self> {
        let folder = std::path::Path::new("the temporary folder");
        let values = NamedTempFile::with_prefix("dusk-held-").map_err(Error::writing(folder))?;
        let writer = BufWriter::new(values.reopen().map_err(Error::writing(values.path()))?);
        let way = |by: &WayFields| Way { by: by.clone(), ..Way::default() };
        let records = HeldRecords {
            lists: Vec::new(),
            fields: shape.fields.clone(),
            compared: shape.compared.clone(),
            ways: shape.ways.iter().map(way).collect(),
            unique: shape.unique.iter().map(|id| (*id, Index::default())).collect(),
            facts: Vec::new(),
            starts: vec![0],
            values,
        };
        Ok(Self { shape, records, writer, written: 0 })
    }

    /// What is taken of each record.
    pub fn shape(&self) -> &HeldShape<'t> {
        &self.shape
    }

    /// Makes room for a list of so many records, where it is the first one.
    pub fn make_room_for(&mut self, records: u64) {
        let unique = self.records.unique.iter_mut().map(|(_, index)| index);
        for index in self.records.ways.iter_mut().map(|way| &mut way.index).chain(unique) {
            index.make_room_for(records);
        }
    }

    /// Takes in the records of a block.
    ///
    /// # Errors
    /// [`Error::File`] when the disk is full; [`Error::Request`] for more records than are told apart.
    pub fn take(&mut self, block: &HeldBlock) -> Result<()> {
        let records = &mut self.records;
        let first = records.facts.len();
        let last = u32::try_from(first + block.len()).ok().filter(|last| *last < u32::MAX);
        let first = u32::try_from(first)
            .ok()
            .filter(|_| last.is_some())
            .ok_or_else(|| Error::Request("the target holds more than 4,294,967,294 records".into()))?;
        let ways = records.ways.len();
        for (place, way) in records.ways.iter_mut().enumerate() {
            let keys = block.keys.iter().skip(place).step_by(ways.max(1));
            way.index.insert_all((first..).zip(keys.clone().map(|key| key.map(|(key, _)| key))));
            way.written.extend(keys.map(|key| key.map_or(0, |(_, written)| written)));
        }
        let fields = records.unique.len();
        for (place, (_, index)) in records.unique.iter_mut().enumerate() {
            let hashes = block.unique.iter().skip(place).step_by(fields.max(1));
            index.insert_all((first..).zip(hashes.copied()));
        }
        records.facts.extend_from_slice(&block.facts);
        records.starts.extend(block.ends.iter().map(|end| self.written + *end as u64));
        self.written += block.bytes.len() as u64;
        self.writer.write_all(&block.bytes).map_err(Error::writing(self.records.path()))
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
