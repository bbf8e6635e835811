//! How a source is read, and what `map` is given.

use std::path::PathBuf;

use clap::Args as ClapArgs;
use jiff::civil::Date;

use super::{Format, day, name_and_value};
/// How a source is read, where that is known.
#[derive(Debug, Clone, Default, ClapArgs)]
pub(crate) struct ReadingArgs {
    /// The sheet of a workbook, by its name or its number.
    #[arg(long, value_name = "SHEET")]
    pub(crate) sheet: Option<String>,

    /// The encoding, where it is known.
    #[arg(long, value_name = "LABEL")]
    pub(crate) encoding: Option<String>,

    /// The delimiter, where it is known; \t is a tab.
    #[arg(long, value_name = "TEXT")]
    pub(crate) delimiter: Option<String>,

    /// What stands around a quoted cell, where it is known; "" where nothing is quoted.
    #[arg(long, value_name = "TEXT")]
    pub(crate) quote: Option<String>,

    /// What stands for a line break inside a cell.
    #[arg(long, value_name = "TEXT")]
    pub(crate) line_break: Option<String>,

    /// The row that holds the headings, where it is known; 0 where there is none.
    #[arg(long, value_name = "ROW")]
    pub(crate) header_row: Option<u64>,

    /// How many rows the headings take.
    #[arg(long, value_name = "ROWS")]
    pub(crate) header_rows: Option<u64>,

    /// The list of a file of records of which each item is a row, as crossings.crew.
    #[arg(long, value_name = "PATH")]
    pub(crate) each: Option<String>,

    /// A column of fixed-width text, as "1-6 Apiary No"; given again for each column.
    #[arg(long = "position", value_name = "FROM-TO NAME")]
    pub(crate) positions: Vec<String>,
}

/// What `map` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct MapArgs {
    /// The exported file.
    #[arg(value_name = "SOURCE", required_unless_present_any = ["list", "rename", "remove"])]
    pub(crate) source: Option<PathBuf>,

    /// List the mappings that are saved here: for which target, which exports they fit, and when each was used
    /// last. With SOURCE, whether they fit that one, and if not, why.
    #[arg(long, conflicts_with_all = ["ask", "show", "rename", "remove"])]
    pub(crate) list: bool,

    /// Give a saved mapping another name. What it was used for stays known.
    #[arg(long, num_args = 2, value_names = ["OLD", "NEW"], conflicts_with_all = ["source", "ask", "show", "remove"])]
    pub(crate) rename: Option<Vec<String>>,

    /// Put a saved mapping aside, into the folder removed/, where no command takes it any more.
    #[arg(long, value_name = "NAME", conflicts_with_all = ["source", "ask", "show"])]
    pub(crate) remove: Option<String>,

    /// The target's description, for a new mapping; target.toml where it is not given.
    #[arg(short, long, value_name = "FILE")]
    pub(crate) target: Option<PathBuf>,

    /// The mapping to write or to refresh; where it is not named, the one here whose headings fit.
    #[arg(short, long, value_name = "FILE", default_value = "mapping.toml")]
    pub(crate) mapping: PathBuf,

    /// Walk through what is not decided, question by question.
    #[arg(long, conflicts_with = "show")]
    pub(crate) ask: bool,

    /// Write nothing: show the mapping as it is, field by field, with a value before and after.
    #[arg(long)]
    pub(crate) show: bool,

    /// With --show: a value that the mapping asks for at every run.
    #[arg(long = "set", value_name = "NAME=VALUE", value_parser = name_and_value)]
    pub(crate) asked: Vec<(String, String)>,

    #[command(flatten)]
    pub(crate) reading: ReadingArgs,

    /// The day that "today" means in the target, as yyyy-MM-dd; today's date where it is not given.
    #[arg(long, value_name = "DATE", value_parser = day)]
    pub(crate) today: Option<Date>,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: Format,
}
