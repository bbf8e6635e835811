//! A field on its way: read, and not yet joined with its code list and its parent.

use std::path::PathBuf;

use crate::{Field, FieldType};
use dusk_evidence::FieldId;
use dusk_files::{At, Template};

/// A field before its code list is loaded and its parent is found.
pub(super) struct OpenField {
    pub(super) field: Field,
    pub(super) open: Open,
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

impl OpenField {
    pub(super) fn finish(mut self, parent: Option<FieldId>) -> Field {
        if let FieldType::Code(code) = &mut self.field.kind {
            code.within = parent;
        }
        self.field
    }
}
