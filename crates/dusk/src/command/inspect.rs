//! `dusk inspect`: what a file is and what has happened to it.

use std::path::Path;

use dusk_core::description::Target;
use dusk_core::files::write_whole;
use dusk_core::inspecting::{Agreement, Deviation, Inspection, agreement_of, first_rows, inspect, picture};
use dusk_core::mapping;
use dusk_core::mapping::learn_target;
use dusk_core::sources::{Known, Source, SourceSettings};
use dusk_core::values::nearest;
use serde_json::json;

use super::reading;
use crate::args::{Format, InspectArgs};
use crate::loaded::{opening, threads, today};
use crate::outcome::{Ended, Failure, Outcome, note, print, print_json};
use crate::report::inspected_page;
use crate::show::{Bar, Look, Opened, counted, shell_word, visible};

/// How every page begins.
const PAGE_BEGINS: &str = "<!DOCTYPE html>";

pub(super) fn run(args: &InspectArgs, quiet: bool) -> Outcome {
    args.page.as_deref().map_or(Ok(()), refuse_other_files)?;
    let (mut settings, mut target) = match &args.mapping {
        Some(path) => mapping::read_reading(path)?,
        None => (SourceSettings::default(), None),
    };
    if let Some(path) = &args.target {
        target = Some(Target::read(path)?);
    }
    reading::apply(&args.reading, &mut settings)?;
    let mut known = Known::default();
    if let Some(target) = &target {
        learn_target(&mut known, target);
    }
    let source = if args.source == Path::new("-") {
        let mut input = std::io::stdin().lock();
        Source::open_stream("standard input".into(), &mut input, &settings, &known, false)?
    } else {
        opening(&args.source, quiet, || Source::look(&args.source, &settings, &known))?
    };
    if let Some(path) = &args.agreed {
        return hold_against(path, &source, args);
    }
    if let Some(path) = &args.write_agreed {
        if path.exists() {
            return Err(Failure::Stopped(format!(
                "{} is there already\n  name another file, or take it away first",
                path.display()
            )));
        }
        write_whole(path, agreement_of(&source)?.as_bytes())?;
        print(&format!(
            "wrote {}\nread it over; then hold the next file against it: dusk inspect FILE --agreed {}\n",
            path.display(),
            shell_word(&path.display().to_string())
        ))?;
        return Ok(Ended::AllAccepted);
    }
    // What a large file is can be read while it is looked over.
    if args.column.is_none() && args.format == Format::Text {
        print(&Opened { source: &source, first_rows: &first_rows(&source)? }.to_string())?;
    }
    let bar = Bar::new(source.bytes, quiet);
    let inspection = inspect(
        &source,
        target.as_ref().map(|target| (target, today(args.today))),
        threads(),
        &bar.reader("inspecting"),
    )?;
    bar.done();
    let column = match &args.column {
        None => None,
        Some(name) => {
            let found = inspection.columns.iter().find(|column| column.name == *name);
            Some(found.ok_or_else(|| unknown_column(name, &source))?)
        }
    };
    match args.format {
        Format::Json => print_json(&json!({
            "form": 1,
            "file": source.name,
            "encoding": source.encoding.label(),
            "delimiter": source.dialect.delimiter(),
            "header_row": source.header_row,
            "workbook": source.workbook,
            "records": source.records,
            "evidence": source.evidence,
            "inspection": inspection,
        }))?,
        Format::Text => print(&Look { source: &source, inspection: &inspection, column }.to_string())?,
    }
    if let Some(path) = &args.page {
        write_page(path, &source, &inspection, quiet)?;
    }
    Ok(Ended::AllAccepted)
}

/// Draws the export, which takes a second walk through its rows.
fn write_page(path: &Path, source: &Source, inspection: &Inspection, quiet: bool) -> Result<(), Failure> {
    let bar = Bar::new(source.bytes, quiet);
    let picture = picture(source, inspection, &bar.reader("drawing"))?;
    bar.done();
    write_whole(path, inspected_page(source, inspection, &picture).as_bytes())?;
    note(&format!("the page is {}", path.display()));
    Ok(())
}

/// A page may be written anew; anything else that is there is somebody's.
fn refuse_other_files(path: &Path) -> Result<(), Failure> {
    use std::io::Read as _;
    let Ok(file) = std::fs::File::open(path) else { return Ok(()) };
    let mut begin = Vec::new();
    file.take(PAGE_BEGINS.len() as u64).read_to_end(&mut begin)?;
    if begin == PAGE_BEGINS.as_bytes() {
        return Ok(());
    }
    Err(Failure::Stopped(format!(
        "{} is there already, and is not a page\n  name another file behind --page",
        path.display()
    )))
}

/// Says what is not as it was agreed.
fn hold_against(path: &Path, source: &Source, args: &InspectArgs) -> Outcome {
    let agreement = Agreement::read(path)?;
    let file = (args.source != Path::new("-")).then_some(args.source.as_path());
    let found = agreement.deviations(source, file)?;
    match args.format {
        Format::Json => {
            let line = |one: &Deviation| json!({ "place": one.place, "says": one.says });
            print_json(&json!({
                "form": 1,
                "file": source.name,
                "agreed": path.display().to_string(),
                "deviations": found.iter().map(line).collect::<Vec<_>>(),
            }))?;
        }
        Format::Text if found.is_empty() => {
            print(&format!("{} is as {} has it\n", source.name, path.display()))?;
        }
        Format::Text => {
            let count = counted(found.len() as u64, "deviation");
            let lines: String = found
                .iter()
                .map(|one| format!("  {}: {}\n", visible(&one.place), visible(&one.says)))
                .collect();
            print(&format!("{} from what {} has: {count}\n{lines}", source.name, path.display()))?;
        }
    }
    Ok(if found.is_empty() { Ended::AllAccepted } else { Ended::SomeRejected })
}

fn unknown_column(name: &str, source: &Source) -> Failure {
    let hint = match nearest(name, source.columns.iter().map(String::as_str)) {
        Some(near) => format!("did you mean \"{near}\"?"),
        None => format!("its columns are {}", source.columns.join(", ")),
    };
    Failure::Stopped(format!("{} has no column \"{name}\"\n  {hint}", source.name))
}
