//! `dusk target export`: the description in an open standard.

use dusk_core::description::Target;
use dusk_core::files::write_whole;

use super::{Failure, Outcome, print};
use crate::args::{ExportArgs, Standard};
use crate::outcome::{Ended, print_standard_json};

pub(super) fn run(args: &ExportArgs) -> Outcome {
    let target = Target::read(&args.target)?;
    let metadata = match args.standard {
        Standard::Csvw => target.csvw(&args.file),
    };
    let mut text =
        serde_json::to_string_pretty(&metadata).map_err(|error| Failure::Stopped(error.to_string()))?;
    text.push('\n');
    match &args.out {
        Some(path) => {
            write_whole(path, text.as_bytes())?;
            print(&format!("{}: {} fields\n", path.display(), target.fields.len()))?;
        }
        None => print_standard_json(&metadata)?,
    }
    Ok(Ended::AllAccepted)
}
