//! `dusk`: the program of Dusk Button. What it does is done by `dusk-core`; here are only the
//! command line and the terminal.

mod args;
mod choose;
mod command;
mod demo;
mod holding;
mod loaded;
mod outcome;
mod reader_process;
mod report;
#[cfg(feature = "review")]
mod review;
mod secrets;
mod show;

use std::ffi::OsString;
use std::process::ExitCode;

use clap::{CommandFactory as _, FromArgMatches as _};
use outcome::{Ended, Failure};

/// A workbook can be so damaged that the library which reads it panics, and a disk so full that the one which writes
/// it does. Either is reported as an error of that file and nothing else.
fn keep_quiet_about_workbooks() {
    let usual = std::panic::take_hook();
    std::panic::set_hook(Box::new(move |panic| {
        let is_reading = std::thread::current().name() == Some(dusk_core::sources::READING_THREAD);
        let is_writing = panic.location().is_some_and(|place| place.file().contains("rust_xlsxwriter"));
        if !is_reading && !is_writing {
            usual(panic);
        }
    }));
}

fn main() -> ExitCode {
    args::answer_a_shell();
    keep_quiet_about_workbooks();
    if let Some(ended) = reader_process::ran() {
        return ended;
    }
    reader_process::prepare();
    let mut words: Vec<OsString> = std::env::args_os().collect();
    if words.len() < 2 {
        // Whoever types nothing wants to know where they are.
        words.push("status".into());
    }
    if let Some(page) = command::help_about(&words) {
        return outcome::print(&page).map_or(ExitCode::from(2), |()| ExitCode::SUCCESS);
    }
    let matches = match args::Args::command().try_get_matches_from(words) {
        Ok(matches) => matches,
        // What was typed may hold anything.
        Err(wrong) if wrong.use_stderr() => {
            outcome::say(&wrong.render().to_string());
            return ExitCode::from(2);
        }
        Err(help) => help.exit(),
    };
    let mut args = args::Args::from_arg_matches(&matches).unwrap_or_else(|wrong| wrong.exit());
    args.colour.choose();
    if args.files_elsewhere {
        dusk_core::files::allow_files_elsewhere();
    }
    dusk_core::database::know_password(secrets::password);
    let ran = loaded::refuse_an_unset_clock()
        .and_then(|()| command::find_what_is_named(&mut args))
        .and_then(|()| choose::mapping(&mut args, &matches))
        .and_then(|()| command::run(&args));
    match ran {
        Ok(Ended::AllAccepted) => ExitCode::SUCCESS,
        Ok(Ended::SomeRejected) => ExitCode::from(1),
        Err(Failure::Stopped(error)) => {
            outcome::say(&format!("{}\n", show::failure(&error)));
            ExitCode::from(2)
        }
    }
}
