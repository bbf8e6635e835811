//! Somebody says that a batch may go, or may not.

use std::path::Path;

use crate::stage::stage_of;
use crate::{BatchEvent, EventList, Happened, Stage, upload_files};
use dusk_evidence::{Error, Result};
use dusk_files::OutputFile;
use dusk_run::{PastBatch, Since};

/// Who does something, and when.
#[derive(Debug, Clone, Copy)]
pub struct Doer<'d> {
    /// Who.
    pub by: &'d str,
    /// A day or a moment (ISO 8601).
    pub at: &'d str,
}

impl Doer<'_> {
    pub(crate) fn event(&self, what: Happened) -> BatchEvent {
        BatchEvent {
            at: self.at.to_owned(),
            by: self.by.to_owned(),
            what,
            file: String::new(),
            blake3: String::new(),
            says: String::new(),
        }
    }
}

/// The hash of a batch's receipt, by which an approval knows what it was for.
pub(crate) fn receipt_hash(batch: &Path) -> Result<String> {
    Ok(OutputFile::of_file(&batch.join("receipt.json"), "receipt.json", 0)?.blake3)
}

/// Stops where an upload file is not as the batch wrote it.
pub(crate) fn refuse_edited_uploads(batch: &PastBatch) -> Result<()> {
    for (output, since) in batch.outputs() {
        let says = match since {
            Since::Edited => "is not as the batch wrote it",
            Since::Gone => "is not there any more",
            Since::Unchanged | Since::Worked => continue,
        };
        if output.file.starts_with("upload/") {
            return Err(Error::Request(format!(
                "{} {says}\n  put it back, or make the batch again with dusk conform --again; an edited file is never sent",
                batch.path.join(&output.file).display()
            )));
        }
    }
    Ok(())
}

/// Records that somebody approves a batch as it is now.
///
/// # Errors
/// [`Error::Request`] where it has come further already, or is not as it was written.
pub fn approve(batch: &PastBatch, doer: Doer<'_>, note: &str) -> Result<()> {
    let receipt = batch.receipt.as_ref().map_err(no_receipt(batch))?;
    refuse_edited_uploads(batch)?;
    let mut list = EventList::hold(&batch.path)?;
    match stage_of(batch, list.events()) {
        Stage::Draft | Stage::TurnedDown => {}
        Stage::Approved => return Err(Error::Request(format!("batch {} is approved already", batch.name()))),
        further => return Err(too_late(batch, further, "approved")),
    }
    if receipt.totals.accepted == 0 || upload_files(batch).is_empty() {
        return Err(Error::Request(format!("batch {} has no record to be sent", batch.name())));
    }
    let event = BatchEvent {
        blake3: receipt_hash(&batch.path)?,
        says: note.to_owned(),
        ..doer.event(Happened::Approved)
    };
    list.add(event)
}

/// Records that somebody turns a batch down, and why.
///
/// # Errors
/// [`Error::Request`] where it has come further already.
pub fn turn_down(batch: &PastBatch, doer: Doer<'_>, why: &str) -> Result<()> {
    let mut list = EventList::hold(&batch.path)?;
    match stage_of(batch, list.events()) {
        Stage::Draft | Stage::Approved => {}
        Stage::TurnedDown => {
            return Err(Error::Request(format!("batch {} is turned down already", batch.name())));
        }
        further => return Err(too_late(batch, further, "turned down")),
    }
    list.add(BatchEvent { says: why.to_owned(), ..doer.event(Happened::TurnedDown) })
}

fn too_late(batch: &PastBatch, stage: Stage, what: &str) -> Error {
    Error::Request(format!(
        "batch {} cannot be {what}: it is {} already\n  dusk batches show {} tells what happened to it",
        batch.name(),
        stage.words(),
        batch.name()
    ))
}

pub(crate) fn no_receipt(batch: &PastBatch) -> impl Fn(&Error) -> Error + '_ {
    |wrong| Error::Request(format!("batch {} has no receipt that can be read: {wrong}", batch.name()))
}
