//! One file per command.

mod answer;
mod asking;
mod batches;
mod check;
mod compare;
mod conform;
mod correct;
mod crosswalk;
mod description;
mod explain;
mod history;
mod inspect;
mod lines_tried;
mod map;
mod reading;
mod review;
mod saved;
mod trial;
mod wanted;

use crate::args::{Args, Command};
use crate::outcome::{Failure, Outcome};

/// Finds the source in commands that name it in another way, before a mapping is chosen for it.
pub(crate) fn find_what_is_named(args: &mut Args) -> Result<(), Failure> {
    match &mut args.command {
        Command::Explain(explain) => explain::find_upload_line(explain),
        _ => Ok(()),
    }
}

/// Runs the command that was typed.
pub(crate) fn run(args: &Args) -> Outcome {
    match &args.command {
        Command::Demo(demo) => crate::demo::run(demo, args.colour),
        Command::Inspect(look) => inspect::run(look, args.quiet),
        Command::Map(map) => map::run(map, args.quiet),
        Command::Trial(trial) => trial::run(trial, args.quiet),
        Command::Check(job) => check::run(job, args.quiet),
        Command::Compare(compare) => compare::run(compare, args.quiet),
        Command::Conform(conform) => conform::run(conform, args.quiet),
        Command::Batches(batches) => batches::run(batches),
        Command::Explain(explain) => explain::run(explain, args.quiet),
        Command::Review(args_of) => review::run(args_of, args.quiet),
        Command::Correct(correct) => correct::run(correct, args.quiet),
        Command::Crosswalk(crosswalk) => crosswalk::run(crosswalk, args.quiet),
        Command::Target(target) => description::run(target),
    }
}
