//! The batches that were made, as their receipts tell.

use std::collections::BTreeMap;
use std::ffi::OsStr;
use std::path::{Path, PathBuf};

use crate::written::receipt::NAME as RECEIPT;
use crate::written::records::known_records;
use crate::written::writer::MEMORY;
use crate::{Receipt, Summary};
use dusk_description::{Target, Unmatched, fold};
use dusk_evidence::{Error, Kind, Result};
use dusk_files::{Held, OutputFile};
use dusk_mapping::{Map, Mapping, Run, drift};
use dusk_memory::{BatchMemory, KnownRecords, Unlike};
use dusk_sources::{Source, SourceIdentity};

/// The folder, among the batches, of those that were replaced.
pub const ASIDE: &str = "replaced";

/// The list, among the batches, of those that were put elsewhere.
const ELSEWHERE: &str = "elsewhere.txt";

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

/// Says, among the batches of a mapping, that one was put elsewhere, so that it is known next time.
///
/// # Errors
/// [`Error::File`] when that cannot be written down.
pub fn note_elsewhere(batches: &Path, batch: &Path) -> Result<()> {
    let list = batches.join(ELSEWHERE);
    let absolute = |path: &Path| std::path::absolute(path).map_err(Error::reading(path));
    let (beside, batch) = (absolute(batches)?, absolute(batch)?);
    if batch.parent() == Some(beside.as_path()) {
        return Ok(());
    }
    // What lies in the same folder stays known where the whole folder is moved.
    let near = beside.parent().and_then(|folder| batch.strip_prefix(folder).ok());
    let line = near.unwrap_or(&batch).display().to_string();
    if line.contains('\n') {
        let says = format!("{}: a folder with a line break in its name cannot be noted", batch.display());
        return Err(Error::Request(says));
    }
    let held = Held::file(&list)?;
    let mut lines = match std::fs::read_to_string(&list) {
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => String::new(),
        read => read.map_err(Error::reading(&list))?,
    };
    if lines.lines().any(|known| known == line) {
        return Ok(());
    }
    lines.push_str(&line);
    lines.push('\n');
    held.write(lines.as_bytes())
}

/// The batches that were put elsewhere and are there still.
fn elsewhere(batches: &Path) -> Vec<PathBuf> {
    let lines = std::fs::read_to_string(batches.join(ELSEWHERE)).unwrap_or_default();
    let folder = batches.parent().unwrap_or(Path::new(""));
    lines.lines().map(|line| folder.join(line)).filter(|batch| batch.is_dir()).collect()
}

/// The batches in a folder, and those that its list says were put elsewhere, the first one first. A folder that
/// is not there holds none.
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
            !name.starts_with('.') && name != ASIDE
        })
        .map(|entry| entry.path())
        .filter(|path| path.is_dir() && is_batch(path))
        .chain(elsewhere(folder))
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

/// Whether a folder holds what only a batch does, be its receipt lost or not. A steward's own folder holds none of it.
fn is_batch(folder: &Path) -> bool {
    [RECEIPT, MEMORY, "upload", "findings.csv"].into_iter().any(|file| folder.join(file).exists())
}

impl PastBatch {
    /// The batch's name: the folder's.
    pub fn name(&self) -> String {
        self.path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned())
    }

    /// Its name; the folder, where it does not lie among the others.
    pub fn place(&self) -> String {
        let is_beside = self.path.parent().is_some_and(|folder| folder.ends_with("batches"));
        if is_beside { self.name() } else { self.path.display().to_string() }
    }

    /// The files that it wrote, and what became of each.
    pub fn outputs(&self) -> Vec<(&OutputFile, Since)> {
        let outputs = self.receipt.as_ref().map_or(&[][..], |receipt| receipt.outputs.as_slice());
        outputs
            .iter()
            .map(|output| {
                let since = match std::fs::File::open(self.path.join(&output.file)) {
                    Err(_) => Since::Gone,
                    Ok(file) => match SourceIdentity::of(file) {
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

/// What a run is for, by which the batches before it are known.
#[derive(Debug, Clone, Copy)]
pub struct Lineage<'a> {
    /// Where the mapping is.
    pub mapping: &'a Path,
    /// The name of the target.
    pub target: &'a str,
    /// The sources.
    pub sources: &'a [Source],
}

impl Lineage<'_> {
    /// Whether the mapping of this name made the batch.
    fn is_own(&self, receipt: &Receipt) -> bool {
        mapping_of(receipt).is_some_and(|name| Some(name) == self.mapping.file_name())
    }

    /// Whether the batch was made for the same target from a sheet with the same headings but a few, and by no other
    /// mapping that is still there.
    fn is_kin(&self, receipt: &Receipt) -> bool {
        let now = self.sources.first().map_or(&[][..], |source| &*source.columns);
        let before = receipt.sources.first().map_or(&[][..], |source| source.columns.as_slice());
        let same = now.iter().filter(|column| before.contains(column)).count();
        receipt.target.name == self.target && same * 3 >= now.len().max(before.len()) * 2
    }

    /// Whether making the batch again takes its place: its mapping is this one, or was renamed and is gone.
    pub fn takes_place_of(&self, receipt: &Receipt) -> bool {
        let gone = |name: &OsStr| !self.mapping.with_file_name(name).exists();
        self.is_own(receipt) || self.is_kin(receipt) && mapping_of(receipt).is_some_and(gone)
    }

    /// The last batch before, and before the one that is made again: of the mapping itself; where it has made none, of
    /// the same target and headings. What had nothing accepted says nothing.
    pub fn last_of<'b>(
        &self,
        batches: &'b [PastBatch],
        again: Option<&PastBatch>,
    ) -> Option<(&'b PastBatch, &'b Receipt)> {
        let is_made_again = |batch: &PastBatch| again.is_some_and(|again| again.path == batch.path);
        let end = batches.iter().position(is_made_again).unwrap_or(batches.len());
        let all = || filled(batches.get(..end).unwrap_or_default());
        all()
            .rfind(|(_, receipt)| self.is_own(receipt))
            .or_else(|| all().rfind(|(_, receipt)| self.is_kin(receipt)))
    }

    /// All batches of the mapping itself; where it has made none, of the same target and headings. The oldest first.
    pub fn all_of<'b>(&self, batches: &'b [PastBatch]) -> Vec<(&'b PastBatch, &'b Receipt)> {
        let own: Vec<_> = filled(batches).filter(|(_, receipt)| self.is_own(receipt)).collect();
        if own.is_empty() {
            filled(batches).filter(|(_, receipt)| self.is_kin(receipt)).collect()
        } else {
            own
        }
    }

    /// The batch for the same target in which a source of these bytes was before, by whatever mapping.
    ///
    /// # Errors
    /// [`Error::Request`] where a batch's receipt cannot be read, since it may be the one; [`Error::File`] when a
    /// source cannot be read.
    pub fn made_before<'b>(&self, batches: &'b [PastBatch]) -> Result<Option<(&'b PastBatch, String)>> {
        if let Some((batch, wrong)) = batches.iter().find_map(|one| Some((one, one.receipt.as_ref().err()?)))
        {
            let aside = batch.path.with_file_name(ASIDE);
            return Err(Error::Request(format!(
                "{wrong}\n  so the content of batch {} is not known: put its receipt back from a copy; or, where it was never uploaded, move its folder to {}",
                batch.place(),
                aside.display()
            )));
        }
        let made = |receipt: &Receipt| receipt.target.name == self.target || self.is_own(receipt);
        let before: Vec<(&PastBatch, &Receipt)> =
            filled(batches).filter(|(_, receipt)| made(receipt)).collect();
        if before.is_empty() {
            return Ok(None);
        }
        for source in self.sources {
            let print = source.fingerprint()?;
            let is_it = |receipt: &Receipt| {
                let mut known = receipt.sources.iter();
                known.any(|known| known.blake3 == print.blake3 && known.sheet == source.sheet())
            };
            // Its own come first: one export may be in batches of several mappings.
            let all = || before.iter().rev().filter(|(_, receipt)| is_it(receipt));
            let own = all().find(|(_, receipt)| self.takes_place_of(receipt));
            if let Some((batch, _)) = own.or_else(|| all().next()) {
                return Ok(Some((batch, source.name.clone())));
            }
        }
        Ok(None)
    }
}

/// The batches in which something was accepted, with their receipts.
fn filled(batches: &[PastBatch]) -> impl DoubleEndedIterator<Item = (&PastBatch, &Receipt)> {
    let with_receipt = batches.iter().filter_map(|batch| Some((batch, batch.receipt.as_ref().ok()?)));
    // What is about records that were sent before is no month of its own.
    with_receipt.filter(|(_, receipt)| receipt.totals.accepted > 0 && receipt.purpose.is_none())
}

/// The name of the mapping's file that made a batch.
fn mapping_of(receipt: &Receipt) -> Option<&OsStr> {
    Path::new(&receipt.settings.first()?.file).file_name()
}

impl PastBatch {
    /// What it remembers of its records; nothing where it was made before batches did, or the file is gone.
    fn memory(&self) -> Option<BatchMemory> {
        let bytes = std::fs::read(self.path.join(MEMORY)).ok()?;
        serde_json::from_slice(&bytes).ok()
    }

    /// The records that went into it, by their keys; nothing where that is not known.
    pub fn known_records(&self) -> Option<KnownRecords> {
        known_records(&self.path)
    }

    /// What is new or unlike in another run since this batch.
    pub fn news(
        &self,
        receipt: &Receipt,
        now: (&Receipt, &Summary),
        target: &Target,
        mapping: &Mapping,
    ) -> News {
        let (now, summary) = now;
        let memory = self.memory();
        let unlike = memory.map_or_else(Vec::new, |before| before.unlike(&summary.memory, &summary.sample));
        let mut new = receipt.drift_to(now, target, mapping);
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
    fn drift_to(&self, now: &Receipt, target: &Target, mapping: &Mapping) -> Vec<String> {
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
            &|field, value| is_of_list(target, field, value) || is_decided(target, mapping, field, value),
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

/// Whether the mapping says that a value stands for nothing, or a crosswalk says what it means.
fn is_decided(target: &Target, mapping: &Mapping, field: &str, value: &str) -> bool {
    let field = target.field(field);
    let maps = mapping.maps.iter().filter(|map| Some(map.field) == field);
    let decided = |map: &Map| {
        map.blank.contains(&fold(value))
            || map.crosswalk.lines().iter().any(|line| fold(&line.value) == fold(value))
    };
    maps.into_iter().any(decided)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn batch(folder: &Path, name: &str, day: &str, mapping: &str) {
        let receipt = serde_json::json!({
            "form": 1, "dusk": "0", "batch": name, "today": day, "asked": {},
            "target": {"name": "T", "version": ""}, "settings": [{"file": mapping, "blake3": ""}],
            "sources": [], "proven_date_orders": {}, "proven_decimal_marks": {},
            "totals": {"read": 1, "accepted": 1, "rejected": 0, "merged": 0, "left_out": 0},
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
        let last = |mapping, target| {
            let lineage = Lineage { mapping: Path::new(mapping), target, sources: &[] };
            lineage.last_of(&batches, None).map(|(batch, _)| batch.name())
        };
        assert_eq!(last("here/mapping.toml", "T").as_deref(), Some("2026-04-30-b"), "known by its name");
        assert_eq!(last("third.toml", "T").as_deref(), Some("2026-04-30-aa"), "known by the target");
        assert_eq!(last("third.toml", "U"), None);
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
