//! How often a change was made, and where first.

use crate::Place;
use dusk_conforming::ChangeKey;
use dusk_evidence::Result;

/// How often a change was made, and where first.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Counted {
    pub(super) rows: u64,
    pub(super) first: Place,
}

impl Counted {
    pub(super) fn add(&mut self, other: Self) {
        self.rows += other.rows;
        self.first = self.first.min(other.first);
    }
}

/// Changes in the order of the list, each once.
pub(super) type Run = Box<dyn Iterator<Item = Result<(ChangeKey, Counted)>>>;
