//! Answers about deliveries that came by HTTP, kept beside the book: whoever asks later is told the same.

use std::path::{Path, PathBuf};

use dusk_evidence::Result;
use dusk_files::write_whole;

/// The folder of the answers.
const ANSWERS: &str = "answers";

/// Answers by the keys of the deliveries.
#[derive(Debug)]
pub(crate) struct Answers {
    folder: PathBuf,
}

impl Answers {
    /// Those beside the book in a folder.
    pub(crate) fn beside(folder: &Path) -> Self {
        Self { folder: folder.join(ANSWERS) }
    }

    /// Keeps the answer about a delivery; `ending` is that of a file with it.
    ///
    /// # Errors
    /// [`Error::File`](dusk_evidence::Error::File) when the folder cannot be written to.
    pub(crate) fn keep(&self, key: &str, (bytes, ending): (&[u8], &str)) -> Result<()> {
        let key: String = key.chars().filter(char::is_ascii_alphanumeric).collect();
        write_whole(&self.folder.join(format!("{key}.{ending}")), bytes)
    }

    /// The answer about a delivery, and the ending of a file with it; nothing where there is none.
    pub(crate) fn get(&self, key: &str) -> Option<(Vec<u8>, &'static str)> {
        let is_key = !key.is_empty() && key.bytes().all(|byte| byte.is_ascii_alphanumeric());
        let mut endings = ["csv", "json", "txt"].into_iter().filter(|_| is_key);
        let path = |ending: &str| self.folder.join(format!("{key}.{ending}"));
        endings.find_map(|ending| Some((std::fs::read(path(ending)).ok()?, ending)))
    }
}
