//! `dusk batches`: what was made, and whether it is as it was.

use std::path::Path;

use dusk_core::delivery::{Chain, ChainCounts, SentRecords, Stage, events, kept_answer, stage};
use dusk_core::run::{KeyMatch, ListedRow, PastBatch, Since, key_match};
use serde_json::json;

use super::dropped::dropped;
use super::history::{batches_beside, swept_batches};
use super::named::named_batch;
use crate::args::{BatchArgs, BatchesArgs, BatchesCommand, Format};
use crate::outcome::{Ended, Failure, Outcome, note, print, print_json};
use crate::show::{AfterBatch, BatchRow, batch_table, rows_with_key, show_batch, visible};

pub(super) fn run(args: &BatchesArgs) -> Outcome {
    let folder = batches_beside(&args.mapping.mapping);
    let batches = swept_batches(&folder)?;
    if let Some(key) = &args.key {
        return with_key(&batches, key, &folder, args.format);
    }
    match &args.command {
        None => list(&batches, &folder, args.format),
        Some(BatchesCommand::Confirm(confirm)) => {
            let mapping = args.mapping.mapping.clone();
            let of = BatchArgs { mapping, by: confirm.by.clone(), today: confirm.today };
            super::confirm::run(confirm, &of, args.format)
        }
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

/// A batch, how its files are, how far it has come, and what became of what was put into a folder.
fn batch_row<'b>(batch: &'b PastBatch, folder: &Path) -> Result<BatchRow<'b>, Failure> {
    let stage = stage(batch)?;
    let is_on_its_way = matches!(stage, Stage::Delivered | Stage::PartlyDelivered | Stage::Unknown);
    let there = if is_on_its_way { dropped(batch, folder) } else { String::new() };
    Ok(BatchRow { batch, changed: changed(batch), stage, there })
}

fn list(batches: &[PastBatch], folder: &Path, format: Format) -> Outcome {
    let checked: Vec<BatchRow<'_>> =
        batches.iter().map(|batch| batch_row(batch, folder)).collect::<Result<_, _>>()?;
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
                .map(|BatchRow { batch, changed, stage, there }| {
                    let changed: Vec<serde_json::Value> =
                        changed.iter().map(|(file, how)| json!({"file": file, "is": how})).collect();
                    json!({
                        "batch": batch.name(), "folder": batch.path.display().to_string(),
                        "stage": stage, "there": there, "receipt": batch.receipt.as_ref().ok(), "changed": changed,
                    })
                })
                .collect();
            print_json(&json!({"form": 1, "batches": all}))?;
        }
    }
    let whole = checked.iter().all(|row| row.changed.is_empty() && row.batch.receipt.is_ok());
    Ok(if whole { Ended::AllAccepted } else { Ended::SomeRejected })
}

/// What each batch did with the record that has a key.
fn with_key(batches: &[PastBatch], key: &str, folder: &Path, format: Format) -> Outcome {
    let (mut found, mut without_list) = (Vec::new(), Vec::new());
    for batch in batches {
        if batch.listed_rows()?.is_none() {
            without_list.push(batch.name());
        }
        let rows = batch.rows_with_key(key)?;
        let told = if rows.is_empty() { Vec::new() } else { told_of(batch, &rows)? };
        found.extend(rows.into_iter().zip(told).map(|(row, told)| (batch, row, told)));
    }
    // A part of a key is taken only where it is nobody's whole key.
    let has_whole = found.iter().any(|(_, row, _)| key_match(&row.key, key) == Some(KeyMatch::Whole));
    found.retain(|(_, row, _)| !has_whole || key_match(&row.key, key) == Some(KeyMatch::Whole));
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
            let rows = found.iter().map(|(batch, row, told)| {
                let today = batch.receipt.as_ref().ok().map(|receipt| receipt.today.as_str());
                json!({"batch": batch.name(), "day": today, "row": row, "told": told})
            });
            print_json(&json!({"form": 1, "key": key, "found": rows.collect::<Vec<_>>()}))?;
        }
    }
    Ok(if found.is_empty() { Ended::SomeRejected } else { Ended::AllAccepted })
}

/// What the target said of rows that were sent: blank for others, and where it has not answered.
fn told_of(batch: &PastBatch, rows: &[ListedRow]) -> Result<Vec<String>, Failure> {
    let sent = SentRecords::read(batch)?;
    let Some(told) = kept_answer(&batch.path, &sent)? else { return Ok(vec![String::new(); rows.len()]) };
    let of_row = |row: &ListedRow| {
        let place = row.record.and_then(|record| sent.numbered(&row.file, record));
        let says = |at: usize| match told.reason(at) {
            "" => told.get(at).word().to_owned(),
            reason => format!("{}: {reason}", told.get(at).word()),
        };
        place.map_or_else(String::new, says)
    };
    Ok(rows.iter().map(of_row).collect())
}

fn show(batches: &[PastBatch], name: &str, folder: &Path, format: Format) -> Outcome {
    let batch = named_batch(batches, name, folder)?;
    let receipt = batch.receipt.as_ref().map_err(|wrong| Failure::Stopped(wrong.to_string()))?;
    let row = batch_row(batch, folder)?;
    let chain = Chain::of(batches, batch)?;
    let counts = if chain.batches.len() > 1 { chain.counts()? } else { ChainCounts::default() };
    let events = events(&batch.path)?;
    let after = AfterBatch { events: &events, chain: chain.batches.len(), counts };
    match format {
        Format::Text => print(&show_batch(&row, receipt, &after))?,
        Format::Json => {
            let mut all =
                serde_json::to_value(receipt).map_err(|error| Failure::Stopped(error.to_string()))?;
            if let Some(all) = all.as_object_mut() {
                all.insert("stage".into(), json!(row.stage));
                all.insert("events".into(), json!(events));
            }
            print_json(&all)?;
        }
    }
    Ok(if row.changed.is_empty() { Ended::AllAccepted } else { Ended::SomeRejected })
}
