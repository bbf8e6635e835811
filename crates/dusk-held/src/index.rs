//! Which held record has a key.

use hashbrown::HashMap;

use crate::{KeyHash, Keys};

/// Held records by one key. Most keys are those of one record only.
#[derive(Debug, Default)]
pub(crate) struct Index {
    keys: Keys,
    /// The records whose key is that of an earlier one, by the number of that one.
    doubles: HashMap<u32, Vec<u32>>,
}

/// The held records that have a key.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Found<'i> {
    /// None has it.
    None,
    /// One has it.
    One(u32),
    /// Several have it: the first, and the others.
    Several(u32, &'i [u32]),
}

impl Index {
    pub(crate) fn insert(&mut self, key: KeyHash, number: u32) {
        if let Some(first) = self.keys.insert(key, number) {
            self.doubles.entry(first).or_default().push(number);
        }
    }

    pub(crate) fn find(&self, key: KeyHash) -> Found<'_> {
        let Some(first) = self.keys.get(key) else { return Found::None };
        match self.doubles.get(&first) {
            None => Found::One(first),
            Some(others) => Found::Several(first, others),
        }
    }
}
