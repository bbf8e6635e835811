//! What identifies records, so that no two of a batch have the same key.
//!
//! A key is kept as 96 bits of its XXH3 hash, with the number of the record that had it first:
//! 16 bytes, whatever the key's length, and at most 27 with the room between them. Two different keys of a million records share a hash
//! with a probability below 10^-17.

/// The hash of a record's key.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct KeyHash([u32; 3]);

impl KeyHash {
    /// The hash of a key. Joiners do not count, which nobody sees: two keys that differ in them alone are one.
    pub fn of(key: &[u8]) -> Self {
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
        // Zeros stand for no key.
        Self([hash as u32, (hash >> 32) as u32, ((hash >> 64) as u32).max(1)])
    }

    /// The hash as numbers, to be kept.
    pub fn words(self) -> [u32; 3] {
        self.0
    }

    /// Which of the tables it belongs into.
    fn table(self) -> usize {
        let [a, ..] = self.0;
        a as usize % TABLES
    }

    /// Where it belongs among so many slots.
    fn place_among(self, slots: usize) -> usize {
        let [_, b, _] = self.0;
        ((u64::from(b) * slots as u64) >> 32) as usize
    }
}

/// The keys of a batch and the records that had them first, in many small tables: one that is full is copied into a
/// larger one without the memory of all others being needed twice.
#[derive(Debug)]
pub struct Keys {
    tables: Vec<Table>,
}

/// How many tables there are.
const TABLES: usize = 64;

/// More room than this is not made before there are keys for it.
const MOST_EXPECTED: usize = 1 << 25;

impl Default for Keys {
    fn default() -> Self {
        Self { tables: (0..TABLES).map(|_| Table::default()).collect() }
    }
}

impl Keys {
    /// Makes room for so many keys, so that no table has to be copied on its way there. That there are fewer or more
    /// does no harm.
    pub fn make_room_for(&mut self, keys: u64) {
        // Hashes fill the tables unevenly, by far less than a thirtieth.
        let slots = (keys / TABLES as u64).saturating_mul(138) / 100 + 32;
        for table in self.tables.iter_mut().filter(|table| table.slots.is_empty()) {
            table.slots = vec![[0; 4]; usize::try_from(slots).unwrap_or(0).min(MOST_EXPECTED / TABLES)];
        }
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
        let looked_at = prints.clone().filter_map(|(_, print)| {
            let print = print?;
            self.tables.get(print.table())?.at(print)
        });
        std::hint::black_box(looked_at.fold(0, |all, [first, ..]| all ^ first));
        found.extend(prints.map(|(record, print)| self.insert(print?, record)));
    }

    /// The record that had a key first, if one had.
    pub fn get(&self, print: KeyHash) -> Option<u32> {
        self.tables.get(print.table())?.get(print)
    }

    /// Takes in the key of a record; gives back the record that had it first, if one had.
    pub fn insert(&mut self, print: KeyHash, record: u32) -> Option<u32> {
        self.tables.get_mut(print.table())?.insert(print, record)
    }
}

/// Keys whose hashes begin alike: each stands where the rest of its hash says, or behind what stands there.
#[derive(Debug, Default)]
struct Table {
    /// A key's hash and its record; zeros where there is none.
    slots: Vec<[u32; 4]>,
    filled: usize,
}

impl Table {
    /// Three quarters of the slots are filled at the most, so that few keys stand far from their place.
    fn is_full(&self) -> bool {
        self.filled * 4 >= self.slots.len() * 3
    }

    /// What stands where the search for a key begins.
    fn at(&self, print: KeyHash) -> Option<[u32; 4]> {
        self.slots.get(print.place_among(self.slots.len())).copied()
    }

    fn insert(&mut self, print: KeyHash, record: u32) -> Option<u32> {
        if self.is_full() {
            self.grow();
        }
        let KeyHash([a, b, c]) = print;
        let start = print.place_among(self.slots.len());
        let (before, behind) = self.slots.split_at_mut_checked(start)?;
        for slot in behind.iter_mut().chain(before) {
            match *slot {
                [0, 0, 0, _] => {
                    *slot = [a, b, c, record];
                    self.filled += 1;
                    return None;
                }
                [d, e, f, first] if [a, b, c] == [d, e, f] => return Some(first),
                _ => {}
            }
        }
        None
    }

    fn get(&self, print: KeyHash) -> Option<u32> {
        let KeyHash([a, b, c]) = print;
        let (before, behind) = self.slots.split_at_checked(print.place_among(self.slots.len()))?;
        for slot in behind.iter().chain(before) {
            match *slot {
                [0, 0, 0, _] => return None,
                [d, e, f, first] if [a, b, c] == [d, e, f] => return Some(first),
                _ => {}
            }
        }
        None
    }

    /// Moves everything into a table a quarter larger; what stood in order stands in order again.
    fn grow(&mut self) {
        let larger = Self { slots: vec![[0; 4]; (self.slots.len() * 5 / 4).max(32)], filled: 0 };
        for [a, b, c, record] in std::mem::replace(self, larger).slots {
            if [a, b, c] != [0; 3] {
                self.insert(KeyHash([a, b, c]), record);
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
        let mut found = Vec::new();
        keys.insert_all((10..).zip(prints), &mut found);
        assert_eq!(found, [None, None, None, Some(10), Some(10)]);
        assert_eq!(keys.insert(KeyHash::of(b"b"), 99), Some(12));
    }

    #[test]
    fn keys_are_found_again_however_the_tables_grow() {
        let mut keys = Keys::default();
        let print = |number: u32| KeyHash::of(format!("key {number}").as_bytes());
        for number in 0..50_000 {
            assert_eq!(keys.insert(print(number), number), None);
        }
        assert!((0..50_000).all(|number| keys.insert(print(number), 1) == Some(number)));
        assert!((0..60_000).all(|number| keys.get(print(number)) == (number < 50_000).then_some(number)));
        let slots: usize = keys.tables.iter().map(|table| table.slots.len()).sum();
        assert!(slots < 50_000 * 9 / 5, "{slots} slots");
    }

    #[test]
    fn room_for_fewer_or_more_keys_than_there_are_does_no_harm() {
        let print = |number: u32| KeyHash::of(format!("key {number}").as_bytes());
        for expected in [0, 10, 19_999, 3_000_000] {
            let mut keys = Keys::default();
            keys.make_room_for(expected);
            assert!((0..20_000).all(|number| keys.insert(print(number), number).is_none()), "{expected}");
            keys.make_room_for(7);
            let found = |number: u32| keys.get(print(number)) == (number < 20_000).then_some(number);
            assert!((0..30_000).all(found), "{expected}");
        }
    }
}
