//! Batches that were replaced, put among their like.

use std::io::ErrorKind;
use std::path::{Path, PathBuf};

use crate::ASIDE;
use dusk_evidence::{Error, Result};
use dusk_files::disk;

/// The name of a folder.
pub(super) fn name_of(path: &Path) -> String {
    path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned())
}

/// Puts the batch at `path` among those that were replaced, as `name` with a number that is free; nothing where it is
/// gone.
pub(super) fn put_aside(path: &Path, name: &str) -> Result<Option<PathBuf>> {
    let parent = path.parent().unwrap_or(Path::new("")).join(ASIDE);
    disk::make_folders(&parent).map_err(Error::writing(&parent))?;
    let mut number = 1_u32;
    loop {
        let aside = parent.join(format!("{name}-{number}"));
        if aside.symlink_metadata().is_err() {
            return match disk::rename(path, &aside) {
                Ok(()) => Ok(Some(aside)),
                Err(error) if error.kind() == ErrorKind::NotFound => Ok(None),
                Err(error) => Err(Error::writing(&aside)(error)),
            };
        }
        number += 1;
    }
}
