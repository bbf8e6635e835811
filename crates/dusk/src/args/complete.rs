//! What a shell can complete besides commands and options: the fields and codes of the target here, the batches, and
//! what the mapping asks for at every run.

use std::path::{Path, PathBuf};

use clap::CommandFactory as _;
use clap_complete::engine::{ArgValueCandidates, CompletionCandidate};
use clap_complete::env::{CompleteEnv, Shells};
use dusk_core::description::Target;
use dusk_core::mapping::{Mapping, read_incomplete};
use dusk_core::run::past_batches;

/// The variable by which a shell asks for completions.
const ASKED_BY: &str = "DUSK_COMPLETE";

/// Answers a shell that asks for completions, and ends the program then.
pub(crate) fn answer_a_shell() {
    CompleteEnv::with_factory(super::Args::command).var(ASKED_BY).complete();
}

/// The lines that make a shell ask; nothing for a shell that is not known.
pub(crate) fn registration(shell: &str) -> Option<String> {
    let shells = Shells::builtins();
    let mut lines = Vec::new();
    shells.completer(shell)?.write_registration(ASKED_BY, "dusk", "dusk", "dusk", &mut lines).ok()?;
    String::from_utf8(lines).ok()
}

/// The shells that are known.
pub(super) fn shells() -> clap::builder::PossibleValuesParser {
    Shells::builtins().names().collect::<Vec<_>>().into()
}

pub(super) fn fields() -> ArgValueCandidates {
    ArgValueCandidates::new(|| {
        candidates(Here::read().target, |target, found| field_names(target, "", found))
    })
}

/// Fields, with the sign behind which a value follows.
pub(super) fn fields_to_set() -> ArgValueCandidates {
    ArgValueCandidates::new(|| {
        candidates(Here::read().target, |target, found| field_names(target, "=", found))
    })
}

/// The codes of the field that is named on the line.
pub(super) fn codes() -> ArgValueCandidates {
    ArgValueCandidates::new(|| {
        candidates(Here::read().target, |target, found| {
            let words = typed();
            let field = target.fields.iter().find(|field| words.contains(&field.name));
            let codes = field.and_then(|field| field.kind.codes()).map_or(&[][..], |list| list.codes());
            found.extend(codes.iter().map(|code| with_help(&code.code, &code.label)));
        })
    })
}

pub(super) fn batches() -> ArgValueCandidates {
    ArgValueCandidates::new(|| {
        let folder = mapping_path().parent().unwrap_or(Path::new("")).join("batches");
        let batches = past_batches(&folder).unwrap_or_default();
        batches.iter().rev().map(|batch| CompletionCandidate::new(batch.name())).collect()
    })
}

/// What the mapping asks for at every run.
pub(super) fn asked() -> ArgValueCandidates {
    ArgValueCandidates::new(|| {
        candidates(Here::read().mapping, |mapping, found| {
            let name = |(name, question): &(String, String)| with_help(&format!("{name}="), question);
            found.extend(mapping.ask.iter().map(name));
        })
    })
}

fn field_names(target: &Target, behind: &str, found: &mut Vec<CompletionCandidate>) {
    let name = |field: &dusk_core::description::Field| {
        with_help(&format!("{}{behind}", field.name), field.label.as_deref().unwrap_or_default())
    };
    found.extend(target.fields.iter().map(name));
}

fn candidates<T>(
    read: Option<T>,
    fill: impl FnOnce(&T, &mut Vec<CompletionCandidate>),
) -> Vec<CompletionCandidate> {
    let mut found = Vec::new();
    if let Some(read) = read {
        fill(&read, &mut found);
    }
    found
}

fn with_help(word: &str, help: &str) -> CompletionCandidate {
    let help = Some(help).filter(|help| !help.is_empty()).map(|help| help.to_owned().into());
    CompletionCandidate::new(word).help(help)
}

/// What can be read where the line is typed; what cannot completes nothing.
struct Here {
    mapping: Option<Mapping>,
    target: Option<Target>,
}

impl Here {
    fn read() -> Self {
        if let Some(path) = option(["-t", "--target"]) {
            return Self { mapping: None, target: Target::read(&path).ok() };
        }
        match read_incomplete(&mapping_path()) {
            Ok((mapping, target)) => Self { mapping: Some(mapping), target: Some(target) },
            Err(_) => Self { mapping: None, target: Target::read(Path::new("target.toml")).ok() },
        }
    }
}

fn mapping_path() -> PathBuf {
    option(["-m", "--mapping"]).unwrap_or_else(|| "mapping.toml".into())
}

/// What stands behind an option on the line so far.
fn option(names: [&str; 2]) -> Option<PathBuf> {
    let words = typed();
    let at = words.iter().position(|word| names.contains(&word.as_str()))?;
    words.get(at + 1).filter(|word| !word.is_empty()).map(PathBuf::from)
}

/// The words of the line that is typed: the shell gives them behind a double hyphen.
fn typed() -> Vec<String> {
    let words = std::env::args_os().map(|word| word.to_string_lossy().into_owned());
    words.skip_while(|word| word != "--").skip(1).collect()
}
