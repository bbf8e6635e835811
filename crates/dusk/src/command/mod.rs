//! One file per command, and what they share: opening a job.

mod check;
mod conform;
mod crosswalk;
mod explain;
mod target;

use std::io::Write as _;
use std::path::Path;

use dusk_core::batch::Job;
use dusk_core::mapping::{self, Mapping};
use dusk_core::source::Source;
use dusk_core::target::Target;
use jiff::civil::Date;

use crate::Ended;
use crate::args::{Args, Command, RunArgs};

/// Why a command did not end as it should.
#[derive(Debug)]
pub(crate) enum Failure {
    /// It could not be done.
    Stopped(String),
    /// Whoever read the output has gone, as `head` does; there is nothing to say.
    ReaderGone,
}

impl From<dusk_core::Error> for Failure {
    fn from(error: dusk_core::Error) -> Self {
        Self::Stopped(error.to_string())
    }
}

impl From<std::io::Error> for Failure {
    fn from(error: std::io::Error) -> Self {
        match error.kind() {
            std::io::ErrorKind::BrokenPipe => Self::ReaderGone,
            _ => Self::Stopped(format!("the result cannot be printed: {error}")),
        }
    }
}

/// What a command comes to.
pub(crate) type Outcome = Result<Ended, Failure>;

/// Runs the command that was typed.
pub(crate) fn run(args: &Args) -> Outcome {
    match &args.command {
        Command::Demo(demo) => crate::demo::run(demo, args.colour),
        Command::Check(job) => check::run(job, args.quiet),
        Command::Conform(conform) => conform::run(conform, args.quiet),
        Command::Explain(explain) => explain::run(explain, args.quiet),
        Command::Crosswalk(crosswalk) => crosswalk::run(crosswalk),
        Command::Target(target) => target::run(target),
    }
}

/// Prints a result to standard output, without colours where nobody would see them.
pub(crate) fn print(text: &str) -> Result<(), Failure> {
    let mut out = anstream::stdout().lock();
    out.write_all(text.as_bytes())?;
    out.flush()?;
    Ok(())
}

/// Prints a result for programs.
pub(crate) fn print_json(value: &impl serde::Serialize) -> Result<(), Failure> {
    let json = serde_json::to_string_pretty(value).map_err(|error| Failure::Stopped(error.to_string()))?;
    print(&format!("{json}\n"))
}

/// Everything that a run is given, read.
pub(crate) struct Loaded {
    pub(crate) mapping: Mapping,
    pub(crate) target: Target,
    pub(crate) sources: Vec<Source>,
    pub(crate) asked: Vec<(String, String)>,
    pub(crate) today: Date,
}

impl Loaded {
    /// Reads the mapping and the target, and opens the sources.
    pub(crate) fn read<'p>(
        run: &RunArgs,
        sources: impl IntoIterator<Item = &'p Path>,
    ) -> Result<Self, Failure> {
        let (mapping, target) = mapping::read(&run.mapping.mapping)?;
        let sources = sources.into_iter().map(|path| open(path, &mapping)).collect::<Result<Vec<_>, _>>()?;
        Ok(Self { sources, asked: run.asked.clone(), today: today(run.mapping.today), mapping, target })
    }

    /// The job, which borrows what was read.
    pub(crate) fn job(&self) -> Job<'_> {
        Job {
            target: &self.target,
            mapping: &self.mapping,
            sources: &self.sources,
            asked: &self.asked,
            today: self.today,
        }
    }

    /// The size of all sources together, in bytes.
    pub(crate) fn bytes(&self) -> u64 {
        self.sources.iter().map(|source| source.bytes).sum()
    }
}

fn open(path: &Path, mapping: &Mapping) -> Result<Source, dusk_core::Error> {
    if path == Path::new("-") {
        let mut input = std::io::stdin().lock();
        return Source::open_stream("standard input".into(), &mut input, &mapping.source, &mapping.wanted());
    }
    Source::open(path, &mapping.source, &mapping.wanted())
}

/// The day of the run: the one given, or the machine's.
pub(crate) fn today(given: Option<Date>) -> Date {
    given.unwrap_or_else(|| jiff::Zoned::now().date())
}
