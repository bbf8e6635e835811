//! Changes of short values, which are nearly all where nearly every value is new: counted in a table of small entries,
//! which is sorted and written to a temporary file when it is full, and merged at the end.

use std::cmp::{Ordering, Reverse};
use std::collections::BinaryHeap;
use std::fs::File;
use std::io::{BufReader, BufWriter, Read, Seek as _, Write as _};
use std::path::{Path, PathBuf};

use hashbrown::HashTable;
use hashbrown::hash_table::Entry;

use super::counted::{Counted, Run};
use crate::Place;
use dusk_conforming::ChangeKey;
use dusk_evidence::{Error, FieldId, Id as _, Result, Row, SourceId};
use dusk_values::ShortText;

/// How many different changes the table holds: with their room about thirteen megabytes.
const MOST: usize = 200_000;

/// How many bytes an entry takes in a file.
const WIDTH: usize = 48;

/// One change of a short value in a field without a parent.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct ShortChange {
    field: FieldId,
    raw: ShortText,
    made: Counted,
}

impl ShortChange {
    fn hash(&self) -> u64 {
        self.raw.hash(self.field.index() as u32)
    }

    fn is_of(&self, other: &Self) -> bool {
        self.raw == other.raw && self.field == other.field
    }

    fn to_bytes(self) -> [u8; WIDTH] {
        let mut bytes = [0; WIDTH];
        let Place { source, row } = self.made.first;
        let parts = [self.field.index() as u64 | (source.index() as u64) << 32, row.0, self.made.rows];
        let (numbers, raw) = bytes.split_at_mut(24);
        for (chunk, part) in numbers.chunks_exact_mut(8).zip(parts) {
            chunk.copy_from_slice(&part.to_le_bytes());
        }
        raw.copy_from_slice(&self.raw.to_bytes());
        bytes
    }

    fn from_bytes(bytes: &[u8; WIDTH]) -> Option<Self> {
        let (numbers, raw) = bytes.split_at(24);
        let mut numbers =
            numbers.chunks_exact(8).filter_map(|chunk| chunk.try_into().ok().map(u64::from_le_bytes));
        let (ids, row, rows) = (numbers.next()?, numbers.next()?, numbers.next()?);
        let source = SourceId::new(usize::try_from(ids >> 32).ok()?);
        Some(Self {
            field: FieldId::new(usize::try_from(ids & u64::from(u32::MAX)).ok()?),
            raw: ShortText::from_bytes(raw.try_into().ok()?),
            made: Counted { rows, first: Place { source, row: Row(row) } },
        })
    }
}

impl Ord for ShortChange {
    /// In the order of the list: by field and value.
    fn cmp(&self, other: &Self) -> Ordering {
        self.field.cmp(&other.field).then_with(|| self.raw.cmp(&other.raw))
    }
}

impl PartialOrd for ShortChange {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

/// The changes of short values, counted.
#[derive(Debug)]
pub(super) struct ShortChanges {
    folder: PathBuf,
    table: HashTable<ShortChange>,
    spilled: Vec<File>,
}

impl ShortChanges {
    /// None yet; what does not fit into memory goes to temporary files in `folder`.
    pub(super) fn new(folder: &Path) -> Self {
        Self { folder: folder.to_path_buf(), table: HashTable::new(), spilled: Vec::new() }
    }

    /// Counts a change that was made.
    pub(super) fn add(&mut self, field: FieldId, raw: ShortText, made: Counted) -> Result<()> {
        let change = ShortChange { field, raw, made };
        match self.table.entry(change.hash(), |known| known.is_of(&change), ShortChange::hash) {
            Entry::Occupied(mut known) => known.get_mut().made.add(made),
            Entry::Vacant(space) => {
                space.insert(change);
            }
        }
        if self.table.len() < MOST { Ok(()) } else { self.spill() }
    }

    fn sorted(&mut self) -> Vec<ShortChange> {
        let mut changes: Vec<ShortChange> = self.table.drain().collect();
        changes.sort_unstable();
        changes
    }

    fn spill(&mut self) -> Result<()> {
        let changes = self.sorted();
        let file = put_aside(&changes, &self.folder).map_err(Error::writing(&self.folder))?;
        self.spilled.push(file);
        Ok(())
    }

    /// All of them in the order of the list, each once.
    pub(super) fn merged(mut self) -> Result<Run> {
        let folder = self.folder.clone();
        let mut runs: Vec<ShortRun> = vec![Box::new(self.sorted().into_iter().map(Ok))];
        runs.extend(self.spilled.drain(..).map(|file| read_back(file, folder.clone())));
        let merging = Merging::of(runs)?;
        let list = |change: Result<ShortChange>| {
            change.map(|change| {
                let (raw, inside) = (change.raw.to_text(), String::new());
                let key = ChangeKey { field: change.field, raw, inside, beside: None };
                (key, change.made)
            })
        };
        Ok(Box::new(merging.map(list)))
    }
}

/// Changes in a temporary file without a name.
fn put_aside(changes: &[ShortChange], folder: &Path) -> std::io::Result<File> {
    let mut writer = BufWriter::new(tempfile::tempfile_in(folder)?);
    for change in changes {
        writer.write_all(&change.to_bytes())?;
    }
    let mut file = writer.into_inner().map_err(std::io::IntoInnerError::into_error)?;
    file.rewind()?;
    Ok(file)
}

type ShortRun = Box<dyn Iterator<Item = Result<ShortChange>>>;

/// What a temporary file holds.
fn read_back(file: File, folder: PathBuf) -> ShortRun {
    let mut reader = BufReader::with_capacity(WIDTH * 1024, file);
    Box::new(std::iter::from_fn(move || {
        let mut bytes = [0; WIDTH];
        match reader.read_exact(&mut bytes) {
            Ok(()) => {
                let lost = || Error::Invariant("a change that was put aside is no longer one".into());
                Some(ShortChange::from_bytes(&bytes).ok_or_else(lost))
            }
            Err(error) if error.kind() == std::io::ErrorKind::UnexpectedEof => None,
            Err(error) => Some(Err(Error::reading(&folder)(error))),
        }
    }))
}

/// Sorted runs made one, in which what is the same change in several of them is added up.
struct Merging {
    runs: Vec<ShortRun>,
    heads: BinaryHeap<Reverse<(ShortChange, usize)>>,
}

impl Merging {
    fn of(runs: Vec<ShortRun>) -> Result<Self> {
        let mut merging = Self { heads: BinaryHeap::with_capacity(runs.len()), runs };
        for run in 0..merging.runs.len() {
            merging.advance(run)?;
        }
        Ok(merging)
    }

    fn advance(&mut self, run: usize) -> Result<()> {
        if let Some(next) = self.runs.get_mut(run).and_then(Iterator::next) {
            self.heads.push(Reverse((next?, run)));
        }
        Ok(())
    }

    fn next_of_all(&mut self) -> Result<Option<ShortChange>> {
        let Some(Reverse((mut change, run))) = self.heads.pop() else { return Ok(None) };
        self.advance(run)?;
        while let Some(Reverse((same, run))) =
            self.heads.peek().copied().filter(|Reverse((next, _))| next.is_of(&change))
        {
            self.heads.pop();
            change.made.add(same.made);
            self.advance(run)?;
        }
        Ok(Some(change))
    }
}

impl Iterator for Merging {
    type Item = Result<ShortChange>;

    fn next(&mut self) -> Option<Self::Item> {
        self.next_of_all().transpose()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn changes_are_added_up_in_order_wherever_they_were_put_aside() {
        let folder = tempfile::tempdir().unwrap();
        let mut changes = ShortChanges::new(folder.path());
        let texts = ["b", "a", "", "öst", "a\0", "ab"];
        for row in 0..60_u64 {
            let text = texts[(row % 6) as usize];
            let raw = ShortText::within(text.as_bytes(), 0, text.len()).unwrap();
            let first = Place { source: SourceId::new((row % 2) as usize), row: Row(100 - row) };
            changes.add(FieldId::new((row % 6 / 3) as usize), raw, Counted { rows: 1, first }).unwrap();
            if row % 13 == 12 {
                changes.spill().unwrap();
            }
        }
        assert_eq!(changes.spilled.len(), 4);
        let all: Vec<(ChangeKey, Counted)> = changes.merged().unwrap().collect::<Result<_>>().unwrap();
        let said: Vec<(usize, &str)> =
            all.iter().map(|(key, _)| (key.field.index(), key.raw.as_str())).collect();
        assert_eq!(said, [(0, ""), (0, "a"), (0, "b"), (1, "a\0"), (1, "ab"), (1, "öst")]);
        assert!(all.iter().all(|(_, made)| made.rows == 10));
        // The first place is that of the first source, whichever order they came in.
        let first = |at: usize| (all[at].1.first.source.index(), all[at].1.first.row.0);
        assert_eq!([first(0), first(2)], [(0, 44), (0, 46)]);
    }
}
