//! What the guided start is given.

use std::path::PathBuf;

use clap::Args as ClapArgs;
use jiff::civil::Date;

use super::complete::asked;
use super::{day, name_and_value};

/// What `start` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct StartArgs {
    /// The exported file.
    #[arg(value_name = "EXPORT")]
    pub(crate) export: PathBuf,

    /// What says what the target takes: a data dictionary, a template, code lists, an accepted file. It is asked for
    /// where none is named and no target is described here.
    #[arg(value_name = "MATERIAL")]
    pub(crate) materials: Vec<PathBuf>,

    /// The target's description: the one to write, or one that is there.
    #[arg(short, long, value_name = "FILE", default_value = "target.toml")]
    pub(crate) target: PathBuf,

    /// The mapping to write, or one that is there; where it is not named, the one here whose headings fit.
    #[arg(short, long, value_name = "FILE", default_value = "mapping.toml")]
    pub(crate) mapping: PathBuf,

    /// A value that the mapping asks for at every run; it is asked for where it is not given.
    #[arg(long = "set", value_name = "NAME=VALUE", value_parser = name_and_value, add = asked())]
    pub(crate) asked: Vec<(String, String)>,

    /// The day of the run, as yyyy-MM-dd; today's date where it is not given.
    #[arg(long, value_name = "DATE", value_parser = day)]
    pub(crate) today: Option<Date>,
}
