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

/// Runs the whole job and writes the batch folder at `path`, whole or not at all.
///
/// Gives back what the run comes to, where the folder is, and what is in it.
///
/// # Errors
/// [`Error::Exists`](crate::Error::Exists) when something is at `path`; whatever stops reading or
/// writing. Then no folder is there.
pub fn write_batch(
    ready: &Ready<'_>,
    path: &Path,
    progress: &Progress<'_>,
) -> Result<(Summary, PathBuf, Vec<OutputPrint>)> {
    let folder = BatchFolder::begin(path)?;
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
    Receipt::of(ready, &summary, folder.name(), outputs.clone())?.write(folder.work())?;
    // Everything else is on the disk: now the rows may stay in the table.
    if let Some(table) = table {
        table.commit()?;
    }
    Ok((summary, folder.finish()?, outputs))
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
