//! A folder or an archive of exports in the place of a source.

use std::path::{Path, PathBuf};

use dusk_core::sources::sources_in;

use crate::args::{Command, CrosswalkArgs, CrosswalkCommand};
use crate::outcome::Failure;
use crate::show::shell_word;

/// Puts the exports of a folder or an archive in its place, for every command that takes several; the only one for those
/// that take one.
pub(super) fn find(command: &mut Command) -> Result<(), Failure> {
    match command {
        Command::Check(check) => spread(&mut check.job.sources),
        Command::Compare(compare) => spread(&mut compare.sources),
        Command::Conform(conform) => spread(&mut conform.job.sources),
        Command::Review(review) => spread(&mut review.sources),
        Command::Crosswalk(CrosswalkArgs { command: None, asked, .. }) => spread(&mut asked.sources),
        Command::Crosswalk(CrosswalkArgs { command: Some(CrosswalkCommand::Check(args)), .. }) => {
            spread(&mut args.sources)
        }
        Command::Trial(trial) => only(&mut trial.source),
        Command::Explain(explain) => only(&mut explain.source),
        Command::Inspect(inspect) => only(&mut inspect.source),
        Command::Start(start) => only(&mut start.export),
        Command::Map(map) => map.source.as_mut().map_or(Ok(()), only),
        _ => Ok(()),
    }
}

fn spread(sources: &mut Vec<PathBuf>) -> Result<(), Failure> {
    let mut all = Vec::new();
    for source in sources.drain(..) {
        match sources_in(&source)? {
            Some(inside) => all.extend(inside),
            None => all.push(source),
        }
    }
    *sources = all;
    Ok(())
}

fn only(source: &mut PathBuf) -> Result<(), Failure> {
    let Some(inside) = sources_in(source)? else { return Ok(()) };
    match inside.as_slice() {
        [one] => {
            source.clone_from(one);
            Ok(())
        }
        several => Err(Failure::Stopped(several_there(source, several))),
    }
}

fn several_there(source: &Path, several: &[PathBuf]) -> String {
    const SHOWN: usize = 12;
    let mut lines: Vec<String> = several
        .iter()
        .take(SHOWN)
        .map(|path| format!("    {}", shell_word(&path.display().to_string())))
        .collect();
    if several.len() > SHOWN {
        lines.push(format!("    and {} more", several.len() - SHOWN));
    }
    let count = several.len();
    format!(
        "{} has {count} exports in it, and this command takes one\n  name one of them:\n{}",
        source.display(),
        lines.join("\n")
    )
}
