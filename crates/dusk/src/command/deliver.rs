//! `dusk deliver`: a batch's upload files handed over to the target.

use std::time::Duration;

use dusk_core::delivery::{Delivering, FileDelivered, Handed, deliver};
use serde_json::json;

use super::answer::take;
use super::carrier::{asks, with_carrier};
use super::named::NamedBatch;
use crate::args::{DeliverArgs, Format};
use crate::outcome::{Ended, Failure, Outcome, print, print_json};
use crate::show::{Bar, delivered_lines, mapping_option, shell_word};

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
    let mut answers = Vec::new();
    for file in &delivered {
        // It may be no more than a word that the file has come; the answer comes later then.
        if let Handed::Over { answer: Some(bytes), .. } = &file.handed
            && !named.target.answers.is_empty()
            && let Ok(answer) = take(&named, &file.file, (&format!("answer to {}", file.file), bytes))
        {
            answers.push(answer);
        }
    }
    let (name, option) = (batch.name(), mapping_option(&named.mapping));
    match args.format {
        Format::Json => print_json(&json!({
            "form": 1, "batch": name,
            "files": delivered.iter().map(file_json).collect::<Vec<_>>(),
            "answers": answers.iter().map(|answer| &answer.json).collect::<Vec<_>>(),
        }))?,
        Format::Text => {
            print(&delivered_lines((&name, &option), &delivered, (answers.is_empty(), asks(delivery))))?;
            answers.iter().try_for_each(|answer| print(&answer.text))?;
        }
    }
    let is_over = |file: &FileDelivered| matches!(file.handed, Handed::Over { .. });
    let all =
        dusk_core::delivery::upload_files(batch).len() == delivered.len() && delivered.iter().all(is_over);
    let all_in = answers.iter().all(|answer| answer.is_whole);
    Ok(if all && all_in { Ended::AllAccepted } else { Ended::SomeRejected })
}

fn file_json(file: &FileDelivered) -> serde_json::Value {
    let (is, says) = match &file.handed {
        Handed::Over { says, .. } => ("delivered", says),
        Handed::Not { says, .. } => ("not delivered", says),
        Handed::Unknown { says } => ("unknown", says),
    };
    json!({"file": file.file, "records": file.records, "is": is, "says": says, "was_before": file.was_before})
}
