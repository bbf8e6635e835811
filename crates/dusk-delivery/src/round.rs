//! `round.toml`: mappings that belong together, parents before children.

use std::path::{Path, PathBuf};

use hashbrown::HashSet;
use serde::Serialize;

use crate::{Chain, ChainCounts, SentRecords, Stage, Told, kept_answer, stage};
use dusk_evidence::{Line, Problems, Result};
use dusk_files::{At, Settings, SettingsFile, beside};
use dusk_run::{PastBatch, past_batches};
use dusk_sources::SourceIdentity;

/// Mappings that belong together.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Round {
    /// What the round is called.
    pub name: String,
    /// Its steps, parents before children.
    pub steps: Vec<RoundStep>,
}

/// One of the mappings of a round.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RoundStep {
    /// What it is called.
    pub name: String,
    /// The mapping.
    pub mapping: PathBuf,
    /// The exports, which together make one batch.
    pub sources: Vec<PathBuf>,
    /// The steps that have to be answered before, by their places.
    pub after: Vec<usize>,
}

impl Round {
    /// Reads the round at a path.
    ///
    /// # Errors
    /// [`Error::Problems`](dusk_evidence::Error::Problems) with everything that is wrong with it.
    pub fn read(path: &Path) -> Result<Self> {
        let file = SettingsFile::read(path)?;
        let mut problems = Problems::default();
        let folder = path.parent().unwrap_or(Path::new(""));
        let round = file.read_with(&mut problems, |top| read_round(top, folder));
        problems.or(round)
    }
}

fn read_round(top: &mut Settings<'_>, folder: &Path) -> Round {
    let name =
        top.table("round", |round| round.required_text("name").map_or_else(String::new, |name| name.value));
    let drafts = top.tables("step", |step| read_step(step, folder));
    if drafts.is_empty() {
        top.problem(Line::FIRST, "describes no step", |problem| {
            problem.hint("each mapping of the round is a [[step]] with a name, a mapping and a source");
        });
    }
    let mut steps: Vec<RoundStep> = Vec::new();
    let names: Vec<String> = drafts.iter().map(|(step, _)| step.name.clone()).collect();
    for (step, after) in drafts {
        if steps.iter().any(|known| known.name == step.name) {
            top.problem(Line::FIRST, format!("two steps are called \"{}\"", step.name), |_| {});
        }
        let mut step = step;
        for name in after {
            match steps.iter().position(|known| known.name == name.value) {
                Some(place) => step.after.push(place),
                None if names.contains(&name.value) => {
                    let says = format!(
                        "[[step]] {} comes after \"{}\", but is written before it",
                        step.name, name.value
                    );
                    top.problem(name.line, says, |problem| {
                        problem.hint("write parents before their children")
                    });
                }
                None => top.problem(
                    name.line,
                    format!("[[step]] after names no step \"{}\"", name.value),
                    |problem| {
                        problem.suggest(&name.value, names.iter().map(String::as_str));
                    },
                ),
            }
        }
        steps.push(step);
    }
    Round { name, steps }
}

fn read_step(step: &mut Settings<'_>, folder: &Path) -> (RoundStep, Vec<At<String>>) {
    let name = step.required_text("name").map_or_else(String::new, |name| name.value);
    let mapping = step.required_text("mapping");
    let sources = step.text_or_texts("source");
    if sources.is_empty() && !step.has("source") {
        step.problem(step.line(), format!("[[step]] {name} names no source"), |problem| {
            problem.hint("write source = \"export.csv\", or a list of them");
        });
    }
    let after = step.text_or_texts("after");
    let path = |named: &At<String>| match beside(folder, &named.value) {
        Ok(path) => path,
        Err(error) => {
            step.problem(named.line, format!("[[step]] {name}: {error}"), |_| {});
            PathBuf::new()
        }
    };
    let mapping = mapping.as_ref().map(path).unwrap_or_default();
    let sources = sources.iter().map(path).collect();
    (RoundStep { name, mapping, sources, after: Vec::new() }, after)
}

/// How far a step has come.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct StepState {
    /// The step.
    pub step: String,
    /// The batches of its sources as they are now, the first one first.
    pub batches: Vec<(String, Stage)>,
    /// How many records are what.
    pub counts: ChainCounts,
    /// The keys of records that are not in the target, and why: what children of them wait for.
    pub missing: Vec<(String, String)>,
}

impl StepState {
    /// Whether the target has said what became of everything that was sent.
    pub fn is_answered(&self) -> bool {
        let is_answered = |(_, stage): &(String, Stage)| matches!(stage, Stage::Answered | Stage::Complete);
        !self.batches.is_empty() && self.batches.iter().all(is_answered) && self.counts.unknown == 0
    }

    /// Whether everything that was sent is in, and the target's own counts say so.
    pub fn is_complete(&self) -> bool {
        self.is_answered()
            && self.counts.not_loaded == 0
            && self.batches.iter().all(|(_, stage)| *stage == Stage::Complete)
    }
}

/// How far a step has come; `folder` is that of its batches.
///
/// # Errors
/// Whatever stops reading its sources or batches.
pub fn step_state(step: &RoundStep, folder: &Path) -> Result<StepState> {
    /// How many missing records are named.
    const MOST: usize = 1_000;
    let mut state = StepState {
        step: step.name.clone(),
        batches: Vec::new(),
        counts: ChainCounts::default(),
        missing: Vec::new(),
    };
    let mut hashes = Vec::new();
    for source in &step.sources {
        let file = std::fs::File::open(source).map_err(dusk_evidence::Error::reading(source))?;
        hashes.push(SourceIdentity::of(file).map_err(dusk_evidence::Error::reading(source))?.blake3);
    }
    let all = past_batches(folder)?;
    let is_own = |batch: &&PastBatch| {
        let Ok(receipt) = &batch.receipt else { return false };
        let mapping = receipt.settings.first().and_then(|file| Path::new(&file.file).file_name());
        mapping == step.mapping.file_name()
            && receipt.sources.iter().any(|source| hashes.contains(&source.blake3))
    };
    let Some(first) = all.iter().find(is_own) else { return Ok(state) };
    let chain = Chain::of(&all, first)?;
    for batch in &chain.batches {
        state.batches.push((batch.name(), stage(batch)?));
    }
    state.counts = chain.counts()?;
    // What a later batch has loaded is not missing, whatever became of it before; of all else the last word counts.
    let mut seen: HashSet<String> = HashSet::new();
    'chain: for batch in chain.batches.iter().rev() {
        let sent = SentRecords::read(batch)?;
        let told = kept_answer(&batch.path, &sent)?;
        for (at, record) in sent.iter().enumerate() {
            let is_new = record.key.is_empty() || seen.insert(record.key.to_owned());
            let why = match told.as_ref().map(|told| (told.get(at), told.reason(at))) {
                Some((Told::Said(said), _)) if said.is_in() => continue,
                Some((Told::Said(_), reason)) => reason.to_owned(),
                Some((other, _)) => other.word().to_owned(),
                None => "not answered".to_owned(),
            };
            if is_new {
                state.missing.push((record.key.to_owned(), why));
            }
            if state.missing.len() == MOST {
                break 'chain;
            }
        }
    }
    Ok(state)
}
