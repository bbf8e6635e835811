//! `cargo xtask test`: runs every test, with a PostgreSQL server of its own beside them.
//! `cargo xtask dist`: makes what is handed out: an archive, a Debian package, and their hashes.
//!
//! The server is found on this machine, or installed with the system's package manager. It runs in a temporary folder,
//! on this machine's own address alone, as a user without rights, and ends with the tests.

mod dist;
mod server;

use std::io::Write as _;
use std::process::{Command, ExitCode};

use server::Server;

/// The address of the server, where the tests look for it.
const ADDRESS: &str = "DUSK_TEST_POSTGRES";

const HELP: &str =
    "cargo xtask test [ARGUMENTS]   runs cargo test --workspace --locked with a PostgreSQL server beside it
cargo xtask dist [--quick]     makes an archive and a Debian package with a static binary in target/dist;
                               --quick builds with little optimisation, to try the packages themselves
";

fn main() -> ExitCode {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    match arguments.split_first() {
        Some((task, rest)) if task == "test" => test(rest),
        Some((task, rest)) if task == "dist" && rest.iter().all(|word| word == "--quick") => {
            match dist::make(!rest.is_empty()) {
                Ok(made) => {
                    made.iter().for_each(|file| say(&format!("made {}\n", file.display())));
                    ExitCode::SUCCESS
                }
                Err(why) => {
                    say(&format!("{why}\n"));
                    ExitCode::FAILURE
                }
            }
        }
        _ => {
            say(HELP);
            ExitCode::from(2)
        }
    }
}

fn test(arguments: &[String]) -> ExitCode {
    let server = match Server::start() {
        Ok(server) => server,
        Err(why) => {
            say(&format!("the tests need a PostgreSQL server, and none could be started: {why}\n"));
            return ExitCode::from(2);
        }
    };
    let status = Command::new(env!("CARGO"))
        .args(["test", "--workspace", "--locked"])
        .args(arguments)
        .env(ADDRESS, server.address())
        .status();
    drop(server);
    match status {
        Ok(status) if status.success() => ExitCode::SUCCESS,
        Ok(_) => ExitCode::FAILURE,
        Err(error) => {
            say(&format!("cargo could not be run: {error}\n"));
            ExitCode::FAILURE
        }
    }
}

fn say(text: &str) {
    let _ = std::io::stderr().write_all(text.as_bytes());
}
