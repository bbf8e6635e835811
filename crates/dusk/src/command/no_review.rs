//! `dusk review`, in a build that has no screen for it.

use crate::args::ReviewArgs;
use crate::outcome::{Failure, Outcome};
use crate::show::shell_word;

/// Says what to do instead.
pub(super) fn run(args: &ReviewArgs, _: bool) -> Outcome {
    let source = args.sources.first().map_or_else(String::new, |path| path.display().to_string());
    Err(Failure::Stopped(format!(
        "this build of dusk has no review screen\n  build it with --features review; without it: dusk check {} lists the causes with the command that settles each",
        shell_word(&source)
    )))
}
