//! A steward's file that is read, changed and written again, with nobody else in between.

use std::fs::{File, OpenOptions, TryLockError};
use std::io::ErrorKind;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::{Duration, Instant};

use super::disk;
use super::whole::{sweep, write_whole};
use dusk_evidence::{Error, Result};

/// How long another run is waited for. Nothing that is done while a file is held takes as long.
const PATIENCE: Duration = Duration::from_secs(30);

/// How long it is until the lock is tried again.
const PAUSE: Duration = Duration::from_millis(4);

/// The file that is locked where a folder itself cannot be.
const LOCK: &str = ".lock";

/// A file that this run alone may rewrite. Whoever rewrites one has to hold it, reads it anew then, and writes it by
/// way of this.
///
/// The lock is one of the operating system's on the file's folder, so that it ends with the process, however that
/// ends.
#[derive(Debug)]
pub struct Held {
    path: PathBuf,
    // The lock lasts as long as this is there.
    lock: Arc<Lock>,
    unlocked: Option<String>,
    swept: Vec<PathBuf>,
}

/// A folder that is locked, or one whose drive has no locks.
#[derive(Debug)]
struct Lock {
    // Open as long as it is locked.
    _file: Option<File>,
    /// The folder, where it was made for this.
    made: Option<PathBuf>,
}

impl Drop for Lock {
    fn drop(&mut self) {
        if let Some(made) = &self.made {
            // Where something is in it by now, it stays.
            let _ = std::fs::remove_dir(made);
        }
    }
}

impl Held {
    /// Holds the file at `path`, which need not be there yet. Waits while another run holds one in the same folder.
    ///
    /// # Errors
    /// [`Error::Request`] when another run does not let go; [`Error::File`] when the folder cannot be made.
    pub fn file(path: &Path) -> Result<Self> {
        let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
        let until = Instant::now() + PATIENCE;
        loop {
            let made = match made(folder) {
                // Another run made it first, and has taken it away again by now.
                Err(gone)
                    if gone.kind() == ErrorKind::AlreadyExists
                        && !folder.is_file()
                        && Instant::now() < until =>
                {
                    continue;
                }
                made => made.map_err(Error::writing(folder))?.then(|| folder.to_path_buf()),
            };
            let (file, unlocked) = match locked(folder, until) {
                Ok(file) => (Some(file), None),
                // Whoever made it for its own lock has just taken it away again.
                Err(_) if !folder.exists() && Instant::now() < until => continue,
                Err(TryLockError::WouldBlock) => return Err(busy(path)),
                Err(TryLockError::Error(wrong)) => (None, Some(no_locks(folder, &wrong))),
            };
            if file.as_ref().is_some_and(|file| !is_still(file, folder)) {
                continue;
            }
            let swept = if file.is_some() { sweep(folder) } else { Vec::new() };
            let lock = Arc::new(Lock { _file: file, made });
            return Ok(Self { path: path.to_path_buf(), lock, unlocked, swept });
        }
    }

    /// Holds another file of the same folder as well, which the same lock keeps.
    ///
    /// # Errors
    /// [`Error::Invariant`] where it is in another folder.
    pub fn with(&self, path: &Path) -> Result<Self> {
        if path.parent() != self.path.parent() {
            return Err(Error::Invariant("files of two folders were held by one lock".into()));
        }
        Ok(Self { path: path.to_path_buf(), lock: Arc::clone(&self.lock), unlocked: None, swept: Vec::new() })
    }

    /// Holds a file together with those that are held already.
    ///
    /// # Errors
    /// As [`Held::file`].
    pub fn among(held: Option<&Self>, path: &Path) -> Result<Self> {
        held.map_or_else(|| Self::file(path), |held| held.with(path))
    }

    /// The file.
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// What was taken away that runs left which were ended while they wrote in this folder.
    pub fn swept(&self) -> &[PathBuf] {
        &self.swept
    }

    /// What is to be said where the drive cannot lock files.
    pub fn unlocked(&self) -> Option<&str> {
        self.unlocked.as_deref()
    }

    /// Writes it, whole or not at all.
    ///
    /// # Errors
    /// [`Error::File`] when the folder cannot be written to; then nothing has changed.
    pub fn write(&self, bytes: &[u8]) -> Result<()> {
        write_whole(&self.path, bytes)
    }

    /// Takes it away, where it is there.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be.
    pub fn remove(&self) -> Result<()> {
        match disk::remove(&self.path) {
            Err(error) if error.kind() == ErrorKind::NotFound => Ok(()),
            done => done.map_err(Error::writing(&self.path)),
        }
    }
}

/// Makes a folder where there is none. Says whether it was this that made it.
fn made(folder: &Path) -> std::io::Result<bool> {
    if folder.is_dir() {
        return Ok(false);
    }
    folder.parent().filter(|parent| !parent.as_os_str().is_empty()).map_or(Ok(()), disk::make_folders)?;
    match disk::make_folder(folder) {
        Err(error) if error.kind() == ErrorKind::AlreadyExists && folder.is_dir() => Ok(false),
        done => done.map(|()| true),
    }
}

fn busy(path: &Path) -> Error {
    Error::Request(format!(
        "{}: another run of dusk is writing there and does not come to an end\n  nothing was recorded; wait for it, or end it, and try again",
        path.display()
    ))
}

fn no_locks(folder: &Path, wrong: &std::io::Error) -> String {
    format!(
        "{}: this drive cannot lock files ({}), so make sure that only one person records decisions there at a time",
        folder.display(),
        dusk_evidence::plain_reason(wrong)
    )
}

/// Locks a folder; where the system locks no folders, a file in it.
fn locked(folder: &Path, until: Instant) -> Result<File, TryLockError> {
    match locked_by(until, || File::open(folder)) {
        Err(TryLockError::Error(_)) => {
            let path = folder.join(LOCK);
            locked_by(until, || OpenOptions::new().write(true).create(true).truncate(false).open(&path))
        }
        done => done,
    }
}

/// Whether what was locked is still in its place: a folder that was taken away meanwhile keeps nobody out.
fn is_still(file: &File, folder: &Path) -> bool {
    #[cfg(unix)]
    {
        use std::os::unix::fs::MetadataExt as _;
        let (Ok(locked), Ok(there)) = (file.metadata(), folder.metadata()) else { return false };
        !locked.is_dir() || (locked.dev(), locked.ino()) == (there.dev(), there.ino())
    }
    #[cfg(not(unix))]
    {
        let _ = file;
        folder.exists()
    }
}

/// Opens a file and locks it for itself, as soon as nobody else has it.
fn locked_by(until: Instant, open: impl Fn() -> std::io::Result<File>) -> Result<File, TryLockError> {
    let file = open().map_err(TryLockError::Error)?;
    loop {
        match file.try_lock() {
            Ok(()) => return Ok(file),
            Err(TryLockError::WouldBlock) if Instant::now() < until => std::thread::sleep(PAUSE),
            Err(other) => return Err(other),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nobody_writes_between_reading_and_writing() {
        let place = tempfile::tempdir().unwrap();
        let path = place.path().join("new/list.csv");
        let add = || {
            let held = Held::file(&path).unwrap();
            let mut text = std::fs::read_to_string(held.path()).unwrap_or_default();
            std::thread::yield_now();
            text.push_str("line\n");
            held.write(text.as_bytes()).unwrap();
        };
        std::thread::scope(|scope| {
            for _ in 0..4 {
                scope.spawn(|| (0..25).for_each(|_| add()));
            }
        });
        assert_eq!(std::fs::read_to_string(&path).unwrap().lines().count(), 100);
        let held = Held::file(&path).unwrap();
        held.remove().unwrap();
        held.remove().unwrap();
        assert!(held.unlocked().is_none());
        drop(held);
        // What a killed run left is swept by whoever holds a file there.
        let left = place.path().join("new/.list.csv.unfinished-77");
        std::fs::write(&left, "half").unwrap();
        std::fs::write(place.path().join("new/.own.unfinished-notes"), "").unwrap();
        assert_eq!(Held::file(&path).unwrap().swept(), [left]);
        std::fs::remove_file(place.path().join("new/.own.unfinished-notes")).unwrap();
        // A folder that was made for nothing is gone again, however many wanted it.
        let other = place.path().join("other/list.csv");
        std::thread::scope(|scope| {
            for _ in 0..4 {
                scope.spawn(|| (0..250).for_each(|_| drop(Held::file(&other).unwrap())));
            }
        });
        assert_eq!(std::fs::read_dir(place.path().join("new")).unwrap().count(), 0, "nothing is left behind");
        assert_eq!(std::fs::read_dir(place.path()).unwrap().count(), 1);
    }
}
