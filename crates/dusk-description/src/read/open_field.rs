//! A field on its way: read, and not yet joined with its code list and its parent.

use crate::beside::Open;
use crate::{Field, FieldType};
use dusk_evidence::FieldId;

/// A field before its code list is loaded and its parent is found.
pub(super) struct OpenField {
    pub(super) field: Field,
    pub(super) open: Open,
}

impl OpenField {
    pub(super) fn finish(mut self, parent: Option<FieldId>) -> Field {
        if let FieldType::Code(code) = &mut self.field.kind {
            code.within = parent;
        }
        self.field
    }
}
