//! What is done with crosswalks.

use std::path::PathBuf;

use clap::{Args as ClapArgs, Subcommand};

use super::complete::{asked, codes, fields};
use super::{Format, MappingArgs, name_and_value};

/// What to do with crosswalks.
#[derive(Debug, Subcommand)]
pub(crate) enum CrosswalkCommand {
    /// Remember what a source value means: a code, nothing, or that its record is kept out.
    #[command(
        after_help = "Examples:\n  dusk crosswalk add queen_colour \"yel.\" Y --by \"A. Clerk\"\n  dusk crosswalk add frames n/a --leave-blank --note \"not counted\"\n  dusk crosswalk add visit_date \"last week\" --keep-out\n  dusk crosswalk add --from answers.csv"
    )]
    Add(AddArgs),
    /// List what is remembered.
    #[command(
        after_help = "Examples:\n  dusk crosswalk list\n  dusk crosswalk list queen_colour --format json"
    )]
    List {
        /// The field; every field where it is not given.
        field: Option<String>,
        #[command(flatten)]
        mapping: MappingArgs,
        /// How to print the result.
        #[arg(long, value_name = "FORMAT", default_value = "text")]
        format: Format,
    },
    /// Forget a translation.
    #[command(after_help = "Example:\n  dusk crosswalk remove queen_colour \"yel.\"")]
    Remove {
        /// The field.
        field: String,
        /// The value as the source has it.
        #[arg(allow_hyphen_values = true)]
        value: String,
        /// The translation inside this parent code.
        #[arg(long, value_name = "CODE", default_value = "")]
        within: String,
        #[command(flatten)]
        mapping: MappingArgs,
    },
    /// Look for lines that contradict the code list, go in a circle, or are never used.
    ///
    /// Exit status: 1 when a line is in doubt.
    #[command(
        after_help = "Examples:\n  dusk crosswalk check\n  dusk crosswalk check spring-2026.csv --set loaded_by=\"A. Clerk\""
    )]
    Check(CheckArgs),
}

/// What `crosswalk` is given: something to do, or that what waits for a code is wanted.
#[derive(Debug, ClapArgs)]
#[command(args_conflicts_with_subcommands = true, arg_required_else_help = true)]
pub(crate) struct CrosswalkArgs {
    #[command(subcommand)]
    pub(crate) command: Option<CrosswalkCommand>,

    /// List the values of these exports that no code stands for, with how many rows wait: a list for the target's owner.
    ///
    /// Exit status: 1 when a value waits.
    #[arg(long)]
    pub(crate) wanted: bool,

    #[command(flatten)]
    pub(crate) asked: WantedArgs,
}

/// What `crosswalk --wanted` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct WantedArgs {
    /// The exported files, with --wanted.
    #[arg(value_name = "SOURCE", requires = "wanted")]
    pub(crate) sources: Vec<PathBuf>,

    #[command(flatten)]
    pub(crate) mapping: MappingArgs,

    /// A value that the mapping asks for at every run.
    #[arg(long = "set", value_name = "NAME=VALUE", value_parser = name_and_value, add = asked())]
    pub(crate) asked: Vec<(String, String)>,

    /// Where the list goes, as a delimited file with a column for the code.
    #[arg(short, long, value_name = "FILE", requires = "wanted")]
    pub(crate) out: Option<PathBuf>,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: Format,
}

/// What is remembered.
#[derive(Debug, ClapArgs)]
pub(crate) struct AddArgs {
    /// The field; with --from it may stand in the file instead.
    #[arg(required_unless_present = "from", add = fields())]
    pub(crate) field: Option<String>,

    /// The value as the source has it; case and spaces do not count.
    #[arg(allow_hyphen_values = true, required_unless_present = "from")]
    pub(crate) value: Option<String>,

    /// The code that it means; for other fields the value as the target writes it.
    #[arg(allow_hyphen_values = true, required_unless_present_any = ["from", "leave_blank", "keep_out", "new_term"], add = codes())]
    pub(crate) code: Option<String>,

    /// The field stays blank.
    #[arg(long, conflicts_with_all = ["code", "keep_out"])]
    pub(crate) leave_blank: bool,

    /// The record is kept out.
    #[arg(long, conflicts_with = "code")]
    pub(crate) keep_out: bool,

    /// The value goes in as it is, as a new term of an open list; by whose leave is recorded.
    #[arg(long, conflicts_with_all = ["code", "leave_blank", "keep_out"])]
    pub(crate) new_term: bool,

    /// Remember every line of a delimited file with columns value and code, and where wanted field,
    /// within and note. Lines without a code are passed over.
    #[arg(long, value_name = "FILE", conflicts_with_all = ["value", "code", "leave_blank", "keep_out", "new_term", "within"])]
    pub(crate) from: Option<PathBuf>,

    /// Only inside this parent code.
    #[arg(long, value_name = "CODE")]
    pub(crate) within: Option<String>,

    /// Who decided; your user name where it is not given.
    #[arg(long, value_name = "NAME")]
    pub(crate) by: Option<String>,

    /// Why.
    #[arg(long, value_name = "TEXT", default_value = "")]
    pub(crate) note: String,

    #[command(flatten)]
    pub(crate) mapping: MappingArgs,
}

/// What crosswalks are checked against.
#[derive(Debug, ClapArgs)]
pub(crate) struct CheckArgs {
    /// Exported files: lines that none of their values needs are said as well.
    #[arg(value_name = "SOURCE")]
    pub(crate) sources: Vec<PathBuf>,

    #[command(flatten)]
    pub(crate) mapping: MappingArgs,

    /// A value that the mapping asks for at every run.
    #[arg(long = "set", value_name = "NAME=VALUE", value_parser = name_and_value, add = asked())]
    pub(crate) asked: Vec<(String, String)>,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: Format,
}
