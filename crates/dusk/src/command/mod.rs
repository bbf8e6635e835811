//! One file per command.

mod answer;
mod approve;
mod asking;
mod batches;
mod carrier;
mod check;
mod compare;
mod confirm;
mod conform;
mod correct;
mod crosswalk;
mod deliver;
mod description;
mod dropped;
mod explain;
mod follow_up;
mod help;
mod helpers;
mod history;
mod inspect;
mod kinds;
mod lines_tried;
mod map;
mod named;
#[cfg(not(feature = "review"))]
mod no_review;
mod practice;
mod reading;
mod reply;
mod rest;
#[cfg(feature = "review")]
mod review;
mod round;
mod saved;
mod several;
mod start;
mod status;
mod trial;
mod wanted;

#[cfg(not(feature = "review"))]
use no_review as review;

pub(crate) use help::help_about;
pub(crate) use status::{ExportState, FolderState};

use crate::args::{Args, CheckJobArgs, Command, ConformArgs};
use crate::outcome::{Failure, Outcome};

/// Finds the source in commands that name it in another way, before a mapping is chosen for it.
pub(crate) fn find_what_is_named(args: &mut Args) -> Result<(), Failure> {
    several::find(&mut args.command)?;
    match &mut args.command {
        Command::Explain(explain) => explain::find_upload_line(explain),
        Command::Check(CheckJobArgs { job, .. }) => {
            rest::find_sources(&job.rest, &mut job.sources, &mut job.run)
        }
        Command::Conform(ConformArgs { job, .. }) => {
            rest::find_sources(&job.rest, &mut job.sources, &mut job.run)
        }
        Command::Review(review) => rest::find_sources(&review.rest, &mut review.sources, &mut review.run),
        _ => Ok(()),
    }
}

/// Runs the command that was typed.
pub(crate) fn run(args: &Args) -> Outcome {
    match &args.command {
        Command::Demo(demo) => crate::demo::run(demo, args.colour),
        Command::Start(start) => start::run(start, args.quiet),
        Command::Status(args_of) => status::run(args_of),
        Command::Inspect(look) => inspect::run(look, args.quiet),
        Command::Map(map) => map::run(map, args.quiet),
        Command::Trial(trial) => trial::run(trial, args.quiet),
        Command::Check(check) if check.job.kinds => kinds::check(check, args.quiet),
        Command::Check(check) => check::run(check, args.quiet),
        Command::Compare(compare) => compare::run(compare, args.quiet),
        Command::Conform(conform) if conform.job.kinds => kinds::conform(conform, args.quiet),
        Command::Conform(conform) => conform::run(conform, args.quiet),
        Command::Approve(args_of) => approve::run_approve(args_of),
        Command::TurnDown(args_of) => approve::run_turn_down(args_of),
        Command::Deliver(args_of) => deliver::run(args_of, args.quiet),
        Command::Answer(args_of) => answer::run(args_of),
        Command::Round(args_of) => round::run(args_of, args.quiet),
        Command::FollowUp(args_of) => follow_up::run(args_of, args.quiet),
        Command::Practice(args_of) => practice::run(args_of),
        Command::Batches(batches) => batches::run(batches),
        Command::Explain(explain) => explain::run(explain, args.quiet),
        Command::Review(args_of) => review::run(args_of, args.quiet),
        Command::Correct(correct) => correct::run(correct, args.quiet),
        Command::Crosswalk(crosswalk) => crosswalk::run(crosswalk, args.quiet),
        Command::Target(target) => description::run(target),
        Command::Completions { shell } => helpers::completions(shell),
        Command::Man { folder } => helpers::manual(folder),
    }
}
