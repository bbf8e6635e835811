//! `dusk`: the program of Dusk Button. What it does is done by `dusk-core`; here are only the
//! command line and the terminal.

mod args;
mod command;
mod demo;
mod outcome;
mod show;

use std::io::Write as _;
use std::process::ExitCode;

use clap::Parser as _;
use outcome::{Ended, Failure};

fn main() -> ExitCode {
    let args = args::Args::parse();
    args.colour.choose();
    match command::run(&args) {
        Ok(Ended::AllAccepted) => ExitCode::SUCCESS,
        Ok(Ended::SomeRejected) => ExitCode::from(1),
        Err(Failure::ReaderGone) => ExitCode::SUCCESS,
        Err(Failure::Stopped(error)) => {
            // Where even standard error is gone, there is nobody left to tell.
            let _ = writeln!(anstream::stderr(), "{}", show::failure(&error));
            ExitCode::from(2)
        }
    }
}
