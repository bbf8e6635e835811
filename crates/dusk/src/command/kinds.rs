//! Several kinds of row in one export: each row by the mapping that takes it, and every row by one.

use std::path::Path;

use dusk_core::evidence::Id as _;
use dusk_core::run::{RowsAmiss, RowsTaken, SavedMapping, Totals as RunTotals, saved_mappings};
use serde_json::json;

use super::conform;
use crate::args::{CheckJobArgs, ConformArgs, Format, JobArgs};
use crate::loaded::Loaded;
use crate::outcome::{Ended, Failure, Outcome, print, print_json};
use crate::show::{Bar, counted, grouped, shell_word, visible};

/// What the mapping of one kind does.
struct OfKind {
    name: String,
    taken: RowsTaken,
    totals: RunTotals,
}

/// `dusk check --kinds`.
pub(super) fn check(args: &CheckJobArgs, quiet: bool) -> Outcome {
    let job = &args.job;
    let kinds = kinds_of(job, quiet)?;
    let (by_none, by_several) = amiss(&kinds);
    let rejected: u64 = kinds.iter().map(|kind| kind.totals.rejected).sum();
    let first = |rows: &RowsAmiss| shown(rows, job);
    match job.run.format {
        Format::Json => print_json(&json!({
            "form": 1,
            "kinds": kinds.iter().map(|kind| json!({
                "mapping": kind.name,
                "rows": kind.taken.count(),
                "accepted": kind.totals.accepted,
                "rejected": kind.totals.rejected,
                "merged": kind.totals.merged,
            })).collect::<Vec<_>>(),
            "taken_by_none": { "rows": by_none.count, "first": first(&by_none) },
            "taken_by_several": { "rows": by_several.count, "first": first(&by_several) },
        }))?,
        Format::Text => {
            let wide = kinds.iter().map(|kind| kind.name.chars().count()).max().unwrap_or(0);
            let mut text = String::new();
            for kind in &kinds {
                let totals = &kind.totals;
                text.push_str(&format!(
                    "{:<wide$}  {} = {} accepted + {} rejected + {} merged\n",
                    visible(&kind.name),
                    counted(kind.taken.count(), "row"),
                    grouped(totals.accepted),
                    grouped(totals.rejected),
                    grouped(totals.merged)
                ));
            }
            text.push_str(&amiss_shown(&by_none, &by_several, job));
            if let Some(kind) = kinds.iter().find(|kind| kind.totals.rejected > 0) {
                text.push_str(&format!(
                    "what is rejected, and why: {}\n",
                    command("check", job, Some(&kind.name))
                ));
            } else if by_none.count + by_several.count == 0 {
                text.push_str(&format!(
                    "every row has one mapping: {} --kinds\n",
                    command("conform", job, None)
                ));
            }
            print(&text)?;
        }
    }
    let is_right = rejected + by_none.count + by_several.count == 0;
    Ok(if is_right { Ended::AllAccepted } else { Ended::SomeRejected })
}

/// `dusk conform --kinds`: a batch by each mapping, once every row has one.
pub(super) fn conform(args: &ConformArgs, quiet: bool) -> Outcome {
    let kinds = kinds_of(&args.job, quiet)?;
    let (by_none, by_several) = amiss(&kinds);
    if by_none.count + by_several.count > 0 {
        return Err(Failure::Stopped(format!(
            "not every row has one mapping, so nothing was written\n{}",
            amiss_shown(&by_none, &by_several, &args.job).trim_end()
        )));
    }
    let folder = args.job.run.mapping.mapping.parent().unwrap_or(Path::new("")).to_path_buf();
    let mut all_accepted = true;
    for kind in kinds.iter().filter(|kind| kind.taken.count() > 0) {
        let mut one = args.clone();
        one.job.run.mapping.mapping = folder.join(&kind.name);
        one.job.kinds = false;
        all_accepted &= matches!(conform::run(&one, quiet)?, Ended::AllAccepted);
    }
    Ok(if all_accepted { Ended::AllAccepted } else { Ended::SomeRejected })
}

/// Checks the export by every mapping here that fits it.
fn kinds_of(job: &JobArgs, quiet: bool) -> Result<Vec<OfKind>, Failure> {
    let folder = job.run.mapping.mapping.parent().unwrap_or(Path::new(""));
    let saved = saved_mappings(folder)?;
    let fits = |one: &&SavedMapping| job.sources.iter().all(|source| one.fits(source).is_ok());
    let fitting: Vec<&SavedMapping> = saved.iter().filter(fits).collect();
    if fitting.is_empty() {
        let why = |one: &SavedMapping| {
            let why = job.sources.iter().find_map(|source| one.fits(source).err()).unwrap_or_default();
            format!("\n  {}: {why}", one.name())
        };
        let all: String = saved.iter().map(why).collect();
        return Err(Failure::Stopped(format!("no mapping that is saved here fits this export{all}")));
    }
    let mut kinds = Vec::new();
    for one in fitting {
        let mut run = job.run.clone();
        run.mapping.mapping.clone_from(&one.path);
        let loaded = Loaded::read(&run, job.sources.iter().map(AsRef::as_ref), quiet)?;
        let bar = Bar::new(loaded.bytes(), quiet);
        let (_, (taken, summary)) = loaded
            .job()
            .work(&bar.reader("weighing evidence"), |ready| ready.check_kinds(&bar.reader("checking")))?;
        bar.done();
        kinds.push(OfKind { name: one.name(), taken, totals: summary.totals });
    }
    Ok(kinds)
}

fn amiss(kinds: &[OfKind]) -> (RowsAmiss, RowsAmiss) {
    let mut all = RowsTaken::default();
    kinds.iter().for_each(|kind| all.join(&kind.taken));
    all.amiss()
}

/// The first of some rows, with their sources where there are several.
fn shown(rows: &RowsAmiss, job: &JobArgs) -> Vec<String> {
    let one = |(source, row): &(_, dusk_core::evidence::Row)| {
        let source: &dusk_core::evidence::SourceId = source;
        match job.sources.get(source.index()).filter(|_| job.sources.len() > 1) {
            Some(path) => format!("row {} of {}", row.0, path.display()),
            None => format!("row {}", row.0),
        }
    };
    rows.first.iter().map(one).collect()
}

fn amiss_shown(by_none: &RowsAmiss, by_several: &RowsAmiss, job: &JobArgs) -> String {
    let mut text = String::new();
    for (rows, says, what_to_do) in [
        (by_none, "no mapping takes", "a mapping for them, or a wider keep under [rows] in one of these"),
        (by_several, "more than one mapping takes", "a narrower keep under [rows] in one of them"),
    ] {
        if rows.count > 0 {
            let first = shown(rows, job).join(", ");
            let rows = counted(rows.count, "row");
            text.push_str(&format!("{rows} that {says}: {first}\n  what is needed: {what_to_do}\n"));
        }
    }
    text
}

/// A command for these exports.
fn command(name: &str, job: &JobArgs, mapping: Option<&str>) -> String {
    let sources: Vec<String> =
        job.sources.iter().map(|path| shell_word(&path.display().to_string())).collect();
    let mapping = mapping.map_or_else(String::new, |mapping| format!(" -m {}", shell_word(mapping)));
    format!("dusk {name} {}{mapping}", sources.join(" "))
}
