//! A folder from which the target takes files.

use std::fs::File;
use std::io::{Read as _, Write as _};
use std::path::{Path, PathBuf};

use super::carrier::{Carrier, FileToSend, Handed};
use dusk_description::DropFolder;
use dusk_evidence::{Error, Result};
use dusk_files::{FileName, OutputFile, disk};

/// What stands in the name of a file until it is whole.
const UNFINISHED: &str = ".writing-";

/// How many files of a folder are looked at for one that was renamed.
const MOST_FILES: usize = 10_000;

/// A folder from which the target takes files.
#[derive(Debug)]
pub struct DropCarrier<'d> {
    /// How it is described.
    pub described: &'d DropFolder,
    /// Where it is.
    pub folder: PathBuf,
    /// Where the target puts its answers.
    pub answers: Option<PathBuf>,
}

/// What became of a file that was put into the folder.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Dropped {
    /// It is still there.
    Waiting,
    /// It is still there, and somebody has changed it.
    Changed,
    /// It is there under another name, or in a folder below.
    Moved(PathBuf),
    /// It is not there any more: the target has taken it, or somebody took it away.
    Gone,
    /// The folder cannot be looked into.
    NotReachable,
}

impl DropCarrier<'_> {
    /// What a file is called in the folder.
    pub fn name_of(&self, file: &FileToSend<'_>) -> String {
        file.filled(&self.described.name, &[])
    }

    fn unfinished(&self, file: &FileToSend<'_>) -> PathBuf {
        let key: String = file.key.chars().take(12).collect();
        self.folder.join(format!(".{}{UNFINISHED}{key}", self.name_of(file)))
    }

    fn target(&self, file: &FileToSend<'_>) -> PathBuf {
        self.folder.join(self.name_of(file))
    }

    /// Whether the file at a path is this one.
    fn is_it(path: &Path, file: &FileToSend<'_>) -> bool {
        let same_size =
            std::fs::metadata(path).is_ok_and(|metadata| metadata.is_file() && metadata.len() == file.bytes);
        same_size && OutputFile::of_file(path, "", 0).is_ok_and(|found| found.blake3 == file.blake3)
    }

    /// Gives the file its name, which tells the target that it is whole.
    fn finish(&self, file: &FileToSend<'_>) -> Result<Handed> {
        let (unfinished, target) = (self.unfinished(file), self.target(file));
        disk::rename_new(&unfinished, &target).map_err(|error| match error.kind() {
            std::io::ErrorKind::AlreadyExists => taken(&target),
            _ => Error::writing(&target)(error),
        })?;
        // From here on the target may have it: whatever fails now is found out by looking, and is no reason to send it again.
        let is_known = disk::sync_folder(&self.folder).map_err(Error::writing(&self.folder));
        match is_known.and_then(|()| self.say_ready(file)) {
            Ok(()) => Ok(Handed::Over { says: target.display().to_string(), answer: None }),
            Err(error) => Ok(Handed::Unknown { says: error.to_string() }),
        }
    }

    /// Writes the empty file that tells the target that this one is whole, where it wants one.
    fn say_ready(&self, file: &FileToSend<'_>) -> Result<()> {
        let Some(ready) = &self.described.ready else { return Ok(()) };
        let name = self.name_of(file);
        let path = self.folder.join(file.filled(ready, &[("name", &name)]));
        match disk::DiskFile::create_new(&path) {
            Err(error) if error.kind() == std::io::ErrorKind::AlreadyExists => Ok(()),
            made => made.and_then(|made| made.sync()).map_err(Error::writing(&path)),
        }
    }

    /// What became of a file that was put into the folder.
    pub fn fate(&self, file: &FileToSend<'_>) -> Dropped {
        let target = self.target(file);
        if target.is_file() {
            return if Self::is_it(&target, file) { Dropped::Waiting } else { Dropped::Changed };
        }
        let Ok(entries) = std::fs::read_dir(&self.folder) else { return Dropped::NotReachable };
        let mut paths: Vec<PathBuf> = entries.flatten().map(|entry| entry.path()).take(MOST_FILES).collect();
        let below = paths.iter().filter(|path| path.is_dir()).flat_map(|folder| {
            std::fs::read_dir(folder)
                .into_iter()
                .flatten()
                .flatten()
                .map(|entry| entry.path())
                .take(MOST_FILES)
        });
        let below: Vec<PathBuf> = below.collect();
        paths.extend(below);
        paths.sort();
        paths.into_iter().find(|path| Self::is_it(path, file)).map_or(Dropped::Gone, Dropped::Moved)
    }
}

fn taken(target: &Path) -> Error {
    Error::Request(format!(
        "{} is there already, and is not this file\n  nothing was handed over; wait until the target has taken it, or give [delivery] another name, as name = \"{{batch}}-{{file}}\"",
        target.display()
    ))
}

impl Carrier for DropCarrier<'_> {
    fn prepare(&self, file: &FileToSend<'_>) -> Result<()> {
        if !self.folder.is_dir() {
            return Err(Error::Request(format!(
                "{} is not a folder, and [delivery] names it\n  make it, or mount the drive that it is on; nothing was handed over",
                self.folder.display()
            )));
        }
        let name = self.name_of(file);
        FileName::checked(&name).map_err(|why| {
            Error::Request(format!("[delivery] would call the file \"{name}\", and that name {why}"))
        })?;
        if self.target(file).symlink_metadata().is_ok() {
            return Err(taken(&self.target(file)));
        }
        let unfinished = self.unfinished(file);
        let mut from = File::open(file.path).map_err(Error::reading(file.path))?;
        let written = (|| {
            let mut to = disk::DiskFile::create(&unfinished)?;
            let mut buffer = vec![0; 128 * 1024];
            loop {
                let read = from.read(&mut buffer)?;
                let Some(part) = buffer.get(..read).filter(|part| !part.is_empty()) else { break };
                to.write_all(part)?;
            }
            to.sync()
        })();
        written.map_err(|error| {
            let _ = disk::remove(&unfinished);
            Error::writing(&unfinished)(error)
        })?;
        // What a broken drive made of it is seen before the target sees it.
        if Self::is_it(&unfinished, file) {
            return Ok(());
        }
        let _ = disk::remove(&unfinished);
        Err(Error::Request(format!(
            "{} did not come out as it was written; nothing was handed over",
            unfinished.display()
        )))
    }

    fn hand_over(&self, file: &FileToSend<'_>, progress: &dyn Fn(u64)) -> Result<Handed> {
        let handed = self.finish(file);
        if handed.is_err() {
            let _ = disk::remove(&self.unfinished(file));
        }
        progress(file.bytes);
        handed
    }

    fn look(&self, file: &FileToSend<'_>) -> Result<Handed> {
        // It has its own name until it is given the one that the target looks for.
        if Self::is_it(&self.unfinished(file), file) {
            return Ok(Handed::Not {
                says: "the last run ended before it was handed over".into(),
                may_repeat: true,
            });
        }
        Ok(match self.fate(file) {
            Dropped::Waiting => {
                self.say_ready(file)?;
                Handed::Over { says: self.target(file).display().to_string(), answer: None }
            }
            Dropped::Moved(path) => Handed::Over { says: path.display().to_string(), answer: None },
            Dropped::Changed => Handed::Unknown {
                says: format!("{} is there, and is not this file", self.target(file).display()),
            },
            Dropped::Gone => Handed::Unknown {
                says: format!(
                    "it is not in {}: the target has taken it, or it never came there",
                    self.folder.display()
                ),
            },
            Dropped::NotReachable => {
                Handed::Unknown { says: format!("{} cannot be looked into", self.folder.display()) }
            }
        })
    }

    fn answers(&self, file: &FileToSend<'_>) -> Result<Vec<(String, Vec<u8>)>> {
        let Some(folder) = &self.answers else {
            return Err(Error::Request(
                "[delivery] does not say where the target puts its answers\n  write answers = \"…\", the folder, or give the file of its answer".into(),
            ));
        };
        let name = self.name_of(file);
        // Most targets name an answer after its file, with or without the ending.
        let stem = name.rsplit_once('.').map_or(name.as_str(), |(stem, _)| stem);
        let mut found = Vec::new();
        for entry in std::fs::read_dir(folder).map_err(Error::reading(folder))?.flatten() {
            let own = entry.file_name().to_string_lossy().into_owned();
            let goes_on = |rest: &str| !rest.starts_with(|letter: char| letter.is_ascii_alphanumeric());
            let is_about = own.find(stem).and_then(|at| own.get(at + stem.len()..)).is_some_and(goes_on);
            let path = entry.path();
            if is_about && path.is_file() && !own.starts_with('.') {
                let bytes = std::fs::read(&path).map_err(Error::reading(&path))?;
                // What is empty is only being written.
                found.extend((!bytes.is_empty()).then_some((own, bytes)));
            }
        }
        found.sort();
        Ok(found)
    }

    fn may_repeat(&self) -> bool {
        false
    }
}
