//! The batches that were made, as their receipts tell.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use crate::written::writer::MEMORY;
use crate::{Receipt, Summary};
use dusk_description::{Target, Unmatched, fold};
use dusk_evidence::{Error, Kind, Result};
use dusk_files::OutputFile;
use dusk_mapping::{Run, drift};
use dusk_memory::{BatchMemory, Unlike};
use dusk_sources::{Source, SourceIdentity};

/// The folder, among the batches, of those that were replaced.
pub const ASIDE: &str = "replaced";

/// A batch that was made.
#[derive(Debug)]
pub struct PastBatch {
    /// Its folder.
    pub path: PathBuf,
    /// Its receipt, or why it cannot be read.
    pub receipt: Result<Receipt>,
}

/// What became of a produced file since.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Since {
    /// It is as it was written.
    Unchanged,
    /// Somebody edited it.
    Edited,
    /// Somebody edited it, which is what it is there for.
    Worked,
    /// It is not there any more.
    Gone,
}

/// The batches in a folder, the first one first. A folder that is not there holds none.
///
/// # Errors
/// [`Error::File`] when the folder cannot be read.
pub fn past_batches(folder: &Path) -> Result<Vec<PastBatch>> {
    if !folder.exists() {
        return Ok(Vec::new());
    }
    let entries = std::fs::read_dir(folder).map_err(Error::reading(folder))?;
    let mut paths: Vec<PathBuf> = entries
        .flatten()
        .filter(|entry| {
            let name = entry.file_name().to_string_lossy().into_owned();
            entry.path().is_dir() && !name.starts_with('.') && name != ASIDE
        })
        .map(|entry| entry.path())
        .collect();
    paths.sort();
    let mut batches: Vec<PastBatch> =
        paths.into_iter().map(|path| PastBatch { receipt: Receipt::read(&path), path }).collect();
    // By the day first; of one day 2026-04-30-z comes before 2026-04-30-aa.
    let key = |batch: &PastBatch| {
        let day = batch.receipt.as_ref().map_or_else(|_| String::new(), |receipt| receipt.today.clone());
        let name = batch.name();
        (day, name.chars().count(), name)
    };
    batches.sort_by_key(key);
    Ok(batches)
}

impl PastBatch {
    /// The batch's name: the folder's.
    pub fn name(&self) -> String {
        self.path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned())
    }

    /// The files that it wrote, and what became of each.
    pub fn outputs(&self) -> Vec<(&OutputFile, Since)> {
        let outputs = self.receipt.as_ref().map_or(&[][..], |receipt| receipt.outputs.as_slice());
        outputs
            .iter()
            .map(|output| {
                let since = match std::fs::File::open(self.path.join(&output.file)) {
                    Err(_) => Since::Gone,
                    Ok(mut file) => match SourceIdentity::of(&mut file) {
                        Ok(print) if print.blake3 == output.blake3 => Since::Unchanged,
                        _ if output.file.starts_with("rejects.") => Since::Worked,
                        _ => Since::Edited,
                    },
                };
                (output, since)
            })
            .collect()
    }
}

/// The last of the batches that the mapping at `mapping` made.
pub fn last_of<'b>(batches: &'b [PastBatch], mapping: &Path) -> Option<(&'b PastBatch, &'b Receipt)> {
    let made_by = |receipt: &Receipt| {
        receipt.settings.first().is_some_and(|file| Path::new(&file.file).file_name() == mapping.file_name())
    };
    let mut with_receipt = batches.iter().filter_map(|batch| Some((batch, batch.receipt.as_ref().ok()?)));
    with_receipt.rfind(|(_, receipt)| made_by(receipt))
}

/// The batch in which a source of these bytes was before, by the same mapping.
///
/// # Errors
/// [`Error::File`] when a source cannot be read.
pub fn made_before<'b>(
    batches: &'b [PastBatch],
    mapping: &Path,
    sources: &[Source],
) -> Result<Option<(&'b PastBatch, String)>> {
    let of_mapping: Vec<(&PastBatch, &Receipt)> = batches
        .iter()
        .filter_map(|batch| Some((batch, batch.receipt.as_ref().ok()?)))
        .filter(|(_, receipt)| {
            let file = receipt.settings.first().map(|file| Path::new(&file.file));
            file.and_then(Path::file_name) == mapping.file_name()
        })
        .collect();
    if of_mapping.is_empty() {
        return Ok(None);
    }
    for source in sources {
        let print = source.fingerprint()?;
        for (batch, receipt) in of_mapping.iter().rev() {
            if receipt
                .sources
                .iter()
                .any(|known| known.blake3 == print.blake3 && known.sheet == source.sheet())
            {
                return Ok(Some((batch, source.name.clone())));
            }
        }
    }
    Ok(None)
}

impl PastBatch {
    /// What it remembers of its records; nothing where it was made before batches did, or the file is gone.
    fn memory(&self) -> Option<BatchMemory> {
        let bytes = std::fs::read(self.path.join(MEMORY)).ok()?;
        serde_json::from_slice(&bytes).ok()
    }

    /// What is new or unlike in another run since this batch.
    pub fn news(&self, receipt: &Receipt, now: (&Receipt, &Summary), target: &Target) -> News {
        let (now, summary) = now;
        let memory = self.memory();
        let unlike = memory.map_or_else(Vec::new, |before| before.unlike(&summary.memory, &summary.sample));
        let mut new = receipt.drift_to(now, target);
        new.extend(new_damage(receipt, summary));
        News { unlike: unlike.iter().map(Unlike::words).collect(), new }
    }
}

/// What is to be said of a run since the last batch, each in a sentence.
#[derive(Debug, Clone, Default)]
pub struct News {
    /// What may show that something is wrong.
    pub unlike: Vec<String>,
    /// What was not there before.
    pub new: Vec<String>,
}

impl News {
    /// All of it, what is unlike first.
    pub fn all(self) -> Vec<String> {
        self.unlike.into_iter().chain(self.new).collect()
    }
}

impl Receipt {
    /// What is new in another run since this batch, each in a sentence.
    fn drift_to(&self, now: &Receipt, target: &Target) -> Vec<String> {
        let of = |receipt: &Receipt| {
            let columns: Vec<String> =
                receipt.sources.first().map_or_else(Vec::new, |source| source.columns.clone());
            let marks = receipt.proven_decimal_marks.iter();
            let marks = marks.map(|(field, mark)| (field.clone(), format!("\"{mark}\" before decimals")));
            let proven: Vec<(String, String)> =
                receipt.proven_date_orders.clone().into_iter().chain(marks).collect();
            (columns, proven)
        };
        let ((old_columns, old_proven), (columns, proven)) = (of(self), of(now));
        let run = |receipt: &'_ Receipt| (receipt.totals.read, receipt.totals.rejected);
        drift(
            &Run { columns: &old_columns, digest: &self.digest, proven: &old_proven, rows: run(self) },
            &Run { columns: &columns, digest: &now.digest, proven: &proven, rows: run(now) },
            &|field, value| is_of_list(target, field, value),
        )
    }
}

/// What has happened to texts and numbers on their way, and had not to those of the last batch.
fn new_damage(before: &Receipt, now: &Summary) -> Vec<String> {
    const KINDS: [Kind; 8] = [
        Kind::DecodedWrongly,
        Kind::LostCharacter,
        Kind::QuestionMark,
        Kind::MixedAlphabets,
        Kind::ControlCharacter,
        Kind::ErrorCell,
        Kind::PowerOfTen,
        Kind::TurnedIntoDate,
    ];
    let mut counts: BTreeMap<(&str, Kind), u64> = BTreeMap::new();
    for cause in now.causes.iter().chain(&now.remarks).filter(|cause| KINDS.contains(&cause.kind)) {
        *counts.entry((&cause.about, cause.kind)).or_insert(0) += cause.count;
    }
    let is_new = |((_, kind), count): &((&str, Kind), u64)| {
        !before.findings.contains_key(kind.code()) && *count >= 3 && count * 50 >= now.totals.read
    };
    let says = |((about, kind), count): ((&str, Kind), u64)| {
        format!("{about}: {count} of {} values have {}, and none had", now.totals.read, kind.title())
    };
    counts.into_iter().filter(is_new).map(says).collect()
}

/// Whether a value is a code of the field's list, or another name of one: that it was not used before is no news.
fn is_of_list(target: &Target, field: &str, value: &str) -> bool {
    let field = target.field(field).and_then(|place| target.fields.get(place));
    // What no list has and is kept all the same is said by itself.
    if field.is_some_and(|field| matches!(field.unmatched, Unmatched::Keep | Unmatched::Open)) {
        return true;
    }
    let codes = field.and_then(|field| field.kind.codes()).map_or(&[][..], |list| list.codes());
    let value = fold(value);
    codes
        .iter()
        .any(|code| [&code.code, &code.label].into_iter().chain(&code.also).any(|name| fold(name) == value))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn batch(folder: &Path, name: &str, day: &str, mapping: &str) {
        let receipt = serde_json::json!({
            "form": 1, "dusk": "0", "batch": name, "today": day, "asked": {},
            "target": {"name": "T", "version": ""}, "settings": [{"file": mapping, "blake3": ""}],
            "sources": [], "proven_date_orders": {}, "proven_decimal_marks": {},
            "totals": {"read": 0, "accepted": 0, "rejected": 0, "merged": 0, "left_out": 0},
            "changed_cells": 0, "findings": {},
            "outputs": [{"file": "up.csv", "rows": 0, "bytes": 3, "blake3": blake3::hash(b"abc").to_hex().to_string()}],
        });
        std::fs::create_dir_all(folder.join(name)).unwrap();
        std::fs::write(folder.join(name).join("receipt.json"), receipt.to_string()).unwrap();
        std::fs::write(folder.join(name).join("up.csv"), "abc").unwrap();
    }

    #[test]
    fn batches_stand_in_the_order_in_which_they_were_made() {
        let place = tempfile::tempdir().unwrap();
        let folder = place.path();
        for (name, day, mapping) in [
            ("2026-04-30-b", "2026-04-30", "there/mapping.toml"),
            ("2026-04-30-aa", "2026-04-30", "other.toml"),
            ("april", "2026-04-01", "mapping.toml"),
            (ASIDE, "2026-05-01", "mapping.toml"),
            (".unfinished-x", "2026-05-01", "mapping.toml"),
        ] {
            batch(folder, name, day, mapping);
        }
        let batches = past_batches(folder).unwrap();
        let names: Vec<String> = batches.iter().map(PastBatch::name).collect();
        assert_eq!(names, ["april", "2026-04-30-b", "2026-04-30-aa"]);
        let last = last_of(&batches, Path::new("here/mapping.toml")).map(|(batch, _)| batch.name());
        assert_eq!(last.as_deref(), Some("2026-04-30-b"), "the mapping is known by its name");
        assert!(last_of(&batches, Path::new("third.toml")).is_none());
        assert!(past_batches(&folder.join("nowhere")).unwrap().is_empty());
    }

    #[test]
    fn a_file_is_known_by_its_hash() {
        let place = tempfile::tempdir().unwrap();
        batch(place.path(), "a", "2026-04-30", "mapping.toml");
        let since = || past_batches(place.path()).unwrap()[0].outputs()[0].1.clone();
        assert_eq!(since(), Since::Unchanged);
        std::fs::write(place.path().join("a/up.csv"), "abd").unwrap();
        assert_eq!(since(), Since::Edited);
        std::fs::remove_file(place.path().join("a/up.csv")).unwrap();
        assert_eq!(since(), Since::Gone);
    }
}
