//! `dusk crosswalk --wanted`: the values for which the target's owner is to be asked for a code, as a list to hand on.

use std::path::Path;

use dusk_core::evidence::{Cause, Id as _, Kind};
use dusk_core::files::write_whole;
use serde_json::json;

use crate::args::{Format, RunArgs, WantedArgs};
use crate::loaded::Loaded;
use crate::outcome::{Ended, Failure, Outcome, print, print_json};
use crate::show::{Bar, SimpleTable, counted};

/// A value that waits for a code.
struct Wanted {
    field: String,
    label: String,
    value: String,
    within: String,
    /// How many rows wait for it, and how many of them for nothing else.
    rows: u64,
    alone: u64,
    /// The first place.
    source: String,
    row: String,
    /// What was decided until there is a code.
    until_then: &'static str,
}

pub(super) fn run(args: &WantedArgs, quiet: bool) -> Outcome {
    if args.sources.is_empty() {
        return Err(Failure::Stopped(
            "--wanted reads exports, and none is named\n  for example dusk crosswalk --wanted spring-2026.csv".into(),
        ));
    }
    let run = RunArgs { mapping: args.mapping.clone(), asked: args.asked.clone(), format: args.format };
    let loaded = Loaded::read(&run, args.sources.iter().map(AsRef::as_ref), quiet)?;
    let bar = Bar::new(loaded.bytes(), quiet);
    let (_, summary) = loaded.job().work_with_open_dates(&bar.reader("weighing evidence"), |ready| {
        ready.check(&bar.reader("checking"))
    })?;
    bar.done();
    let mut wanted: Vec<Wanted> = summary.causes.iter().filter_map(|cause| wanted(cause, &loaded)).collect();
    wanted.sort_by_key(|one| std::cmp::Reverse(one.rows));
    if let Some(out) = &args.out {
        write(&wanted, out)?;
    }
    match args.format {
        Format::Json => print_json(&wanted.iter().map(as_json).collect::<Vec<_>>())?,
        Format::Text if wanted.is_empty() => print("no value waits for a code\n")?,
        Format::Text => print(&shown(&wanted, args.out.as_deref())?)?,
    }
    Ok(if wanted.is_empty() { Ended::AllAccepted } else { Ended::SomeRejected })
}

/// A cause that only a code of the target's owner would end.
fn wanted(cause: &Cause, loaded: &Loaded) -> Option<Wanted> {
    let until_then = match cause.kind {
        Kind::NotACode | Kind::UnknownReference => "",
        Kind::NewTerm => "may become a new term",
        Kind::KeptOut => "kept out, as was decided",
        _ => return None,
    };
    let field = loaded.target.fields.get(cause.field?)?;
    field.kind.codes()?;
    Some(Wanted {
        field: field.name.clone(),
        label: field.label.clone().unwrap_or_default(),
        value: cause.value.clone()?,
        within: cause.within.clone(),
        rows: cause.rows,
        alone: cause.alone,
        source: loaded
            .sources
            .get(cause.source.index())
            .map_or_else(String::new, |source| source.name.clone()),
        row: cause.row.to_string(),
        until_then,
    })
}

fn as_json(one: &Wanted) -> serde_json::Value {
    json!({
        "field": one.field, "value": one.value, "within": one.within, "rows": one.rows,
        "rows_that_wait_for_nothing_else": one.alone, "source": one.source, "first_row": one.row,
        "until_then": one.until_then,
    })
}

fn shown(wanted: &[Wanted], out: Option<&Path>) -> Result<String, Failure> {
    let mut table =
        SimpleTable::new(&["field", "value", "within", "rows that wait", "for nothing else", "until then"]);
    for one in wanted {
        table.add([
            one.field.as_str(),
            &one.value,
            &one.within,
            &one.rows.to_string(),
            &one.alone.to_string(),
            one.until_then,
        ]);
    }
    let table = table.without_blank_columns().print(crate::args::TableFormat::Text)?;
    let values = counted(wanted.len() as u64, "value");
    let says = if wanted.len() == 1 { "waits" } else { "wait" };
    let next = match out {
        Some(out) => {
            let out = crate::show::shell_word(&out.display().to_string());
            format!(
                "\nwrote {out}, with a column for the code\nonce it is filled in: dusk crosswalk add --from {out}\n"
            )
        }
        None => "\nto hand it on: the same with -o wanted.csv\n".into(),
    };
    Ok(format!("{values} {says} for a code of the target's owner\n\n{table}{next}"))
}

/// The list for the owner, who fills in the codes; `dusk crosswalk add --from` reads it back.
fn write(wanted: &[Wanted], out: &Path) -> Result<(), Failure> {
    let stopped = |error: &dyn std::fmt::Display| Failure::Stopped(error.to_string());
    let mut writer = csv::Writer::from_writer(Vec::new());
    let header = ["field", "value", "within", "code", "note", "rows", "source", "first row"];
    writer.write_record(header).map_err(|error| stopped(&error))?;
    for one in wanted {
        let value = dusk_core::files::guarded(&one.value);
        let rows = one.rows.to_string();
        let cells = [&*one.field, &*value, &one.within, "", &one.label, &rows, &one.source, &one.row];
        writer.write_record(cells).map_err(|error| stopped(&error))?;
    }
    let bytes = writer.into_inner().map_err(|error| stopped(&error))?;
    Ok(write_whole(out, &bytes)?)
}
