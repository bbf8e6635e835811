//! What is proposed for a field that no column feeds as it stands.

use dusk_evidence::{ColumnId, FieldId};

/// What is proposed for a field that no column feeds as it stands.
#[derive(Debug, Clone)]
pub(super) struct Made {
    pub(super) field: FieldId,
    /// The columns, in order.
    pub(super) columns: Vec<ColumnId>,
    /// What the `[[map]]` says instead of `from`, or beside it.
    pub(super) how: How,
    pub(super) is_sure: bool,
    pub(super) reasons: Vec<String>,
}

/// How a field is made of columns.
#[derive(Debug, Clone)]
pub(super) enum How {
    /// Put together, with text between them.
    Join(String),
    /// Taken out of one cell: how that is put together, and which part is meant.
    Part { form: String, take: String },
}
