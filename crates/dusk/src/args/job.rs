//! What the commands are given that run the job, and those about what it made.

use std::path::PathBuf;

use clap::{Args as ClapArgs, Subcommand};

use jiff::civil::Date;

use super::complete::{asked, batches, fields, fields_to_set};
use super::{Format, MappingArgs, day, name_and_value};

/// What a run is given.
#[derive(Debug, Clone, ClapArgs)]
pub(crate) struct JobArgs {
    /// The exported files, which together make one batch; "-" is standard input.
    #[arg(value_name = "SOURCE", required_unless_present = "rest")]
    pub(crate) sources: Vec<PathBuf>,

    #[command(flatten)]
    pub(crate) run: RunArgs,

    #[command(flatten)]
    pub(crate) rest: RestArgs,

    /// Each row by the mapping that takes it: every mapping here that fits the export is run, and each row has to belong
    /// to one of them.
    #[arg(long, conflicts_with_all = ["rest", "mapping"])]
    pub(crate) kinds: bool,

    /// List every cause, not only the largest.
    #[arg(long)]
    pub(crate) all_causes: bool,

    /// Tell on what evidence the exports are read as they are.
    #[arg(long)]
    pub(crate) evidence: bool,

    /// Say what a field comes to in the records that are sent: the sum, the first and last day, how many have each
    /// code. May be given several times; a batch's receipt has all fields.
    #[arg(long = "total", value_name = "FIELD", add = fields())]
    pub(crate) totals: Vec<String>,
}

/// What a run is given that goes on where batches before it ended.
#[derive(Debug, Clone, Default, ClapArgs)]
pub(crate) struct RestArgs {
    /// Only the rest of a batch: what it has not sent, and what the target refused and was mended since. The
    /// exports are those of the batch where none is named.
    #[arg(long, value_name = "BATCH", add = batches())]
    pub(crate) rest: Option<String>,

    /// Send also what was sent before and of which nobody knows whether it was loaded. It may be there twice then.
    #[arg(long, requires = "rest")]
    pub(crate) with_unknown: bool,

    /// Send again as they are records of which the target says this, since the reason is not their own. May be given
    /// several times; retry in [answer] says so for good.
    #[arg(long, value_name = "TEXT", requires = "rest")]
    pub(crate) retry: Vec<String>,
}

/// What every run is given beside its sources.
#[derive(Debug, Clone, ClapArgs)]
pub(crate) struct RunArgs {
    #[command(flatten)]
    pub(crate) mapping: MappingArgs,

    /// A value that the mapping asks for at every run.
    #[arg(long = "set", value_name = "NAME=VALUE", value_parser = name_and_value, add = asked())]
    pub(crate) asked: Vec<(String, String)>,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: Format,
}

/// What `check` is given.
#[derive(Debug, Clone, ClapArgs)]
pub(crate) struct CheckJobArgs {
    #[command(flatten)]
    pub(crate) job: JobArgs,

    /// Where a limit over all records is passed: write which records would have to be left out, in the order that
    /// target.toml names, as a list to be agreed to; dusk correct brings it back.
    #[arg(long, value_name = "FILE")]
    pub(crate) leave_out_list: Option<PathBuf>,
}

/// What `conform` is given.
#[derive(Debug, Clone, ClapArgs)]
pub(crate) struct ConformArgs {
    #[command(flatten)]
    pub(crate) job: JobArgs,

    /// The batch folder to make; batches/DATE-a (or -b, -c …) where it is not given.
    #[arg(short, long, value_name = "FOLDER", conflicts_with = "kinds")]
    pub(crate) out: Option<PathBuf>,

    /// Make the batch of this source again: the one that has it is put aside.
    #[arg(long, conflicts_with = "rest")]
    pub(crate) again: bool,

    /// Send only so many rows first, those that together show the most; --rest sends the others later.
    #[arg(short = 'n', value_name = "NUMBER", value_parser = at_least_one)]
    pub(crate) number: Option<usize>,

    /// Send only the first so many rows; --rest sends the others later.
    #[arg(long, value_name = "NUMBER", conflicts_with = "number", value_parser = at_least_one)]
    pub(crate) first: Option<usize>,

    /// So many records that are gone may be removed from the target, more than target.toml allows by itself.
    #[arg(long, value_name = "NUMBER")]
    pub(crate) remove: Option<u64>,

    /// Who makes it; your user name where it is not given.
    #[arg(long, value_name = "NAME")]
    pub(crate) by: Option<String>,

    /// Write a page about each group as well, where split_by divides the upload: what was sent of it, and what was
    /// rejected and why.
    #[arg(long, conflicts_with = "no_values")]
    pub(crate) group_pages: bool,

    /// Tell no value of the data in report.html and on the screen, so that both can be handed on; no name
    /// that may be made of one either.
    #[arg(long)]
    pub(crate) no_values: bool,
}

/// What `status` is given.
#[derive(Debug, Clone, ClapArgs)]
pub(crate) struct StatusArgs {
    /// The folder; the one where the program runs, where none is named.
    #[arg(value_name = "FOLDER")]
    pub(crate) folder: Option<PathBuf>,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: Format,
}

/// What `compare` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct CompareArgs {
    /// The exported files, which together are compared; "-" is standard input.
    #[arg(value_name = "SOURCE", required = true)]
    pub(crate) sources: Vec<PathBuf>,

    #[command(flatten)]
    pub(crate) run: RunArgs,

    /// List records that the target does not hold.
    #[arg(long)]
    pub(crate) new: bool,

    /// List records that the target holds otherwise.
    #[arg(long)]
    pub(crate) changed: bool,

    /// List records that the target holds as they are.
    #[arg(long)]
    pub(crate) same: bool,

    /// List records that the target holds and this export does not have.
    #[arg(long)]
    pub(crate) gone: bool,

    /// List changes of this field only.
    #[arg(long, value_name = "NAME", add = fields())]
    pub(crate) field: Option<String>,

    /// How many records are shown.
    #[arg(short = 'n', value_name = "NUMBER", default_value_t = 12, value_parser = at_least_one)]
    pub(crate) number: usize,

    /// Write a workbook instead, in which somebody says yes or no to each record; dusk correct brings it back.
    #[arg(long, value_name = "FILE", conflicts_with = "format")]
    pub(crate) sign_off: Option<PathBuf>,
}

/// What `review` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct ReviewArgs {
    /// The exported files, which together make one batch.
    #[arg(value_name = "SOURCE", required_unless_present = "rest")]
    pub(crate) sources: Vec<PathBuf>,

    #[command(flatten)]
    pub(crate) run: RunArgs,

    #[command(flatten)]
    pub(crate) rest: RestArgs,

    /// Who decides; your user name where it is not given.
    #[arg(long, value_name = "NAME")]
    pub(crate) by: Option<String>,
}

/// What `batches` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct BatchesArgs {
    #[command(subcommand)]
    pub(crate) command: Option<BatchesCommand>,

    /// List what every batch did with the record that has this key, or a part of it.
    #[arg(long, value_name = "KEY")]
    pub(crate) key: Option<String>,

    #[command(flatten)]
    pub(crate) mapping: BatchesMapping,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text", global = true)]
    pub(crate) format: Format,
}

/// Whose batches.
#[derive(Debug, Clone, ClapArgs)]
pub(crate) struct BatchesMapping {
    /// The mapping; its batches stand in a folder "batches" beside it.
    #[arg(short, long, value_name = "FILE", default_value = "mapping.toml", global = true)]
    pub(crate) mapping: PathBuf,
}

/// What to do with batches.
#[derive(Debug, Subcommand)]
pub(crate) enum BatchesCommand {
    /// Show the receipt of one of them, and whether its files are as they were written.
    #[command(after_help = "Example:\n  dusk batches show 2026-04-30-a")]
    Show {
        /// The batch, by its name or its folder.
        #[arg(add = batches())]
        batch: String,
    },

    /// Hold what the target says of what it has against a batch: its counts and sums, or its list.
    ///
    /// Where nothing is given, what [holds] in target.toml names is compared, record by record. Exit status: 1 when
    /// something differs or is unknown.
    #[command(
        after_help = "Examples:\n  dusk batches confirm 2026-04-30-a --loaded 823\n  dusk batches confirm 2026-04-30-a --loaded 811 --refused 12 --sum honey_kg=12345.6"
    )]
    Confirm(ConfirmArgs),
}

/// What `batches confirm` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct ConfirmArgs {
    /// The batch, by its name or its folder.
    #[arg(value_name = "BATCH", add = batches())]
    pub(crate) batch: String,

    /// How many records the target says that it loaded.
    #[arg(long, value_name = "NUMBER")]
    pub(crate) loaded: Option<u64>,

    /// How many it says that it refused.
    #[arg(long, value_name = "NUMBER")]
    pub(crate) refused: Option<u64>,

    /// What the numbers of a field come to in what it loaded. May be given several times.
    #[arg(long = "sum", value_name = "FIELD=NUMBER", value_parser = name_and_value, add = fields_to_set())]
    pub(crate) sums: Vec<(String, String)>,

    /// Who does it; your user name where it is not given.
    #[arg(long, value_name = "NAME")]
    pub(crate) by: Option<String>,

    /// The day, as yyyy-MM-dd; the moment of the machine's clock where it is not given.
    #[arg(long, value_name = "DATE", value_parser = day)]
    pub(crate) today: Option<Date>,
}

/// What `explain` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct ExplainArgs {
    /// The exported file ("-" is standard input); or a line of an upload file, as "up.csv:14".
    #[arg(value_name = "SOURCE")]
    pub(crate) source: PathBuf,

    /// The row as a spreadsheet program numbers it, or the key of its record.
    #[arg(value_name = "ROW")]
    pub(crate) row: Option<String>,

    /// The field; every field where it is not given.
    #[arg(value_name = "FIELD", add = fields())]
    pub(crate) field: Option<String>,

    /// The key of the record, where it looks like the number of a row.
    #[arg(long, value_name = "KEY")]
    pub(crate) key: Option<String>,

    #[command(flatten)]
    pub(crate) run: RunArgs,
}

/// What `trial` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct TrialArgs {
    /// The exported file; "-" is standard input.
    #[arg(value_name = "SOURCE")]
    pub(crate) source: PathBuf,

    /// How many telling rows at most.
    #[arg(short = 'n', value_name = "NUMBER", default_value_t = 12, value_parser = at_least_one)]
    pub(crate) number: usize,

    /// These rows instead, as 17,44-50.
    #[arg(long, value_name = "ROWS", conflicts_with_all = ["number", "first"], value_parser = rows)]
    pub(crate) rows: Option<RowRanges>,

    /// The first rows instead.
    #[arg(long, value_name = "NUMBER", conflicts_with = "number", value_parser = at_least_one)]
    pub(crate) first: Option<usize>,

    #[command(flatten)]
    pub(crate) run: RunArgs,

    /// Write the rows that are accepted as a small upload, to test the target with: a file, or a
    /// folder that is there.
    #[arg(short, long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,

    /// Print the upload of these rows exactly as it is written, with marks, blanks and line ends made visible.
    #[arg(long, conflicts_with = "out")]
    pub(crate) as_file: bool,

    /// Hold the beginning of the upload against the owner's own file: the byte order mark, the headings, the line ends.
    #[arg(long, value_name = "FILE", requires = "as_file")]
    pub(crate) beside: Option<PathBuf>,
}

/// Rows by their numbers, from the first to the last of each range.
#[derive(Debug, Clone)]
pub(crate) struct RowRanges(pub(crate) Vec<(u64, u64)>);

fn at_least_one(text: &str) -> Result<usize, String> {
    text.parse().ok().filter(|number| *number > 0).ok_or_else(|| "write a number, 1 or more".into())
}

fn rows(text: &str) -> Result<RowRanges, String> {
    let range = |part: &str| {
        let (first, last) = part.split_once('-').unwrap_or((part, part));
        let (first, last) = (first.trim().parse().ok()?, last.trim().parse().ok()?);
        (first <= last).then_some((first, last))
    };
    let ranges: Option<Vec<(u64, u64)>> = text.split(',').map(range).collect();
    ranges.map(RowRanges).ok_or_else(|| "write rows and ranges of rows, for example 17,44-50".into())
}
