//! Files that appear whole or not at all.

use std::io::Write as _;
use std::path::{Component, Path, PathBuf};

use super::disk::{self, DiskFile};
use dusk_evidence::{Error, Result};

/// The way to the file at `to` as seen from the folder `from`; both have to be there.
///
/// # Errors
/// [`Error::File`] when one of them is not.
pub fn way_from(from: &Path, to: &Path) -> Result<PathBuf> {
    let from = if from.as_os_str().is_empty() { Path::new(".") } else { from };
    let real = |path: &Path| path.canonicalize().map_err(Error::reading(path));
    let (from, to) = (real(from)?, real(to)?);
    let (from, to): (Vec<Component<'_>>, Vec<Component<'_>>) =
        (from.components().collect(), to.components().collect());
    let shared = from.iter().zip(&to).take_while(|(one, other)| one == other).count();
    let up = from.iter().skip(shared).map(|_| Component::ParentDir);
    Ok(up.chain(to.iter().skip(shared).copied()).collect())
}

/// What stands in the name of a file until it is whole, before the number of the process that writes it.
const UNFINISHED: &str = ".unfinished-";

/// Takes away what runs that were killed left beside the files that they wrote, and says what it was. Only whoever
/// keeps all others out of the folder may do this.
pub(super) fn sweep(folder: &Path) -> Vec<PathBuf> {
    let is_unfinished = |path: &PathBuf| {
        let name = path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
        let process =
            name.strip_prefix('.').and_then(|name| Some(name.rsplit_once(UNFINISHED)?.1.to_owned()));
        process.is_some_and(|process| process.parse::<u32>().is_ok()) && path.is_file()
    };
    let paths = std::fs::read_dir(folder).into_iter().flatten().flatten().map(|entry| entry.path());
    paths.filter(is_unfinished).filter(|path| disk::remove(path).is_ok()).collect()
}

/// Writes `bytes` to `path` by way of a file beside it that takes the name at the end, so that
/// nobody ever sees half of it. An old file of that name is replaced.
///
/// # Errors
/// [`Error::File`] when the folder cannot be written to; then nothing has changed.
pub fn write_whole(path: &Path, bytes: &[u8]) -> Result<()> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    disk::make_folders(folder).map_err(Error::writing(folder))?;
    let name = path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    let unfinished = folder.join(format!(".{name}{UNFINISHED}{}", std::process::id()));
    let result = (|| {
        let mut file = DiskFile::create(&unfinished)?;
        file.write_all(bytes)?;
        file.sync()?;
        disk::rename(&unfinished, path)?;
        disk::sync_folder(folder)
    })();
    result.map_err(|error| {
        // What cannot be written cannot always be taken away either; the first error counts.
        let _ = disk::remove(&unfinished);
        Error::writing(path)(error)
    })
}

#[cfg(test)]
mod tests {
    use super::way_from;

    #[test]
    fn the_way_leads_up_and_down() {
        let folder = tempfile::tempdir().unwrap();
        let (a, b) = (folder.path().join("a/b"), folder.path().join("c.toml"));
        std::fs::create_dir_all(&a).unwrap();
        std::fs::write(&b, "").unwrap();
        let way = |from: &std::path::Path| way_from(from, &b).unwrap().display().to_string();
        assert_eq!(way(&a), "../../c.toml");
        assert_eq!(way(folder.path()), "c.toml");
    }
}
