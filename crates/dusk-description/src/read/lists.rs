//! The code lists that a target's fields name, each loaded once.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use hashbrown::HashMap;

use super::super::{CodeList, CodeType, CodesLayout, CodesType, FieldType};
use super::open_field::OpenField;
use dusk_evidence::{Error, Line, Problems, Result};
use dusk_files::At;

/// The code lists of a target, each loaded once.
pub(super) struct CodeLists {
    pub(super) files: Vec<PathBuf>,
    lists: HashMap<PathBuf, Option<Arc<CodeList>>>,
}

impl CodeLists {
    /// No list yet of the description at `path`.
    pub(super) fn new(path: &Path) -> Self {
        Self { files: vec![path.to_path_buf()], lists: HashMap::new() }
    }

    pub(super) fn load(
        &mut self,
        fields: &mut [OpenField],
        file: &str,
        problems: &mut Problems,
    ) -> Result<()> {
        for draft in fields.iter_mut() {
            let Some(At { value: path, line }) = &draft.open.list else { continue };
            let Some(list) = self.list(path, *line, file, problems)? else { continue };
            match &mut draft.field.kind {
                FieldType::Code(CodeType { list: slot, .. }) => *slot = list,
                FieldType::Codes(CodesType { list: slot, layout }) => {
                    if let (CodesLayout::ColumnPerCode { columns, .. }, Some(per_code)) =
                        (layout, &draft.open.per_code)
                    {
                        *columns = list
                            .codes()
                            .iter()
                            .filter_map(|code| per_code.value.fill(|_| Some(code.code.as_str())))
                            .collect();
                    }
                    if list.divided {
                        problems.at(
                            file,
                            Some(*line),
                            format!("{} is divided by within, which goes with type code only", list.name),
                        );
                    }
                    *slot = list;
                }
                _ => {}
            }
        }
        Ok(())
    }

    fn list(
        &mut self,
        path: &Path,
        line: Line,
        file: &str,
        problems: &mut Problems,
    ) -> Result<Option<Arc<CodeList>>> {
        if let Some(list) = self.lists.get(path) {
            return Ok(list.clone());
        }
        let list = match CodeList::read(path, problems) {
            Ok(list) => list.map(Arc::new),
            Err(Error::File { cause, .. }) if cause.kind() == std::io::ErrorKind::NotFound => {
                let others = files_beside(path);
                let name =
                    path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
                problems
                    .at(file, Some(line), format!("the code list {} is missing", path.display()))
                    .suggest(&name, others.iter().map(String::as_str));
                None
            }
            Err(other) => return Err(other),
        };
        self.files.push(path.to_path_buf());
        self.lists.insert(path.to_path_buf(), list.clone());
        Ok(list)
    }
}

fn files_beside(path: &Path) -> Vec<String> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let mut names: Vec<String> = std::fs::read_dir(folder)
        .into_iter()
        .flatten()
        .filter_map(|entry| entry.ok()?.file_name().into_string().ok())
        .filter(|name| name.ends_with(".csv"))
        .collect();
    names.sort();
    names
}
