//! How a command ends, and how its result is printed.

use std::io::{IsTerminal as _, Write as _};
use std::path::{Path, PathBuf};

use dusk_core::evidence::plain_reason;
use dusk_core::values::nearest;

use crate::show::{escaped_json, on_screen};

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
}

impl From<dusk_core::Error> for Failure {
    fn from(error: dusk_core::Error) -> Self {
        let hint = match &error {
            dusk_core::Error::File { path, cause, .. } if cause.kind() == std::io::ErrorKind::NotFound => {
                where_it_may_be(path)
            }
            _ => None,
        };
        let hint = hint.map_or_else(String::new, |hint| format!("\n  {hint}"));
        Self::Stopped(format!("{error}{hint}"))
    }
}

/// What to do about a path that leads nowhere: a file of nearly that name, or the command that writes one.
fn where_it_may_be(path: &Path) -> Option<String> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty());
    let stem = |path: &Path| path.file_stem().map(|stem| stem.to_string_lossy().into_owned());
    let alike = |other: &PathBuf| other.extension() == path.extension() && other.is_file();
    let entries = std::fs::read_dir(folder.unwrap_or(Path::new("."))).ok()?;
    let mut others: Vec<PathBuf> = entries.flatten().map(|entry| entry.path()).filter(alike).collect();
    others.sort();
    let stems: Vec<String> = others.iter().filter_map(|other| stem(other)).collect();
    if let Some(near) = nearest(&stem(path)?, stems.iter().map(String::as_str)) {
        let other = others.iter().find(|other| stem(other).as_deref() == Some(near))?;
        let near = folder
            .map_or(other.file_name()?.into(), |folder| folder.join(other.file_name().unwrap_or_default()));
        return Some(format!("did you mean {}?", near.display()));
    }
    match path.file_name()?.to_str()? {
        "mapping.toml" => Some("dusk map SOURCE -t target.toml writes one; -m names another".into()),
        "target.toml" => {
            Some("dusk target draft MATERIAL writes one, from what the target's owner supplied".into())
        }
        _ => None,
    }
}

impl From<String> for Failure {
    fn from(says: String) -> Self {
        Self::Stopped(says)
    }
}

impl From<std::io::Error> for Failure {
    fn from(error: std::io::Error) -> Self {
        Self::Stopped(plain_reason(&error))
    }
}

/// What a command comes to.
pub(crate) type Outcome = Result<Ended, Failure>;

/// Prints a result to standard output, without colours where nobody would see them. Whoever reads it may have gone, as
/// `head` does: what was done is done all the same, and the exit status says how it ended.
pub(crate) fn print(text: &str) -> Result<(), Failure> {
    write_out(&on_screen(text, &std::io::stdout()))
}

/// Prints what programs read, to the letter; on a terminal nothing in it acts.
pub(crate) fn print_data(text: &str) -> Result<(), Failure> {
    if std::io::stdout().is_terminal() { print(text) } else { write_out(text) }
}

fn write_out(text: &str) -> Result<(), Failure> {
    let mut out = std::io::stdout().lock();
    match out.write_all(text.as_bytes()).and_then(|()| out.flush()) {
        Err(error) if error.kind() == std::io::ErrorKind::BrokenPipe => Ok(()),
        Err(error) => {
            Err(Failure::Stopped(format!("the result cannot be printed: {}", plain_reason(&error))))
        }
        Ok(()) => Ok(()),
    }
}

/// The number of the form of results that have not changed theirs. It goes up when a key changes its meaning or goes away
/// (docs/results.md).
pub(crate) const FORM: u32 = 1;

/// Prints a result for programs. An object tells the number of its form, where it does not do so already.
pub(crate) fn print_json(value: &impl serde::Serialize) -> Result<(), Failure> {
    let mut value = serde_json::to_value(value).map_err(|error| Failure::Stopped(error.to_string()))?;
    if let Some(object) = value.as_object_mut() {
        object.entry("form").or_insert_with(|| FORM.into());
    }
    print_standard_json(&value)
}

/// Prints JSON that has a standard of its own, to the letter.
pub(crate) fn print_standard_json(value: &serde_json::Value) -> Result<(), Failure> {
    let json = serde_json::to_string_pretty(value).map_err(|error| Failure::Stopped(error.to_string()))?;
    write_out(&format!("{}\n", escaped_json(&json)))
}

/// Says something on standard error, in one piece.
pub(crate) fn say(text: &str) {
    // Where even standard error is gone, there is nobody left to tell.
    let _ = std::io::stderr().write_all(on_screen(text, &std::io::stderr()).as_bytes());
}

/// Says a remark that no result depends on.
pub(crate) fn note(says: &str) {
    say(&format!("note: {says}\n"));
}
