//! `dusk conform`: a batch.

use std::path::Path;

use dusk_core::batch::{Ready, next_batch, write_batch};

use super::check::ended;
use super::{Loaded, Outcome, print, print_json, settled};
use crate::args::{ConformArgs, Format};
use crate::show::{Bar, Digest, Made, Report, report_json};

pub(super) fn run(args: &ConformArgs, quiet: bool) -> Outcome {
    let loaded = Loaded::read(&args.job.run, args.job.sources.iter().map(AsRef::as_ref), quiet)?;
    let job = loaded.job();
    let folder = match &args.out {
        Some(folder) => folder.clone(),
        None => {
            let beside = loaded.mapping.path.parent().unwrap_or(Path::new(""));
            next_batch(&beside.join("batches"), loaded.today)
        }
    };
    let bar = Bar::new(loaded.bytes(), quiet);
    let write = |ready: &Ready<'_>| write_batch(ready, &folder, &bar.reader("conforming"));
    let (ready, (summary, folder, outputs)) = settled(&job, &bar, write)?;
    bar.done();
    let made = Made { folder: &folder, outputs: &outputs };
    match args.job.run.format {
        Format::Json => print_json(&report_json(&ready, &summary, Some(&made)))?,
        Format::Text => {
            let digest = if quiet { String::new() } else { Digest::of(&ready).to_string() };
            let report = Report { ready: &ready, summary: &summary, all_causes: args.job.all_causes, quiet };
            print(&format!("{digest}{made}{report}"))?;
        }
    }
    Ok(ended(summary.causes.len()))
}
