//! `dusk completions` and `dusk man`: what shells and the manual are given.

use std::path::Path;

use clap::CommandFactory as _;
use dusk_core::files::write_whole;

use crate::args::{Args, registration};
use crate::outcome::{Ended, Failure, Outcome, print, print_data};
use crate::show::counted;

pub(super) fn completions(shell: &str) -> Outcome {
    let lines = registration(shell)
        .ok_or_else(|| Failure::Stopped(format!("there are no completions for the shell {shell}")))?;
    print_data(&lines)?;
    Ok(Ended::AllAccepted)
}

/// Writes a page for each command.
pub(super) fn manual(folder: &Path) -> Outcome {
    std::fs::create_dir_all(folder).map_err(dusk_core::Error::writing(folder))?;
    let mut written = 0;
    let mut command = Args::command();
    command.build();
    pages(&command, folder, &mut written)?;
    print(&format!("{}: {}\n", folder.display(), counted(written, "page")))?;
    Ok(Ended::AllAccepted)
}

fn pages(command: &clap::Command, folder: &Path, written: &mut u64) -> Result<(), Failure> {
    let page = clap_mangen::Man::new(command.clone().disable_help_subcommand(true));
    let mut bytes = Vec::new();
    page.render(&mut bytes)?;
    write_whole(&folder.join(page.get_filename()), &bytes)?;
    *written += 1;
    let below = command.get_subcommands().filter(|below| below.get_name() != "help");
    below.into_iter().try_for_each(|below| pages(below, folder, written))
}
