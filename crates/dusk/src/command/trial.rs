//! `dusk trial`: the telling rows, before and after.

use dusk_core::run::{Ready, Trial, Wanted, try_rows};

use crate::args::{Format, TrialArgs};
use crate::loaded::Loaded;
use crate::outcome::{Ended, Outcome, print, print_json};
use crate::show::{Bar, Digest, Tried};

pub(super) fn run(args: &TrialArgs, quiet: bool) -> Outcome {
    let wanted = match (&args.rows, args.first) {
        (Some(rows), _) => Wanted::Rows(rows.0.clone()),
        (None, Some(first)) => Wanted::First(first),
        (None, None) => Wanted::Telling(args.number),
    };
    let loaded = Loaded::read(&args.run, [args.source.as_path()], quiet)?;
    let job = loaded.job();
    let bar = Bar::new(loaded.bytes(), quiet);
    let work = |ready: &Ready<'_>| try_rows(ready, &wanted, &bar.reader("choosing rows"));
    let (ready, trial): (Ready<'_>, Trial) = job.work(&bar.reader("weighing evidence"), work)?;
    bar.done();
    let written = match &args.out {
        Some(path) => trial.write(&ready, path)?,
        None => Vec::new(),
    };
    let tried = Tried { ready: &ready, trial: &trial, wanted: &wanted, written: &written, quiet };
    match args.run.format {
        Format::Text => {
            let digest =
                if quiet { String::new() } else { Digest::of(&ready, &loaded.corrections).to_string() };
            print(&format!("{digest}{tried}"))?;
        }
        Format::Json => print_json(&tried.json())?,
    }
    Ok(if trial.accepted() == trial.rows.len() { Ended::AllAccepted } else { Ended::SomeRejected })
}
