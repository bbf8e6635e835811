//! `dusk follow-up`: a small upload about records that a batch has sent before.

use std::collections::BTreeSet;

use dusk_core::delivery::{SentRecords, Told, kept_answer, upload_files};
use dusk_core::evidence::{FieldId, Row};
use dusk_core::run::{FollowUp, PastBatch, Uploaded, next_batch, write_follow_up};
use dusk_core::values::nearest;

use super::history::batches_beside;
use super::named::NamedBatch;
use crate::args::FollowUpArgs;
use crate::loaded::{threads, today, user_name};
use crate::outcome::{Ended, Failure, Outcome, note, print};
use crate::show::{Bar, BatchShown, Totals, counted};

pub(super) fn run(args: &FollowUpArgs, quiet: bool) -> Outcome {
    let named = NamedBatch::find(&args.batch, &args.of)?;
    let target = &named.target;
    let mut set: Vec<(FieldId, String)> = Vec::new();
    for (name, value) in &args.fields {
        set.push((target.field(name).ok_or_else(|| unknown_field(name, &named))?, value.clone()));
    }
    if let Some(key) = set.iter().find(|(id, _)| target.fields.get(*id).is_some_and(|field| field.key)) {
        let name = target.fields.get(key.0).map_or("", |field| field.name.as_str());
        return Err(Failure::Stopped(format!(
            "{name} is part of the key, by which the target knows the records; a follow-up cannot set it"
        )));
    }
    let day = today(args.of.today);
    let batch = named.batch()?;
    let sent = SentRecords::read(batch)?;
    let told = kept_answer(&batch.path, &sent)?;
    if told.is_none() {
        note("the target has not said which records it loaded, so all that were sent are taken");
    }
    let is_in =
        |at: usize| told.as_ref().is_none_or(|told| matches!(told.get(at), Told::Said(said) if said.is_in()));
    let mut uploads = Vec::new();
    for (file, _, _) in upload_files(batch) {
        let path = batch.path.join("upload").join(file);
        let upload = Uploaded::open(&path, target, day, threads())?;
        let own = sent.iter().enumerate().filter(|(at, record)| record.file == file && is_in(*at));
        let rows: BTreeSet<Row> = own.map(|(_, record)| upload.row_of(record.record)).collect();
        uploads.push((upload, rows));
    }
    let purpose = purpose(args, batch);
    let folder = next_batch(&batches_beside(&named.mapping), day);
    let follow_up = FollowUp { set: &set, removes: args.remove, mapping: &named.mapping, purpose: &purpose };
    let by = args.of.by.clone().unwrap_or_else(user_name);
    let bar = Bar::new(0, quiet);
    let made = write_follow_up(uploads, follow_up, (&folder, &by), &bar.reader("writing"))?;
    bar.done();
    let shown = BatchShown { folder: &made.folder, outputs: &made.outputs, loaded: None };
    let left = match made.summary.withheld.all() {
        0 => String::new(),
        count => format!("; {} that the target does not have are left alone", counted(count, "record")),
    };
    print(&format!(
        "{shown}{}\n{purpose}: {}{left}\n",
        Totals(&made.summary),
        counted(made.summary.sent(), "record")
    ))?;
    Ok(Ended::AllAccepted)
}

/// What the follow-up is for, in a few words.
fn purpose(args: &FollowUpArgs, batch: &PastBatch) -> String {
    let set: Vec<String> =
        args.fields.iter().map(|(name, value)| format!("{name} set to \"{value}\"")).collect();
    let what = if args.remove { "removed".to_owned() } else { set.join(", ") };
    format!("records of batch {}, {what}", batch.name())
}

fn unknown_field(name: &str, named: &NamedBatch) -> Failure {
    let names: Vec<&str> = named.target.fields.iter().map(|field| field.name.as_str()).collect();
    let hint = match nearest(name, names.iter().copied()) {
        Some(near) => format!("did you mean \"{near}\"?"),
        None => format!("its fields are {}", names.join(", ")),
    };
    Failure::Stopped(format!("the target has no field \"{name}\"\n  {hint}"))
}
