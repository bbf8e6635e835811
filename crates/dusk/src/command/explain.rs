//! `dusk explain`: the life of one row or one cell.

use dusk_core::evidence::{Row, SourceId};
use dusk_core::run::explain;
use dusk_core::values::nearest;

use crate::args::{ExplainArgs, Format};
use crate::loaded::Loaded;
use crate::outcome::{Ended, Failure, Outcome, print, print_json};
use crate::show::{Bar, Life, life_json};

pub(super) fn run(args: &ExplainArgs, quiet: bool) -> Outcome {
    let loaded = Loaded::read(&args.run, [args.source.as_path()], quiet)?;
    let field = match &args.field {
        None => None,
        Some(name) => Some(loaded.target.field(name).ok_or_else(|| unknown_field(name, &loaded))?),
    };
    let job = loaded.job();
    let bar = Bar::new(loaded.bytes(), quiet);
    let (ready, explanation) = job.work_with_open_dates(&bar.reader("weighing evidence"), |ready| {
        explain(ready, SourceId::FIRST, Row(args.row), &bar.reader("reading"))
    })?;
    bar.done();
    match args.run.format {
        Format::Json => print_json(&life_json(&ready, &explanation, field))?,
        Format::Text => print(&Life { ready: &ready, explanation: &explanation, field }.to_string())?,
    }
    Ok(Ended::AllAccepted)
}

fn unknown_field(name: &str, loaded: &Loaded) -> Failure {
    let names: Vec<&str> = loaded.target.fields.iter().map(|field| field.name.as_str()).collect();
    let hint = match nearest(name, names.iter().copied()) {
        Some(near) => format!("did you mean \"{near}\"?"),
        None => format!("its fields are {}", names.join(", ")),
    };
    Failure::Stopped(format!("the target has no field \"{name}\"\n  {hint}"))
}
