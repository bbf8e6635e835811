//! What identifies records, so that no two of a batch have the same key.
//!
//! A key is kept as 96 bits of its XXH3 hash, with the number of the record that had it first:
//! 16 bytes, whatever the key's length. Two different keys of a million records share a hash
//! with a probability below 10^-17.

use hashbrown::HashTable;

/// The hash of a record's key.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct KeyHash([u32; 3]);

impl KeyHash {
    /// The hash of a key. Joiners do not count, which nobody sees: two keys that differ in them alone are one.
    pub(crate) fn of(key: &[u8]) -> Self {
        /// What the UTF-8 of both joiners begins with.
        const JOINERS: &[u8] = b"\xe2\x80";
        let is_joiner = |last: Option<&u8>| matches!(last, Some(0x8c | 0x8d));
        let may_hold_one = memchr::memchr(0xe2, key).is_some();
        let found = may_hold_one
            && memchr::memmem::find_iter(key, JOINERS).any(|at| is_joiner(key.get(at + JOINERS.len())));
        let without;
        let key = if found {
            without = String::from_utf8_lossy(key).replace(['\u{200c}', '\u{200d}'], "");
            without.as_bytes()
        } else {
            key
        };
        let hash = xxhash_rust::xxh3::xxh3_128(key);
        Self([hash as u32, (hash >> 32) as u32, (hash >> 64) as u32])
    }

    /// The hash as numbers, to be kept.
    pub fn words(self) -> [u32; 3] {
        self.0
    }

    fn hash(self) -> u64 {
        let [a, b, _] = self.0;
        u64::from(a) << 32 | u64::from(b)
    }
}

/// The keys of a batch and the records that had them first.
#[derive(Debug, Default)]
pub struct Keys {
    table: HashTable<(KeyHash, u32)>,
}

impl Keys {
    /// Makes room for so many keys at once, which saves moving them from table to table.
    pub fn make_room(&mut self, records: usize) {
        self.table.reserve(records.saturating_sub(self.table.len()), |(known, _)| known.hash());
    }

    /// Takes in the keys of records that follow one another, each with the number of its record; says
    /// for each which record had its key first, if one had.
    pub fn insert_all(
        &mut self,
        prints: impl Iterator<Item = (u32, Option<KeyHash>)> + Clone,
        found: &mut Vec<Option<u32>>,
    ) {
        // Each key waits for memory. Looking at all of them before the first is put in lets them
        // wait together.
        let known = prints
            .clone()
            .filter_map(|(_, print)| print)
            .filter(|print| self.table.find(print.hash(), |_| false).is_some());
        std::hint::black_box(known.count());
        found.extend(prints.map(|(record, print)| self.insert(print?, record)));
    }

    /// Takes in the key of a record; gives back the record that had it first, if one had.
    pub fn insert(&mut self, print: KeyHash, record: u32) -> Option<u32> {
        let entry = self.table.entry(print.hash(), |(known, _)| *known == print, |(known, _)| known.hash());
        match entry {
            hashbrown::hash_table::Entry::Occupied(first) => Some(first.get().1),
            hashbrown::hash_table::Entry::Vacant(space) => {
                space.insert((print, record));
                None
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_first_record_with_a_key_is_named_to_every_later_one() {
        let prints = [Some("a"), None, Some("b"), Some("a"), Some("a")]
            .map(|key| key.map(|key| KeyHash::of(key.as_bytes())));
        let mut keys = Keys::default();
        keys.make_room(3);
        let mut found = Vec::new();
        keys.insert_all((10..).zip(prints), &mut found);
        assert_eq!(found, [None, None, None, Some(10), Some(10)]);
        assert_eq!(keys.insert(KeyHash::of(b"b"), 99), Some(12));
    }
}
