//! `dusk check`: the whole job without writing a batch.

use dusk_core::run::{Job, Receipt};

use super::history::History;
use crate::args::{Format, JobArgs};
use crate::loaded::Loaded;
use crate::outcome::{Ended, Outcome, print, print_json};
use crate::show::{Bar, Digest, Report, report_json, show_drift};

pub(super) fn run(args: &JobArgs, quiet: bool) -> Outcome {
    let loaded = Loaded::read(&args.run, args.sources.iter().map(AsRef::as_ref), quiet)?;
    let history = History::of(&loaded)?;
    history.stop_at_new_columns(&loaded.mapping, &loaded.sources)?;
    history.note_old_list(&loaded);
    let before = history.has()?;
    let last = history.last_before(before.as_ref().map(|(batch, _)| *batch));
    let known = last.and_then(|(batch, _)| batch.known_records());
    let job = Job { last_orders: history.orders(), known_records: known.as_ref(), ..loaded.job() };
    let bar = Bar::new(loaded.bytes(), quiet);
    let (ready, mut summary) = job.work_with_open_dates(&bar.reader("weighing evidence"), |ready| {
        ready.check(&bar.reader("checking"))
    })?;
    bar.done();
    summary.refuse_no_rows(&loaded.sources)?;
    history.ask(&ready, &mut summary.causes)?;
    let drift = match last.filter(|_| before.is_none()) {
        Some((batch, last)) => {
            let now = Receipt::of(&ready, &summary, (String::new(), ""), Vec::new())?;
            batch.news(last, (&now, &summary), &loaded.target, &loaded.mapping).all()
        }
        None => Vec::new(),
    };
    let last = last.map(|(_, last)| last.batch.as_str());
    match args.run.format {
        Format::Json => print_json(&report_json(&ready, &summary, (last, &drift), None))?,
        Format::Text => {
            let digest = (!quiet).then(|| Digest::of(&ready, &loaded.corrections).to_string());
            let digest = digest.unwrap_or_default();
            let before = before.as_ref().and_then(|(batch, _)| batch.receipt.as_ref().ok());
            let report =
                Report { ready: &ready, summary: &summary, all_causes: args.all_causes, quiet, last, before };
            print(&format!("{}{digest}{report}", show_drift(&drift, last)))?;
        }
    }
    Ok(ended(summary.causes.len()))
}

/// How a run with so many causes of rejects ended.
pub(super) fn ended(causes: usize) -> Ended {
    if causes == 0 { Ended::AllAccepted } else { Ended::SomeRejected }
}
