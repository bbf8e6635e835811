//! `dusk status`: what is in a folder, how far it has come, and the command that comes next.

use std::fs::File;
use std::path::{Path, PathBuf};

use dusk_core::delivery::{Stage, stage};
use dusk_core::description::Target;
use dusk_core::run::{PastBatch, Receipt, SavedMapping, past_batches, saved_mappings};
use dusk_core::sources::SourceIdentity;
use serde_json::json;

use super::history::batches_beside;
use crate::args::{Format, StatusArgs};
use crate::outcome::{Ended, Outcome, print, print_json};
use crate::show::{StatusShown, mapping_option, shell_word};

/// What an export may be, by the ending of its name.
const EXPORTS: [&str; 15] = [
    "csv", "tsv", "tab", "txt", "json", "jsonl", "ndjson", "xml", "mrc", "xlsx", "xlsm", "xls", "ods", "gz",
    "zip",
];

/// An export in the folder.
pub(crate) struct ExportState {
    pub(crate) name: String,
    /// The saved mappings that it fits.
    pub(crate) mappings: Vec<String>,
    /// The last batch that was made of it as it is now, with how many rows were rejected.
    pub(crate) batch: Option<(String, u64)>,
}

/// A batch, and how far it has come.
pub(crate) struct BatchState {
    pub(crate) name: String,
    pub(crate) stage: Stage,
    pub(crate) accepted: u64,
    pub(crate) rejected: u64,
}

/// What is in a folder.
pub(crate) struct FolderState {
    /// The descriptions of targets, each with what it describes or that it cannot be read.
    pub(crate) targets: Vec<(String, String)>,
    /// The mappings, each with where it leads or why it cannot be used.
    pub(crate) mappings: Vec<(String, String)>,
    pub(crate) exports: Vec<ExportState>,
    pub(crate) batches: Vec<BatchState>,
    /// What comes next, and why.
    pub(crate) next: Option<(String, String)>,
}

pub(super) fn run(args: &StatusArgs) -> Outcome {
    let folder = args.folder.clone().unwrap_or_default();
    let state = state_of(&folder)?;
    match args.format {
        Format::Text => print(&StatusShown(&state).to_string())?,
        Format::Json => print_json(&as_json(&state))?,
    }
    Ok(Ended::AllAccepted)
}

fn as_json(state: &FolderState) -> serde_json::Value {
    let targets = state.targets.iter().map(|(file, name)| json!({"file": file, "target": name}));
    let mappings = state.mappings.iter().map(|(file, says)| json!({"file": file, "is": says}));
    let exports = state.exports.iter().map(|export| {
        let (batch, rejected) = export.batch.clone().unzip();
        json!({"file": export.name, "mappings": export.mappings, "batch": batch, "rejected": rejected})
    });
    let batches = state.batches.iter().map(|batch| {
        json!({"batch": batch.name, "stage": batch.stage, "accepted": batch.accepted, "rejected": batch.rejected})
    });
    let next = state.next.as_ref().map(|(command, why)| json!({"command": command, "why": why}));
    json!({
        "form": 1,
        "targets": targets.collect::<Vec<_>>(), "mappings": mappings.collect::<Vec<_>>(),
        "exports": exports.collect::<Vec<_>>(), "batches": batches.collect::<Vec<_>>(), "next": next,
    })
}

/// Looks at a folder; an empty path is the one where the program runs.
fn state_of(folder: &Path) -> Result<FolderState, crate::outcome::Failure> {
    let place = if folder.as_os_str().is_empty() { Path::new(".") } else { folder };
    let entries = std::fs::read_dir(place).map_err(dusk_core::Error::reading(place))?;
    let mut files: Vec<PathBuf> = entries
        .flatten()
        .filter(|entry| entry.path().is_file())
        .map(|entry| folder.join(entry.file_name()))
        .collect();
    files.sort();
    let saved = saved_mappings(folder)?;
    let batches = past_batches(&batches_beside(&folder.join("mapping.toml")))?;
    let targets = targets_among(&files, &saved);
    let described: Vec<PathBuf> = targets
        .iter()
        .flat_map(|(_, target)| target.iter().flat_map(|target| target.files.clone()))
        .collect();
    let exports = exports_among(&files, &described, (&saved, &batches), folder);
    let batches = batches
        .iter()
        .filter_map(|batch| Some((batch, batch.receipt.as_ref().ok()?)))
        .map(|(batch, receipt)| {
            let (accepted, rejected) = (receipt.totals.accepted, receipt.totals.rejected);
            Ok(BatchState { name: batch.name(), stage: stage(batch)?, accepted, rejected })
        })
        .collect::<Result<Vec<_>, dusk_core::Error>>()?;
    let name =
        |path: &Path| path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    let mappings = saved.iter().map(|mapping| {
        let target = match &mapping.read {
            Ok((_, target)) => format!("into {}", target.name),
            Err(_) => mapping.why_not_read().to_owned(),
        };
        (name(&mapping.path), target)
    });
    let mut state = FolderState {
        targets: targets
            .iter()
            .map(|(path, target)| {
                (name(path), target.as_ref().map_or_else(|| "it cannot be read".to_owned(), with_version))
            })
            .collect(),
        mappings: mappings.collect(),
        exports,
        batches,
        next: None,
    };
    state.next = next(&state, &saved, folder);
    Ok(state)
}

fn with_version(target: &Target) -> String {
    match target.version.as_str() {
        "" => target.name.clone(),
        version => format!("{}, version {version}", target.name),
    }
}

/// The descriptions in a folder: files in TOML that are no mapping and describe fields.
fn targets_among(files: &[PathBuf], saved: &[SavedMapping]) -> Vec<(PathBuf, Option<Target>)> {
    let is_toml = |path: &&PathBuf| path.extension().is_some_and(|ending| ending == "toml");
    let is_mapping = |path: &PathBuf| saved.iter().any(|mapping| mapping.path == *path);
    let says_so = |path: &PathBuf| {
        std::fs::read_to_string(path).is_ok_and(|text| text.lines().any(|line| line.trim() == "[target]"))
    };
    let described = files.iter().filter(is_toml).filter(|path| !is_mapping(path) && says_so(path));
    described.map(|path| (path.clone(), Target::read(path).ok())).collect()
}

fn exports_among(
    files: &[PathBuf],
    described: &[PathBuf],
    (saved, batches): (&[SavedMapping], &[PastBatch]),
    folder: &Path,
) -> Vec<ExportState> {
    let ending = |path: &Path| path.extension().map(|ending| ending.to_string_lossy().to_lowercase());
    let is_export = |path: &&PathBuf| ending(path).is_some_and(|ending| EXPORTS.contains(&ending.as_str()));
    let fits: Vec<(String, Vec<String>)> =
        saved.iter().map(|mapping| (mapping.name(), mapping.exports(folder))).collect();
    let state = |path: &PathBuf| {
        let name = path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
        let mappings =
            fits.iter().filter(|(_, exports)| exports.contains(&name)).map(|(mapping, _)| mapping.clone());
        ExportState { mappings: mappings.collect(), batch: last_batch_of(path, batches), name }
    };
    files.iter().filter(is_export).filter(|path| !described.contains(path)).map(state).collect()
}

/// What lies beside an export and may say what a target takes, by name.
pub(super) fn materials_beside(export: &Path) -> Vec<PathBuf> {
    let folder = export.parent().unwrap_or(Path::new(""));
    let place = if folder.as_os_str().is_empty() { Path::new(".") } else { folder };
    let may_be = |path: &PathBuf| {
        let name = path.file_name().unwrap_or_default().to_string_lossy().to_lowercase();
        let is_own = name.starts_with('.') || name.ends_with(".toml");
        path.is_file() && !is_own && path.file_name() != export.file_name()
    };
    let mut found: Vec<PathBuf> = std::fs::read_dir(place)
        .map(|entries| entries.flatten().map(|entry| folder.join(entry.file_name())).filter(may_be).collect())
        .unwrap_or_default();
    found.sort();
    found
}

/// The last batch that was made of a file as it is now.
fn last_batch_of(path: &Path, batches: &[PastBatch]) -> Option<(String, u64)> {
    let bytes = std::fs::metadata(path).ok()?.len();
    let mut of_size = batches
        .iter()
        .filter_map(|batch| Some((batch, batch.receipt.as_ref().ok()?)))
        .filter(|(_, receipt)| receipt.sources.iter().any(|source| source.bytes == bytes))
        .peekable();
    // Reading a large file is worth it only where one of its size was sent.
    of_size.peek()?;
    let identity = SourceIdentity::of(File::open(path).ok()?).ok()?;
    let has_it = |receipt: &Receipt| receipt.sources.iter().any(|source| source.blake3 == identity.blake3);
    let (batch, receipt) = of_size.rfind(|(_, receipt)| has_it(receipt))?;
    Some((batch.name(), receipt.totals.rejected))
}

/// The command that comes next, and why.
fn next(state: &FolderState, saved: &[SavedMapping], folder: &Path) -> Option<(String, String)> {
    let at = |name: &str| shell_word(&folder.join(name).display().to_string());
    let with_mapping = |name: &str| {
        let mapping = saved.iter().find(|mapping| mapping.name() == name);
        let asked = mapping.and_then(|mapping| mapping.read.as_ref().ok()).map_or_else(
            String::new,
            |(mapping, _)| {
                mapping.ask.iter().map(|(name, _)| format!(" --set {}=…", shell_word(name))).collect()
            },
        );
        format!("{}{asked}", mapping_option(&folder.join(name)))
    };
    let export = state.exports.first().map(|export| at(&export.name));
    if state.mappings.is_empty() {
        return Some(match (state.targets.first(), export) {
            (Some((target, _)), Some(export)) => (
                format!("dusk map {export} -t {}", at(target)),
                "no mapping leads from an export into the target yet".into(),
            ),
            (Some((target, _)), None) => {
                (format!("dusk target show -t {}", at(target)), "there is a target, and no export".into())
            }
            (None, Some(export)) => (
                match state.exports.len() {
                    1 => format!("dusk start {export}"),
                    // Which of them is the export is for the steward to say.
                    _ => "dusk start EXPORT MATERIAL".into(),
                },
                "no target is described here yet; a data dictionary or a template is a material to draft it from".into(),
            ),
            (None, None) => (
                "dusk demo".into(),
                "nothing is here yet; the demo shows the whole job on made-up data".into(),
            ),
        });
    }
    if let Some(export) =
        state.exports.iter().find(|export| export.batch.is_none() && !export.mappings.is_empty())
    {
        let mapping = export.mappings.first().map_or_else(String::new, |mapping| with_mapping(mapping));
        return Some((
            format!("dusk check {}{mapping}", at(&export.name)),
            format!("no batch was made of {} yet", export.name),
        ));
    }
    // Of what was rejected, the newest batch whose export a mapping still fits.
    let open = state.exports.iter().filter_map(|export| {
        let (batch, rejected) = export.batch.as_ref().filter(|(_, rejected)| *rejected > 0)?;
        (!export.mappings.is_empty()).then_some((export, batch, rejected))
    });
    let open = open.max_by_key(|(_, batch, _)| batch.as_str());
    if let Some((export, batch, rejected)) = open {
        let mapping = export.mappings.first().map_or_else(String::new, |mapping| with_mapping(mapping));
        let rows = crate::show::counted(*rejected, "row");
        return Some((
            format!("dusk review {}{mapping}", at(&export.name)),
            format!("batch {batch} rejected {rows}"),
        ));
    }
    let delivers =
        |mapping: &SavedMapping| mapping.read.as_ref().is_ok_and(|(_, target)| target.delivery.is_some());
    let waiting = state.batches.iter().rev().find(|batch| batch.stage <= Stage::Approved);
    match (waiting, saved.iter().find(|mapping| delivers(mapping))) {
        (Some(batch), Some(mapping)) => Some((
            format!(
                "dusk deliver {}{}",
                shell_word(&batch.name),
                mapping_option(&folder.join(mapping.name()))
            ),
            format!("batch {} is not delivered yet", batch.name),
        )),
        _ => None,
    }
}
