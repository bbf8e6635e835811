//! `dusk deliver`: a batch's upload files handed over to the target.

use std::path::PathBuf;
use std::time::Duration;

use dusk_core::delivery::{
    Answering, Carrier, Delivering, DropCarrier, FileDelivered, Handed, HttpCarrier, deliver, take_answer,
};
use dusk_core::description::{Delivery, DeliveryWay};
use dusk_core::files::beside;
use serde_json::json;

use super::named::NamedBatch;
use crate::args::{DeliverArgs, Format};
use crate::outcome::{Ended, Failure, Outcome, note, print, print_json};
use crate::secrets;
use crate::show::{AnswerShown, Bar, answer_json, delivered_lines, shell_word};

pub(super) fn run(args: &DeliverArgs, quiet: bool) -> Outcome {
    let named = NamedBatch::find(&args.batch, &args.of)?;
    let batch = named.batch()?;
    let Some(delivery) = &named.target.delivery else {
        return Err(Failure::Stopped(format!(
            "target.toml does not say how files are handed over to {}\n  write [delivery] with folder = \"…\", from which the target takes them, or url = \"https://…\"; or upload the files by hand, and read the answer with dusk answer {}",
            named.target.name,
            shell_word(&batch.name())
        )));
    };
    let known: Vec<(String, bool)> = args
        .is_there
        .iter()
        .map(|file| (file.clone(), true))
        .chain(args.is_not_there.iter().map(|file| (file.clone(), false)))
        .collect();
    let bytes = batch.receipt.iter().flat_map(|receipt| &receipt.outputs);
    let bytes = bytes.filter(|output| output.file.starts_with("upload/")).map(|output| output.bytes).sum();
    let bar = Bar::new(bytes, quiet);
    let reader = bar.reader("handing over");
    let delivered = with_carrier(delivery, &named, |carrier| {
        let delivering = Delivering {
            carrier,
            needs_approval: delivery.needs_approval,
            known: &known,
            progress: &|_, bytes| reader(0, bytes),
            pause: &|time: Duration| std::thread::sleep(time),
        };
        Ok(deliver(batch, &delivering, named.doer())?)
    })?;
    bar.done();
    let answers = answers_at_once(&named, &delivered, quiet)?;
    let name = batch.name();
    match args.format {
        Format::Json => print_json(&json!({
            "form": 1, "batch": name,
            "files": delivered.iter().map(file_json).collect::<Vec<_>>(),
            "answers": answers.iter().map(|(json, _)| json).collect::<Vec<_>>(),
        }))?,
        Format::Text => {
            print(&delivered_lines(&name, &delivered))?;
            answers.iter().try_for_each(|(_, text)| print(text))?;
        }
    }
    let is_over = |file: &FileDelivered| matches!(file.handed, Handed::Over { .. });
    let all =
        dusk_core::delivery::upload_files(batch).len() == delivered.len() && delivered.iter().all(is_over);
    Ok(if all { Ended::AllAccepted } else { Ended::SomeRejected })
}

fn file_json(file: &FileDelivered) -> serde_json::Value {
    let (is, says) = match &file.handed {
        Handed::Over { says, .. } => ("delivered", says),
        Handed::Not { says, .. } => ("not delivered", says),
        Handed::Unknown { says } => ("unknown", says),
    };
    json!({"file": file.file, "records": file.records, "is": is, "says": says, "was_before": file.was_before})
}

/// Does something with the way of handing files over that a description names.
pub(super) fn with_carrier<T>(
    delivery: &Delivery,
    named: &NamedBatch,
    with: impl FnOnce(&dyn Carrier) -> Result<T, Failure>,
) -> Result<T, Failure> {
    match &delivery.way {
        DeliveryWay::Folder(described) => {
            let folder: PathBuf = beside(&named.target_folder, &described.folder)?;
            with(&DropCarrier { described, folder })
        }
        DeliveryWay::Http(described) => {
            let secret = match &described.secret {
                Some(wanted) => Some(secrets::of_target(&wanted.from, &named.target_folder)?),
                None => None,
            };
            with(&HttpCarrier::new(described, secret.as_deref()))
        }
    }
}

/// What the target answered while it was handed the files, read as `[answer]` says.
fn answers_at_once(
    named: &NamedBatch,
    delivered: &[FileDelivered],
    quiet: bool,
) -> Result<Vec<(serde_json::Value, String)>, Failure> {
    let mut shown = Vec::new();
    if named.target.answers.is_empty() {
        return Ok(shown);
    }
    let batch = named.batch()?;
    for file in delivered {
        let Handed::Over { answer: Some(bytes), .. } = &file.handed else { continue };
        let begins = bytes.iter().find(|byte| !byte.is_ascii_whitespace());
        let ending = if matches!(begins, Some(b'{' | b'[')) { ".json" } else { ".txt" };
        let folder = tempfile::tempdir()?;
        let path = folder.path().join(format!("answer to {}{ending}", file.file));
        std::fs::write(&path, bytes)?;
        let answering = Answering {
            path: &path,
            layouts: &named.target.answers,
            file: Some(&file.file),
            replaces: false,
            only_looks: false,
        };
        match take_answer(batch, &answering, named.doer()) {
            Ok(answered) => {
                let name = batch.name();
                let one = AnswerShown {
                    batch: &name,
                    file: path.file_name().map_or(path.as_path(), std::path::Path::new),
                    target: &named.target.name,
                    answered: &answered,
                    is_kept: true,
                };
                shown.push((answer_json(&one), one.to_string()));
            }
            // It may be no more than a word that the file has come; the answer comes later then.
            Err(wrong) if !quiet => {
                let first = wrong.to_string();
                note(&format!(
                    "what the target said at once is not an answer about records: {}",
                    first.lines().next().unwrap_or_default()
                ));
            }
            Err(_) => {}
        }
    }
    Ok(shown)
}
