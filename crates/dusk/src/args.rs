//! The command line as it is typed.

use std::path::PathBuf;

use clap::{Args as ClapArgs, Parser, Subcommand, ValueEnum};
use jiff::civil::Date;

/// Make an exported table fit the template that a target system demands, prove that it fits, and
/// see what does not.
///
/// Exit status: 0 when everything was accepted, 1 when something was rejected or differs, 2 when
/// it could not be done.
#[derive(Debug, Parser)]
#[command(name = "dusk", version, propagate_version = true, max_term_width = 100)]
pub(crate) struct Args {
    /// What to do.
    #[command(subcommand)]
    pub(crate) command: Command,

    /// When to use colours; NO_COLOR is obeyed as well.
    #[arg(long, global = true, value_name = "WHEN", default_value = "auto")]
    pub(crate) colour: Colour,

    /// Print results only: no progress, no remarks.
    #[arg(long, short, global = true)]
    pub(crate) quiet: bool,
}

/// What to do.
#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Write the demo data and run the whole job on it, showing each command.
    #[command(after_help = "Example:\n  dusk demo my-demo")]
    Demo(DemoArgs),

    /// What this file is and what has happened to it, with evidence.
    #[command(
        after_help = "Examples:\n  dusk inspect spring-2026.csv\n  dusk inspect spring-2026.csv --target target.toml --column Date\n  dusk inspect autumn-2026.xlsx --sheet Inspections --format json"
    )]
    Inspect(InspectArgs),

    /// Propose which column feeds which field, with the reasons, and write or refresh the mapping.
    ///
    /// What is sure is written, what is likely is written as comments to uncomment, and the rest is
    /// listed. What stands in the mapping already is never changed.
    #[command(
        after_help = "Examples:\n  dusk map spring-2026.csv -t target.toml\n  dusk map spring-2026.csv --ask\n  dusk map spring-2026.csv --show"
    )]
    Map(MapArgs),

    /// The dozen telling rows, before and after.
    ///
    /// They are chosen so that together they show every shape of value, every kind of change and every
    /// cause, the row that shows most first.
    #[command(
        after_help = "Examples:\n  dusk trial spring-2026.csv --set loaded_by=\"A. Clerk\"\n  dusk trial spring-2026.csv -n 5 --set loaded_by=\"A. Clerk\"\n  dusk trial spring-2026.csv --rows 17,44-50 --set loaded_by=\"A. Clerk\" -o trial.csv"
    )]
    Trial(TrialArgs),

    /// Run the whole job without writing anything: totals and causes.
    #[command(
        after_help = "Examples:\n  dusk check spring-2026.csv --set loaded_by=\"A. Clerk\"\n  dusk check spring-2026.csv --set loaded_by=\"A. Clerk\" --format json"
    )]
    Check(JobArgs),

    /// Run the whole job and write a batch: upload files, rejects, findings, changes, receipt.
    #[command(
        after_help = "Examples:\n  dusk conform spring-2026.csv --set loaded_by=\"A. Clerk\"\n  dusk conform spring-2026.csv --set loaded_by=\"A. Clerk\" --again"
    )]
    Conform(ConformArgs),

    /// List the batches that were made, and whether their files are as they were written.
    #[command(
        after_help = "Examples:\n  dusk batches\n  dusk batches show 2026-04-30-a",
        args_conflicts_with_subcommands = true
    )]
    Batches(BatchesArgs),

    /// Show the life of one row or one cell: what it was, each step, what it became, what was found.
    #[command(
        after_help = "Examples:\n  dusk explain spring-2026.csv 17 --set loaded_by=\"A. Clerk\"\n  dusk explain spring-2026.csv 17 visit_date --set loaded_by=\"A. Clerk\""
    )]
    Explain(ExplainArgs),

    /// Remembered translations: this source value means that code.
    #[command(subcommand)]
    Crosswalk(CrosswalkCommand),

    /// The target's description.
    #[command(subcommand)]
    Target(TargetCommand),
}

/// Where the demo goes.
#[derive(Debug, ClapArgs)]
pub(crate) struct DemoArgs {
    /// The folder for the demo data; it must not be there yet.
    #[arg(value_name = "DIR", default_value = "dusk-demo")]
    pub(crate) folder: PathBuf,

    /// The seed of the made-up data; the same seed makes the same data.
    #[arg(long, value_name = "NUMBER", default_value_t = 2026)]
    pub(crate) seed: u64,
}

/// What `inspect` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct InspectArgs {
    /// The exported file; "-" is standard input.
    #[arg(value_name = "SOURCE")]
    pub(crate) source: PathBuf,

    /// The target's description: its words are evidence for the encoding, its fields are named.
    #[arg(short, long, value_name = "FILE")]
    pub(crate) target: Option<PathBuf>,

    /// A mapping: the file is read as it says under [source], for the target that it names.
    #[arg(short, long, value_name = "FILE")]
    pub(crate) mapping: Option<PathBuf>,

    /// One column in depth.
    #[arg(long, value_name = "NAME")]
    pub(crate) column: Option<String>,

    #[command(flatten)]
    pub(crate) reading: ReadingArgs,

    /// The day that "today" means in the target, as yyyy-MM-dd; today's date where it is not given.
    #[arg(long, value_name = "DATE")]
    pub(crate) today: Option<Date>,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: Format,
}

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

    /// The row that holds the headings, where it is known.
    #[arg(long, value_name = "ROW")]
    pub(crate) header_row: Option<u64>,
}

/// What `map` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct MapArgs {
    /// The exported file.
    #[arg(value_name = "SOURCE")]
    pub(crate) source: PathBuf,

    /// The target's description, for a new mapping; target.toml where it is not given.
    #[arg(short, long, value_name = "FILE")]
    pub(crate) target: Option<PathBuf>,

    /// The mapping to write or to refresh.
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
    #[arg(long, value_name = "DATE")]
    pub(crate) today: Option<Date>,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: Format,
}

/// Which mapping.
#[derive(Debug, Clone, ClapArgs)]
pub(crate) struct MappingArgs {
    /// The mapping.
    #[arg(short, long, value_name = "FILE", default_value = "mapping.toml")]
    pub(crate) mapping: PathBuf,

    /// The day of the run, as yyyy-MM-dd; today's date where it is not given.
    #[arg(long, value_name = "DATE")]
    pub(crate) today: Option<Date>,
}

/// What a run is given.
#[derive(Debug, Clone, ClapArgs)]
pub(crate) struct JobArgs {
    /// The exported files, which together make one batch; "-" is standard input.
    #[arg(value_name = "SOURCE", required = true)]
    pub(crate) sources: Vec<PathBuf>,

    #[command(flatten)]
    pub(crate) run: RunArgs,

    /// List every cause, not only the largest.
    #[arg(long)]
    pub(crate) all_causes: bool,
}

/// What every run is given beside its sources.
#[derive(Debug, Clone, ClapArgs)]
pub(crate) struct RunArgs {
    #[command(flatten)]
    pub(crate) mapping: MappingArgs,

    /// A value that the mapping asks for at every run.
    #[arg(long = "set", value_name = "NAME=VALUE", value_parser = name_and_value)]
    pub(crate) asked: Vec<(String, String)>,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: Format,
}

/// What `conform` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct ConformArgs {
    #[command(flatten)]
    pub(crate) job: JobArgs,

    /// The batch folder to make; batches/DATE-a (or -b, -c …) where it is not given.
    #[arg(short, long, value_name = "FOLDER")]
    pub(crate) out: Option<PathBuf>,

    /// Make the batch of this source again: the one that has it is put aside.
    #[arg(long)]
    pub(crate) again: bool,

    /// Who makes it; your user name where it is not given.
    #[arg(long, value_name = "NAME")]
    pub(crate) by: Option<String>,
}

/// What `batches` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct BatchesArgs {
    #[command(subcommand)]
    pub(crate) command: Option<BatchesCommand>,

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
    Show {
        /// The batch, by its name or its folder.
        batch: String,
    },
}

/// What `explain` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct ExplainArgs {
    /// The exported file; "-" is standard input.
    #[arg(value_name = "SOURCE")]
    pub(crate) source: PathBuf,

    /// The row as a spreadsheet program numbers it.
    #[arg(value_name = "ROW")]
    pub(crate) row: u64,

    /// The field; every field where it is not given.
    #[arg(value_name = "FIELD")]
    pub(crate) field: Option<String>,

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
}

/// Rows by their numbers, from the first to the last of each range.
#[derive(Debug, Clone)]
pub(crate) struct RowRanges(pub(crate) Vec<(u64, u64)>);

/// What to do with crosswalks.
#[derive(Debug, Subcommand)]
pub(crate) enum CrosswalkCommand {
    /// Remember that a source value means a code.
    #[command(after_help = "Example:\n  dusk crosswalk add queen_colour \"yel.\" Y --by \"A. Clerk\"")]
    Add {
        /// The field.
        field: String,
        /// The value as the source has it; case and spaces do not count.
        #[arg(allow_hyphen_values = true)]
        value: String,
        /// The code that it means.
        code: String,
        /// Only inside this parent code.
        #[arg(long, value_name = "CODE")]
        within: Option<String>,
        /// Who decided; your user name where it is not given.
        #[arg(long, value_name = "NAME")]
        by: Option<String>,
        /// Why.
        #[arg(long, value_name = "TEXT", default_value = "")]
        note: String,
        #[command(flatten)]
        mapping: MappingArgs,
    },
    /// List what is remembered.
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
}

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
        after_help = "Examples:\n  dusk target draft dictionary.xlsx template.csv -o target.toml\n  dusk target draft dictionary.csv codes.csv accepted.csv -o register/target.toml --name \"The register\""
    )]
    Draft(DraftArgs),
    /// Show the fields as people print them, one field in depth, or where a word stands.
    #[command(
        after_help = "Examples:\n  dusk target show\n  dusk target show district\n  dusk target show --find honey\n  dusk target show --format markdown"
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
    Check {
        /// The description.
        #[arg(value_name = "TARGET", default_value = "target.toml")]
        target: PathBuf,
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

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: Format,
}

/// What `target show` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct ShowArgs {
    /// One field in depth, with its codes; every field where it is not given.
    #[arg(value_name = "FIELD", conflicts_with = "find")]
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

    /// A file whose rows fill the template; its columns are found by the fields' names and labels.
    #[arg(long, value_name = "FILE")]
    pub(crate) rows: Option<PathBuf>,

    /// Lay the records across the columns instead of down the rows.
    #[arg(long)]
    pub(crate) across: bool,

    /// The day from which codes that are no longer valid are left out of the drop-down lists.
    #[arg(long, value_name = "DATE")]
    pub(crate) today: Option<Date>,
}

/// How to print a table.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum TableFormat {
    /// For people.
    Text,
    /// For documents.
    Markdown,
    /// For spreadsheet programs.
    Csv,
    /// For programs.
    Json,
}

/// How to print a result.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum Format {
    /// For people.
    Text,
    /// For programs.
    Json,
}

/// When to use colours.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum Colour {
    /// On a terminal.
    Auto,
    /// Always.
    Always,
    /// Never.
    Never,
}

impl Colour {
    /// The words that ask another run of the program for the same.
    pub(crate) fn words(self) -> [&'static str; 2] {
        let word = match self {
            Self::Auto => "auto",
            Self::Always => "always",
            Self::Never => "never",
        };
        ["--colour", word]
    }

    /// Makes this choice hold for everything that is printed.
    pub(crate) fn choose(self) {
        match self {
            Self::Auto => anstream::ColorChoice::Auto,
            Self::Always => anstream::ColorChoice::Always,
            Self::Never => anstream::ColorChoice::Never,
        }
        .write_global();
    }
}

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

fn name_and_value(text: &str) -> Result<(String, String), String> {
    match text.split_once('=') {
        Some((name, value)) if !name.trim().is_empty() => Ok((name.trim().to_owned(), value.to_owned())),
        _ => Err("write NAME=VALUE, for example loaded_by=\"A. Clerk\"".into()),
    }
}

#[cfg(test)]
mod tests {
    use clap::CommandFactory as _;

    #[test]
    fn every_argument_is_well_formed_and_explained() {
        let command = super::Args::command().help_expected(true);
        command.debug_assert();
    }
}
