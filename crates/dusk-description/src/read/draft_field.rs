//! A field on its way: read, and not yet joined with its code list and its parent.

use std::path::PathBuf;

use super::super::{Field, FieldType};
use dusk_files::{At, Template};

/// A field before its code list is loaded and its parent is found.
pub(super) struct DraftField {
    pub(super) field: Field,
    pub(super) list: Option<At<PathBuf>>,
    pub(super) within: Option<At<String>>,
    pub(super) per_code: Option<At<Template>>,
}

impl DraftField {
    pub(super) fn finish(mut self, parent: Option<usize>) -> Field {
        if let FieldType::Code { within, .. } = &mut self.field.kind {
            *within = parent;
        }
        self.field
    }
}
