//! What the commands about the target's description are given.

use std::path::PathBuf;

use clap::{Args as ClapArgs, Subcommand, ValueEnum};
use jiff::civil::Date;

use super::complete::fields;
use super::{Format, TableFormat, day};
/// What to do with the target's description.
#[derive(Debug, Subcommand)]
pub(crate) enum TargetCommand {
    /// Draft the description from what the target's owner supplied: dictionaries, code lists,
    /// templates, accepted files.
    ///
    /// Behind each line of the draft stands where it was drawn from. What two materials say differently,
    /// and what is only a likely reading, is listed to be settled. Drafting again over an edited
    /// description keeps the edits and says what the material changed.
    #[command(
        after_help = "Examples:\n  dusk target draft dictionary.xlsx template.csv -o target.toml\n  dusk target draft dictionary.csv codes.csv accepted.csv -o register/target.toml --name \"The register\"\n  dusk target draft dictionary.xlsx template.csv --ask"
    )]
    Draft(DraftArgs),
    /// Show the fields as people print them, one field in depth, or where a word stands.
    #[command(
        after_help = "Examples:\n  dusk target show\n  dusk target show district\n  dusk target show --find honey\n  dusk target show --format markdown\n  dusk target show --format html > fields.html"
    )]
    Show(ShowArgs),
    /// Write a template to fill in: a workbook with drop-down lists and notes, or a file laid out
    /// exactly as the upload.
    ///
    /// Every cell of the workbook is text, so that no spreadsheet program takes zeros or dates for
    /// something else.
    #[command(
        after_help = "Examples:\n  dusk target blank -o blank.xlsx\n  dusk target blank -o blank.csv\n  dusk target blank -o corrections.xlsx --rows held.csv --across"
    )]
    Blank(BlankArgs),
    /// Write the description in an open standard.
    #[command(
        after_help = "Examples:\n  dusk target export --as csvw\n  dusk target export --as csvw -o inspections.csv-metadata.json --file inspections.csv"
    )]
    Export(ExportArgs),
    /// Check the description itself and its code lists.
    #[command(after_help = "Examples:\n  dusk target check\n  dusk target check drafted/target.toml")]
    Check {
        /// The description.
        #[arg(value_name = "TARGET", default_value = "target.toml")]
        target: PathBuf,

        /// How to print the result.
        #[arg(long, value_name = "FORMAT", default_value = "text")]
        format: Format,
    },
}

/// What `target draft` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct DraftArgs {
    /// What the target's owner supplied, in any mix.
    #[arg(value_name = "MATERIAL", required = true)]
    pub(crate) materials: Vec<PathBuf>,

    /// Where the description goes; its code lists go into a folder "codes" beside it.
    #[arg(short, long, value_name = "FILE", default_value = "target.toml")]
    pub(crate) out: PathBuf,

    /// What the target is called.
    #[arg(long, value_name = "TEXT")]
    pub(crate) name: Option<String>,

    /// Which table, where the materials describe several.
    #[arg(long, value_name = "NAME")]
    pub(crate) table: Option<String>,

    /// Ask what is to be settled one by one, and write each answer into the description once it was tried.
    #[arg(long, conflicts_with = "format")]
    pub(crate) ask: bool,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: Format,
}

/// What `target show` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct ShowArgs {
    /// One field in depth, with its codes; every field where it is not given.
    #[arg(value_name = "FIELD", conflicts_with = "find", add = fields())]
    pub(crate) field: Option<String>,

    /// The description.
    #[arg(short, long, value_name = "FILE", default_value = "target.toml")]
    pub(crate) target: PathBuf,

    /// Where a word stands: in names, labels, descriptions, codes and their labels.
    #[arg(long, value_name = "WORD")]
    pub(crate) find: Option<String>,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: TableFormat,
}

/// What `target export` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct ExportArgs {
    /// The standard.
    #[arg(long = "as", value_name = "STANDARD")]
    pub(crate) standard: Standard,

    /// The description.
    #[arg(short, long, value_name = "FILE", default_value = "target.toml")]
    pub(crate) target: PathBuf,

    /// Where it goes, beside the description, so that the code lists are found; standard output where it
    /// is not given.
    #[arg(short, long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,

    /// The name of the file that is described.
    #[arg(long, value_name = "NAME", default_value = "upload.csv")]
    pub(crate) file: String,
}

/// An open standard for descriptions of tables.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum Standard {
    /// W3C metadata for tabular data on the Web.
    Csvw,
}

/// What `target blank` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct BlankArgs {
    /// The description.
    #[arg(short, long, value_name = "FILE", default_value = "target.toml")]
    pub(crate) target: PathBuf,

    /// The template to write; a name ending in .xlsx makes a workbook, any other a delimited file.
    #[arg(short, long, value_name = "FILE", default_value = "blank.xlsx")]
    pub(crate) out: PathBuf,

    /// Fill the template with the rows of this file, found by the fields' names and labels; with what [holds] names
    /// where no file is given.
    #[arg(long, value_name = "FILE", num_args = 0..=1)]
    pub(crate) rows: Option<Option<PathBuf>>,

    /// Lay the records across the columns instead of down the rows.
    #[arg(long)]
    pub(crate) across: bool,

    /// The day from which codes that are no longer valid are left out of the drop-down lists.
    #[arg(long, value_name = "DATE", value_parser = day)]
    pub(crate) today: Option<Date>,
}
