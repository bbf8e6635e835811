//! A row of an answer, by its headings.

use dusk_values::fold;

/// A row of an answer by its headings.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(super) struct Row {
    pub(super) at: u64,
    pub(super) cells: Vec<(String, String)>,
}

impl Row {
    pub(super) fn cell(&self, heading: &str) -> &str {
        let exact = self.cells.iter().find(|(name, _)| name == heading);
        let loose = || self.cells.iter().find(|(name, _)| fold(name) == fold(heading));
        exact.or_else(loose).map_or("", |(_, text)| text.trim())
    }
}
