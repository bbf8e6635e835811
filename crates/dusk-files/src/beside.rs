//! Files that a steward's file names: they lie in its folder, or in one below. A description that came from elsewhere
//! names none of the files of whoever reads it.

use std::path::{Component, Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};

use dusk_evidence::{Error, Result};

/// Whether files may lie elsewhere.
static ELSEWHERE: AtomicBool = AtomicBool::new(false);

/// Lets descriptions and mappings name files that lie elsewhere, from now on.
pub fn allow_files_elsewhere() {
    ELSEWHERE.store(true, Ordering::Relaxed);
}

/// The file that is named in one of the files of `folder`.
///
/// # Errors
/// [`Error::Request`] where it lies elsewhere, by its name or by a link, and nobody allowed that.
pub fn beside(folder: &Path, named: &str) -> Result<PathBuf> {
    let path = folder.join(named);
    if ELSEWHERE.load(Ordering::Relaxed) || stays_inside(named) && leads_inside(folder, &path) {
        return Ok(path);
    }
    Err(Error::Request(format!(
        "\"{named}\" is not in the folder of this file; put it there, or add --files-elsewhere if you know who wrote this"
    )))
}

/// Whether no step of a path leads out of where it begins.
fn stays_inside(named: &str) -> bool {
    let mut depth = 0_i32;
    for step in Path::new(named).components() {
        match step {
            Component::Normal(_) => depth += 1,
            Component::CurDir => {}
            Component::ParentDir => depth -= 1,
            Component::RootDir | Component::Prefix(_) => return false,
        }
        if depth < 0 {
            return false;
        }
    }
    true
}

/// Whether what is there is in the folder: a link may lead anywhere. What is not there is said by whoever reads it.
fn leads_inside(folder: &Path, path: &Path) -> bool {
    let folder = if folder.as_os_str().is_empty() { Path::new(".") } else { folder };
    match (folder.canonicalize(), path.canonicalize()) {
        (Ok(folder), Ok(path)) => path.starts_with(folder),
        _ => true,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_leads_out_of_the_folder_is_refused() {
        let place = tempfile::tempdir().unwrap();
        let folder = place.path().join("register");
        std::fs::create_dir_all(folder.join("codes")).unwrap();
        std::fs::write(folder.join("codes/a.csv"), "").unwrap();
        std::fs::write(place.path().join("secret"), "").unwrap();
        for inside in ["codes/a.csv", "./codes/../codes/a.csv", "not there.csv"] {
            assert_eq!(beside(&folder, inside).unwrap(), folder.join(inside));
        }
        #[cfg(unix)]
        std::os::unix::fs::symlink(place.path().join("secret"), folder.join("link.csv")).unwrap();
        let absolute = place.path().join("secret").display().to_string();
        for outside in ["../secret", "codes/../../secret", "/etc/hostname", absolute.as_str(), "link.csv"] {
            assert!(
                beside(&folder, outside).is_err() || cfg!(not(unix)) && outside == "link.csv",
                "{outside}"
            );
        }
    }
}
