//! What a description names of the files beside it.

use std::path::{Path, PathBuf};

use crate::{FolderFiles, KnownValues};
use dusk_evidence::Result;
use dusk_files::{At, Settings, Template, beside};

/// The folder in which a description stands, and the files that it names.
pub(crate) struct Beside<'a> {
    pub(crate) folder: &'a Path,
}

impl Beside<'_> {
    /// The code list that a field names, to be read once for all fields.
    pub(crate) fn wanted_by(&self, field: &mut Settings<'_>) -> Option<At<PathBuf>> {
        let codes = field.required_text("codes")?;
        match beside(self.folder, &codes.value) {
            Ok(path) => Some(At { value: path, line: codes.line }),
            Err(error) => {
                field.problem(codes.line, format!("codes: {error}"), |_| ());
                None
            }
        }
    }

    /// The files under a folder beside the description.
    pub(crate) fn files_in(&self, folder: &str) -> Result<FolderFiles> {
        FolderFiles::read(&beside(self.folder, folder)?)
    }

    /// The values of a column in a file beside the description.
    pub(crate) fn known_values(&self, file: &str, column: &str) -> Result<KnownValues> {
        KnownValues::read(&beside(self.folder, file)?, column)
    }
}

/// What a type names and does not have yet.
#[derive(Default)]
pub(crate) struct Open {
    /// Its code list.
    pub(crate) list: Option<At<PathBuf>>,
    /// The field that holds the code inside which its own is valid.
    pub(crate) within: Option<At<String>>,
    /// The headings of its columns, each with a code in it.
    pub(crate) per_code: Option<At<Template>>,
}
