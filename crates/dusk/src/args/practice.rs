//! What `practice` is given.

use std::path::PathBuf;

use clap::Args as ClapArgs;
use dusk_core::practice::{Behaviour, OwnRule};

/// What `practice` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct PracticeArgs {
    /// The description of the target that it stands in for.
    #[arg(value_name = "TARGET", default_value = "target.toml")]
    pub(crate) target: PathBuf,

    /// The folder in which it keeps what it holds, as held.csv.
    #[arg(long, value_name = "FOLDER", default_value = "practice")]
    pub(crate) state: PathBuf,

    /// The port of this machine on which it takes files by HTTP; that of url in [delivery] where it is not given.
    #[arg(long, value_name = "PORT")]
    pub(crate) port: Option<u16>,

    /// Take what is in the drop folder now, and end.
    #[arg(long)]
    pub(crate) once: bool,

    /// Refuse records whose column has this value, and say this of them. May be given several times.
    #[arg(long, value_name = "COLUMN=VALUE: TEXT", value_parser = OwnRule::parse)]
    pub(crate) refuse: Vec<OwnRule>,

    /// Load records whose column has this value with a warning. May be given several times.
    #[arg(long, value_name = "COLUMN=VALUE: TEXT", value_parser = OwnRule::parse)]
    pub(crate) warn: Vec<OwnRule>,

    /// How it behaves: prompt, queued, all-or-nothing, breaks-off, loads-and-breaks-off or breaks-off-first.
    #[arg(long, value_name = "MANNER", default_value = "prompt", value_parser = behaviour)]
    pub(crate) behave: Behaviour,

    /// Mention only what is refused or warned about, and count the rest.
    #[arg(long)]
    pub(crate) mention_few: bool,

    /// Write over records that it holds already, instead of refusing them.
    #[arg(long)]
    pub(crate) overwrite: bool,

    /// How long it takes over a file, in seconds.
    #[arg(long, value_name = "SECONDS", default_value_t = 0)]
    pub(crate) wait: u64,
}

fn behaviour(word: &str) -> Result<Behaviour, String> {
    let words = Behaviour::WORDS.map(|(word, _)| word);
    let found = Behaviour::WORDS.iter().find(|(known, _)| *known == word);
    found.map(|(_, behaviour)| *behaviour).ok_or_else(|| format!("write one of {}", words.join(", ")))
}
