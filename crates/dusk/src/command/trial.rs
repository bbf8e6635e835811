//! `dusk trial`: the telling rows, before and after.

use std::path::Path;

use dusk_core::conforming::Judged;
use dusk_core::description::UploadFormat;
use dusk_core::run::{Ready, Trial, Wanted, try_rows};

use crate::args::{Format, TrialArgs};
use crate::loaded::Loaded;
use crate::outcome::{Ended, Failure, Outcome, print, print_json};
use crate::show::{Bar, Digest, FileText, Tried, counted};

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
    if args.as_file {
        return as_file(args, &ready, &trial);
    }
    let written = match &args.out {
        Some(path) => trial.write(&ready, path)?,
        None => Vec::new(),
    };
    let tried = Tried { ready: &ready, trial: &trial, wanted: &wanted, written: &written, quiet };
    match args.run.format {
        Format::Text => {
            let digest = if quiet {
                String::new()
            } else {
                Digest::of(&ready, &loaded.corrections, false).to_string()
            };
            print(&format!("{digest}{tried}"))?;
        }
        Format::Json => print_json(&tried.json())?,
    }
    Ok(if trial.accepted() == trial.rows.len() { Ended::AllAccepted } else { Ended::SomeRejected })
}

/// Prints the upload of the rows as it is written.
fn as_file(args: &TrialArgs, ready: &Ready<'_>, trial: &Trial) -> Outcome {
    const MOST: usize = 40;
    let upload = &ready.job.target.upload;
    if matches!(upload.format, UploadFormat::Workbook { .. } | UploadFormat::Database { .. }) {
        return Err(Failure::Stopped(
            "the upload is not a text file, so it has no lines to be shown\n  -o FILE writes the rows as a small upload".into(),
        ));
    }
    let folder = tempfile::tempdir()?;
    let read = |path: &Path| {
        let bytes = std::fs::read(path).map_err(dusk_core::Error::reading(path))?;
        FileText::of(&bytes, upload.encoding).ok_or_else(|| {
            Failure::Stopped(format!("{} is not a text in {}", path.display(), upload.encoding.label()))
        })
    };
    let own = args.beside.as_deref().map(read).transpose()?;
    let mut text = String::new();
    let mut is_alike = true;
    for path in trial.write(ready, folder.path())? {
        let file = read(&path)?;
        let name = path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
        text.push_str(&format!("{name}, in {}\n{}", upload.encoding.label(), file.shown(MOST)));
        if let (Some(own), Some(path)) = (&own, &args.beside) {
            let unlike = file.unlike(own, ready.job.target);
            is_alike &= unlike.is_empty();
            let path = path.display();
            if unlike.is_empty() {
                text.push_str(&format!("it is written as {path} is\n"));
            }
            unlike.iter().for_each(|says| text.push_str(&format!("unlike {path}: {says}\n")));
        }
    }
    print(&text)?;
    let left = trial.rows.iter().filter(|row| row.fate == Judged::Rejected).count();
    if left > 0 {
        print(&format!(
            "{} rejected: dusk trial without --as-file tells why\n",
            counted(left as u64, "row")
        ))?;
    }
    Ok(if left == 0 && is_alike { Ended::AllAccepted } else { Ended::SomeRejected })
}
