//! How far a batch has come.

use serde::Serialize;

use crate::{BatchEvent, Happened, events};
use dusk_evidence::Result;
use dusk_run::PastBatch;

/// How far a batch has come.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Stage {
    /// It was made.
    Draft,
    /// Somebody says that it may not go.
    TurnedDown,
    /// Somebody says that it may go.
    Approved,
    /// Its delivery was broken off, and nobody knows whether a file is in the target.
    Unknown,
    /// Some of its files were handed over.
    PartlyDelivered,
    /// All of its files were handed over.
    Delivered,
    /// The target said what became of its records.
    Answered,
    /// Of everything that it sent it is known whether the target has it, and the target's own counts say the same.
    Complete,
}

impl Stage {
    /// Its words on the screen.
    pub fn words(self) -> &'static str {
        match self {
            Self::Draft => "draft",
            Self::TurnedDown => "turned down",
            Self::Approved => "approved",
            Self::Unknown => "delivery unknown",
            Self::PartlyDelivered => "partly delivered",
            Self::Delivered => "delivered",
            Self::Answered => "answered",
            Self::Complete => "complete",
        }
    }
}

/// The upload files of a batch, without their folder, each with its hash and how many records it has.
pub fn upload_files(batch: &PastBatch) -> Vec<(&str, &str, u64)> {
    let outputs = batch.receipt.as_ref().map_or(&[][..], |receipt| receipt.outputs.as_slice());
    let uploads = outputs.iter().filter_map(|output| {
        Some((output.file.strip_prefix("upload/")?, output.blake3.as_str(), output.rows.unwrap_or_default()))
    });
    uploads.collect()
}

/// What was last done with an upload file: one of the three about files.
pub fn last_of_file<'e>(events: &'e [BatchEvent], file: &str) -> Option<&'e BatchEvent> {
    let about = |event: &&BatchEvent| {
        event.file == file
            && matches!(event.what, Happened::Sending | Happened::Delivered | Happened::NotDelivered)
    };
    events.iter().rfind(about)
}

/// How far a batch has come, as its events say.
///
/// # Errors
/// As [`events`].
pub fn stage(batch: &PastBatch) -> Result<Stage> {
    let events = events(&batch.path)?;
    Ok(stage_of(batch, &events))
}

pub(crate) fn stage_of(batch: &PastBatch, events: &[BatchEvent]) -> Stage {
    let last =
        |these: &[Happened]| events.iter().rfind(|event| these.contains(&event.what)).map(|event| event.what);
    // A table is loaded as a whole when its batch is made.
    let is_table = batch.receipt.as_ref().is_ok_and(|receipt| receipt.loaded.is_some());
    match last(&[Happened::Answered, Happened::Differs, Happened::Complete]) {
        Some(Happened::Complete) => return Stage::Complete,
        Some(_) => return Stage::Answered,
        None if is_table => return Stage::Complete,
        None => {}
    }
    let files: Vec<Option<Happened>> = upload_files(batch)
        .into_iter()
        .map(|(file, _, _)| last_of_file(events, file).map(|event| event.what))
        .collect();
    let is = |what: Happened| files.contains(&Some(what));
    if is(Happened::Sending) {
        return Stage::Unknown;
    }
    if is(Happened::Delivered) {
        let all = files.iter().all(|what| *what == Some(Happened::Delivered));
        return if all { Stage::Delivered } else { Stage::PartlyDelivered };
    }
    match last(&[Happened::Approved, Happened::TurnedDown]) {
        Some(Happened::Approved) => Stage::Approved,
        Some(_) => Stage::TurnedDown,
        None => Stage::Draft,
    }
}
