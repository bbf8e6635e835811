//! How a command ends, and how its result is printed.

use std::io::Write as _;

/// How a command ended, as its exit status.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Ended {
    /// Everything was accepted, or done as asked.
    AllAccepted,
    /// Something was rejected, or differs.
    SomeRejected,
}

/// Why a command did not end as it should.
#[derive(Debug)]
pub(crate) enum Failure {
    /// It could not be done.
    Stopped(String),
    /// Whoever read the output has gone, as `head` does; there is nothing to say.
    ReaderGone,
}

impl From<dusk_core::Error> for Failure {
    fn from(error: dusk_core::Error) -> Self {
        Self::Stopped(error.to_string())
    }
}

impl From<std::io::Error> for Failure {
    fn from(error: std::io::Error) -> Self {
        match error.kind() {
            std::io::ErrorKind::BrokenPipe => Self::ReaderGone,
            _ => Self::Stopped(format!("the result cannot be printed: {error}")),
        }
    }
}

/// What a command comes to.
pub(crate) type Outcome = Result<Ended, Failure>;

/// Prints a result to standard output, without colours where nobody would see them.
pub(crate) fn print(text: &str) -> Result<(), Failure> {
    let mut out = anstream::stdout().lock();
    out.write_all(text.as_bytes())?;
    out.flush()?;
    Ok(())
}

/// Prints a result for programs.
pub(crate) fn print_json(value: &impl serde::Serialize) -> Result<(), Failure> {
    let json = serde_json::to_string_pretty(value).map_err(|error| Failure::Stopped(error.to_string()))?;
    print(&format!("{json}\n"))
}
