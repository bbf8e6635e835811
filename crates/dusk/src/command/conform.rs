//! `dusk conform`: a batch.

use std::collections::BTreeSet;

use dusk_core::delivery::{Stage, stage};
use dusk_core::evidence::{Row, SourceId};
use dusk_core::run::{
    ASIDE, BatchFacts, FirstRows, Job, NewBatch, PastBatch, Ready, Since, next_batch, note_elsewhere,
    write_batch,
};
use dusk_core::values::shown_day;

use super::check::{asked_totals, ended, refuse_unknown_totals};
use super::history::{History, batches_beside};
use super::rest::Rest;
use crate::args::{ConformArgs, Format};
use crate::loaded::{Loaded, user_name};
use crate::outcome::{Ended, Failure, Outcome, note, print, print_json};
use crate::report::{group_page, report_page};
use crate::show::{
    Bar, BatchShown, CausesShown, Digest, Report, Totals, counted, report_json, shell_word, show_drift,
    totals_json,
};

pub(super) fn run(args: &ConformArgs, quiet: bool) -> Outcome {
    let loaded = Loaded::read(&args.job.run, args.job.sources.iter().map(AsRef::as_ref), quiet)?;
    refuse_unknown_totals(&loaded.target, &args.job.totals)?;
    let history = History::of(&loaded)?;
    history.stop_at_new_columns(&loaded.mapping, &loaded.sources)?;
    history.note_old_list(&loaded);
    let before = history.has()?;
    let rest = Rest::of(&args.job.rest, &loaded)?;
    // The rest of a batch is nothing new beside it.
    let last = history.last_before(before.as_ref().map(|(batch, _)| *batch)).filter(|_| rest.is_none());
    let known = last.and_then(|(batch, _)| batch.known_records());
    let sent_before = rest.as_ref().map(|rest| &rest.before);
    let job =
        Job { last_orders: history.orders(), known_records: known.as_ref(), sent_before, ..loaded.job() };
    let replaced = match &before {
        Some(_) if rest.is_some() => None,
        Some((batch, source)) if !args.again => {
            return Err(made_already(batch, source, history.gives_place(batch)));
        }
        Some((batch, _)) if history.gives_place(batch) => {
            refuse_delivered(batch)?;
            Some(batch.path.clone())
        }
        Some(_) => None,
        None => None,
    };
    let only_rows = first_rows(args, &job, &loaded, quiet)?;
    let job = Job { only_rows: only_rows.as_ref(), ..job };
    if rest.is_some()
        && let Some(ended) = nothing_left(args, &job, &loaded, quiet)?
    {
        return Ok(ended);
    }
    let folder = match (&args.out, &replaced) {
        (Some(folder), _) => folder.clone(),
        (None, Some(replaced)) => replaced.clone(),
        (None, None) => next_batch(&batches_beside(&loaded.mapping.path), loaded.today),
    };
    let by = args.by.clone().unwrap_or_else(user_name);
    let earlier = history.earlier(replaced.as_deref());
    let page = |facts: &BatchFacts<'_>| report_page(facts, &earlier, !args.no_values);
    if args.group_pages && loaded.target.upload.split_by.is_none() {
        return Err(Failure::Stopped(
            "--group-pages goes with an upload that is divided into groups\n  write split_by = \"FIELD\" under [upload] in target.toml".into(),
        ));
    }
    let batch = NewBatch {
        path: &folder,
        by: &by,
        replaces: replaced.as_deref(),
        last,
        purpose: None,
        follows: rest.as_ref().map(|rest| rest.follows.as_str()),
        removes: args.remove,
        may_be_empty: false,
        page: Some(&page),
        group_page: if args.group_pages { Some(&group_page) } else { None },
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
            let digest = if quiet {
                String::new()
            } else {
                Digest::of(&ready, &loaded.corrections, args.job.evidence).to_string()
            };
            let report = Report {
                ready: &ready,
                summary: &done.summary,
                // What check says is not said again.
                causes: if args.job.all_causes { CausesShown::All } else { CausesShown::Count },
                made: Some(&done.folder),
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

/// The rows that go first, where only a few do.
fn first_rows(
    args: &ConformArgs,
    job: &Job<'_>,
    loaded: &Loaded,
    quiet: bool,
) -> Result<Option<BTreeSet<(SourceId, Row)>>, Failure> {
    let wanted = match (args.number, args.first) {
        (Some(most), _) => FirstRows::Telling(most),
        (None, Some(most)) => FirstRows::First(most),
        (None, None) => return Ok(None),
    };
    let bar = Bar::new(loaded.bytes(), quiet);
    let choose = |ready: &Ready<'_>| ready.first_rows(wanted, &bar.reader("choosing the first rows"));
    let (_, rows) = job.work(&bar.reader("weighing evidence"), choose)?;
    bar.done();
    if rows.is_empty() {
        return Err(Failure::Stopped(
            "no row is accepted that was not sent before, so none can go first\n  dusk check lists what keeps rows out".into(),
        ));
    }
    Ok(Some(rows))
}

/// Says where nothing of a batch can be sent, and how the run ends then; nothing where something can.
fn nothing_left(
    args: &ConformArgs,
    job: &Job<'_>,
    loaded: &Loaded,
    quiet: bool,
) -> Result<Option<Ended>, Failure> {
    let bar = Bar::new(loaded.bytes(), quiet);
    let (ready, summary) = job.work(&bar.reader("weighing evidence"), |ready| {
        ready.check(&bar.reader("looking for what is left"))
    })?;
    bar.done();
    if summary.sent() > 0 {
        return Ok(None);
    }
    let batch = args.job.rest.rest.as_deref().unwrap_or_default();
    let (withheld, rejected) = (summary.withheld, summary.totals.rejected);
    if withheld.unknown == 0 && rejected == 0 {
        print(&format!("nothing of batch {batch} is left: {} loaded\n", counted(withheld.loaded, "record")))?;
        return Ok(Some(Ended::AllAccepted));
    }
    let report = Report {
        ready: &ready,
        summary: &summary,
        causes: if args.job.all_causes { CausesShown::All } else { CausesShown::Largest },
        made: None,
        quiet,
        last: None,
        before: None,
        totals: Vec::new(),
    };
    let mut text = format!("{report}\nnothing of batch {batch} can be sent now, so no batch was made\n");
    if withheld.unknown > 0 {
        let batch = shell_word(batch);
        text.push_str(&format!(
            "  read what the target said: dusk answer {batch} FILE; --with-unknown sends once more what it did not mention\n"
        ));
    }
    print(&text)?;
    Ok(Some(Ended::SomeRejected))
}

/// What was delivered is not made again: it would be sent twice.
fn refuse_delivered(batch: &PastBatch) -> Result<(), Failure> {
    let stage = stage(batch)?;
    let is_table = batch.receipt.as_ref().is_ok_and(|receipt| receipt.loaded.is_some());
    if is_table || matches!(stage, Stage::Draft | Stage::TurnedDown | Stage::Approved) {
        return Ok(());
    }
    let name = batch.name();
    Err(Failure::Stopped(format!(
        "batch {name} is {}, so it is not made again: its records would be sent twice\n  dusk conform --rest {name} sends what is left of it",
        stage.words()
    )))
}

fn made_already(batch: &PastBatch, source: &str, gives_place: bool) -> Failure {
    let receipt = batch.receipt.as_ref().ok();
    let day = receipt.map_or_else(String::new, |receipt| format!(" of {}", shown_day(&receipt.today)));
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
