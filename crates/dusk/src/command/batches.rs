//! `dusk batches`: what was made, and whether it is as it was.

use std::path::Path;

use dusk_core::run::{KeyMatch, PastBatch, Since, key_match};
use dusk_core::values::nearest;
use serde_json::json;

use super::history::{batches_beside, swept_batches};
use crate::args::{BatchesArgs, BatchesCommand, Format};
use crate::outcome::{Ended, Failure, Outcome, note, print, print_json};
use crate::show::{batch_table, rows_with_key, show_batch, visible};

pub(super) fn run(args: &BatchesArgs) -> Outcome {
    let folder = batches_beside(&args.mapping.mapping);
    let batches = swept_batches(&folder)?;
    if let Some(key) = &args.key {
        return with_key(&batches, key, &folder, args.format);
    }
    match &args.command {
        None => list(&batches, &folder, args.format),
        Some(BatchesCommand::Show { batch }) => show(&batches, batch, &folder, args.format),
    }
}

/// How a batch's files are: the same, or which of them are not.
fn changed(batch: &PastBatch) -> Vec<(String, &'static str)> {
    let said = |since: &Since| match since {
        Since::Unchanged | Since::Worked => None,
        Since::Edited => Some("edited"),
        Since::Gone => Some("gone"),
    };
    let outputs = batch.outputs();
    outputs.iter().filter_map(|(output, since)| Some((output.file.clone(), said(since)?))).collect()
}

fn list(batches: &[PastBatch], folder: &Path, format: Format) -> Outcome {
    let checked: Vec<(&PastBatch, Vec<(String, &'static str)>)> =
        batches.iter().map(|batch| (batch, changed(batch))).collect();
    match format {
        Format::Text if batches.is_empty() => {
            print(&format!("no batch was made yet in {}\n", folder.display()))?;
        }
        Format::Text => {
            print(&format!("in {}:\n{}", folder.display(), batch_table(&checked)?))?;
        }
        Format::Json => {
            let all: Vec<serde_json::Value> = checked
                .iter()
                .map(|(batch, changed)| {
                    let changed: Vec<serde_json::Value> =
                        changed.iter().map(|(file, how)| json!({"file": file, "is": how})).collect();
                    json!({
                        "batch": batch.name(), "folder": batch.path.display().to_string(),
                        "receipt": batch.receipt.as_ref().ok(), "changed": changed,
                    })
                })
                .collect();
            print_json(&json!({"form": 1, "batches": all}))?;
        }
    }
    let whole = checked.iter().all(|(batch, changed)| changed.is_empty() && batch.receipt.is_ok());
    Ok(if whole { Ended::AllAccepted } else { Ended::SomeRejected })
}

/// What each batch did with the record that has a key.
fn with_key(batches: &[PastBatch], key: &str, folder: &Path, format: Format) -> Outcome {
    let (mut found, mut without_list) = (Vec::new(), Vec::new());
    for batch in batches {
        if batch.listed_rows()?.is_none() {
            without_list.push(batch.name());
        }
        found.extend(batch.rows_with_key(key)?.into_iter().map(|row| (batch, row)));
    }
    // A part of a key is taken only where it is nobody's whole key.
    let has_whole = found.iter().any(|(_, row)| key_match(&row.key, key) == Some(KeyMatch::Whole));
    found.retain(|(_, row)| !has_whole || key_match(&row.key, key) == Some(KeyMatch::Whole));
    if !without_list.is_empty() {
        note(&format!(
            "made before batches listed their rows, so not looked through: {}",
            without_list.join(", ")
        ));
    }
    match format {
        Format::Text if found.is_empty() => {
            print(&format!(
                "no batch in {} has a record with the key \"{}\"\n",
                folder.display(),
                visible(key)
            ))?;
        }
        Format::Text => print(&rows_with_key(&found))?,
        Format::Json => {
            let rows = found.iter().map(|(batch, row)| {
                let today = batch.receipt.as_ref().ok().map(|receipt| receipt.today.as_str());
                json!({"batch": batch.name(), "day": today, "row": row})
            });
            print_json(&json!({"form": 1, "key": key, "found": rows.collect::<Vec<_>>()}))?;
        }
    }
    Ok(if found.is_empty() { Ended::SomeRejected } else { Ended::AllAccepted })
}

fn show(batches: &[PastBatch], name: &str, folder: &Path, format: Format) -> Outcome {
    let wanted =
        Path::new(name).file_name().map_or_else(|| name.into(), |name| name.to_string_lossy().into_owned());
    let Some(batch) = batches.iter().find(|batch| batch.name() == wanted) else {
        let names: Vec<String> = batches.iter().map(PastBatch::name).collect();
        let hint = match nearest(&wanted, names.iter().map(String::as_str)) {
            Some(near) => format!("did you mean {near}?"),
            None if names.is_empty() => "none was made yet".into(),
            None => format!("there are {}", names.join(", ")),
        };
        return Err(Failure::Stopped(format!(
            "there is no batch {wanted} in {}\n  {hint}",
            folder.display()
        )));
    };
    let receipt = batch.receipt.as_ref().map_err(|wrong| Failure::Stopped(wrong.to_string()))?;
    match format {
        Format::Text => print(&show_batch(batch, receipt))?,
        Format::Json => print_json(receipt)?,
    }
    Ok(if changed(batch).is_empty() { Ended::AllAccepted } else { Ended::SomeRejected })
}
