//! What `correct` is given.

use std::path::PathBuf;

use clap::Args as ClapArgs;

use super::{Format, MappingArgs};

/// What `correct` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct CorrectArgs {
    /// An edited rejects.xlsx or rejects.csv to bring back, or a workbook that dusk compare --sign-off wrote; or the
    /// exported file.
    #[arg(value_name = "REJECTS|SOURCE")]
    pub(crate) file: PathBuf,

    /// The row of the exported file, as a spreadsheet program numbers it.
    #[arg(value_name = "ROW", requires = "what")]
    pub(crate) row: Option<u64>,

    /// The column, by its heading.
    #[arg(value_name = "COLUMN", group = "what")]
    pub(crate) column: Option<String>,

    /// What is to be read there; "" for nothing.
    #[arg(value_name = "VALUE", allow_hyphen_values = true)]
    pub(crate) value: Option<String>,

    /// Keep the whole row out: it is left out from now on, and the findings say who decided it.
    #[arg(long, requires = "row", group = "what")]
    pub(crate) keep_out: bool,

    /// Forget what was corrected in this cell, or that the row is kept out.
    #[arg(long, requires = "what", conflicts_with = "value")]
    pub(crate) forget: bool,

    /// Take back what was recorded of the last rejects that were brought back, all of it.
    #[arg(long, conflicts_with_all = ["row", "yes"])]
    pub(crate) undo: bool,

    /// Record what was changed without asking.
    #[arg(long, short)]
    pub(crate) yes: bool,

    /// Who decided; your user name where it is not given.
    #[arg(long, value_name = "NAME")]
    pub(crate) by: Option<String>,

    /// Why.
    #[arg(long, value_name = "TEXT", default_value = "")]
    pub(crate) note: String,

    #[command(flatten)]
    pub(crate) mapping: MappingArgs,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: Format,
}
