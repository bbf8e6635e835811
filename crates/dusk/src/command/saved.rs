//! `dusk map --list`, `--rename` and `--remove`: the mappings that are saved in a folder.

use std::path::Path;

use dusk_core::run::{PastBatch, SavedMapping, past_batches, saved_mappings};
use dusk_core::values::nearest;
use serde_json::json;

use super::history::batches_beside;
use crate::args::{Format, MapArgs};
use crate::outcome::{Ended, Failure, Outcome, print, print_json};
use crate::show::{SavedShown, saved_table};

pub(super) fn run(args: &MapArgs) -> Outcome {
    let folder = args.mapping.parent().unwrap_or(Path::new(""));
    let saved = saved_mappings(folder)?;
    if let Some([old, new]) = args.rename.as_deref() {
        return rename(&saved, old, new);
    }
    if let Some(name) = &args.remove {
        let mapping = find(&saved, name)?;
        let aside = mapping.put_aside()?;
        let says = format!("{} is no longer taken; it was moved to {}\n", mapping.name(), aside.display());
        print(&says)?;
        return Ok(Ended::AllAccepted);
    }
    list(&saved, args, folder)
}

/// The saved mapping of this name, with or without its ending.
fn find<'s>(saved: &'s [SavedMapping], name: &str) -> Result<&'s SavedMapping, Failure> {
    let with_ending = format!("{name}.toml");
    let found = saved.iter().find(|one| one.name() == name || one.name() == with_ending);
    found.ok_or_else(|| {
        let names: Vec<String> = saved.iter().map(SavedMapping::name).collect();
        let hint = match nearest(name, names.iter().map(String::as_str)) {
            Some(near) => format!("did you mean {near}?"),
            None if names.is_empty() => "no mapping is saved here".to_owned(),
            None => format!("there are {}", names.join(", ")),
        };
        Failure::Stopped(format!("there is no saved mapping {name} here\n  {hint}"))
    })
}

fn rename(saved: &[SavedMapping], old: &str, new: &str) -> Outcome {
    let mapping = find(saved, old)?;
    let path = mapping.rename(new).map_err(|wrong| match wrong {
        dusk_core::Error::Exists(path) => Failure::Stopped(format!(
            "{} is there already, so {} keeps its name\n  choose another name",
            path.display(),
            mapping.name()
        )),
        other => other.into(),
    })?;
    print(&format!("{} is called {} now; its batches stay known\n", mapping.name(), path.display()))?;
    Ok(Ended::AllAccepted)
}

fn list(saved: &[SavedMapping], args: &MapArgs, folder: &Path) -> Outcome {
    let batches = past_batches(&batches_beside(&args.mapping))?;
    let shown: Vec<SavedShown> =
        saved.iter().map(|mapping| shown(mapping, &batches, args.source.as_deref(), folder)).collect();
    match args.format {
        Format::Json => {
            let all = shown.iter().map(|one| {
                json!({
                    "mapping": one.name, "target": one.target, "columns": one.columns, "fits": one.fits,
                    "why_not": one.why_not, "last_batch": one.last, "last_used": one.day,
                })
            });
            print_json(&json!({"form": 1, "mappings": all.collect::<Vec<_>>()}))?;
        }
        Format::Text if shown.is_empty() => print("no mapping is saved here yet: dusk map SOURCE\n")?,
        Format::Text => print(&saved_table(&shown, args.source.as_deref())?)?,
    }
    let some_fit = args.source.is_none() || shown.iter().any(|one| !one.fits.is_empty());
    Ok(if some_fit { Ended::AllAccepted } else { Ended::SomeRejected })
}

fn shown(mapping: &SavedMapping, batches: &[PastBatch], source: Option<&Path>, folder: &Path) -> SavedShown {
    let (target, columns) = match &mapping.read {
        Ok((read, target)) => (target.name.clone(), read.wanted()),
        Err(_) => (String::new(), Vec::new()),
    };
    let (fits, why_not) = match source.map(|source| (source, mapping.fits(source))) {
        Some((source, Ok(()))) => (vec![source.display().to_string()], None),
        Some((_, Err(why))) => (Vec::new(), Some(why)),
        None if mapping.read.is_err() => (Vec::new(), Some(mapping.why_not_read().into())),
        None => (mapping.exports(folder), None),
    };
    let last = mapping.last_use(batches);
    SavedShown {
        name: mapping.name(),
        target,
        columns,
        fits,
        why_not,
        last: last.map(|(batch, _)| batch.name()),
        day: last.map(|(_, receipt)| receipt.today.clone()),
    }
}
