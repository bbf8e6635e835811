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
    /// Makes room for so many keys.
    pub(crate) fn make_room_for(&mut self, keys: u64) {
        self.keys.make_room_for(keys);
    }

    /// Takes in the keys of records that follow one another.
    pub(crate) fn insert_all(&mut self, keys: impl Iterator<Item = (u32, Option<KeyHash>)> + Clone) {
        let mut found = Vec::new();
        self.keys.insert_all(keys.clone(), &mut found);
        for ((number, _), first) in keys.zip(found) {
            if let Some(first) = first {
                self.doubles.entry(first).or_default().push(number);
            }
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
