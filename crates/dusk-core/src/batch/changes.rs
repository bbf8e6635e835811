//! `changes.csv`: every distinct change, with how many rows it was made in and the first of them.
//!
//! Distinct changes may be as many as rows, so they are counted in bounded memory: when the table
//! is full it is sorted and written to a temporary file, and the files are merged at the end.

use std::cmp::Ordering;
use std::collections::BinaryHeap;
use std::fs::File;
use std::io::{BufReader, BufWriter, Seek};
use std::path::Path;

use hashbrown::HashMap;

use super::lists::ListFile;
use super::output::OutputPrint;
use crate::conform::NewChange;
use crate::source::{Row, Source};
use crate::{Error, Result};

/// How many bytes of text the table may hold before it is written out.
const MOST_TEXT: usize = 6 * 1024 * 1024;

/// A distinct change. The order is that of the list: by field in the template's order, then by
/// the value before.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
struct Change {
    field: usize,
    before: String,
    after: String,
    steps: String,
    evidence: String,
}

/// How often a change was made, and where first.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Made {
    rows: u64,
    source: usize,
    row: Row,
}

impl Made {
    fn add(&mut self, other: Self) {
        self.rows += other.rows;
        if (other.source, other.row) < (self.source, self.row) {
            (self.source, self.row) = (other.source, other.row);
        }
    }
}

/// Counts the changes of a batch.
#[derive(Debug)]
pub(super) struct Changes {
    folder: std::path::PathBuf,
    /// The changes that each worker announced, by its own numbers, with how often they were made.
    workers: Vec<Vec<(Change, Option<Made>)>>,
    table: HashMap<Change, Made>,
    text: usize,
    spilled: Vec<File>,
}

impl Changes {
    /// Begins counting; what does not fit into memory goes to temporary files in `folder`.
    pub(super) fn new(folder: &Path) -> Self {
        Self {
            folder: folder.to_path_buf(),
            workers: Vec::new(),
            table: HashMap::new(),
            text: 0,
            spilled: Vec::new(),
        }
    }

    pub(super) fn announce(&mut self, worker: usize, change: NewChange) {
        while self.workers.len() <= worker {
            self.workers.push(Vec::new());
        }
        if let Some(announced) = self.workers.get_mut(worker) {
            let (steps, evidence) = (change.trail.steps(), change.trail.evidence());
            let change =
                Change { field: change.field, before: change.before, after: change.after, steps, evidence };
            announced.push((change, None));
        }
    }

    pub(super) fn made(&mut self, worker: usize, number: u32, source: usize, row: Row) {
        let announced = self.workers.get_mut(worker).and_then(|announced| announced.get_mut(number as usize));
        if let Some((_, made)) = announced {
            let now = Made { rows: 1, source, row };
            match made {
                Some(made) => made.add(now),
                None => *made = Some(now),
            }
        }
    }

    /// Takes over what a worker announced, since it numbers anew.
    pub(super) fn take_over(&mut self, worker: usize) -> Result<()> {
        let announced = self.workers.get_mut(worker).map(std::mem::take).unwrap_or_default();
        for (change, made) in announced {
            let Some(made) = made else { continue };
            match self.table.entry(change) {
                hashbrown::hash_map::Entry::Occupied(mut known) => known.get_mut().add(made),
                hashbrown::hash_map::Entry::Vacant(space) => {
                    let change = space.key();
                    self.text += 160
                        + change.before.len()
                        + change.after.len()
                        + change.steps.len()
                        + change.evidence.len();
                    space.insert(made);
                }
            }
        }
        if self.text > MOST_TEXT { self.spill() } else { Ok(()) }
    }

    fn sorted(&mut self) -> Vec<(Change, Made)> {
        self.text = 0;
        let mut changes: Vec<(Change, Made)> = self.table.drain().collect();
        changes.sort_unstable_by(|(a, _), (b, _)| a.cmp(b));
        changes
    }

    fn spill(&mut self) -> Result<()> {
        let folder = self.folder.clone();
        let file = tempfile::tempfile_in(&folder).map_err(Error::writing(&folder))?;
        let mut writer = csv::Writer::from_writer(BufWriter::new(file));
        let wrong = |error: csv::Error| Error::writing(&folder)(error.into());
        for (change, made) in self.sorted() {
            let Change { field, before, after, steps, evidence } = &change;
            let numbers =
                [*field as u64, made.rows, made.source as u64, made.row.0].map(|number| number.to_string());
            let [field, rows, source, row] = &numbers;
            writer.write_record([field, before, after, steps, evidence, rows, source, row]).map_err(wrong)?;
        }
        let buffered = writer.into_inner().map_err(|error| Error::writing(&folder)(error.into_error()))?;
        let mut file = buffered.into_inner().map_err(|error| Error::writing(&folder)(error.into_error()))?;
        file.rewind().map_err(Error::writing(&folder))?;
        self.spilled.push(file);
        Ok(())
    }

    /// Writes the list.
    pub(super) fn write(mut self, folder: &Path, fields: &[&str], sources: &[Source]) -> Result<OutputPrint> {
        for worker in 0..self.workers.len() {
            self.take_over(worker)?;
        }
        const HEADER: [&str; 8] =
            ["field", "before", "after", "steps", "evidence", "rows", "first_source", "first_row"];
        let mut list = ListFile::create(folder, "changes.csv", HEADER)?;
        let mut write = |change: &Change, made: &Made| {
            let field = fields.get(change.field).copied().unwrap_or_default();
            let (rows, row) = (made.rows.to_string(), made.row.to_string());
            let source = sources.get(made.source).map_or("", |source| source.name.as_str());
            list.append([
                field,
                &change.before,
                &change.after,
                &change.steps,
                &change.evidence,
                &rows,
                source,
                &row,
            ])
        };
        let in_memory = self.sorted();
        if self.spilled.is_empty() {
            for (change, made) in &in_memory {
                write(change, made)?;
            }
        } else {
            let mut runs: Vec<Run> = vec![Box::new(in_memory.into_iter().map(Ok))];
            for file in std::mem::take(&mut self.spilled) {
                runs.push(read_back(file, &self.folder));
            }
            merge(runs, &mut write)?;
        }
        list.finish()
    }
}

type Run = Box<dyn Iterator<Item = Result<(Change, Made)>>>;

fn read_back(file: File, folder: &Path) -> Run {
    let folder = folder.to_path_buf();
    let reader = csv::ReaderBuilder::new().has_headers(false).from_reader(BufReader::new(file));
    Box::new(reader.into_records().map(move |record| {
        let record = record.map_err(|error| Error::reading(&folder)(error.into()))?;
        let text = |place: usize| record.get(place).unwrap_or_default().to_owned();
        let number = |place: usize| text(place).parse::<u64>().unwrap_or(0);
        let change = Change {
            field: number(0) as usize,
            before: text(1),
            after: text(2),
            steps: text(3),
            evidence: text(4),
        };
        Ok((change, Made { rows: number(5), source: number(6) as usize, row: Row(number(7)) }))
    }))
}

/// The first change of a run that is left, ordered so that a heap gives the smallest first.
struct Head {
    change: Change,
    made: Made,
    run: usize,
}

impl Ord for Head {
    fn cmp(&self, other: &Self) -> Ordering {
        other.change.cmp(&self.change).then(other.run.cmp(&self.run))
    }
}

impl PartialOrd for Head {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl PartialEq for Head {
    fn eq(&self, other: &Self) -> bool {
        self.cmp(other).is_eq()
    }
}

impl Eq for Head {}

/// Merges sorted runs, adding up what is the same change in several of them.
fn merge(mut runs: Vec<Run>, write: &mut impl FnMut(&Change, &Made) -> Result<()>) -> Result<()> {
    let mut heads = BinaryHeap::new();
    let advance = |runs: &mut Vec<Run>, heads: &mut BinaryHeap<Head>, run: usize| -> Result<()> {
        if let Some(next) = runs.get_mut(run).and_then(Iterator::next) {
            let (change, made) = next?;
            heads.push(Head { change, made, run });
        }
        Ok(())
    };
    for run in 0..runs.len() {
        advance(&mut runs, &mut heads, run)?;
    }
    while let Some(Head { change, mut made, run }) = heads.pop() {
        advance(&mut runs, &mut heads, run)?;
        while heads.peek().is_some_and(|next| next.change == change) {
            if let Some(same) = heads.pop() {
                made.add(same.made);
                advance(&mut runs, &mut heads, same.run)?;
            }
        }
        write(&change, &made)?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::conform::Trail;

    #[test]
    fn changes_that_did_not_fit_into_memory_are_counted_as_if_they_had() {
        let folder = tempfile::tempdir().unwrap();
        let counted = |spill: bool| {
            let mut changes = Changes::new(folder.path());
            for round in 0..3u64 {
                for number in 0..50u32 {
                    let before = format!("v{}", (u64::from(number) * 7 + round) % 60);
                    changes.announce(
                        0,
                        NewChange { field: 0, before, after: "x".into(), trail: Trail::default() },
                    );
                    changes.made(0, number, 0, Row(100 - round * 10 + u64::from(number)));
                }
                changes.take_over(0).unwrap();
                if spill {
                    changes.spill().unwrap();
                }
            }
            let out = tempfile::tempdir().unwrap();
            changes.write(out.path(), &["field"], &[]).unwrap();
            std::fs::read_to_string(out.path().join("changes.csv")).unwrap()
        };
        let (in_memory, spilled) = (counted(false), counted(true));
        assert_eq!(in_memory, spilled);
        assert!(in_memory.lines().count() > 50);
    }
}
