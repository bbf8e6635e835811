//! `dusk target`: the target's description.

mod check;
mod draft;

use super::{Failure, Outcome, print, print_json};
use crate::args::TargetCommand;

pub(super) fn run(command: &TargetCommand) -> Outcome {
    match command {
        TargetCommand::Draft(args) => draft::run(args),
        TargetCommand::Check { target } => check::run(target),
    }
}
