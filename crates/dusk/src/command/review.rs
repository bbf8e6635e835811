//! `dusk review`: the causes on one screen.

use dusk_core::run::{Job, Review, Summary};

use super::history::History;
use super::rest::Rest;
use crate::args::ReviewArgs;
use crate::loaded::{Loaded, user_name};
use crate::outcome::{Ended, Failure, Outcome, print};
use crate::review::{has_terminal, review};
use crate::show::{Bar, counted, grouped, shell_word};

pub(super) fn run(args: &ReviewArgs, quiet: bool) -> Outcome {
    let source = args.sources.first().map_or_else(String::new, |path| path.display().to_string());
    if !has_terminal() {
        return Err(Failure::Stopped(format!(
            "review needs a terminal to draw on\n  without one: dusk check {0} lists the causes with the command that settles each",
            shell_word(&source)
        )));
    }
    let (loaded, kept, summary) = open(args, quiet)?;
    if summary.totals.rejected == 0 {
        print(&format!(
            "{} read, none rejected: there is nothing to review\n",
            counted(summary.totals.read, "row")
        ))?;
        return Ok(Ended::AllAccepted);
    }
    let colours = anstream::ColorChoice::global() != anstream::ColorChoice::Never
        && std::env::var_os("NO_COLOR").is_none();
    let by = args.by.clone().unwrap_or_else(user_name);
    let again = || open(args, true).map(|(loaded, kept, _)| (loaded, kept));
    let done = review(loaded, (kept, &summary), (by, colours), &again)?;
    let settled = done.began_with.saturating_sub(done.left);
    let decisions = counted(done.decisions as u64, "decision");
    let remain = if done.left == 1 { "remains" } else { "remain" };
    let mut text =
        format!("{decisions} settled {}; {} {remain}\n", counted(settled, "row"), grouped(done.left));
    if done.not_kept > 0 {
        text.push_str(&format!("  {} of them were too many to be shown\n", done.not_kept));
    }
    if done.decisions > 0 {
        text.push_str(&format!("  now: dusk check {0}, or dusk conform {0}\n", shell_word(&source)));
    }
    print(&text)?;
    Ok(if done.left == 0 { Ended::AllAccepted } else { Ended::SomeRejected })
}

/// Reads everything, runs the job and keeps what is rejected.
fn open(args: &ReviewArgs, quiet: bool) -> Result<(Loaded, Review, Summary), Failure> {
    let loaded = Loaded::read(&args.run, args.sources.iter().map(AsRef::as_ref), quiet)?;
    let bar = Bar::new(loaded.bytes(), quiet);
    let rest = Rest::of(&args.rest, &loaded)?;
    let job = Job { sent_before: rest.as_ref().map(|rest| &rest.before), ..loaded.job() };
    let (ready, (kept, mut summary)) = job
        .work_with_open_dates(&bar.reader("weighing evidence"), |ready| {
            Review::open(ready, &bar.reader("checking"))
        })?;
    bar.done();
    History::of(&loaded)?.ask(&ready, &mut summary.causes)?;
    drop(ready);
    Ok((loaded, kept, summary))
}
