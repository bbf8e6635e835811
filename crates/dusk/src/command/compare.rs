//! `dusk compare`: an export against what the target holds.

use std::io::Write as _;
use std::path::Path;

use dusk_core::run::{ComparedKind, ComparedWanted, HeldComparison, Job, Ready, ToldBeside, write_sign_off};
use dusk_core::values::nearest;

use super::history::History;
use crate::args::{CompareArgs, Format};
use crate::loaded::Loaded;
use crate::outcome::{Ended, Failure, Outcome, note, print};
use crate::show::{
    Bar, ComparedShown, compared_head_json, compared_record_json, escaped_json, mapping_option, shell_word,
};

pub(super) fn run(args: &CompareArgs, quiet: bool) -> Outcome {
    let loaded = Loaded::read(&args.run, args.sources.iter().map(AsRef::as_ref), quiet)?;
    let wanted = wanted(args, &loaded)?;
    let history = History::of(&loaded)?;
    history.note_old_list(&loaded);
    let before = history.has()?;
    let last = history.last_before(before.as_ref().map(|(batch, _)| *batch));
    let known = last.and_then(|(batch, _)| batch.known_records());
    let told = if wanted.kinds.contains(&ComparedKind::Same) { ToldBeside::Same } else { ToldBeside::New };
    let job = Job { last_orders: history.orders(), known_records: known.as_ref(), told, ..loaded.job() };
    let bar = Bar::new(loaded.bytes(), quiet);
    let (ready, comparison) = job.work(&bar.reader("weighing evidence"), |ready| {
        HeldComparison::of(ready, &wanted, &bar.reader("comparing"))
    })?;
    bar.done();
    comparison.summary.refuse_no_rows(&loaded.sources)?;
    if let Some(path) = &args.sign_off {
        return sign_off(path, &ready, &comparison, args);
    }
    match args.run.format {
        Format::Json => print_all(&ready, &comparison)?,
        Format::Text => {
            let last = last.map(|(_, last)| last.batch.as_str());
            let sources = args.sources.iter().map(|path| shell_word(&path.display().to_string()));
            let source = sources.collect::<Vec<_>>().join(" ") + &mapping_option(&args.run.mapping.mapping);
            let shown = ComparedShown {
                ready: &ready,
                comparison: &comparison,
                most: args.number,
                last,
                source: &source,
            };
            print(&shown.text()?)?;
        }
    }
    Ok(ended(&comparison))
}

/// Whether all of it is there already.
fn ended(comparison: &HeldComparison) -> Ended {
    let counts = comparison.summary.beside.unwrap_or_default();
    let differs = counts.new + counts.changed + counts.gone > 0;
    if differs || !comparison.summary.causes.is_empty() { Ended::SomeRejected } else { Ended::AllAccepted }
}

fn wanted(args: &CompareArgs, loaded: &Loaded) -> Result<ComparedWanted, Failure> {
    let flags = [
        (args.new, ComparedKind::New),
        (args.changed, ComparedKind::Changed),
        (args.same, ComparedKind::Same),
        (args.gone, ComparedKind::Gone),
    ];
    let mut kinds: Vec<ComparedKind> =
        flags.into_iter().filter(|(is_wanted, _)| *is_wanted).map(|(_, kind)| kind).collect();
    if args.sign_off.is_some() && kinds.is_empty() {
        kinds = vec![ComparedKind::New, ComparedKind::Changed, ComparedKind::Gone];
    }
    let Some(name) = &args.field else { return Ok(ComparedWanted { kinds, field: None }) };
    let field = loaded.target.field(name).ok_or_else(|| {
        let near = nearest(name, loaded.target.fields.iter().map(|field| field.name.as_str()));
        let hint = near.map_or_else(
            || "dusk target show lists its fields".to_owned(),
            |near| format!("did you mean {near}?"),
        );
        Failure::Stopped(format!("{} has no field \"{name}\"; {hint}", loaded.target.name))
    })?;
    if kinds.is_empty() {
        kinds.push(ComparedKind::Changed);
    }
    Ok(ComparedWanted { kinds, field: Some(field) })
}

/// Prints everything for programs, record by record: there may be millions.
fn print_all(ready: &Ready<'_>, comparison: &HeldComparison) -> Result<(), Failure> {
    let mut out = std::io::BufWriter::new(std::io::stdout().lock());
    let head = compared_head_json(ready, comparison);
    let text = serde_json::to_string_pretty(&head).map_err(|error| Failure::Stopped(error.to_string()))?;
    let body = text.trim_end().trim_end_matches('}').trim_end().to_owned();
    let mut write = |text: &str| match out.write_all(escaped_json(text).as_bytes()) {
        // Whoever reads it may have gone.
        Err(error) if error.kind() == std::io::ErrorKind::BrokenPipe => Ok(()),
        done => done.map_err(Failure::from),
    };
    write(&format!("{body},\n  \"records\": ["))?;
    let mut between = "\n    ";
    for record in comparison.records()? {
        write(&format!("{between}{}", compared_record_json(&record?)))?;
        between = ",\n    ";
    }
    write("\n  ]\n}\n")
}

/// Writes the workbook in which somebody says yes or no, record by record.
fn sign_off(path: &Path, ready: &Ready<'_>, comparison: &HeldComparison, args: &CompareArgs) -> Outcome {
    if path.exists() {
        return Err(Failure::Stopped(format!(
            "{} is there already, and somebody may have answered in it; give another name with --sign-off",
            path.display()
        )));
    }
    let written = write_sign_off(ready, comparison, path)?;
    let shown = shell_word(&path.display().to_string());
    let rows = if written == 1 { "1 record".to_owned() } else { format!("{written} records") };
    print(&format!("{}: {rows} to be agreed to\n", path.display()))?;
    let option = mapping_option(&args.run.mapping.mapping);
    note(&format!(
        "write \"no\" beside what is not to go in, save it, and bring it back with dusk correct {shown}{option}"
    ));
    Ok(ended(comparison))
}
