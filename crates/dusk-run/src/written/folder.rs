//! A batch folder appears whole or not at all: it is made under another name beside its place,
//! and takes its name when everything is in it.

use std::fs::File;
use std::path::{Path, PathBuf};

use jiff::civil::Date;

use super::aside::{name_of, put_aside};
use super::leftovers::{self, LOCK, UNFINISHED};
use dusk_evidence::{Error, Result};
use dusk_files::{FileName, disk};

/// A batch folder being made. Dropped before it is finished, it leaves nothing behind.
#[derive(Debug)]
pub struct BatchFolder {
    path: PathBuf,
    unfinished: PathBuf,
    /// Open as long as somebody is at work in the folder.
    lock: Option<File>,
    replaces: Option<PathBuf>,
    /// Whether what is at `unfinished` is still the new batch.
    is_new: bool,
}

/// The next free name in `batches` for a batch made on this day: 2026-04-30-a, -b, …, -z, -aa.
pub fn next_batch(batches: &Path, today: Date) -> PathBuf {
    let mut number: u32 = 0;
    loop {
        let path = batches.join(format!("{today}-{}", letters(number)));
        if path.symlink_metadata().is_err() {
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
        FileName::checked(&name_of(path)).map_err(|why| {
            Error::Request(format!("a batch cannot be called \"{}\": the name {why}", name_of(path)))
        })?;
        let parent = path.parent().filter(|parent| !parent.as_os_str().is_empty()).unwrap_or(Path::new("."));
        disk::make_folders(parent).map_err(Error::writing(parent))?;
        leftovers::sweep(parent)?;
        let name = name_of(path);
        let unfinished = parent.join(format!("{UNFINISHED}{name}-{}", std::process::id()));
        disk::make_folder(&unfinished).map_err(Error::writing(&unfinished))?;
        let mut folder = Self { path: path.to_path_buf(), unfinished, lock: None, replaces, is_new: true };
        folder.lock = Some(leftovers::at_work(&folder.unfinished)?);
        Ok(folder)
    }

    /// Where files go while the folder is made.
    pub fn work(&self) -> &Path {
        &self.unfinished
    }

    /// The batch's name: the folder's.
    pub fn name(&self) -> String {
        name_of(&self.path)
    }

    /// Notes that rows are about to stay in a table elsewhere: should the run be ended before the folder has its name,
    /// the next one says so.
    ///
    /// # Errors
    /// [`Error::File`] when the place cannot be written to.
    pub fn about_to_load(&self, table: &str) -> Result<()> {
        dusk_files::write_whole(&self.unfinished.join(leftovers::LOADING), table.as_bytes())
    }

    /// Stops where something has come to be at its place meanwhile.
    ///
    /// # Errors
    /// [`Error::Exists`] then.
    pub fn refuse_where_taken(&self) -> Result<()> {
        let is_taken = self.path.symlink_metadata().is_ok();
        let is_own = self.replaces.as_deref() == Some(&self.path);
        if is_taken && !is_own { Err(Error::Exists(self.path.clone())) } else { Ok(()) }
    }

    /// Gives the folder its name. Where it takes another's place, the two change names in one step.
    ///
    /// # Errors
    /// [`Error::Exists`] when something has come to be at its place meanwhile; [`Error::File`] when the place
    /// cannot be written to. Then the old batch is where it was.
    pub fn finish(mut self) -> Result<PathBuf> {
        disk::sync_folder(&self.unfinished).map_err(Error::writing(&self.unfinished))?;
        if cfg!(windows) {
            // A folder in which a file is open keeps its name there.
            self.lock = None;
        }
        let old = self.replaces.take().filter(|old| old.symlink_metadata().is_ok());
        match old {
            Some(old) if old == self.path => self.change_places()?,
            old => {
                self.take_name()?;
                old.map_or(Ok(()), |old| put_aside(&old, &name_of(&old)).map(drop))?;
            }
        }
        self.lock = None;
        for done in [leftovers::LOADING, LOCK] {
            // What stays is nobody's concern: the folder has its name.
            let _ = disk::remove(&self.path.join(done));
        }
        let parent = self.path.parent().unwrap_or(Path::new(""));
        disk::sync_folder(parent).map_err(Error::writing(parent))?;
        Ok(self.path.clone())
    }

    /// Takes the name of the batch at its path, which is put aside.
    fn change_places(&mut self) -> Result<()> {
        // From here on the old batch may be at either place.
        self.is_new = false;
        match disk::exchange(&self.unfinished, &self.path) {
            // A run that sweeps may have put the old one aside already.
            Ok(()) => put_aside(&self.unfinished, &self.name()).map(drop),
            Err(_) => {
                // Where names cannot be exchanged: a run that is ended in between is completed by the next one.
                self.is_new = true;
                let aside = put_aside(&self.path, &self.name())?;
                self.take_name().inspect_err(|_| {
                    if let Some(aside) = &aside {
                        let _ = disk::rename(aside, &self.path);
                    }
                })
            }
        }
    }

    fn take_name(&mut self) -> Result<()> {
        if self.path.symlink_metadata().is_ok() {
            return Err(Error::Exists(self.path.clone()));
        }
        disk::rename(&self.unfinished, &self.path).map_err(Error::writing(&self.path))?;
        self.is_new = false;
        Ok(())
    }
}

impl Drop for BatchFolder {
    fn drop(&mut self) {
        self.lock = None;
        if self.is_new {
            let _ = disk::remove_folder(&self.unfinished);
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
