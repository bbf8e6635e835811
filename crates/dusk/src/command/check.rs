//! `dusk check`: the whole job without writing a batch.

use dusk_core::description::Target;
use dusk_core::evidence::Kind;
use dusk_core::run::{FieldTotal, Job, Receipt, Summary, totalled, write_leaving_out};
use dusk_core::values::nearest;

use super::history::History;
use super::rest::Rest;
use crate::args::{CheckJobArgs, Format};
use crate::loaded::Loaded;
use crate::outcome::{Ended, Failure, Outcome, print, print_json};
use crate::show::{
    Bar, CausesShown, Digest, Report, leaving_out_json, leaving_out_lines, report_json, show_drift,
};

pub(super) fn run(check: &CheckJobArgs, quiet: bool) -> Outcome {
    let args = &check.job;
    let loaded = Loaded::read(&args.run, args.sources.iter().map(AsRef::as_ref), quiet)?;
    refuse_unknown_totals(&loaded.target, &args.totals)?;
    let history = History::of(&loaded)?;
    history.stop_at_new_columns(&loaded.mapping, &loaded.sources)?;
    history.note_old_list(&loaded);
    let before = history.has()?;
    let rest = Rest::of(&args.rest, &loaded)?;
    // The rest of a batch is nothing new beside it.
    let last = history.last_before(before.as_ref().map(|(batch, _)| *batch)).filter(|_| rest.is_none());
    let known = last.and_then(|(batch, _)| batch.known_records());
    let sent_before = rest.as_ref().map(|rest| &rest.before);
    let job =
        Job { last_orders: history.orders(), known_records: known.as_ref(), sent_before, ..loaded.job() };
    let bar = Bar::new(loaded.bytes(), quiet);
    let (ready, mut summary) = job.work_with_open_dates(&bar.reader("weighing evidence"), |ready| {
        let progress = bar.reader("checking");
        if args.totals.is_empty() { ready.check(&progress) } else { ready.check_and_add_up(&progress) }
    })?;
    bar.done();
    summary.refuse_no_rows(&loaded.sources)?;
    history.ask(&ready, &mut summary.causes)?;
    let proposals = if summary.causes.iter().any(|cause| cause.kind == Kind::BatchRuleBroken) {
        ready.propose_leaving_out(&bar.reader("looking for what could be left out"))?
    } else {
        Vec::new()
    };
    if let Some(path) = &check.leave_out_list {
        if proposals.iter().all(|proposal| proposal.records.is_empty()) {
            return Err(Failure::Stopped(
                "no limit is passed for which target.toml names an order, so there is nothing to leave out\n  a [[rule]] over all records says leave_out_first = [\"field\"]".into(),
            ));
        }
        write_leaving_out(&ready, &summary, &proposals, path)?;
    }
    let drift = match last.filter(|_| before.is_none()) {
        Some((batch, last)) => {
            let now = Receipt::of(&ready, &summary, (String::new(), ""), Vec::new())?;
            batch.news(last, (&now, &summary), &loaded.target, &loaded.mapping).all()
        }
        None => Vec::new(),
    };
    let last = last.map(|(_, last)| last.batch.as_str());
    match args.run.format {
        Format::Json => {
            let mut json = report_json(&ready, &summary, (last, &drift), None);
            if let Some(report) = json.as_object_mut().filter(|_| !proposals.is_empty()) {
                report.insert("leaving_out".into(), leaving_out_json(&ready, &proposals));
            }
            print_json(&json)?;
        }
        Format::Text => {
            let digest = (!quiet).then(|| Digest::of(&ready, &loaded.corrections, args.evidence).to_string());
            let digest = digest.unwrap_or_default();
            let before = before.as_ref().and_then(|(batch, _)| batch.receipt.as_ref().ok());
            let totals = asked_totals(&summary, &args.totals);
            let report = Report {
                ready: &ready,
                summary: &summary,
                causes: if args.all_causes { CausesShown::All } else { CausesShown::Largest },
                made: None,
                quiet,
                last,
                before,
                totals,
            };
            let list = check.leave_out_list.as_ref().map(|path| path.display().to_string());
            let leave = leaving_out_lines(&ready, &proposals, list.as_deref());
            print(&format!("{}{digest}{report}{leave}", show_drift(&drift, last)))?;
        }
    }
    Ok(ended(summary.causes.len()))
}

/// Stops where the command line asks for the total of a field that has none.
pub(super) fn refuse_unknown_totals(target: &Target, names: &[String]) -> Result<(), Failure> {
    let known: Vec<&str> = totalled(target)
        .into_iter()
        .filter_map(|field| target.fields.get(field))
        .map(|field| field.name.as_str())
        .collect();
    let Some(name) = names.iter().find(|name| !known.contains(&name.as_str())) else { return Ok(()) };
    let hint = match nearest(name, known.iter().copied()) {
        Some(near) => format!("did you mean \"{near}\"?"),
        None => format!("fields of numbers, days, codes, or true and false have one: {}", known.join(", ")),
    };
    Err(Failure::Stopped(format!("--total: no field \"{name}\" has a total\n  {hint}")))
}

/// The totals of the fields that the command line names.
pub(super) fn asked_totals<'s>(summary: &'s Summary, names: &[String]) -> Vec<&'s FieldTotal> {
    names.iter().filter_map(|name| summary.field_totals.iter().find(|total| total.field == *name)).collect()
}

/// How a run with so many causes of rejects ended.
pub(super) fn ended(causes: usize) -> Ended {
    if causes == 0 { Ended::AllAccepted } else { Ended::SomeRejected }
}
