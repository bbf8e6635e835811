//! The files of a batch handed over, one after the other. What is about to happen is on the disk before it happens, and
//! what came of it right after: so a run that is ended anywhere can be run again.

use std::time::Duration;

use super::carrier::{Carrier, FileToSend, Handed};
use crate::decide::{no_receipt, receipt_hash, refuse_edited_uploads};
use crate::stage::stage_of;
use crate::{BatchEvent, Doer, EventList, Happened, Stage, last_of_file, upload_files};
use dusk_evidence::{Error, Result};
use dusk_run::PastBatch;

/// How often a file is tried where that is safe, and how long is waited in between.
const PAUSES: [Duration; 2] = [Duration::from_secs(1), Duration::from_secs(4)];

/// What a delivery is given beside the batch.
pub struct Delivering<'d> {
    /// How files are handed over.
    pub carrier: &'d dyn Carrier,
    /// Only approved batches go.
    pub needs_approval: bool,
    /// What somebody has seen of files: whether the target has them.
    pub known: &'d [(String, bool)],
    /// Told how many bytes of a file were handed over.
    pub progress: &'d dyn Fn(&str, u64),
    /// Waits.
    pub pause: &'d dyn Fn(Duration),
}

/// What came of a file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FileDelivered {
    /// Its name, without the folder.
    pub file: String,
    /// How many records it has.
    pub records: u64,
    /// What came of it.
    pub handed: Handed,
    /// It had been handed over before.
    pub was_before: bool,
}

/// Hands a batch's files over. Those that were handed over before are left alone.
///
/// # Errors
/// [`Error::Request`] where it may not go, or was edited; whatever stops writing down what happens.
pub fn deliver(batch: &PastBatch, delivering: &Delivering<'_>, doer: Doer<'_>) -> Result<Vec<FileDelivered>> {
    let receipt = batch.receipt.as_ref().map_err(no_receipt(batch))?;
    let mut list = EventList::hold(&batch.path)?;
    refuse_unapproved(batch, list.events(), delivering.needs_approval)?;
    refuse_edited_uploads(batch)?;
    let files = upload_files(batch);
    if files.iter().all(|(_, _, records)| *records == 0) {
        return Err(Error::Request(format!("batch {} has no record to be sent", batch.name())));
    }
    for (name, _) in delivering.known {
        if !files.iter().any(|(file, _, _)| file == name) {
            let files: Vec<&str> = files.iter().map(|(file, _, _)| *file).collect();
            return Err(Error::Request(format!(
                "batch {} has no upload file {name}\n  it has {}",
                batch.name(),
                files.join(", ")
            )));
        }
    }
    let name = batch.name();
    let mut done = Vec::new();
    for (part, (file, blake3, records)) in (1..).zip(files) {
        let path = batch.path.join("upload").join(file);
        let output = receipt.outputs.iter().find(|output| output.file.strip_prefix("upload/") == Some(file));
        let key = key_of(&receipt.target.name, &name, file, blake3);
        let to_send = FileToSend {
            path: &path,
            name: file,
            blake3,
            bytes: output.map_or(0, |output| output.bytes),
            batch: &name,
            part,
            key: &key,
        };
        let (handed, was_before) = one(&mut list, &to_send, delivering, doer)?;
        let is_over = matches!(handed, Handed::Over { .. });
        done.push(FileDelivered { file: file.to_owned(), records, handed, was_before });
        if !is_over {
            // A file that comes after is not sent before its predecessor.
            break;
        }
    }
    Ok(done)
}

/// By what the target knows a delivery again: the same for the same file of the same batch.
pub fn key_of(target: &str, batch: &str, file: &str, blake3: &str) -> String {
    let all = [target, batch, file, blake3].join("\n");
    blake3::hash(all.as_bytes()).to_hex().chars().take(32).collect()
}

fn refuse_unapproved(batch: &PastBatch, events: &[BatchEvent], needs_approval: bool) -> Result<()> {
    let name = batch.name();
    let decided =
        events.iter().rfind(|event| matches!(event.what, Happened::Approved | Happened::TurnedDown));
    match decided {
        _ if stage_of(batch, events) == Stage::TurnedDown => Err(Error::Request(format!(
            "batch {name} was turned down: {}\n  it is not delivered; make it again when that is corrected",
            decided.map_or("", |event| event.says.as_str())
        ))),
        Some(event) if event.what == Happened::Approved && event.blake3 != receipt_hash(&batch.path)? => {
            Err(Error::Request(format!(
                "batch {name} has changed since {} approved it\n  read it over and approve it again: dusk approve {name}",
                event.by
            )))
        }
        None if needs_approval => Err(Error::Request(format!(
            "batch {name} is not approved, and [delivery] lets approved ones go only\n  dusk approve {name} says that it may go"
        ))),
        _ => Ok(()),
    }
}

/// Hands one file over, unless it was before.
fn one(
    list: &mut EventList,
    file: &FileToSend<'_>,
    delivering: &Delivering<'_>,
    doer: Doer<'_>,
) -> Result<(Handed, bool)> {
    let event = |what: Happened, says: &str| BatchEvent {
        file: file.name.to_owned(),
        blake3: file.blake3.to_owned(),
        says: says.to_owned(),
        ..doer.event(what)
    };
    let last = last_of_file(list.events(), file.name).map(|last| (last.what, last.says.clone()));
    let seen = delivering.known.iter().find(|(name, _)| name == file.name).map(|(_, is_there)| *is_there);
    match (seen, last) {
        (Some(true), _) => {
            let says = "somebody has seen it there";
            list.add(event(Happened::Delivered, says))?;
            return Ok((Handed::Over { says: says.into(), answer: None }, false));
        }
        (Some(false), Some((Happened::Delivered | Happened::Sending, _))) => {
            if list.events().iter().any(|event| event.what == Happened::Answered) {
                return Err(Error::Request(format!(
                    "{} was answered, so the target had it; it is not sent again\n  dusk conform --rest sends what is left of the batch",
                    file.name
                )));
            }
            list.add(event(Happened::NotDelivered, "somebody has seen that it is not there"))?;
        }
        (None, Some((Happened::Delivered, says))) => return Ok((Handed::Over { says, answer: None }, true)),
        (None, Some((Happened::Sending, _))) => {
            let found = delivering.carrier.look(file)?;
            match &found {
                Handed::Over { says, .. } => {
                    list.add(event(Happened::Delivered, says))?;
                    return Ok((found, false));
                }
                Handed::Not { says, .. } => list.add(event(Happened::NotDelivered, says))?,
                Handed::Unknown { .. } if delivering.carrier.may_repeat() => {}
                Handed::Unknown { .. } => return Ok((found, false)),
            }
        }
        _ => {}
    }
    delivering.carrier.prepare(file)?;
    let mut pauses = PAUSES.iter();
    loop {
        list.add(event(Happened::Sending, ""))?;
        let handed =
            match delivering.carrier.hand_over(file, &|bytes| (delivering.progress)(file.name, bytes)) {
                Ok(handed) => handed,
                Err(error) => {
                    list.add(event(Happened::NotDelivered, &error.to_string()))?;
                    return Err(error);
                }
            };
        let may_repeat = match &handed {
            Handed::Over { says, .. } => {
                list.add(event(Happened::Delivered, says))?;
                return Ok((handed, false));
            }
            Handed::Not { says, may_repeat } => {
                list.add(event(Happened::NotDelivered, says))?;
                *may_repeat
            }
            Handed::Unknown { .. } => delivering.carrier.may_repeat(),
        };
        match pauses.next().filter(|_| may_repeat) {
            Some(pause) => (delivering.pause)(*pause),
            None => return Ok((handed, false)),
        }
    }
}
