//! `dusk target`: the target's description.

mod ask;
mod blank;
mod check;
mod draft;
mod export;
mod show;

use crate::args::TargetCommand;
use crate::loaded::today;
use crate::outcome::{Failure, Outcome, print, print_json};

pub(super) fn run(command: &TargetCommand) -> Outcome {
    match command {
        TargetCommand::Draft(args) => draft::run(args),
        TargetCommand::Show(args) => show::run(args),
        TargetCommand::Blank(args) => blank::run(args),
        TargetCommand::Export(args) => export::run(args),
        TargetCommand::Check { target, format } => check::run(target, *format),
    }
}
