//! A whole batch written: the sink that fills a batch folder.

use std::path::{Path, PathBuf};

use super::changes::ChangeCounts;
use super::folder::BatchFolder;
use super::job::Ready;
use super::lists::{FindingsList, RejectsList};
use super::new_values::NewValues;
use super::output::OutputPrint;
use super::pipeline::Progress;
use super::receipt::Receipt;
use super::run::Summary;
use super::sink::{Place, Sink};
use super::upload::UploadFiles;
use crate::conform::{ChangeKey, Single};
use crate::finding::{Cause, Finding, Kind};
use crate::source::RowCells;
use crate::{Error, Result};

/// A batch to be made.
#[derive(Debug, Clone, Copy)]
pub struct NewBatch<'b> {
    /// Where its folder goes.
    pub path: &'b Path,
    /// Who makes it.
    pub by: &'b str,
    /// Whether it replaces the one that is there, which is put aside.
    pub replaces: bool,
    /// The last batch of the same mapping.
    pub last: Option<&'b Receipt>,
}

impl<'b> NewBatch<'b> {
    /// A batch at a place where nothing is yet, made by nobody in particular.
    pub fn at(path: &'b Path) -> Self {
        Self { path, by: "", replaces: false, last: None }
    }
}

/// Runs the whole job and writes the batch folder, whole or not at all.
///
/// # Errors
/// [`Error::Exists`](crate::Error::Exists) when something is at its place; whatever stops reading or
/// writing. Then no folder is there.
pub fn write_batch(ready: &Ready<'_>, batch: &NewBatch<'_>, progress: &Progress<'_>) -> Result<Made> {
    let folder = if batch.replaces {
        BatchFolder::begin_replacing(batch.path)?
    } else {
        BatchFolder::begin(batch.path)?
    };
    let (sources, target) = (ready.job.sources, ready.job.target);
    let mut writer = BatchWriter {
        upload: UploadFiles::create(target, folder.work(), &folder.name(), ready.job.today)?,
        findings: FindingsList::create(folder.work(), sources)?,
        rejects: RejectsList::create(folder.work(), sources)?,
        changes: ChangeCounts::new(folder.work()),
        new_values: NewValues::default(),
    };
    let summary = ready.run(&mut writer, progress)?;
    let of_batch = |cause: &&Cause| cause.kind == Kind::BatchRuleBroken;
    let broken: Vec<String> = summary
        .causes
        .iter()
        .filter(of_batch)
        .map(|cause| {
            format!(
                "{}, {}: {}",
                cause.about,
                cause.value.as_deref().unwrap_or("several groups"),
                cause.wrong
            )
        })
        .collect();
    if !broken.is_empty() {
        return Err(Error::BatchRules(broken.join("\n  ")));
    }
    let BatchWriter { upload, findings, rejects, changes, new_values } = writer;
    // The disk takes its time with the first files while the last one is written.
    let (lists, changes) = std::thread::scope(|scope| {
        let lists = scope.spawn(move || -> Result<_> {
            let (mut lists, table) = upload.finish()?;
            lists.push(rejects.finish()?);
            lists.push(findings.finish()?);
            Ok((lists, table))
        });
        let changes = changes.write(folder.work(), ready);
        (lists.join(), changes)
    });
    let (mut outputs, table) =
        lists.map_err(|_| Error::Invariant("the thread that finishes files stopped".into()))??;
    outputs.push(changes?);
    outputs.extend(new_values.write(folder.work(), sources)?);
    let receipt = Receipt::of(ready, &summary, (folder.name(), batch.by), outputs.clone())?;
    receipt.write(folder.work())?;
    let drift = batch.last.map_or_else(Vec::new, |last| last.drift_to(&receipt));
    // Everything else is on the disk: now the rows may stay in the table.
    if let Some(table) = table {
        table.commit()?;
    }
    Ok(Made { summary, folder: folder.finish()?, outputs, drift })
}

/// A batch that was made.
#[derive(Debug, Clone)]
pub struct Made {
    /// What the run comes to.
    pub summary: Summary,
    /// Where the folder is.
    pub folder: PathBuf,
    /// What is in it.
    pub outputs: Vec<OutputPrint>,
    /// What is new since the last batch of the same mapping.
    pub drift: Vec<String>,
}

struct BatchWriter<'t> {
    upload: UploadFiles<'t>,
    findings: FindingsList,
    rejects: RejectsList,
    changes: ChangeCounts,
    new_values: NewValues,
}

impl Sink for BatchWriter<'_> {
    fn accepted(&mut self, record: &[u8], split: &str) -> Result<()> {
        self.upload.append(record, split)
    }

    fn rejected(&mut self, source: usize, row: &RowCells<'_>, findings: &[Finding]) -> Result<()> {
        self.rejects.append(source, row, findings)
    }

    fn finding(&mut self, finding: &Finding) -> Result<()> {
        self.new_values.note(finding);
        self.findings.append(finding)
    }

    fn new_change(&mut self, worker: usize, change: ChangeKey) -> Result<()> {
        self.changes.announce(worker, change);
        Ok(())
    }

    fn changed(&mut self, worker: usize, numbers: &[u32], place: Place) -> Result<()> {
        self.changes.made(worker, numbers, place);
        Ok(())
    }

    fn changed_once(&mut self, change: &Single, place: Place) -> Result<()> {
        self.changes.made_once(change, place)
    }
}
