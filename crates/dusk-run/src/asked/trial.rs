//! Rows tried before anything is written: the telling ones, or those that somebody asks for.

use std::path::{Path, PathBuf};

use hashbrown::{HashMap, HashSet};

use super::explain::fate_of;
use super::showing::{MOST_THINGS, Showing, Thing};
use crate::written::leftovers;
use crate::written::whole_records::WholeRecords;
use crate::{ExplainedRecord, Place, Ready, Summary, UploadFiles, explained_records};
use dusk_conforming::{Conformer, Fit, Judged, Shape};
use dusk_evidence::{Error, Finding, Id as _, Line, Result, Row, Severity, SourceId};
use dusk_files::{OutputFile, disk};
use dusk_sources::{CellKind, Progress, Rejoined, RowCells, Source};

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
        return Err(Error::Request(format!("{} does not have these rows", source.name)));
    }
    let mut shown: HashSet<usize> = HashSet::new();
    for (row, things) in &order {
        if let Some(tried) = rows.iter_mut().find(|tried| tried.row == *row) {
            shown.extend(things);
            tried.shows = things.iter().filter_map(|thing| showing.thing(*thing).cloned()).collect();
            tried.shows.sort();
        }
    }
    Ok(Trial { rows, shown: shown.len(), things: showing.count(), rows_for_all: order.len(), summary })
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
    let target = ready.job.target;
    let split =
        target.upload.split_by.and_then(|field| Some(target.split_of(field, conformer.outcome(field)?.text)));
    (bytes, split.unwrap_or_default())
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
        let mut whole = WholeRecords::new(ready)?;
        for row in &self.rows {
            for (record, split) in &row.encoded {
                let whole = match &mut whole {
                    Some(whole) => {
                        Some(whole.record(Place { source: SourceId::new(0), row: row.row }, record)?)
                    }
                    None => None,
                };
                files.append(whole.as_deref().unwrap_or(record), split)?;
            }
        }
        let outputs = files.finish()?;
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
