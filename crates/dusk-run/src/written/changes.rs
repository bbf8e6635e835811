//! `changes.csv`: every distinct change, with how many rows it was made in and the first of them.
//!
//! Distinct changes may be as many as rows, so they are counted in bounded memory: when the table
//! is full it is sorted and written to a temporary file, and the files are merged at the end.

use std::cmp::Ordering;
use std::collections::BinaryHeap;
use std::fs::File;
use std::io::{BufReader, BufWriter, Seek};
use std::path::{Path, PathBuf};

use hashbrown::HashMap;
use hashbrown::hash_map::Entry;

use super::counted::{Counted, Run};
use super::short_changes::ShortChanges;
use crate::{Place, Ready};
use dusk_conforming::{BesideBasis, ChangeKey, Conformer, Single, shown_source};
use dusk_decisions::BEYOND;
use dusk_evidence::{Error, FieldId, Id as _, Result, Row, SourceId};
use dusk_files::{ListFile, OutputFile};
use dusk_sources::Patch;

/// How many bytes the table may take before it is written out.
const MOST_BYTES: usize = 12 * 1024 * 1024;

/// Counts the changes of a batch. A change is kept as what makes it what it is; what it comes to,
/// and on what evidence, is conformed again when the list is written.
#[derive(Debug)]
pub(crate) struct ChangeCounts {
    folder: PathBuf,
    /// What each worker announced, by its own numbers, and how often it was made.
    workers: Vec<(Vec<ChangeKey>, Vec<Option<Counted>>)>,
    table: HashMap<ChangeKey, Counted>,
    /// The same for short values in fields without a parent.
    short: ShortChanges,
    bytes: usize,
    spilled: Vec<File>,
    /// The cells that a steward has corrected; as many as there are decisions.
    corrected: Vec<(Place, Patch)>,
}

impl ChangeCounts {
    /// Begins counting; what does not fit into memory goes to temporary files in `folder`.
    pub(crate) fn new(folder: &Path) -> Self {
        Self {
            folder: folder.to_path_buf(),
            workers: Vec::new(),
            table: HashMap::new(),
            short: ShortChanges::new(folder),
            bytes: 0,
            spilled: Vec::new(),
            corrected: Vec::new(),
        }
    }

    /// Notes the corrected cells of an accepted row.
    pub(crate) fn corrected(&mut self, place: Place, cells: &[Patch]) {
        self.corrected.extend(cells.iter().map(|cell| (place, cell.clone())));
    }

    pub(crate) fn announce(&mut self, worker: usize, change: ChangeKey) {
        while self.workers.len() <= worker {
            self.workers.push((Vec::new(), Vec::new()));
        }
        if let Some((changes, made)) = self.workers.get_mut(worker) {
            changes.push(change);
            made.push(None);
        }
    }

    /// Counts a record's changes by their numbers.
    pub(crate) fn made(&mut self, worker: usize, numbers: &[u32], place: Place) {
        let Some((_, counts)) = self.workers.get_mut(worker) else { return };
        for number in numbers {
            match counts.get_mut(*number as usize) {
                // A worker's blocks come in order, so the first place is the first.
                Some(Some(made)) => made.rows += 1,
                Some(none) => *none = Some(Counted { rows: 1, first: place }),
                None => {}
            }
        }
    }

    /// Counts one change that has no number.
    pub(crate) fn made_once(&mut self, change: &Single, first: Place) -> Result<()> {
        let made = Counted { rows: 1, first };
        match change {
            Single::Long(change) => self.insert(change.clone(), made),
            Single::Short(field, raw) => self.short.add(*field, *raw, made),
        }
    }

    fn insert(&mut self, change: ChangeKey, made: Counted) -> Result<()> {
        // What an entry takes beside its text, spare room in the table included.
        const BESIDE: usize = 192;
        let text = change.raw.len() + change.inside.len();
        match self.table.entry(change) {
            Entry::Occupied(mut known) => known.get_mut().add(made),
            Entry::Vacant(space) => {
                space.insert(made);
                self.bytes += BESIDE + text;
            }
        }
        if self.bytes > MOST_BYTES { self.spill() } else { Ok(()) }
    }

    fn sorted(&mut self) -> Vec<(ChangeKey, Counted)> {
        self.bytes = 0;
        let mut changes: Vec<(ChangeKey, Counted)> = self.table.drain().collect();
        changes.sort_unstable_by(|(a, _), (b, _)| a.cmp(b));
        changes
    }

    fn spill(&mut self) -> Result<()> {
        let folder = self.folder.clone();
        let file = tempfile::tempfile_in(&folder).map_err(Error::writing(&folder))?;
        let mut writer = csv::Writer::from_writer(BufWriter::new(file));
        let wrong = |error: csv::Error| Error::writing(&folder)(error.into());
        for (change, made) in self.sorted() {
            let Place { source, row } = made.first;
            let numbers = [change.field.index() as u64, made.rows, source.index() as u64, row.0]
                .map(|number| number.to_string());
            let [field, rows, source, row] = &numbers;
            let why = change.beside.map_or("", BesideBasis::word);
            writer
                .write_record([field, &change.raw, &change.inside, rows, source, row, why])
                .map_err(wrong)?;
        }
        let buffered = writer.into_inner().map_err(|error| Error::writing(&folder)(error.into_error()))?;
        let mut file = buffered.into_inner().map_err(|error| Error::writing(&folder)(error.into_error()))?;
        file.rewind().map_err(Error::writing(&folder))?;
        self.spilled.push(file);
        Ok(())
    }

    /// Writes the list into `folder`.
    pub(crate) fn write(mut self, folder: &Path, ready: &Ready<'_>) -> Result<(OutputFile, Vec<ChangeKind>)> {
        for (changes, counts) in std::mem::take(&mut self.workers) {
            for (change, made) in changes.into_iter().zip(counts) {
                if let Some(made) = made {
                    self.insert(change, made)?;
                }
            }
        }
        let mut list = ChangeList::create(folder, ready)?;
        for (place, cell) in &self.corrected {
            list.append_corrected(*place, cell)?;
        }
        let in_memory = self.sorted();
        let mut runs: Vec<Run> = vec![Box::new(in_memory.into_iter().map(Ok)), self.short.merged()?];
        for file in std::mem::take(&mut self.spilled) {
            runs.push(read_back(file, &self.folder));
        }
        merge(runs, &mut |change, made| list.append(change, made))?;
        list.finish()
    }
}

/// How many changes are conformed again at a time.
const AT_A_TIME: usize = 16_384;

/// Changes of one field by the same steps: how many, and the one that was made most often.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct ChangeKind {
    /// The field's name.
    pub field: String,
    /// The steps.
    pub steps: String,
    /// How many cells were changed so.
    pub cells: u64,
    /// How many different values.
    pub different: u64,
    /// The value that was changed most often, before and after.
    pub example: (String, String),
    /// What that rests on.
    pub evidence: String,
    most: u64,
}

/// What a row of the list says of a change.
#[derive(Debug, PartialEq, Eq)]
struct Said {
    field: FieldId,
    before: String,
    after: String,
    steps: String,
    evidence: String,
}

/// The list itself: changes come in order, are conformed again, and alike ones become one row.
struct ChangeList<'r> {
    ready: &'r Ready<'r>,
    list: ListFile,
    waiting: Vec<(ChangeKey, Counted)>,
    last: Option<(Said, Counted)>,
    kinds: Vec<ChangeKind>,
}

impl<'r> ChangeList<'r> {
    fn create(folder: &Path, ready: &'r Ready<'r>) -> Result<Self> {
        const HEADER: [&str; 8] =
            ["field", "before", "after", "steps", "evidence", "rows", "first_source", "first_row"];
        let list = ListFile::create(folder, "changes.csv", HEADER)?;
        Ok(Self { ready, list, waiting: Vec::new(), last: None, kinds: Vec::new() })
    }

    fn append(&mut self, change: ChangeKey, made: Counted) -> Result<()> {
        self.waiting.push((change, made));
        if self.waiting.len() < AT_A_TIME { Ok(()) } else { self.write_waiting() }
    }

    /// A cell that a steward has corrected, once for each field that its column feeds.
    fn append_corrected(&mut self, place: Place, cell: &Patch) -> Result<()> {
        let job = self.ready.job;
        let Some(source) = job.sources.get(place.source.index()) else { return Ok(()) };
        let heading = source.columns.get(cell.column.index()).map_or(BEYOND, String::as_str);
        let mut fields: Vec<&str> = job
            .mapping
            .fields_fed_by(heading)
            .filter_map(|place| job.target.fields.get(place))
            .map(|field| field.name.as_str())
            .collect();
        if fields.is_empty() {
            fields.push(heading);
        }
        let row = place.row.to_string();
        for field in fields {
            let said = [field, &cell.was, &cell.now, "correction", &cell.why];
            count(&mut self.kinds, said, 1);
            self.list.append(said.into_iter().chain(["1", &source.name, &row]))?;
        }
        Ok(())
    }

    /// Conforms the waiting changes again, on all processors, and writes them.
    fn write_waiting(&mut self) -> Result<()> {
        let waiting = std::mem::take(&mut self.waiting);
        let threads = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
        let ready = self.ready;
        let parts: Vec<Result<Vec<Said>>> = std::thread::scope(|scope| {
            let share = waiting.len().div_ceil(threads).max(1);
            let working: Vec<_> =
                waiting.chunks(share).map(|part| scope.spawn(|| say(part, ready))).collect();
            let stopped = || Error::Invariant("a thread that lists changes stopped".into());
            working.into_iter().map(|part| part.join().unwrap_or_else(|_| Err(stopped()))).collect()
        });
        let said = parts.into_iter().collect::<Result<Vec<_>>>()?.into_iter().flatten();
        for (said, (_, made)) in said.zip(waiting) {
            match &mut self.last {
                Some((last, all)) if *last == said => all.add(made),
                _ => {
                    self.write_last()?;
                    self.last = Some((said, made));
                }
            }
        }
        Ok(())
    }

    fn write_last(&mut self) -> Result<()> {
        let Some((said, made)) = self.last.take() else { return Ok(()) };
        let job = self.ready.job;
        let field = job.target.fields.get(said.field).map_or("", |field| &field.name);
        let text = [field, &said.before, &said.after, &said.steps, &said.evidence];
        count(&mut self.kinds, text, made.rows);
        let source = job.sources.get(made.first.source.index()).map_or("", |source| source.name.as_str());
        let numbers = [made.rows.to_string(), made.first.row.to_string()];
        let [rows, row] = &numbers;
        self.list.append(text.into_iter().chain([rows.as_str(), source, row]))
    }

    fn finish(mut self) -> Result<(OutputFile, Vec<ChangeKind>)> {
        self.write_waiting()?;
        self.write_last()?;
        self.kinds.sort_by(|one, other| (&one.field, &one.steps).cmp(&(&other.field, &other.steps)));
        self.kinds.sort_by_key(|kind| std::cmp::Reverse(kind.cells));
        Ok((self.list.finish()?, self.kinds))
    }
}

/// Takes a change, made in so many rows, in among those of its kind: field, before, after, steps, evidence.
fn count(kinds: &mut Vec<ChangeKind>, [field, before, after, steps, evidence]: [&str; 5], rows: u64) {
    let is_its = |kind: &ChangeKind| kind.field == field && kind.steps == steps;
    // Changes come by fields, so it is mostly among the last.
    let place = kinds.iter().rposition(is_its).unwrap_or(kinds.len());
    if place == kinds.len() {
        kinds.push(ChangeKind { field: field.to_owned(), steps: steps.to_owned(), ..ChangeKind::default() });
    }
    let Some(kind) = kinds.get_mut(place) else { return };
    kind.cells += rows;
    kind.different += 1;
    if rows > kind.most {
        kind.most = rows;
        kind.example = (before.to_owned(), after.to_owned());
        kind.evidence = evidence.to_owned();
    }
}

/// Conforms changes again and says what they come to, and on what evidence.
fn say(changes: &[(ChangeKey, Counted)], ready: &Ready<'_>) -> Result<Vec<Said>> {
    let mut conformer = Conformer::new(&ready.plan, true)?;
    let one = |(change, _): &(ChangeKey, Counted)| {
        let outcome = conformer.again(change);
        let (steps, evidence) = (outcome.trail.steps(), outcome.trail.evidence());
        Said { field: change.field, before: shown_source(&change.raw), after: outcome.text, steps, evidence }
    };
    Ok(changes.iter().map(one).collect())
}

fn read_back(file: File, folder: &Path) -> Run {
    let folder = folder.to_path_buf();
    let reader = csv::ReaderBuilder::new().has_headers(false).from_reader(BufReader::new(file));
    Box::new(reader.into_records().map(move |record| {
        let record = record.map_err(|error| Error::reading(&folder)(error.into()))?;
        let text = |place: usize| record.get(place).unwrap_or_default().to_owned();
        let number = |place: usize| text(place).parse::<u64>().unwrap_or(0);
        let field = FieldId::new(number(0) as usize);
        let beside = BesideBasis::named(&text(6));
        let change = ChangeKey { field, raw: text(1), inside: text(2), beside };
        let first = Place { source: SourceId::new(number(4) as usize), row: Row(number(5)) };
        Ok((change, Counted { rows: number(3), first }))
    }))
}

/// The first change of a run that is left, ordered so that a heap gives the smallest first.
struct Head {
    change: ChangeKey,
    made: Counted,
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
fn merge(mut runs: Vec<Run>, write: &mut impl FnMut(ChangeKey, Counted) -> Result<()>) -> Result<()> {
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
        write(change, made)?;
    }
    Ok(())
}
