//! What runs that were ended in the middle left beside the batches: taken away where it was not whole, and completed
//! where it was.

use std::fs::{File, TryLockError};
use std::path::{Path, PathBuf};
use std::time::Duration;

use super::aside::put_aside;
use super::receipt::NAME as RECEIPT;
use dusk_evidence::{Error, Result};
use dusk_files::disk;

/// What a folder is called while it is made, before its name and the number of the process.
pub(crate) const UNFINISHED: &str = ".unfinished-";

/// The file whose lock says that somebody is still at work in the folder.
pub(super) const LOCK: &str = "lock";

/// The file that says into which table rows were about to go.
pub(super) const LOADING: &str = "loading";

/// How long a folder may be without its lock before nobody is about to make one.
const FRESH: Duration = Duration::from_secs(60);

/// What became of something that a run left which was ended in the middle.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Leftover {
    /// It was not whole, and was taken away.
    TakenAway(PathBuf),
    /// A batch that was whole got its name.
    Completed(PathBuf),
    /// A batch that another one had replaced was put aside.
    PutAside(PathBuf),
    /// Rows may be in this table, and no batch says so.
    MayBeLoaded(PathBuf, String),
}

impl Leftover {
    /// What is to be said of it.
    pub fn says(&self) -> String {
        match self {
            Self::TakenAway(path) => {
                format!("what a run left that was ended in the middle was taken away: {}", path.display())
            }
            Self::Completed(path) => format!(
                "a run was ended when its batch was whole but had no name yet; it has it now: {}",
                path.display()
            ),
            Self::PutAside(path) => format!(
                "a run was ended when its batch had taken the place of the one before, which is in {} now",
                path.display()
            ),
            Self::MayBeLoaded(path, table) => format!(
                "a run was ended while its rows went into {table}, and no batch tells whether they did\n  look whether they are there: if so, rename {0} to the name of a batch; if not, remove it",
                path.display()
            ),
        }
    }
}

/// Clears away, or completes, what runs left in a folder of batches that were ended in the middle. A folder that is
/// not there holds nothing.
///
/// # Errors
/// [`Error::File`] when a batch that is whole cannot be given its name.
pub fn sweep(parent: &Path) -> Result<Vec<Leftover>> {
    let mut paths: Vec<PathBuf> =
        std::fs::read_dir(parent).into_iter().flatten().flatten().map(|entry| entry.path()).collect();
    paths.sort();
    let mut swept = Vec::new();
    for path in paths {
        let name = path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
        let batch = name.strip_prefix(UNFINISHED).and_then(|rest| Some(rest.rsplit_once('-')?.0));
        if let Some(batch) = batch.filter(|_| path.is_dir() && is_abandoned(&path)) {
            swept.extend(settled(&path, batch)?);
        }
    }
    Ok(swept)
}

/// Whether nobody works in a folder any more.
fn is_abandoned(path: &Path) -> bool {
    let is_old = || {
        let age = path.metadata().and_then(|metadata| metadata.modified()).ok();
        age.and_then(|made| made.elapsed().ok()).is_some_and(|age| age > FRESH)
    };
    match File::open(path.join(LOCK)).map(|lock| lock.try_lock()) {
        Ok(Ok(())) => true,
        Ok(Err(TryLockError::WouldBlock)) => false,
        // The drive has no locks, or the run was ended before it had one.
        Ok(Err(TryLockError::Error(_))) => is_old(),
        // A batch that was there before has none.
        Err(_) => path.join(RECEIPT).exists() || is_old(),
    }
}

fn settled(path: &Path, batch: &str) -> Result<Option<Leftover>> {
    if let Ok(table) = std::fs::read_to_string(path.join(LOADING)) {
        return Ok(Some(Leftover::MayBeLoaded(path.to_path_buf(), table)));
    }
    let place = path.with_file_name(batch);
    if batch.is_empty() || !path.join(RECEIPT).exists() {
        // What has no lock is taken away only where nothing is in it: it may be somebody's own. Somebody else may be
        // faster; then it is gone all the same.
        let is_own = path.join(LOCK).exists();
        let gone = if is_own { disk::remove_folder(path).is_ok() } else { std::fs::remove_dir(path).is_ok() };
        return Ok(gone.then(|| Leftover::TakenAway(path.to_path_buf())));
    }
    if place.symlink_metadata().is_ok() {
        return Ok(put_aside(path, batch)?.map(Leftover::PutAside));
    }
    match disk::rename(path, &place) {
        Ok(()) => {
            let _ = disk::remove(&place.join(LOCK));
            Ok(Some(Leftover::Completed(place)))
        }
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(None),
        Err(error) => Err(Error::writing(&place)(error)),
    }
}

/// Says that somebody is at work in a folder, as long as what this gives back is open.
pub(crate) fn at_work(folder: &Path) -> Result<File> {
    let path = folder.join(LOCK);
    let lock = File::create_new(&path).map_err(Error::writing(&path))?;
    // Where the drive has no locks, age tells who is still at work.
    let _ = lock.lock();
    Ok(lock)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_whole_is_completed_and_what_was_not_is_taken_away() {
        let place = tempfile::tempdir().unwrap();
        let at = |path: &str| place.path().join(path);
        let make = |folder: &str, files: &[&str]| {
            std::fs::create_dir_all(at(folder)).unwrap();
            files.iter().for_each(|file| std::fs::write(at(folder).join(file), folder).unwrap());
        };
        make(".unfinished-a-b-12", &["lock", "rejects.csv"]);
        make(".unfinished-c-13", &["lock", RECEIPT]);
        make("d", &[RECEIPT, "lock"]);
        make(".unfinished-d-14", &[RECEIPT]);
        make(".unfinished-e-15", &["lock", RECEIPT, LOADING]);
        make(".unfinished-f-16", &["lock"]);
        let at_work = File::open(at(".unfinished-f-16/lock")).unwrap();
        at_work.lock().unwrap();
        make(".unfinished-g-17", &[]);
        let expected = [
            Leftover::TakenAway(at(".unfinished-a-b-12")),
            Leftover::Completed(at("c")),
            Leftover::PutAside(at("replaced/d-1")),
            Leftover::MayBeLoaded(at(".unfinished-e-15"), ".unfinished-e-15".into()),
        ];
        assert_eq!(sweep(place.path()).unwrap(), expected);
        assert!(
            at("c").join(RECEIPT).exists()
                && at(".unfinished-f-16").exists()
                && at(".unfinished-g-17").exists()
        );
        drop(at_work);
        assert!(sweep(place.path()).unwrap().contains(&Leftover::TakenAway(at(".unfinished-f-16"))));
        assert!(sweep(&at("nowhere")).unwrap().is_empty());
    }
}
