//! The files that a field of type `file` may name: those under one folder.

use std::path::{Path, PathBuf};

use hashbrown::HashMap;

use super::fold;
use dusk_evidence::{Error, Result};

/// The most files that are looked at.
const MOST_FILES: usize = 1_000_000;

/// The files under a folder, by their paths from there, with slashes.
#[derive(Debug, Default)]
pub struct FolderFiles {
    /// The folder, as the steward knows it.
    pub folder: PathBuf,
    sizes: HashMap<String, u64>,
    // By their folded form; nothing where two differ by case only.
    folded: HashMap<String, Option<String>>,
}

impl FolderFiles {
    /// Looks through the folder and those in it. What is hidden, and links to folders, is left aside.
    ///
    /// # Errors
    /// [`Error::File`] when a folder cannot be read; [`Error::Request`] when there are more than a million files.
    pub fn read(folder: &Path) -> Result<Self> {
        let mut files = Self { folder: folder.to_path_buf(), ..Self::default() };
        let mut waiting = vec![(folder.to_path_buf(), String::new())];
        while let Some((path, before)) = waiting.pop() {
            for entry in std::fs::read_dir(&path).map_err(Error::reading(&path))? {
                let entry = entry.map_err(Error::reading(&path))?;
                let name = entry.file_name().to_string_lossy().into_owned();
                let kind = entry.file_type().map_err(Error::reading(&path))?;
                if name.starts_with('.') {
                    continue;
                }
                let relative = format!("{before}{name}");
                if kind.is_dir() {
                    waiting.push((entry.path(), format!("{relative}/")));
                    continue;
                }
                let Ok(size) = std::fs::metadata(entry.path()).map(|data| data.len()) else { continue };
                files.add(relative, size);
                if files.sizes.len() > MOST_FILES {
                    return Err(Error::Request(format!(
                        "{} holds more than a million files",
                        folder.display()
                    )));
                }
            }
        }
        Ok(files)
    }

    fn add(&mut self, name: String, size: u64) {
        self.folded
            .entry(fold(&name))
            .and_modify(|known| *known = None)
            .or_insert_with(|| Some(name.clone()));
        self.sizes.insert(name, size);
    }

    /// The file that a value names, and its size in bytes. Case does not count where that leaves one file,
    /// and neither does the direction of slashes.
    pub fn find(&self, value: &str) -> Option<(&str, u64)> {
        let value = value.replace('\\', "/");
        let value = value.strip_prefix("./").unwrap_or(&value);
        if let Some((name, size)) = self.sizes.get_key_value(value) {
            return Some((name, *size));
        }
        let name = self.folded.get(&fold(value))?.as_deref()?;
        Some((name, *self.sizes.get(name)?))
    }

    /// Every file, in order.
    pub fn names(&self) -> Vec<&str> {
        let mut names: Vec<&str> = self.sizes.keys().map(String::as_str).collect();
        names.sort_unstable();
        names
    }
}
