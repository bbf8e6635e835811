//! What every way of handing a file over does.

use std::path::Path;

use dusk_evidence::Result;

/// A file to be handed over.
#[derive(Debug, Clone, Copy)]
pub struct FileToSend<'f> {
    /// Where it is.
    pub path: &'f Path,
    /// Its name, without the folder.
    pub name: &'f str,
    /// Its BLAKE3 hash.
    pub blake3: &'f str,
    /// Its size in bytes.
    pub bytes: u64,
    /// The batch.
    pub batch: &'f str,
    /// Which of the batch's files it is, from 1.
    pub part: usize,
    /// By what the target knows the delivery again, however often it is tried.
    pub key: &'f str,
}

impl FileToSend<'_> {
    /// The text with what is known in braces filled in.
    pub(crate) fn filled(&self, template: &dusk_files::Template, more: &[(&str, &str)]) -> String {
        let part = self.part.to_string();
        let known = [("file", self.name), ("batch", self.batch), ("part", part.as_str()), ("key", self.key)];
        let value = |name: &str| {
            let found = more.iter().chain(&known).find(|(known, _)| *known == name);
            found.map(|(_, value)| *value)
        };
        template.fill(value).unwrap_or_default()
    }
}

/// What came of handing a file over.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Handed {
    /// The target has it.
    Over {
        /// Where it is, or what the target said.
        says: String,
        /// What the target answered at once, where it did.
        answer: Option<Vec<u8>>,
    },
    /// The target has nothing of it.
    Not {
        /// Why.
        says: String,
        /// It may be tried again at once.
        may_repeat: bool,
    },
    /// Nobody knows.
    Unknown {
        /// Why.
        says: String,
    },
}

/// A way of handing files over.
pub trait Carrier {
    /// Does what can be done before the target sees anything of a file.
    ///
    /// # Errors
    /// Why it cannot be handed over.
    fn prepare(&self, file: &FileToSend<'_>) -> Result<()>;

    /// Hands a file over. `progress` is told how many bytes are.
    ///
    /// # Errors
    /// Why it was not handed over, where the target has nothing of it.
    fn hand_over(&self, file: &FileToSend<'_>, progress: &dyn Fn(u64)) -> Result<Handed>;

    /// Finds out what became of a file whose delivery was broken off.
    ///
    /// # Errors
    /// Whatever stops looking.
    fn look(&self, file: &FileToSend<'_>) -> Result<Handed>;

    /// What the target has said about a file since, each with a name.
    ///
    /// # Errors
    /// Whatever stops asking.
    fn answers(&self, file: &FileToSend<'_>) -> Result<Vec<(String, Vec<u8>)>>;

    /// Whether handing the same file over once more changes nothing.
    fn may_repeat(&self) -> bool;
}
