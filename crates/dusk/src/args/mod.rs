//! The command line as it is typed.

mod after;
mod complete;
mod correct;
mod crosswalk;
mod job;
mod map;
mod practice;
mod round;
mod start;
mod target;

use std::path::PathBuf;

use clap::{Args as ClapArgs, Parser, Subcommand, ValueEnum};
use jiff::civil::Date;

pub(crate) use after::{AnswerArgs, ApproveArgs, BatchArgs, DeliverArgs, FollowUpArgs, TurnDownArgs};
pub(crate) use complete::{answer_a_shell, registration};
pub(crate) use correct::CorrectArgs;
pub(crate) use crosswalk::{AddArgs, CheckArgs, CrosswalkArgs, CrosswalkCommand, WantedArgs};
pub(crate) use job::{
    BatchesArgs, BatchesCommand, CheckJobArgs, CompareArgs, ConfirmArgs, ConformArgs, ExplainArgs, JobArgs,
    RestArgs, ReviewArgs, RunArgs, StatusArgs, TrialArgs,
};
pub(crate) use map::{MapArgs, ReadingArgs};
pub(crate) use practice::PracticeArgs;
pub(crate) use round::RoundArgs;
pub(crate) use start::StartArgs;
pub(crate) use target::{BlankArgs, DraftArgs, ExportArgs, ShowArgs, Standard, TargetCommand};

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

    /// Let descriptions and mappings name files outside of their own folders.
    #[arg(long, global = true)]
    pub(crate) files_elsewhere: bool,

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

    /// From an export to a first batch: asks what it needs, one question after another.
    ///
    /// Each step is a command, which is shown and run, so that exactly the files are left that the commands
    /// write. What is answered is kept; run it again to go on, or with the next month's export.
    ///
    /// Exit status: 1 when something is not decided yet, or was rejected.
    #[command(
        after_help = "Examples:\n  dusk start spring-2026.csv dictionary.csv template.csv\n  dusk start spring-2026.csv --set loaded_by=\"A. Clerk\""
    )]
    Start(StartArgs),

    /// What is in a folder: target, mappings, exports, batches; and the command that comes next.
    ///
    /// It is run where no command is typed.
    #[command(after_help = "Examples:\n  dusk status\n  dusk status exports/2026 --format json")]
    Status(StatusArgs),

    /// What this file is and what has happened to it, with evidence.
    #[command(
        after_help = "Examples:\n  dusk inspect spring-2026.csv\n  dusk inspect spring-2026.csv --target target.toml --column Date\n  dusk inspect autumn-2026.xlsx --sheet Inspections --format json\n  dusk inspect spring-2026.csv --page spring-2026.html\n  dusk inspect spring-2026.csv --write-agreed agreed.toml\n  dusk inspect summer-2026.csv --agreed agreed.toml"
    )]
    Inspect(InspectArgs),

    /// Propose which column feeds which field, with the reasons, and write or refresh the mapping.
    ///
    /// Several mappings may be saved in a folder. Where -m names none, every command takes the one whose
    /// headings fit the export, and says so; where several fit, it asks.
    ///
    /// What is sure is written, what is likely is written as comments to uncomment, and the rest is
    /// listed. What stands in the mapping already is never changed.
    #[command(
        after_help = "Examples:\n  dusk map spring-2026.csv -t target.toml\n  dusk map spring-2026.csv --ask\n  dusk map spring-2026.csv --show\n  dusk map --list\n  dusk map --list spring-2026.csv\n  dusk map --rename autumn.toml workbook.toml"
    )]
    Map(MapArgs),

    /// The dozen telling rows, before and after.
    ///
    /// They are chosen so that together they show every shape of value, every kind of change and every
    /// cause, the row that shows most first.
    #[command(
        after_help = "Examples:\n  dusk trial spring-2026.csv --set loaded_by=\"A. Clerk\"\n  dusk trial spring-2026.csv -n 5 --set loaded_by=\"A. Clerk\"\n  dusk trial spring-2026.csv --rows 17,44-50 --set loaded_by=\"A. Clerk\" -o trial.csv\n  dusk trial spring-2026.csv --set loaded_by=\"A. Clerk\" --as-file"
    )]
    Trial(TrialArgs),

    /// Run the whole job without writing anything: totals and causes.
    #[command(
        after_help = "Examples:\n  dusk check spring-2026.csv --set loaded_by=\"A. Clerk\"\n  dusk check spring-2026.csv --set loaded_by=\"A. Clerk\" --format json\n  dusk check spring-2026.csv --kinds --set loaded_by=\"A. Clerk\""
    )]
    Check(CheckJobArgs),

    /// Hold an export against what the target holds: new, changed (old beside new), same, gone.
    ///
    /// What the target holds is what [holds] in target.toml names. Exit status: 1 when something differs.
    #[command(
        after_help = "Examples:\n  dusk compare spring-2026.csv --set loaded_by=\"A. Clerk\"\n  dusk compare spring-2026.csv --set loaded_by=\"A. Clerk\" --field honey_kg\n  dusk compare spring-2026.csv --set loaded_by=\"A. Clerk\" --sign-off agreed.xlsx"
    )]
    Compare(CompareArgs),

    /// Run the whole job and write a batch: upload files, rejects, findings, changes, receipt.
    #[command(
        after_help = "Examples:\n  dusk conform spring-2026.csv --set loaded_by=\"A. Clerk\"\n  dusk conform spring-2026.csv --set loaded_by=\"A. Clerk\" --again\n  dusk conform spring-2026.csv --set loaded_by=\"A. Clerk\" --again -n 12\n  dusk conform --rest 2026-04-30-a"
    )]
    Conform(ConformArgs),

    /// Say that a batch may go: who, when, and for which files.
    #[command(after_help = "Example:\n  dusk approve 2026-04-30-a --note \"read over with B. Keeper\"")]
    Approve(ApproveArgs),

    /// Say that a batch may not go, and why.
    #[command(after_help = "Example:\n  dusk turn-down 2026-04-30-a --why \"honey is in pounds\"")]
    TurnDown(TurnDownArgs),

    /// Hand a batch's upload files over to the target, once, however often it is run.
    ///
    /// How is what [delivery] in target.toml says: a folder from which the target takes files, or a server. Exit
    /// status: 1 when a file was not handed over, or nobody knows.
    #[command(after_help = "Example:\n  dusk deliver 2026-04-30-a")]
    Deliver(DeliverArgs),

    /// Read what the target said of a batch: loaded, loaded with a warning, refused.
    ///
    /// What it does not mention is unknown, and never taken for loaded. Exit status: 1 when something was refused or is
    /// unknown.
    #[command(
        after_help = "Examples:\n  dusk answer 2026-04-30-a\n  dusk answer 2026-04-30-a answer.csv --look --replace\n  dusk answer --draft answer.csv"
    )]
    Answer(AnswerArgs),

    /// A small upload about all records that a batch has sent: a field set, or the records removed.
    #[command(
        after_help = "Examples:\n  dusk follow-up 2026-04-30-a --field remarks=\"checked in May\"\n  dusk follow-up 2026-08-31-a --remove -m apiaries/mapping.toml"
    )]
    FollowUp(FollowUpArgs),

    /// Mappings that belong together, parents before children: how far each has come, or all of them made in order.
    ///
    /// Exit status: 1 while the round is not complete, or where something was rejected.
    #[command(
        after_help = "Examples:\n  dusk round\n  dusk round --check --set loaded_by=\"A. Clerk\"\n  dusk round --make --set loaded_by=\"A. Clerk\" --report round.html"
    )]
    Round(RoundArgs),

    /// Stand in for the target: take upload files from its drop folder, or by HTTP on this machine, and answer.
    ///
    /// What it refuses, how it answers and when it breaks off is yours to say; what it holds is in practice/held.csv.
    #[command(
        after_help = "Examples:\n  dusk practice --once --refuse \"queen_colour=Y: this colour is not used any more\"\n  dusk practice --once --behave all-or-nothing --state another-target"
    )]
    Practice(PracticeArgs),

    /// List the batches that were made, and whether their files are as they were written.
    #[command(
        after_help = "Examples:\n  dusk batches\n  dusk batches show 2026-04-30-a\n  dusk batches --key \"000463 + C1 + 2026-02-10\"",
        args_conflicts_with_subcommands = true
    )]
    Batches(BatchesArgs),

    /// Show the life of one row or one cell: what it was, each step, what it became, what was found.
    #[command(
        after_help = "Examples:\n  dusk explain spring-2026.csv 17 --set loaded_by=\"A. Clerk\"\n  dusk explain spring-2026.csv 17 visit_date --set loaded_by=\"A. Clerk\"\n  dusk explain spring-2026.csv \"000463 + C1 + 2026-02-10\" --set loaded_by=\"A. Clerk\"\n  dusk explain inspections-2026-04-30-a-1.csv:14 --set loaded_by=\"A. Clerk\""
    )]
    Explain(ExplainArgs),

    /// Settle causes and mend cells on one screen; everything is saved at once.
    #[command(after_help = "Example:\n  dusk review spring-2026.csv --set loaded_by=\"A. Clerk\"")]
    Review(ReviewArgs),

    /// Bring edited rejects back, or correct one cell. The source itself is never written to.
    ///
    /// What was changed is shown, old beside new, and recorded in corrections/ beside the mapping. It is found
    /// again next month by what the row holds.
    #[command(
        override_usage = "dusk correct [OPTIONS] <REJECTS>\n       dusk correct [OPTIONS] <SOURCE> [<ROW> <COLUMN> <VALUE>]\n       dusk correct [OPTIONS] <SOURCE> <ROW> --keep-out",
        after_help = "Examples:\n  dusk correct batches/2026-04-30-a/rejects.xlsx\n  dusk correct spring-2026.csv 17 \"Honey (lb)\" 20 --note \"asked the keeper\"\n  dusk correct spring-2026.csv 17 \"Honey (lb)\" --forget\n  dusk correct spring-2026.csv 269 --keep-out --note \"entered twice\"\n  dusk correct spring-2026.csv"
    )]
    Correct(CorrectArgs),

    /// Remembered translations: this source value means that code.
    #[command(
        after_help = "Examples:\n  dusk crosswalk add queen_colour \"yel.\" Y\n  dusk crosswalk --wanted spring-2026.csv --set loaded_by=\"A. Clerk\"\n  dusk crosswalk --wanted spring-2026.csv --set loaded_by=\"A. Clerk\" -o wanted.csv"
    )]
    Crosswalk(CrosswalkArgs),

    /// The target's description.
    #[command(subcommand)]
    Target(TargetCommand),

    /// Print what makes a shell complete commands, fields, codes and batches.
    #[command(
        after_help = "Examples:\n  dusk completions bash > dusk.bash\n  source <(dusk completions bash)"
    )]
    Completions {
        /// The shell.
        #[arg(value_name = "SHELL", value_parser = complete::shells())]
        shell: String,
    },

    /// Write the manual, a page for each command, for the program "man".
    #[command(after_help = "Example:\n  dusk man manual")]
    Man {
        /// The folder for the pages.
        #[arg(value_name = "FOLDER")]
        folder: PathBuf,
    },
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

    /// Hold the file against what was agreed of it beforehand, and say each deviation with its place.
    ///
    /// Exit status: 1 when something is not as it was agreed.
    #[arg(long, value_name = "FILE", conflicts_with_all = ["column", "target"])]
    pub(crate) agreed: Option<PathBuf>,

    /// Write what this file is as an agreement for the next ones, to be read over and changed.
    #[arg(long, value_name = "FILE", conflicts_with_all = ["column", "agreed", "format"])]
    pub(crate) write_agreed: Option<PathBuf>,

    /// Write a page as well: a picture of each column, damage where it lies, and what needs a decision.
    #[arg(long, value_name = "FILE", conflicts_with_all = ["column", "agreed", "write_agreed"])]
    pub(crate) page: Option<PathBuf>,

    #[command(flatten)]
    pub(crate) reading: ReadingArgs,

    /// The day that "today" means in the target, as yyyy-MM-dd; today's date where it is not given.
    #[arg(long, value_name = "DATE", value_parser = day)]
    pub(crate) today: Option<Date>,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: Format,
}

/// Which mapping.
#[derive(Debug, Clone, ClapArgs)]
pub(crate) struct MappingArgs {
    /// The mapping; where it is not named, the one here whose headings fit the export.
    #[arg(short, long, value_name = "FILE", default_value = "mapping.toml")]
    pub(crate) mapping: PathBuf,

    /// The day of the run, as yyyy-MM-dd; today's date where it is not given.
    #[arg(long, value_name = "DATE", value_parser = day)]
    pub(crate) today: Option<Date>,
}

/// How to print a table.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum TableFormat {
    /// For people.
    Text,
    /// For documents.
    Markdown,
    /// For paper: a page of its own.
    Html,
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

/// A day, as the files of this program write one.
pub(super) fn day(text: &str) -> Result<Date, String> {
    text.parse().map_err(|_| "write a day of the calendar as yyyy-MM-dd, for example 2026-04-30".into())
}

pub(super) fn name_and_value(text: &str) -> Result<(String, String), String> {
    match text.split_once('=') {
        Some((name, value)) if !name.trim().is_empty() => Ok((name.trim().to_owned(), value.to_owned())),
        _ => Err("write NAME=VALUE, for example loaded_by=\"A. Clerk\"".into()),
    }
}

/// What a command needs a mapping for, where -m does not name it.
pub(crate) struct ForMapping<'a> {
    /// Where the mapping goes.
    pub(crate) mapping: &'a mut PathBuf,
    /// The exports that it has to fit.
    pub(crate) sources: Vec<PathBuf>,
    /// A new mapping may be made.
    pub(crate) may_be_new: bool,
}

impl Command {
    /// Whether every mapping here that fits is meant, and not one of them.
    pub(crate) fn takes_every_mapping(&self) -> bool {
        match self {
            Self::Check(check) => check.job.kinds,
            Self::Conform(conform) => conform.job.kinds,
            _ => false,
        }
    }

    /// The mapping of this command, and what it has to fit; nothing where it takes none, or none of its own.
    pub(crate) fn for_mapping(&mut self) -> Option<ForMapping<'_>> {
        let (mapping, sources) = match self {
            Self::Check(check) => (&mut check.job.run.mapping.mapping, check.job.sources.clone()),
            Self::Compare(compare) => (&mut compare.run.mapping.mapping, compare.sources.clone()),
            Self::Conform(conform) => (&mut conform.job.run.mapping.mapping, conform.job.sources.clone()),
            Self::Review(review) => (&mut review.run.mapping.mapping, review.sources.clone()),
            Self::Trial(trial) => (&mut trial.run.mapping.mapping, vec![trial.source.clone()]),
            Self::Explain(explain) => (&mut explain.run.mapping.mapping, vec![explain.source.clone()]),
            Self::Correct(correct) => (&mut correct.mapping.mapping, vec![correct.file.clone()]),
            Self::Crosswalk(CrosswalkArgs { command: None, asked, .. }) => {
                (&mut asked.mapping.mapping, asked.sources.clone())
            }
            Self::Crosswalk(CrosswalkArgs { command: Some(command), .. }) => match command {
                CrosswalkCommand::Add(args) => (&mut args.mapping.mapping, Vec::new()),
                CrosswalkCommand::Check(args) => (&mut args.mapping.mapping, args.sources.clone()),
                CrosswalkCommand::List { mapping, .. } | CrosswalkCommand::Remove { mapping, .. } => {
                    (&mut mapping.mapping, Vec::new())
                }
            },
            Self::Map(map) => {
                let sources = vec![map.source.clone()?];
                return Some(ForMapping { mapping: &mut map.mapping, sources, may_be_new: true });
            }
            Self::Start(start) => {
                let sources = vec![start.export.clone()];
                return Some(ForMapping { mapping: &mut start.mapping, sources, may_be_new: true });
            }
            Self::Demo(_)
            | Self::Status(_)
            | Self::Inspect(_)
            | Self::Batches(_)
            | Self::Target(_)
            | Self::Approve(_)
            | Self::TurnDown(_)
            | Self::Deliver(_)
            | Self::Practice(_)
            | Self::FollowUp(_)
            | Self::Round(_)
            | Self::Completions { .. }
            | Self::Man { .. }
            | Self::Answer(_) => return None,
        };
        Some(ForMapping { mapping, sources, may_be_new: false })
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

    /// Every command, with those below it, and its name as people type it.
    fn all(command: &clap::Command, above: &str, found: &mut Vec<(String, clap::Command)>) {
        let name = format!("{above} {}", command.get_name()).trim().to_owned();
        command.get_subcommands().for_each(|below| all(below, &name, found));
        found.push((name, command.clone()));
    }

    #[test]
    fn every_command_has_an_example_of_its_own() {
        let mut commands = Vec::new();
        all(&super::Args::command(), "", &mut commands);
        for (name, command) in &commands {
            let help = command.get_after_help().map(ToString::to_string).unwrap_or_default();
            let examples: Vec<&str> =
                help.lines().map(str::trim).filter(|line| line.starts_with("dusk ")).collect();
            assert!(examples.iter().all(|line| line.starts_with(name.as_str())), "{name}: {examples:?}");
            let is_leaf = command.get_subcommands().next().is_none();
            assert!(!is_leaf || !examples.is_empty(), "{name} has no example");
        }
    }
}
