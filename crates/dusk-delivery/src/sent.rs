//! The records that a batch has sent, found again by a line of the upload file, by their number, or by their key.

use std::ops::Range;

use hashbrown::HashTable;

use dusk_evidence::{Error, Result, Row};
use dusk_run::PastBatch;
use dusk_values::fold;

/// A record that was sent, as `rows.csv` lists it.
#[derive(Debug, Clone)]
struct Sent {
    source: u32,
    row: u64,
    file: u32,
    line: u64,
    record: u64,
    content: u32,
    is_removal: bool,
    key: Range<usize>,
}

/// The records that a batch has sent, in their order.
#[derive(Debug)]
pub struct SentRecords {
    records: Vec<Sent>,
    sources: Vec<String>,
    files: Vec<SentFile>,
    /// The keys, one after the other.
    keys: String,
    /// Records by the loose form of their keys.
    by_key: HashTable<u32>,
}

/// An upload file, and its records in the order in which they stand there.
#[derive(Debug)]
struct SentFile {
    name: String,
    records: Vec<u32>,
}

/// A record that was sent.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct SentOne<'s> {
    /// The source that it is from.
    pub source: &'s str,
    /// Its row there.
    pub row: Row,
    /// Its key as people read it.
    pub key: &'s str,
    /// The upload file.
    pub file: &'s str,
    /// The line, or the row of the sheet, on which it begins there.
    pub line: u64,
    /// Its number among the records there, from 1.
    pub record: u64,
    /// The hash of what it says.
    pub content: u32,
    /// The target is told to remove it; its source is the target's list.
    pub is_removal: bool,
}

impl SentRecords {
    /// Reads what a batch has sent.
    ///
    /// # Errors
    /// [`Error::Request`] where the batch was made before batches listed their rows; [`Error::Source`] where the list
    /// is damaged.
    pub fn read(batch: &PastBatch) -> Result<Self> {
        let rows = batch.listed_rows()?.ok_or_else(|| {
            Error::Request(format!(
                "batch {} does not say which rows its lines were: it has no rows.csv\n  dusk conform --again makes it anew",
                batch.name()
            ))
        })?;
        let mut sent = Self {
            records: Vec::new(),
            sources: Vec::new(),
            files: Vec::new(),
            keys: String::new(),
            by_key: HashTable::new(),
        };
        for row in rows {
            let row = row?;
            let (Some(line), Some(record)) = (row.line, row.record) else { continue };
            let source = place_of(&mut sent.sources, &row.source, String::clone, String::as_str)?;
            let new = |name: &String| SentFile { name: name.clone(), records: Vec::new() };
            let file = place_of(&mut sent.files, &row.file, new, |file| &file.name)?;
            let start = sent.keys.len();
            sent.keys.push_str(&row.key);
            let at =
                u32::try_from(sent.records.len()).map_err(|_| Error::Invariant("too many records".into()))?;
            sent.records.push(Sent {
                source,
                row: row.row,
                file,
                line,
                record,
                content: row.content.unwrap_or_default(),
                is_removal: row.outcome == "removed",
                key: start..sent.keys.len(),
            });
            if let Some(file) = sent.files.get_mut(file as usize) {
                file.records.push(at);
            }
        }
        let Self { records, keys, by_key, .. } = &mut sent;
        let hash_at = |at: &u32| {
            let key = records.get(*at as usize).and_then(|record| keys.get(record.key.clone()));
            hash_of(&loose(key.unwrap_or_default()))
        };
        by_key.reserve(records.len(), hash_at);
        for (at, _) in (0..).zip(records.iter()).filter(|(_, record)| !record.key.is_empty()) {
            by_key.insert_unique(hash_at(&at), at, hash_at);
        }
        Ok(sent)
    }

    /// How many there are.
    pub fn len(&self) -> usize {
        self.records.len()
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.records.is_empty()
    }

    /// The names of the upload files.
    pub fn files(&self) -> impl Iterator<Item = &str> {
        self.files.iter().map(|file| file.name.as_str())
    }

    /// A record by its place among all.
    pub fn get(&self, at: usize) -> Option<SentOne<'_>> {
        let record = self.records.get(at)?;
        Some(SentOne {
            source: self.sources.get(record.source as usize)?,
            row: Row(record.row),
            key: self.keys.get(record.key.clone())?,
            file: &self.files.get(record.file as usize)?.name,
            line: record.line,
            record: record.record,
            content: record.content,
            is_removal: record.is_removal,
        })
    }

    /// All of them, in their order.
    pub fn iter(&self) -> impl Iterator<Item = SentOne<'_>> {
        (0..self.len()).filter_map(|at| self.get(at))
    }

    fn file(&self, name: &str) -> Option<&SentFile> {
        let wanted = fold(name);
        self.files.iter().find(|file| fold(&file.name) == wanted)
    }

    /// Whether a name is that of one of the upload files.
    pub fn has_file(&self, name: &str) -> bool {
        self.file(name).is_some()
    }

    /// The record that stands on a line of an upload file, which may be any of its lines. The line after the last
    /// record's first is taken for that record's only where `last_line` allows it.
    pub fn on_line(&self, file: &str, line: u64, last_line: u64) -> Option<usize> {
        let records = &self.file(file)?.records;
        let begins = |at: &u32| self.records.get(*at as usize).map_or(0, |record| record.line);
        let behind = records.partition_point(|at| begins(at) <= line);
        let at = records.get(behind.checked_sub(1)?)?;
        (line <= last_line.max(begins(at))).then_some(*at as usize)
    }

    /// On which line the first record of an upload file begins, and the last one, and how many there are.
    pub fn extent(&self, file: &str) -> (u64, u64, u64) {
        let records = self.file(file).map_or(&[][..], |file| file.records.as_slice());
        let line = |at: Option<&u32>| {
            at.and_then(|at| self.records.get(*at as usize)).map_or(0, |record| record.line)
        };
        (line(records.first()), line(records.last()), records.len() as u64)
    }

    /// The record of a number in an upload file, from 1.
    pub fn numbered(&self, file: &str, number: u64) -> Option<usize> {
        let at = self.file(file)?.records.get(usize::try_from(number.checked_sub(1)?).ok()?)?;
        Some(*at as usize)
    }

    /// The records with a key. Case, blanks and zeros before digits do not count where no key is the very one.
    pub fn with_key(&self, key: &str) -> Vec<usize> {
        let wanted = loose(key);
        let text =
            |at: u32| self.records.get(at as usize).and_then(|record| self.keys.get(record.key.clone()));
        let is_alike = |at: &&u32| text(**at).is_some_and(|text| loose(text) == wanted);
        let alike: Vec<u32> = self.by_key.iter_hash(hash_of(&wanted)).filter(is_alike).copied().collect();
        let exact: Vec<usize> =
            alike.iter().filter(|at| text(**at) == Some(key)).map(|at| *at as usize).collect();
        if exact.is_empty() { alike.into_iter().map(|at| at as usize).collect() } else { exact }
    }
}

/// The place of a name among those that were met, which may be new.
fn place_of<T>(
    all: &mut Vec<T>,
    name: &String,
    new: impl Fn(&String) -> T,
    named: impl Fn(&T) -> &str,
) -> Result<u32> {
    // Rows of one source and file follow one another mostly.
    let known = all.iter().rposition(|one| named(one) == name);
    let place = known.unwrap_or_else(|| {
        all.push(new(name));
        all.len() - 1
    });
    u32::try_from(place).map_err(|_| Error::Invariant("too many files".into()))
}

fn hash_of(text: &str) -> u64 {
    xxhash_rust::xxh3::xxh3_64(text.as_bytes())
}

/// A key without what targets change in it: case, blanks, and zeros before its digits.
fn loose(key: &str) -> String {
    let mut out = String::with_capacity(key.len());
    for part in key.split(" + ") {
        let part = fold(part);
        let is_number = !part.is_empty() && part.bytes().all(|byte| byte.is_ascii_digit());
        let short = part.trim_start_matches('0');
        out.push_str(if is_number && !short.is_empty() { short } else { &part });
        out.push('\u{1f}');
    }
    out
}
