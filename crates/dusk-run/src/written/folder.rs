//! A batch folder appears whole or not at all: it is made under another name beside its place,
//! and takes its name when everything is in it.

use std::fs::File;
use std::path::{Path, PathBuf};
use std::time::Duration;

use jiff::civil::Date;

use crate::ASIDE;
use dusk_evidence::{Error, Result};

/// What the folder is called while it is made.
const UNFINISHED: &str = ".unfinished-";

/// The file whose lock says that somebody is still at work in the folder.
const LOCK: &str = "lock";

/// How long a folder may be without its lock before nobody is about to make one.
const FRESH: Duration = Duration::from_secs(60);

/// A batch folder being made. Dropped before it is finished, it leaves nothing behind.
#[derive(Debug)]
pub struct BatchFolder {
    path: PathBuf,
    unfinished: PathBuf,
    lock: Option<File>,
    replaces: Option<PathBuf>,
}

/// The next free name in `batches` for a batch made on this day: 2026-04-30-a, -b, …, -z, -aa.
pub fn next_batch(batches: &Path, today: Date) -> PathBuf {
    let mut number: u32 = 0;
    loop {
        let path = batches.join(format!("{today}-{}", letters(number)));
        if !path.exists() {
            return path;
        }
        number += 1;
    }
}

/// a to z, then aa to zz, and so on.
fn letters(number: u32) -> String {
    let last = char::from(b'a' + u8::try_from(number % 26).unwrap_or(0));
    match number / 26 {
        0 => last.into(),
        more => format!("{}{last}", letters(more - 1)),
    }
}

impl BatchFolder {
    /// Begins the folder that will be at `path`, and clears away what runs that were killed left
    /// beside it.
    ///
    /// # Errors
    /// [`Error::Exists`] when something is at `path`; [`Error::File`] when the place cannot be
    /// written to.
    pub fn begin(path: &Path) -> Result<Self> {
        if path.symlink_metadata().is_ok() {
            return Err(Error::Exists(path.to_path_buf()));
        }
        Self::begin_at(path, None)
    }

    /// The same where the folder takes the place of the batch at `old`, which may be at `path`: that one is put aside
    /// when the new one is whole.
    ///
    /// # Errors
    /// [`Error::Exists`] when something else is at `path`; [`Error::File`] when the place cannot be written to.
    pub fn begin_replacing(path: &Path, old: &Path) -> Result<Self> {
        if path != old && path.symlink_metadata().is_ok() {
            return Err(Error::Exists(path.to_path_buf()));
        }
        Self::begin_at(path, Some(old.to_path_buf()))
    }

    fn begin_at(path: &Path, replaces: Option<PathBuf>) -> Result<Self> {
        let parent = path.parent().filter(|parent| !parent.as_os_str().is_empty()).unwrap_or(Path::new("."));
        std::fs::create_dir_all(parent).map_err(Error::writing(parent))?;
        sweep(parent);
        let name = path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
        let unfinished = parent.join(format!("{UNFINISHED}{name}-{}", std::process::id()));
        std::fs::create_dir(&unfinished).map_err(Error::writing(&unfinished))?;
        let mut folder = Self { path: path.to_path_buf(), unfinished, lock: None, replaces };
        let lock_path = folder.unfinished.join(LOCK);
        let lock = File::create_new(&lock_path).and_then(|lock| lock.lock().map(|()| lock));
        folder.lock = Some(lock.map_err(Error::writing(&lock_path))?);
        Ok(folder)
    }

    /// Where files go while the folder is made.
    pub fn work(&self) -> &Path {
        &self.unfinished
    }

    /// The batch's name: the folder's.
    pub fn name(&self) -> String {
        self.path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned())
    }

    /// Gives the folder its name.
    ///
    /// # Errors
    /// [`Error::Exists`] when something has come to be at its place meanwhile.
    pub fn finish(mut self) -> Result<PathBuf> {
        self.lock = None;
        let lock_path = self.unfinished.join(LOCK);
        std::fs::remove_file(&lock_path).map_err(Error::writing(&lock_path))?;
        sync(&self.unfinished)?;
        if self.path.symlink_metadata().is_ok() && self.replaces.as_ref() != Some(&self.path) {
            return Err(Error::Exists(self.path.clone()));
        }
        let old = self.replaces.as_ref().filter(|old| old.symlink_metadata().is_ok());
        let aside = old.map(|old| put_aside(old)).transpose()?;
        if let Err(error) = std::fs::rename(&self.unfinished, &self.path) {
            // The old batch gets its place back.
            if let (Some(aside), Some(old)) = (aside, old) {
                let _ = std::fs::rename(aside, old);
            }
            return Err(Error::writing(&self.path)(error));
        }
        if let Some(parent) = self.path.parent().filter(|parent| !parent.as_os_str().is_empty()) {
            sync(parent)?;
        }
        Ok(self.path.clone())
    }
}

impl Drop for BatchFolder {
    fn drop(&mut self) {
        // After it was finished there is nothing of that name any more.
        self.lock = None;
        let _ = std::fs::remove_dir_all(&self.unfinished);
    }
}

/// Puts a batch among those that were replaced, under a name that is free.
fn put_aside(path: &Path) -> Result<PathBuf> {
    let parent = path.parent().unwrap_or(Path::new("")).join(ASIDE);
    std::fs::create_dir_all(&parent).map_err(Error::writing(&parent))?;
    let name = path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    let mut number = 1_u32;
    loop {
        let aside = parent.join(format!("{name}-{number}"));
        if aside.symlink_metadata().is_err() {
            std::fs::rename(path, &aside).map_err(Error::writing(&aside))?;
            return Ok(aside);
        }
        number += 1;
    }
}

/// Waits until the disk knows the names in a folder. Some systems cannot open a folder; there the
/// names are as safe as the system makes them.
fn sync(folder: &Path) -> Result<()> {
    match File::open(folder) {
        Ok(opened) => opened.sync_all().map_err(Error::writing(folder)),
        Err(_) => Ok(()),
    }
}

/// Takes away unfinished folders at which nobody works any more.
fn sweep(parent: &Path) {
    let entries = std::fs::read_dir(parent).into_iter().flatten().flatten();
    for entry in entries.filter(|entry| entry.file_name().to_string_lossy().starts_with(UNFINISHED)) {
        let abandoned = match File::open(entry.path().join(LOCK)) {
            Ok(lock) => lock.try_lock().is_ok(),
            // Killed before there was a lock: nothing can be in it. A new one is left alone, since its
            // lock may be about to come.
            Err(_) => {
                let age = entry.metadata().and_then(|metadata| metadata.modified()).ok();
                let age = age.and_then(|made| made.elapsed().ok());
                if age.is_some_and(|age| age > FRESH) {
                    let _ = std::fs::remove_dir(entry.path());
                }
                false
            }
        };
        if abandoned {
            // Somebody else may be faster; then it is gone all the same.
            let _ = std::fs::remove_dir_all(entry.path());
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_batch_is_replaced_when_the_new_one_is_whole_and_not_before() {
        let place = tempfile::tempdir().unwrap();
        let path = place.path().join("a");
        let make = |text: &str, replaces: bool| {
            let begun =
                if replaces { BatchFolder::begin_replacing(&path, &path) } else { BatchFolder::begin(&path) };
            begun.inspect(|folder| {
                std::fs::write(folder.work().join("file"), text).unwrap();
            })
        };
        make("one", false).unwrap().finish().unwrap();
        assert!(matches!(make("two", false), Err(Error::Exists(_))));
        drop(make("two", true).unwrap());
        let read = |name: &str| std::fs::read_to_string(place.path().join(name).join("file")).unwrap();
        assert_eq!(read("a"), "one", "a run that was given up replaces nothing");
        make("two", true).unwrap().finish().unwrap();
        make("three", true).unwrap().finish().unwrap();
        assert_eq!([read("a"), read("replaced/a-1"), read("replaced/a-2")], ["three", "one", "two"]);
    }

    #[test]
    fn batches_of_a_day_are_lettered_without_end() {
        assert_eq!([0, 25, 26, 51, 52].map(letters), ["a", "z", "aa", "az", "ba"]);
    }
}
