//! `dusk conform`: a batch.

use dusk_core::run::{
    ASIDE, BatchFacts, Job, NewBatch, PastBatch, Ready, Since, next_batch, note_elsewhere, write_batch,
};

use super::check::{asked_totals, ended, refuse_unknown_totals};
use super::history::{History, batches_beside};
use crate::args::{ConformArgs, Format};
use crate::loaded::{Loaded, user_name};
use crate::outcome::{Failure, Outcome, note, print, print_json};
use crate::report::report_page;
use crate::show::{Bar, BatchShown, Digest, Report, Totals, report_json, show_drift, totals_json};

pub(super) fn run(args: &ConformArgs, quiet: bool) -> Outcome {
    let loaded = Loaded::read(&args.job.run, args.job.sources.iter().map(AsRef::as_ref), quiet)?;
    refuse_unknown_totals(&loaded.target, &args.job.totals)?;
    let history = History::of(&loaded)?;
    history.stop_at_new_columns(&loaded.mapping, &loaded.sources)?;
    history.note_old_list(&loaded);
    let before = history.has()?;
    let last = history.last_before(before.as_ref().map(|(batch, _)| *batch));
    let known = last.and_then(|(batch, _)| batch.known_records());
    let job = Job { last_orders: history.orders(), known_records: known.as_ref(), ..loaded.job() };
    let replaced = match &before {
        Some((batch, source)) if !args.again => {
            return Err(made_already(batch, source, history.gives_place(batch)));
        }
        Some((batch, _)) => history.gives_place(batch).then(|| batch.path.clone()),
        None => None,
    };
    let folder = match (&args.out, &replaced) {
        (Some(folder), _) => folder.clone(),
        (None, Some(replaced)) => replaced.clone(),
        (None, None) => next_batch(&batches_beside(&loaded.mapping.path), loaded.today),
    };
    let by = args.by.clone().unwrap_or_else(user_name);
    let page = |facts: &BatchFacts<'_>| report_page(facts, !args.no_values);
    let batch = NewBatch {
        path: &folder,
        by: &by,
        replaces: replaced.as_deref(),
        last,
        follows: None,
        removes: args.remove,
        may_be_empty: false,
        page: Some(&page),
    };
    let bar = Bar::new(loaded.bytes(), quiet);
    let write = |ready: &Ready<'_>| write_batch(ready, &batch, &bar.reader("conforming"));
    let (ready, mut done) = job.work(&bar.reader("weighing evidence"), write)?;
    bar.done();
    if let Err(wrong) = note_elsewhere(&batches_beside(&loaded.mapping.path), &done.folder) {
        // The batch is there and whole; what is missing is only the memory of where it is.
        note(&format!("the next run will not know batch {}, since {wrong}", done.folder.display()));
    }
    done.notes.iter().for_each(|says| note(says));
    history.ask(&ready, &mut done.summary.causes)?;
    let made = BatchShown { folder: &done.folder, outputs: &done.outputs, loaded: done.loaded.as_ref() };
    let last = last.map(|(_, last)| last.batch.as_str());
    match args.job.run.format {
        Format::Json if args.no_values => print_json(&totals_json(&done.summary))?,
        Format::Text if args.no_values => print(&Totals(&done.summary).to_string())?,
        Format::Json => print_json(&report_json(&ready, &done.summary, (last, &done.drift), Some(&made)))?,
        Format::Text => {
            let drift = show_drift(&done.drift, last);
            let digest =
                if quiet { String::new() } else { Digest::of(&ready, &loaded.corrections).to_string() };
            let report = Report {
                ready: &ready,
                summary: &done.summary,
                all_causes: args.job.all_causes,
                quiet,
                last,
                before: before.as_ref().and_then(|(batch, _)| batch.receipt.as_ref().ok()),
                totals: asked_totals(&done.summary, &args.job.totals),
            };
            print(&format!("{drift}{digest}{made}{report}"))?;
        }
    }
    Ok(ended(done.summary.causes.len()))
}

fn made_already(batch: &PastBatch, source: &str, gives_place: bool) -> Failure {
    let receipt = batch.receipt.as_ref().ok();
    let day = receipt.map_or_else(String::new, |receipt| format!(" of {}", receipt.today));
    let by = receipt.and_then(|receipt| receipt.settings.first()).map_or("", |mapping| mapping.file.as_str());
    let edited =
        batch.outputs().iter().filter(|(_, since)| matches!(since, Since::Edited | Since::Gone)).count();
    let edited = match edited {
        0 => String::new(),
        count => format!("\n  {count} of its files are not as they were written"),
    };
    let (by, what_to_do) = if gives_place {
        let aside = batch.path.with_file_name(ASIDE).display().to_string();
        (String::new(), format!("make that batch again add --again; the old one is kept in {aside}"))
    } else {
        (format!(", by {by}"), "make one by this mapping too add --again; that one stays where it is".into())
    };
    Failure::Stopped(format!(
        "{source} was in batch {}{day} already, byte for byte{by}{edited}\n  to {what_to_do}",
        batch.place(),
    ))
}
