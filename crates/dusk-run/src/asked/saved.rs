//! The mappings that are saved in a folder: which of them an export fits, when each was used last, and how one gets
//! another name or is put aside.

use std::path::{Path, PathBuf};

use crate::{PastBatch, Receipt};
use dusk_description::Target;
use dusk_evidence::{Error, FieldId, Result};
use dusk_mapping::{Feed, Map, Mapping, learn_target, read, read_incomplete};
use dusk_sources::{Known, Source};
use toml_edit::DocumentMut;

/// The folder into which mappings are put that nobody wants any more.
const ASIDE: &str = "removed";

/// Endings of text files that may be exports, and of workbooks.
const TEXTS: [&str; 4] = ["csv", "tsv", "tab", "txt"];
const WORKBOOKS: [&str; 5] = ["xlsx", "xlsm", "xlsb", "xls", "ods"];

/// Why a mapping does not fit an export of the other kind.
const OF_SHEETS: &str = "it names a sheet of a workbook";
const OF_TEXTS: &str = "it names how a text file is read";

/// The ending of a file, in small letters.
fn ending(path: &Path) -> Option<String> {
    path.extension().map(|ending| ending.to_string_lossy().to_lowercase())
}

/// A mapping that is saved in a folder.
#[derive(Debug)]
pub struct SavedMapping {
    /// Its file.
    pub path: PathBuf,
    /// What it says, with its target, or why it cannot be read.
    pub read: Result<(Mapping, Target)>,
}

/// The mappings in a folder, by name: files in TOML with a `target` that names a description.
///
/// # Errors
/// [`Error::File`] when the folder cannot be read.
pub fn saved_mappings(folder: &Path) -> Result<Vec<SavedMapping>> {
    let place = if folder.as_os_str().is_empty() { Path::new(".") } else { folder };
    let entries = std::fs::read_dir(place).map_err(Error::reading(place))?;
    let mut paths: Vec<PathBuf> = entries
        .flatten()
        .map(|entry| folder.join(entry.file_name()))
        .filter(|path| path.extension().is_some_and(|ending| ending == "toml") && is_mapping(path))
        .collect();
    paths.sort();
    Ok(paths.into_iter().map(|path| SavedMapping { read: read(&path), path }).collect())
}

/// The headings that other mappings in a folder feed the fields of a target from, as they stand.
pub fn learnt_headings(path: &Path, (target_path, target): (&Path, &Target)) -> Vec<(FieldId, String)> {
    let own = target_path.canonicalize().ok();
    // What cannot be read teaches nothing.
    let saved = saved_mappings(path.parent().unwrap_or(Path::new(""))).unwrap_or_default();
    let mut learnt = Vec::new();
    for (mapping, theirs) in
        saved.iter().filter(|saved| saved.path != path).filter_map(|saved| saved.read.as_ref().ok())
    {
        if mapping.target_path.canonicalize().ok() != own {
            continue;
        }
        for map in &mapping.maps {
            let Map { feed: Feed::Column(heading), part: None, true_where: None, .. } = map else { continue };
            let name = theirs.fields.get(map.field).map(|field| field.name.as_str());
            if let Some(field) = name.and_then(|name| target.field(name)) {
                learnt.push((field, heading.clone()));
            }
        }
    }
    learnt
}

/// Whether a file names a target, as only mappings do. One that is torn may have been one.
fn is_mapping(path: &Path) -> bool {
    let Ok(text) = std::fs::read_to_string(path) else { return false };
    match text.parse::<DocumentMut>() {
        Ok(document) => document.get("target").is_some_and(toml_edit::Item::is_str),
        Err(_) => text.lines().any(|line| line.trim_start().starts_with("[[map]]")),
    }
}

impl SavedMapping {
    /// Its name: the file's.
    pub fn name(&self) -> String {
        self.path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned())
    }

    /// Whether an export may be of the kind that it reads, by the name of the file alone; if not, why.
    fn may_read(&self, source: &Path) -> std::result::Result<(), &'static str> {
        let Ok((mapping, _)) = &self.read else { return Err(self.why_not_read()) };
        let of_text = mapping.source.encoding.is_some() || mapping.source.delimiter.is_some();
        match ending(source) {
            Some(ending) if TEXTS.contains(&ending.as_str()) && mapping.source.sheet.is_some() => {
                Err(OF_SHEETS)
            }
            Some(ending) if WORKBOOKS.contains(&ending.as_str()) && of_text => Err(OF_TEXTS),
            _ => Ok(()),
        }
    }

    /// Whether the names of these exports leave it possible that it fits them. Nothing is opened for that.
    pub fn may_fit(&self, sources: &[PathBuf]) -> bool {
        sources.iter().all(|source| self.may_read(source).is_ok())
    }

    /// Whether an export has every heading that the mapping uses; if not, why.
    pub fn fits(&self, source: &Path) -> std::result::Result<(), String> {
        if !dusk_sources::leads_to_a_file(source) {
            return Err("the file does not exist".into());
        }
        self.may_read(source)?;
        let Ok((mapping, target)) = &self.read else { return Err(self.why_not_read().into()) };
        if mapping.used().is_empty() {
            return Err("it takes nothing from any column".into());
        }
        let mut words = Known::default();
        learn_target(&mut words, target);
        // A reading that is still open is no matter of headings.
        let looked = Source::look(source, &mapping.source, &mapping.known(target))
            .or_else(|_| Source::look(source, &mapping.source, &words));
        let Ok(looked) = looked else { return Err("the file is not of its kind".into()) };
        let of_text = mapping.source.encoding.is_some() || mapping.source.delimiter.is_some();
        match looked.sheet() {
            None if mapping.source.sheet.is_some() => return Err(OF_SHEETS.into()),
            Some(_) if of_text => return Err(OF_TEXTS.into()),
            _ => {}
        }
        let wanted = mapping.wanted();
        let missing: Vec<&String> = wanted.iter().filter(|name| looked.column(name).is_none()).collect();
        match missing.as_slice() {
            [] => Ok(()),
            [one] => Err(format!("there is no column \"{one}\"")),
            [one, more @ ..] => {
                Err(format!("there is no column \"{one}\", and {} more are not there", more.len()))
            }
        }
    }

    /// Why nothing can be made with it, in short.
    pub fn why_not_read(&self) -> &'static str {
        if read_incomplete(&self.path).is_ok() { "it is not complete yet" } else { "it cannot be read" }
    }

    /// The exports in its folder that it fits, by name.
    pub fn exports(&self, folder: &Path) -> Vec<String> {
        let place = if folder.as_os_str().is_empty() { Path::new(".") } else { folder };
        let entries = std::fs::read_dir(place).into_iter().flatten().flatten();
        let is_export = |path: &Path| {
            let known = |ending: String| TEXTS.iter().chain(&WORKBOOKS).any(|known| *known == ending);
            path.is_file() && ending(path).is_some_and(known)
        };
        let mut names: Vec<String> = entries
            .filter(|entry| is_export(&entry.path()) && self.fits(&entry.path()).is_ok())
            .map(|entry| entry.file_name().to_string_lossy().into_owned())
            .collect();
        names.sort();
        names
    }

    /// The last batch that it made, under its name of now; where there is none, that a mapping into the same target
    /// made which is not in its folder any more: this one under another name.
    pub fn last_use<'b>(&self, batches: &'b [PastBatch]) -> Option<(&'b PastBatch, &'b Receipt)> {
        let made = || batches.iter().filter_map(|batch| Some((batch, batch.receipt.as_ref().ok()?)));
        let by = |receipt: &Receipt| receipt.settings.first().map(|file| PathBuf::from(&file.file));
        let name = self.path.file_name();
        let own = |receipt: &Receipt| by(receipt).is_some_and(|by| by.file_name() == name);
        let gone = |receipt: &Receipt| {
            let is_there = |name: &std::ffi::OsStr| self.path.with_file_name(name).exists();
            by(receipt).is_some_and(|by| by.file_name().is_some_and(|name| !is_there(name)))
        };
        let (mapping, target) = self.read.as_ref().ok()?;
        let wanted = mapping.wanted();
        let has_all = |receipt: &Receipt| {
            let columns = receipt.sources.first().map_or(&[][..], |source| source.columns.as_slice());
            wanted.iter().all(|name| columns.contains(name))
        };
        let kin = |receipt: &Receipt| receipt.target.name == target.name && gone(receipt) && has_all(receipt);
        made().rfind(|(_, receipt)| own(receipt)).or_else(|| made().rfind(|(_, receipt)| kin(receipt)))
    }

    /// Gives it another name in its folder; its history goes with it, since it belongs to the target and the headings.
    ///
    /// # Errors
    /// [`Error::Request`] for a name that is no file of this folder; [`Error::Exists`] when something has it.
    pub fn rename(&self, name: &str) -> Result<PathBuf> {
        let is_plain = Path::new(name).file_name().is_some_and(|own| own == Path::new(name).as_os_str());
        if !is_plain {
            let says = format!(
                "\"{name}\" is not a name of a file in the same folder; expected: a name as hives.toml"
            );
            return Err(Error::Request(says));
        }
        let name = if name.ends_with(".toml") { name.to_owned() } else { format!("{name}.toml") };
        let path = self.path.with_file_name(name);
        move_to(&self.path, &path)?;
        Ok(path)
    }

    /// Puts it among those that nobody wants any more.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be moved.
    pub fn put_aside(&self) -> Result<PathBuf> {
        let folder = self.path.with_file_name(ASIDE);
        std::fs::create_dir_all(&folder).map_err(Error::writing(&folder))?;
        let name = self.path.file_stem().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
        let mut number = 1_u32;
        loop {
            let path = folder.join(format!("{name}-{number}.toml"));
            match move_to(&self.path, &path) {
                Err(Error::Exists(_)) => number += 1,
                done => return done.map(|()| path),
            }
        }
    }
}

/// Moves a file to a place where nothing is.
fn move_to(from: &Path, to: &Path) -> Result<()> {
    // A second name is made only where nothing has it yet, so that nothing is written over.
    match std::fs::hard_link(from, to) {
        Ok(()) => std::fs::remove_file(from).map_err(Error::writing(from)),
        Err(error) if error.kind() == std::io::ErrorKind::AlreadyExists => {
            Err(Error::Exists(to.to_path_buf()))
        }
        Err(_) if to.symlink_metadata().is_ok() => Err(Error::Exists(to.to_path_buf())),
        Err(_) => std::fs::rename(from, to).map_err(Error::writing(to)),
    }
}
