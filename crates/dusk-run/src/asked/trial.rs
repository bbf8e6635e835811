//! The telling rows: few rows that together show every shape of value, every kind of change and every
//! cause.
//!
//! They are chosen by a greedy cover: the row that shows most that no row before it showed comes
//! next, among equals the first one. So the choice is always the same, and the first few rows show
//! most. Memory grows with what there is to show, not with the rows.

use std::path::{Path, PathBuf};

use hashbrown::{HashMap, HashSet};

use super::explain::fate_of;
use crate::written::leftovers;
use crate::{ExplainedRecord, Ready, Summary, UploadFiles, explained_records};
use dusk_conforming::{Conformer, Fit, Judged, Shape};
use dusk_evidence::{ColumnId, Error, FieldId, Finding, Id as _, Line, Result, Row, Severity, SourceId};
use dusk_files::{OutputFile, disk};
use dusk_inspecting::shape_of;
use dusk_sources::{CellKind, Progress, Rejoined, RowCells, Source};

/// How many different things to show are told apart.
const MOST_THINGS: usize = 5_000;

/// How many rows are kept for each of them: one may show more than another.
const KEPT_FOR_EACH: u32 = 4;

/// Which rows to try.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Wanted {
    /// The telling ones, at most so many.
    Telling(usize),
    /// These, from the first to the last of each range.
    Rows(Vec<(u64, u64)>),
    /// The first ones that hold a record.
    First(usize),
}

/// Something that a row may show.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Thing {
    /// A value of this shape in this column.
    Shape(String, String),
    /// A field changed by these steps.
    Change(String, String),
    /// A cause of findings: what it is about, and what is wrong.
    Cause(String, String),
}

/// A row that was tried.
#[derive(Debug, Clone)]
pub struct TrialRow {
    /// The row.
    pub row: Row,
    /// The line on which it begins.
    pub line: Line,
    /// What it shows that no row before it shows.
    pub shows: Vec<Thing>,
    /// The source's headings and the row's cells.
    pub cells: Vec<(String, String, CellKind)>,
    /// The records that it makes.
    pub records: Vec<ExplainedRecord>,
    /// What was found in it.
    pub findings: Vec<Finding>,
    /// What becomes of it.
    pub fate: Judged,
    /// Its accepted records as they stand in the upload file, each with the value by which files are split.
    encoded: Vec<(Vec<u8>, String)>,
}

/// Rows tried.
#[derive(Debug, Clone)]
pub struct Trial {
    /// The rows, in the order of the source.
    pub rows: Vec<TrialRow>,
    /// How many things the rows show.
    pub shown: usize,
    /// How many there are to show in the whole source.
    pub things: usize,
    /// How many rows would show all of them.
    pub rows_for_all: usize,
    /// What the whole source comes to.
    pub summary: Summary,
}

/// Rows that show something, while the source is read.
#[derive(Debug, Default)]
struct Showing {
    /// The number of each thing.
    numbers: HashMap<Thing, usize>,
    things: Vec<Thing>,
    /// How many rows are kept for each.
    kept: Vec<u32>,
    /// The numbers of things by what a row is looked up with.
    known: HashMap<(u32, u64), usize>,
    /// The change that a remembered outcome of a field is, by their places.
    by_outcome: HashMap<(FieldId, usize), Option<usize>>,
    rows: Vec<(Row, Vec<usize>)>,
}

/// Tries rows of the first source. The whole source is run as well, so that what is said about keys and
/// causes is what a batch would say.
///
/// # Errors
/// Whatever stops reading; [`Error::Request`] when none of the rows is there.
pub fn try_rows(ready: &Ready<'_>, wanted: &Wanted, progress: &Progress<'_>) -> Result<Trial> {
    let source = ready.job.sources.first().ok_or_else(|| Error::Invariant("there is no source".into()))?;
    let mut found = FirstFindings::default();
    let summary = ready.run(&mut found, progress)?;
    let showing = Showing::of(ready, source, &found.firsts, progress)?;
    let order = showing.cover();
    let chosen: Vec<(u64, u64)> = match wanted {
        Wanted::Telling(most) => order.iter().take(*most).map(|(row, _)| (row.0, row.0)).collect(),
        Wanted::Rows(ranges) => ranges.clone(),
        Wanted::First(_) => vec![(0, u64::MAX)],
    };
    let limit = if let Wanted::First(most) = wanted { *most } else { usize::MAX };
    let mut rows = chosen_rows(ready, source, &chosen, limit, &found.by_row)?;
    if rows.is_empty() {
        return Err(Error::Request(format!("{} has none of these rows", source.name)));
    }
    let mut shown: HashSet<usize> = HashSet::new();
    for (row, things) in &order {
        if let Some(tried) = rows.iter_mut().find(|tried| tried.row == *row) {
            shown.extend(things);
            tried.shows = things.iter().filter_map(|thing| showing.things.get(*thing).cloned()).collect();
            tried.shows.sort();
        }
    }
    Ok(Trial { rows, shown: shown.len(), things: showing.things.len(), rows_for_all: order.len(), summary })
}

/// The first row of each cause, and the findings that only the whole run can make.
#[derive(Debug, Default)]
struct FirstFindings {
    seen: HashSet<(dusk_evidence::Kind, String, String)>,
    firsts: HashMap<u64, Vec<Thing>>,
    by_row: HashMap<u64, Vec<Finding>>,
}

impl crate::Sink for FirstFindings {
    fn finding(&mut self, finding: &Finding) -> Result<()> {
        if finding.source != SourceId::FIRST || self.seen.len() >= MOST_THINGS {
            return Ok(());
        }
        let is_value = finding.fault.kind().grouping() == dusk_evidence::Grouping::Value;
        let value = finding.fault.part.as_ref().unwrap_or(&finding.value);
        let value = if is_value { value.as_str() } else { "" };
        let of_row = finding.field.is_some() || finding.about == dusk_evidence::THE_ROW;
        let is_key = !of_row && finding.fault.kind().severity() == Severity::Reject;
        if (of_row || is_key)
            && self.seen.insert((finding.fault.kind(), finding.about.clone(), value.to_owned()))
        {
            let quoted = if value.is_empty() { String::new() } else { format!("\"{value}\" ") };
            let wrong = if is_value {
                finding.fault.wrong().clone()
            } else {
                finding.fault.kind().title().to_owned()
            };
            let thing = Thing::Cause(finding.about.clone(), format!("{quoted}{wrong}"));
            self.firsts.entry(finding.row.0).or_default().push(thing);
        }
        Ok(())
    }

    fn rejected(&mut self, source: SourceId, row: &RowCells<'_>, findings: &[Finding]) -> Result<()> {
        // Only keys need the whole run; the rest is found again with the row.
        let of_keys = findings.iter().filter(|finding| {
            matches!(
                finding.fault.kind(),
                dusk_evidence::Kind::DuplicateKey | dusk_evidence::Kind::KeyWithOtherFacts
            )
        });
        let of_keys: Vec<Finding> = of_keys.cloned().collect();
        if source == SourceId::FIRST && !of_keys.is_empty() && self.by_row.len() < MOST_THINGS {
            self.by_row.insert(row.row().0, of_keys);
        }
        Ok(())
    }
}

impl Showing {
    /// Looks through the whole source for what its rows show.
    fn of(
        ready: &Ready<'_>,
        source: &Source,
        firsts: &HashMap<u64, Vec<Thing>>,
        progress: &Progress<'_>,
    ) -> Result<Self> {
        let mut showing = Self::default();
        let columns = ready.plan.bind(source)?;
        let shape = Shape::of(source, SourceId::FIRST, &columns);
        let mut conformer = Conformer::new(&ready.plan, true)?;
        let mut used: Vec<ColumnId> = columns.iter().flatten().copied().collect();
        used.sort_unstable();
        used.dedup();
        let mut walk = source.walk()?;
        let mut shows = Vec::new();
        while let Some(mut rows) = walk.more()? {
            while let Some(as_read) = rows.next() {
                shows.clear();
                let (mut room, mut found) = (Rejoined::default(), Vec::new());
                let (row, fit) = conformer.fit(as_read, &shape, &mut room, &mut found);
                if fit == Fit::Whole {
                    showing.shapes(&row, source, &used, &mut shows);
                    for record in shape.records(&row, &ready.plan) {
                        conformer.judge(&row, &record, &mut found);
                        showing.changes(ready, &conformer, &mut shows);
                    }
                }
                for thing in firsts.get(&as_read.row().0).into_iter().flatten() {
                    shows.extend(showing.number(thing));
                }
                showing.keep(as_read.row(), &shows);
                conformer.pass(&as_read, &shape);
            }
            progress(0, walk.bytes_read());
        }
        Ok(showing)
    }

    fn number(&mut self, thing: &Thing) -> Option<usize> {
        if let Some(number) = self.numbers.get(thing) {
            return Some(*number);
        }
        if self.things.len() >= MOST_THINGS {
            return None;
        }
        let number = self.things.len();
        self.numbers.insert(thing.clone(), number);
        self.things.push(thing.clone());
        self.kept.push(0);
        Some(number)
    }

    /// The number of a thing that is looked up by a key, and made when it is met for the first time.
    fn known(&mut self, key: (u32, u64), thing: impl FnOnce() -> Thing) -> Option<usize> {
        if let Some(number) = self.known.get(&key) {
            return Some(*number);
        }
        if self.things.len() >= MOST_THINGS {
            return None;
        }
        let number = self.number(&thing())?;
        self.known.insert(key, number);
        Some(number)
    }

    fn shapes(&mut self, row: &RowCells<'_>, source: &Source, used: &[ColumnId], shows: &mut Vec<usize>) {
        for column in used {
            let (kind, value) = CellKind::of(row.cell(*column));
            let value = value.trim();
            let shape = shape_of(value);
            let hash = shape.map_or(1, |shape| shape.hash(kind as u32));
            let key = (u32::try_from(column.index()).unwrap_or(u32::MAX), hash);
            shows.extend(self.known(key, || {
                let shown = match shape {
                    _ if value.is_empty() => "blank".to_owned(),
                    Some(shape) if kind == CellKind::Text => shape.to_text(),
                    Some(shape) => format!("{} {}", kind.word(), shape.to_text()),
                    None => "long text".to_owned(),
                };
                let name = source.heading(*column).to_owned();
                Thing::Shape(name, shown)
            }));
        }
    }

    fn changes(&mut self, ready: &Ready<'_>, conformer: &Conformer<'_>, shows: &mut Vec<usize>) {
        for (place, field) in ready.plan.fields.with_ids() {
            let Some(remembered) = conformer.change_at(place) else { continue };
            // What is remembered was changed in the same steps wherever it stands.
            let known = remembered.and_then(|outcome| self.by_outcome.get(&(place, outcome)));
            if let Some(known) = known {
                shows.extend(*known);
                continue;
            }
            let Some(trail) = conformer.trail(place).filter(|trail| trail.changed()) else { continue };
            let steps = trail
                .taken
                .iter()
                .fold(7_u64, |hash, taken| hash.wrapping_mul(31).wrapping_add(taken.basis.step() as u64));
            let key = (u32::MAX - u32::try_from(place.index()).unwrap_or(0), steps);
            let thing = self.known(key, || Thing::Change(field.field.name.clone(), trail.steps()));
            shows.extend(thing);
            if let Some(outcome) = remembered {
                self.by_outcome.insert((place, outcome), thing);
            }
        }
    }

    /// Keeps a row that shows something of which few rows are kept.
    fn keep(&mut self, row: Row, shows: &[usize]) {
        let wanted = |thing: &usize| self.kept.get(*thing).is_some_and(|kept| *kept < KEPT_FOR_EACH);
        if !shows.iter().any(wanted) {
            return;
        }
        let mut shows = shows.to_vec();
        shows.sort_unstable();
        shows.dedup();
        for thing in &shows {
            if let Some(kept) = self.kept.get_mut(*thing) {
                *kept += 1;
            }
        }
        self.rows.push((row, shows));
    }

    /// The rows in the order in which they show most that is new, with what that is, until nothing is
    /// left to show.
    fn cover(&self) -> Vec<(Row, Vec<usize>)> {
        let mut shown = vec![false; self.things.len()];
        let mut left: Vec<&(Row, Vec<usize>)> = self.rows.iter().collect();
        let mut order = Vec::new();
        loop {
            let fresh = |things: &[usize]| {
                things.iter().filter(|thing| shown.get(**thing) == Some(&false)).copied().collect::<Vec<_>>()
            };
            left.retain(|(_, things)| things.iter().any(|thing| shown.get(*thing) == Some(&false)));
            let best = left
                .iter()
                .enumerate()
                .map(|(place, (row, things))| (fresh(things).len(), std::cmp::Reverse(*row), place))
                .max();
            let Some((_, _, place)) = best else { return order };
            let (row, things) = left.remove(place);
            let fresh = fresh(things);
            for thing in &fresh {
                if let Some(slot) = shown.get_mut(*thing) {
                    *slot = true;
                }
            }
            order.push((*row, fresh));
        }
    }
}

/// The rows of these ranges, conformed with every step kept.
fn chosen_rows(
    ready: &Ready<'_>,
    source: &Source,
    ranges: &[(u64, u64)],
    most: usize,
    of_keys: &HashMap<u64, Vec<Finding>>,
) -> Result<Vec<TrialRow>> {
    let columns = ready.plan.bind(source)?;
    let shape = Shape::of(source, SourceId::FIRST, &columns);
    let mut conformer = Conformer::new(&ready.plan, true)?;
    let last = ranges.iter().map(|(_, last)| *last).max().unwrap_or(0);
    let mut tried = Vec::new();
    let mut walk = source.walk()?;
    while let Some(mut rows) = walk.more()? {
        while let Some(as_read) = rows.next() {
            let number = as_read.row().0;
            if number > last || tried.len() >= most {
                return Ok(tried);
            }
            let wanted = ranges.iter().any(|(first, last)| (*first..=*last).contains(&number));
            // Of the first rows, those that hold no record are no help.
            if wanted && (most == usize::MAX || !as_read.is_blank()) {
                let known = of_keys.get(&number).map_or(&[][..], Vec::as_slice);
                tried.push(tried_row(ready, source, as_read, &shape, (&mut conformer, known)));
            }
            conformer.pass(&as_read, &shape);
        }
    }
    Ok(tried)
}

/// A row, conformed with every step kept; `known` was found about its key.
fn tried_row<'p>(
    ready: &Ready<'p>,
    source: &Source,
    row: RowCells<'_>,
    shape: &Shape<'_>,
    (conformer, known): (&mut Conformer<'p>, &[Finding]),
) -> TrialRow {
    let mut findings = Vec::new();
    let mut room = Rejoined::default();
    let (row, fit) = conformer.fit(row, shape, &mut room, &mut findings);
    let mut encoded = Vec::new();
    let records = match fit {
        Fit::Whole => {
            let mut write = |conformer: &mut Conformer<'p>| encoded.push(encoded_record(ready, conformer));
            explained_records(ready, source, (&row, shape), (conformer, &mut findings), &mut write)
        }
        _ => Vec::new(),
    };
    findings.extend(known.iter().cloned());
    let fate = fate_of(&findings, &findings, records.is_empty());
    if fate != Judged::Accepted {
        encoded.clear();
    }
    TrialRow {
        row: row.row(),
        line: row.line(),
        shows: Vec::new(),
        cells: crate::named(&source.columns, &row),
        records,
        findings,
        fate,
        encoded,
    }
}

fn encoded_record(ready: &Ready<'_>, conformer: &mut Conformer<'_>) -> (Vec<u8>, String) {
    let mut bytes = Vec::new();
    conformer.write(&mut bytes);
    let split = ready.job.target.upload.split_by.and_then(|field| conformer.outcome(field));
    (bytes, split.map_or_else(String::new, |told| told.text.to_owned()))
}

impl Trial {
    /// How many of the tried rows are accepted.
    pub fn accepted(&self) -> usize {
        self.rows.iter().filter(|row| row.fate == Judged::Accepted).count()
    }

    /// Writes the accepted rows as a small upload: to the file at `path`, or into the folder there where
    /// the target wants several files. Nothing is ever put into a database.
    ///
    /// # Errors
    /// [`Error::Exists`] when something is at `path`; [`Error::Request`] when there are several files and
    /// `path` names no folder; [`Error::File`] when it cannot be written.
    pub fn write(&self, ready: &Ready<'_>, path: &Path) -> Result<Vec<PathBuf>> {
        let is_folder = path.is_dir();
        if !is_folder && path.symlink_metadata().is_ok() {
            return Err(Error::Exists(path.to_path_buf()));
        }
        let parent = if is_folder { path } else { path.parent().unwrap_or(Path::new("")) };
        let parent = if parent.as_os_str().is_empty() { Path::new(".") } else { parent };
        disk::make_folders(parent).map_err(Error::writing(parent))?;
        leftovers::sweep(parent)?;
        let prefix = format!("{}trial-", leftovers::UNFINISHED);
        let work =
            tempfile::Builder::new().prefix(&prefix).tempdir_in(parent).map_err(Error::writing(parent))?;
        let _at_work = leftovers::at_work(work.path())?;
        let mut files = UploadFiles::create(ready.job.target, work.path(), "trial", ready.job.today)?;
        for (record, split) in self.rows.iter().flat_map(|row| &row.encoded) {
            files.append(record, split)?;
        }
        // A table's transaction ends here without being committed.
        let (outputs, table) = files.finish()?;
        drop(table);
        match outputs.as_slice() {
            [only] if !is_folder => {
                disk::rename(&work.path().join(&only.file), path).map_err(Error::writing(path))?;
                Ok(vec![path.to_path_buf()])
            }
            several if !is_folder => Err(Error::Request(format!(
                "the target wants {} files for these rows; name a folder that is there, instead of {}",
                several.len(),
                path.display()
            ))),
            all => all.iter().map(|output| move_into(path, work.path(), output)).collect(),
        }
    }
}

/// Moves a file that was written in `work` into `folder`.
fn move_into(folder: &Path, work: &Path, output: &OutputFile) -> Result<PathBuf> {
    let to = folder.join(Path::new(&output.file).file_name().unwrap_or_default());
    if to.symlink_metadata().is_ok() {
        return Err(Error::Exists(to));
    }
    disk::rename(&work.join(&output.file), &to).map_err(Error::writing(&to))?;
    Ok(to)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn showing(rows: &[&[usize]]) -> Showing {
        let most = rows.iter().copied().flatten().max().map_or(0, |most| most + 1);
        let mut showing = Showing::default();
        for number in 0..most {
            let _ = showing.number(&Thing::Shape("column".into(), number.to_string()));
        }
        for (row, things) in (2..).zip(rows) {
            showing.keep(Row(row), things);
        }
        showing
    }

    #[test]
    fn the_row_that_shows_most_comes_first_and_among_equals_the_first() {
        let showing = showing(&[&[0], &[1, 2], &[2, 3], &[0, 1], &[3, 3]]);
        let order: Vec<(u64, Vec<usize>)> =
            showing.cover().into_iter().map(|(row, things)| (row.0, things)).collect();
        assert_eq!(order, [(3, vec![1, 2]), (2, vec![0]), (4, vec![3])]);
    }

    #[test]
    fn rows_are_kept_only_while_they_show_something_rare() {
        let rows: Vec<&[usize]> = std::iter::repeat_n(&[0_usize][..], 100).chain([&[0, 1][..]]).collect();
        let showing = showing(&rows);
        assert_eq!(showing.rows.len(), KEPT_FOR_EACH as usize + 1);
        assert_eq!(showing.cover().len(), 1, "the last row shows both");
    }
}
