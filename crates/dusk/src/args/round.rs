//! What `round` is given.

use std::path::PathBuf;

use clap::Args as ClapArgs;
use jiff::civil::Date;

use super::{Format, day, name_and_value};

/// What `round` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct RoundArgs {
    /// The round.
    #[arg(value_name = "ROUND", default_value = "round.toml")]
    pub(crate) round: PathBuf,

    /// Check every step that can be checked now, without writing anything.
    #[arg(long, conflicts_with = "make")]
    pub(crate) check: bool,

    /// Make the batch of every step that can be made now: the first one, or the rest of what the target refused.
    #[arg(long)]
    pub(crate) make: bool,

    /// A value that a mapping of the round asks for at every run.
    #[arg(long = "set", value_name = "NAME=VALUE", value_parser = name_and_value)]
    pub(crate) asked: Vec<(String, String)>,

    /// Who makes the batches; your user name where it is not given.
    #[arg(long, value_name = "NAME")]
    pub(crate) by: Option<String>,

    /// The day of the run, as yyyy-MM-dd; today's date where it is not given.
    #[arg(long, value_name = "DATE", value_parser = day)]
    pub(crate) today: Option<Date>,

    /// Write a page about the whole round as well.
    #[arg(long, value_name = "FILE")]
    pub(crate) report: Option<PathBuf>,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: Format,
}
