//! A value that is in the record as it stands in the source.

use dusk_values::Value;

/// A value that is as it stands in the source.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct Stood {
    pub(super) value: Value,
    /// Where it begins in the record, and where the delimiter behind it ends.
    pub(super) start: usize,
    pub(super) end: usize,
}
