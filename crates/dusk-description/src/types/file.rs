//! A file that is there.

use std::sync::Arc;

use super::{Described, FieldType, TypeWord, listed};
use crate::FolderFiles;
use crate::beside::{Beside, Open};
use dusk_files::Settings;

pub(super) static FILE: TypeWord =
    TypeWord { word: "file", called: &[], keys: &["folder", "endings", "max_bytes"], read };

/// A file under a folder beside the description.
#[derive(Debug)]
pub struct FileType {
    /// The files that may be named.
    pub files: Arc<FolderFiles>,
    /// The endings allowed, in small letters and without the point; any where there is none.
    pub endings: Vec<String>,
    /// The most bytes that it may have.
    pub max_bytes: Option<u64>,
}

impl Described for FileType {
    fn word(&self) -> &'static str {
        FILE.word
    }

    fn format(&self) -> String {
        let endings = (!self.endings.is_empty()).then(|| self.endings.join(", "));
        listed([endings, self.max_bytes.map(|bytes| format!("up to {bytes} bytes"))])
    }

    fn values(&self, _: Option<&str>) -> String {
        format!("{} files in {}", self.files.names().len(), self.files.folder.display())
    }
}

fn read(field: &mut Settings<'_>, beside: &Beside<'_>) -> (FieldType, Open) {
    let mut files = FolderFiles::default();
    if let Some(folder) = field.required_text("folder") {
        match beside.files_in(&folder.value) {
            Ok(read) => files = read,
            Err(error) => field.problem(folder.line, error.to_string(), |problem| {
                problem.hint("folder names a folder beside the description");
            }),
        }
    }
    let endings = field.texts("endings");
    let endings =
        endings.into_iter().map(|ending| ending.value.trim_start_matches('.').to_lowercase()).collect();
    let max_bytes = field.whole("max_bytes", 1).map(|bytes| bytes.value);
    (FieldType::File(FileType { files: Arc::new(files), endings, max_bytes }), Open::default())
}
