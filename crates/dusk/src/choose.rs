//! Which of the saved mappings is meant, where the command line names none.

use std::io::{BufRead as _, IsTerminal as _};
use std::path::{Path, PathBuf};

use clap::ArgMatches;
use clap::parser::ValueSource;
use dusk_core::run::{Receipt, SavedMapping, saved_mappings};

use crate::args::{Args, ForMapping};
use crate::outcome::{Failure, note, say};
use crate::show::{shell_word, visible, waiting};

/// Puts the mapping into a command that names none: the one here whose headings fit its exports.
pub(crate) fn mapping(args: &mut Args, matches: &ArgMatches) -> Result<(), Failure> {
    if is_named(matches) || args.command.takes_every_mapping() {
        return Ok(());
    }
    let quiet = args.quiet;
    let Some(wanted) = args.command.for_mapping() else { return Ok(()) };
    let folder = wanted.mapping.parent().unwrap_or(Path::new("")).to_path_buf();
    // What cannot be listed is no reason not to take the usual one.
    let saved = saved_mappings(&folder).unwrap_or_default();
    if let [only] = saved.as_slice()
        && only.path == *wanted.mapping
    {
        return Ok(());
    }
    if !quiet && !wanted.mapping.exists() {
        for torn in saved.iter().filter(|one| one.read.is_err()) {
            let (name, why) = (torn.name(), torn.why_not_read());
            note(&format!("{name} is a mapping, and {why}; -m {} tells more", shell_word(&name)));
        }
    }
    let chosen = match of_batch(&wanted.sources) {
        Some(name) => saved.iter().find(|one| one.name() == name).map(|one| one.path.clone()),
        None => choose(&saved, &wanted, quiet)?,
    };
    let Some(chosen) = chosen.filter(|chosen| chosen != wanted.mapping) else { return Ok(()) };
    // That is said in any case: it decides what every value means.
    let of = wanted.sources.first().map_or_else(String::new, |source| format!(" for {}", source.display()));
    note(&format!("the mapping{of} is {}; -m names another", chosen.display()));
    *wanted.mapping = chosen;
    Ok(())
}

/// Whether the command line names a mapping.
fn is_named(matches: &ArgMatches) -> bool {
    let own = matches.try_contains_id("mapping").is_ok()
        && matches.value_source("mapping").is_some_and(|from| from == ValueSource::CommandLine);
    own || matches.subcommand().is_some_and(|(_, below)| is_named(below))
}

/// The mapping that made the batch of which this is a file, by its name.
fn of_batch(sources: &[PathBuf]) -> Option<String> {
    let [file] = sources else { return None };
    let receipt = Receipt::read(file.parent()?).ok()?;
    let mapping = Path::new(&receipt.settings.first()?.file).file_name()?;
    Some(mapping.to_string_lossy().into_owned())
}

/// The one that is meant; nothing where it is the usual one.
fn choose(saved: &[SavedMapping], wanted: &ForMapping<'_>, quiet: bool) -> Result<Option<PathBuf>, Failure> {
    let has_usual = saved.iter().any(|one| one.path == *wanted.mapping);
    let from_stream = wanted.sources.iter().any(|source| source == Path::new("-"));
    // What is wrong with the usual one is said first.
    if saved.iter().any(|one| one.path == *wanted.mapping && one.read.is_err()) {
        return Ok(None);
    }
    if saved.iter().all(|one| one.read.is_err()) || (wanted.sources.is_empty() || from_stream) && has_usual {
        return Ok(None);
    }
    if let ([only], false) = (saved, wanted.may_be_new) {
        return Ok(Some(only.path.clone()));
    }
    if wanted.sources.is_empty()
        && let Some(one) = with_one_target(saved)
    {
        return Ok(Some(one.path.clone()));
    }
    if wanted.sources.is_empty() || from_stream {
        let names: Vec<String> =
            saved.iter().map(|one| format!("\n  -m {}", shell_word(&one.name()))).collect();
        return Err(Failure::Stopped(format!(
            "several mappings are saved here, so name one:{}",
            names.concat()
        )));
    }
    let possible: Vec<&SavedMapping> = saved.iter().filter(|one| one.may_fit(&wanted.sources)).collect();
    if let [only] = possible.as_slice()
        && only.path == *wanted.mapping
    {
        return Ok(None);
    }
    let fit = |one: &&&SavedMapping| wanted.sources.iter().all(|source| one.fits(source).is_ok());
    let fitting: Vec<&SavedMapping> = waiting("looking for the mapping that fits".into(), quiet, || {
        possible.iter().filter(fit).copied().collect()
    });
    match fitting.as_slice() {
        [] if has_usual || wanted.may_be_new => Ok(None),
        [] => Err(none_fits(saved, &wanted.sources)),
        [one] => Ok(Some(one.path.clone())),
        several => ask(several, &wanted.sources).map(Some),
    }
}

/// The first mapping, where all are into one target: then any will do for what is remembered about its fields.
fn with_one_target(saved: &[SavedMapping]) -> Option<&SavedMapping> {
    let target = |one: &SavedMapping| one.read.as_ref().ok().map(|(mapping, _)| mapping.target_path.clone());
    let (first, others) = saved.split_first()?;
    let wanted = target(first)?;
    others.iter().all(|one| target(one).as_ref() == Some(&wanted)).then_some(first)
}

/// The exports as they were named, beside one another.
fn named(sources: &[PathBuf]) -> String {
    sources.iter().map(|source| source.display().to_string()).collect::<Vec<_>>().join(", ")
}

fn none_fits(saved: &[SavedMapping], sources: &[PathBuf]) -> Failure {
    let why = |one: &SavedMapping| {
        let why = sources.iter().find_map(|source| one.fits(source).err()).unwrap_or_default();
        format!("\n  {}: {why}", one.name())
    };
    let all: String = saved.iter().map(why).collect();
    let source = named(sources);
    Failure::Stopped(format!(
        "not one of the mappings saved here fits {source}:{all}\n  name one with -m, or make one: dusk map {}",
        shell_word(&source)
    ))
}

/// Asks which of several that fit is meant.
fn ask(fitting: &[&SavedMapping], sources: &[PathBuf]) -> Result<PathBuf, Failure> {
    let target = |one: &SavedMapping| {
        let name = one.read.as_ref().map_or_else(|_| String::new(), |(_, target)| target.name.clone());
        format!("{}, for {}", one.name(), visible(&name))
    };
    let source = named(sources);
    let several = format!("{} saved mappings fit {source}", fitting.len());
    if !(std::io::stdin().is_terminal() && std::io::stderr().is_terminal()) {
        let all: String = fitting
            .iter()
            .map(|one| format!("\n  -m {}  ({})", shell_word(&one.name()), target(one)))
            .collect();
        return Err(Failure::Stopped(format!("{several}, so name one:{all}")));
    }
    let all: String = fitting
        .iter()
        .enumerate()
        .map(|(place, one)| format!("  {}  {}\n", place + 1, target(one)))
        .collect();
    say(&format!("{several}:\n{all}which one? [1-{}]: ", fitting.len()));
    let mut answer = String::new();
    std::io::stdin().lock().read_line(&mut answer)?;
    let place = answer.trim().parse::<usize>().ok().and_then(|number| number.checked_sub(1));
    let by_name = || fitting.iter().find(|one| one.name() == answer.trim());
    match place.and_then(|place| fitting.get(place)).or_else(by_name) {
        Some(one) => Ok(one.path.clone()),
        None => Err(Failure::Stopped(format!(
            "\"{}\" is not one of them\n  answer with a number from 1 to {}, or name the mapping with -m",
            answer.trim(),
            fitting.len()
        ))),
    }
}
