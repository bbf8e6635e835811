//! Files that appear whole or not at all.

use std::fs::OpenOptions;
use std::io::Write as _;
use std::path::Path;

use crate::{Error, Result};

/// Writes `bytes` to `path` by way of a file beside it that takes the name at the end, so that
/// nobody ever sees half of it. An old file of that name is replaced.
///
/// # Errors
/// [`Error::File`] when the folder cannot be written to; then nothing has changed.
pub fn write_whole(path: &Path, bytes: &[u8]) -> Result<()> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    std::fs::create_dir_all(folder).map_err(Error::writing(folder))?;
    let name = path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    let unfinished = folder.join(format!(".{name}.unfinished-{}", std::process::id()));
    let result = (|| {
        let mut file = OpenOptions::new().write(true).create(true).truncate(true).open(&unfinished)?;
        file.write_all(bytes)?;
        file.sync_all()?;
        std::fs::rename(&unfinished, path)
    })();
    result.map_err(|error| {
        // What cannot be written cannot always be taken away either; the first error counts.
        let _ = std::fs::remove_file(&unfinished);
        Error::writing(path)(error)
    })
}
