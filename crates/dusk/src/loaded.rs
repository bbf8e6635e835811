//! A job as commands are given it: the mapping, the target and the sources, opened.

use std::path::Path;

use dusk_core::description::{HeldList, Target};
use dusk_core::drafting::stated_limits;
use dusk_core::held::HeldRecords;
use dusk_core::mapping;
use dusk_core::mapping::Mapping;
use dusk_core::proposing::{Proposing, propose};
use dusk_core::rejects::holds_rejects;
use dusk_core::run::{FoundCorrection, Job, apply_corrections, read_held};
use dusk_core::sources::{Known, Source, Threads};
use jiff::civil::Date;

use crate::args::RunArgs;
use crate::outcome::Failure;
use crate::show::{Bar, shell_word, visible, waiting};

/// Everything that a run is given, read.
pub(crate) struct Loaded {
    pub(crate) mapping: Mapping,
    pub(crate) target: Target,
    pub(crate) sources: Vec<Source>,
    pub(crate) asked: Vec<(String, String)>,
    pub(crate) today: Date,
    /// What became of the corrections of earlier days.
    pub(crate) corrections: Vec<FoundCorrection>,
    /// What the target holds, where its description says where that is listed.
    pub(crate) held: Option<HeldRecords>,
}

impl Loaded {
    /// Reads the mapping and the target, and opens the sources.
    pub(crate) fn read<'p>(
        run: &RunArgs,
        sources: impl IntoIterator<Item = &'p Path>,
        quiet: bool,
    ) -> Result<Self, Failure> {
        let (mut mapping, target) = mapping::read(&run.mapping.mapping)?;
        mapping.answer_units(&target, &run.asked)?;
        let known = mapping.known(&target);
        let mut sources = sources
            .into_iter()
            .map(|path| {
                open(path, &mapping, &known, quiet)
                    .map_err(|error| renamed(error, path, (&mapping, &target), today(run.mapping.today)))
            })
            .collect::<Result<Vec<_>, _>>()?;
        drop(known);
        if let Some(source) = sources.iter().find(|source| holds_rejects(source)) {
            return Err(no_export(source));
        }
        let bar = Bar::new(sources.iter().map(|source| source.bytes).sum(), quiet);
        let corrections = apply_corrections(
            &mapping,
            &target,
            &mut sources,
            threads(),
            &bar.reader("finding corrected rows"),
        )?;
        bar.done();
        let today = today(run.mapping.today);
        let held = read_what_is_held(&target, &mapping, today, quiet)?;
        Ok(Self { held, sources, asked: run.asked.clone(), today, mapping, target, corrections })
    }

    /// The job, which borrows what was read.
    pub(crate) fn job(&self) -> Job<'_> {
        Job {
            asked: &self.asked,
            held: self.held.as_ref(),
            ..Job::new(&self.target, &self.mapping, &self.sources, self.today, threads())
        }
    }

    /// The day that the list of what the target holds is from: as somebody says, else the oldest file's.
    pub(crate) fn held_day(&self) -> Option<Date> {
        let as_of = self.target.holds.as_ref()?.as_of;
        as_of.or_else(|| self.held.as_ref()?.lists.iter().filter_map(|list| list.changed_on).min())
    }

    /// The size of all sources together, in bytes.
    pub(crate) fn bytes(&self) -> u64 {
        self.sources.iter().map(|source| source.bytes).sum()
    }
}

/// Reads what the target holds, where its description says where that is listed.
fn read_what_is_held(
    target: &Target,
    mapping: &Mapping,
    today: Date,
    quiet: bool,
) -> Result<Option<HeldRecords>, Failure> {
    let Some(holds) = &target.holds else { return Ok(None) };
    let size = |list: &HeldList| match list {
        HeldList::File { path, .. } => std::fs::metadata(path).map_or(0, |metadata| metadata.len()),
        HeldList::Table { .. } => 0,
    };
    let bar = Bar::new(holds.lists.iter().map(size).sum(), quiet);
    let held = read_held(target, mapping, (today, threads()), &bar.reader("reading what the target holds"))?;
    bar.done();
    Ok(held)
}

/// As many threads as the machine has.
pub(crate) fn threads() -> Threads {
    Threads::of(std::thread::available_parallelism().map_or(2, std::num::NonZero::get))
}

pub(crate) fn open(
    path: &Path,
    mapping: &Mapping,
    known: &Known,
    quiet: bool,
) -> Result<Source, dusk_core::Error> {
    if path == Path::new("-") {
        let mut input = std::io::stdin().lock();
        return Source::open_stream("standard input".into(), &mut input, &mapping.source, known, true);
    }
    opening(path, quiet, || Source::open(path, &mapping.source, known))
}

/// Rejected rows are brought back, and never read as an export: what would be said of it would spoil the mapping.
fn no_export(source: &Source) -> Failure {
    let name = shell_word(&source.name);
    Failure::Stopped(format!(
        "{}: these are rejected rows of a batch, and no export\n  bring them back with dusk correct {name}; then check the export that they are from",
        source.name
    ))
}

/// Where a mapped column is gone, the one that may be it under another name is said as well.
fn renamed(
    error: dusk_core::Error,
    path: &Path,
    (mapping, target): (&Mapping, &Target),
    today: Date,
) -> Failure {
    if !matches!(error, dusk_core::Error::Source { .. }) {
        return error.into();
    }
    let says = error.to_string();
    let mut known = Known::default();
    mapping::learn_target(&mut known, target);
    let source = if path == Path::new("-") { None } else { Source::look(path, &mapping.source, &known).ok() };
    if let Some(rejects) = source.as_ref().filter(|source| holds_rejects(source)) {
        return no_export(rejects);
    }
    let doubts = source.as_ref().and_then(|source| {
        let proposals = propose(
            source,
            target,
            &Proposing { mapping: Some(mapping), ..Proposing::new(today, threads(), stated_limits) },
            &|_, _| {},
        )
        .ok()?;
        // A look without the headings may have taken another row for the header.
        let some_there = mapping.wanted().iter().any(|column| source.column(column).is_some());
        let gone = proposals.doubts.iter().filter(|doubt| some_there && doubt.is_gone);
        let lines = gone.filter_map(|doubt| {
            let instead = source.heading(doubt.instead?);
            let reasons = doubt.reasons.join("; ");
            Some(format!("\n  \"{}\" may be called \"{instead}\" now: {reasons}", doubt.column))
        });
        Some(lines.collect::<String>())
    });
    Failure::Stopped(format!("{says}{}", doubts.unwrap_or_default()))
}

/// Opens a source: a large workbook takes a while to unpack.
pub(crate) fn opening<T>(path: &Path, quiet: bool, work: impl FnOnce() -> T) -> T {
    waiting(format!("opening {}", visible(&path.display().to_string())), quiet, work)
}

/// A clock that was never set gives every batch and decision a day that is none, and workbooks cannot hold it.
pub(crate) fn refuse_an_unset_clock() -> Result<(), Failure> {
    if std::time::SystemTime::now() >= std::time::SystemTime::UNIX_EPOCH {
        return Ok(());
    }
    let day = jiff::ZonedDateTime::now().date();
    Err(Failure::Stopped(format!(
        "the clock of this machine shows {day}, which is before 1970\n  set it: every batch and every decision has a date"
    )))
}

/// The day of the run: the one given, or the machine's.
pub(crate) fn today(given: Option<Date>) -> Date {
    given.unwrap_or_else(|| jiff::ZonedDateTime::now().date())
}

/// Who runs the program, as the machine knows.
pub(crate) fn user_name() -> String {
    ["USER", "LOGNAME", "USERNAME"].into_iter().find_map(|name| std::env::var(name).ok()).unwrap_or_default()
}
