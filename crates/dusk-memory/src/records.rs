//! The records of a batch by the hashes of their keys and of what they say, as `records.bin` keeps them: so that next
//! month tells which records were in it already.

/// What the file begins with; the number goes up when the form changes.
const HEAD: &[u8; 16] = b"dusk records 1\n\0";

/// How many bytes a record takes.
const LENGTH: usize = 16;

/// How many of the first bits of a key lead to where it stands.
const BITS: u32 = 16;

/// The hashes of a record.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct RecordHash {
    /// Of its key.
    pub key: [u32; 3],
    /// Of what it says in its fields, but for what the mapping puts into every record.
    pub facts: u32,
}

impl RecordHash {
    /// What a file of records begins with.
    pub fn head() -> &'static [u8] {
        HEAD
    }

    /// The record as the file has it.
    pub fn to_bytes(self) -> [u8; LENGTH] {
        let [a, b, c] = self.key;
        let mut bytes = [0; LENGTH];
        for (place, number) in bytes.chunks_exact_mut(4).zip([a, b, c, self.facts]) {
            place.copy_from_slice(&number.to_le_bytes());
        }
        bytes
    }

    fn of(bytes: &[u8]) -> Option<Self> {
        let number = |place: usize| Some(u32::from_le_bytes(bytes.get(place..place + 4)?.try_into().ok()?));
        Some(Self { key: [number(0)?, number(4)?, number(8)?], facts: number(12)? })
    }
}

/// The records of an earlier batch.
#[derive(Debug)]
pub struct KnownRecords {
    /// In the order of their keys.
    records: Vec<RecordHash>,
    /// Where the records begin whose keys begin with these bits; one more for the end.
    starts: Vec<usize>,
}

impl KnownRecords {
    /// Those of a file; nothing where it is not one, or is not whole.
    pub fn read(file: &[u8]) -> Option<Self> {
        let records = file.strip_prefix(HEAD).filter(|records| records.len() % LENGTH == 0)?;
        let mut records: Vec<RecordHash> =
            records.chunks_exact(LENGTH).map(RecordHash::of).collect::<Option<_>>()?;
        records.sort_unstable();
        let all_bits = 0..=1_usize << BITS;
        let mut place = 0;
        let starts = all_bits.map(|bits| {
            while records.get(place).is_some_and(|record| first_bits(record.key) < bits) {
                place += 1;
            }
            place
        });
        Some(Self { starts: starts.collect(), records })
    }

    /// The hash of what the record with this key said; nothing where there was none.
    pub fn facts_of(&self, key: [u32; 3]) -> Option<u32> {
        let bits = first_bits(key);
        let range = *self.starts.get(bits)?..*self.starts.get(bits + 1)?;
        let known = self.records.get(range)?.iter().find(|record| record.key == key);
        known.map(|record| record.facts)
    }
}

fn first_bits(key: [u32; 3]) -> usize {
    (key[0] >> (u32::BITS - BITS)) as usize
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn records_are_found_by_their_keys_in_any_order_of_the_file() {
        let record = |number: u32| RecordHash {
            key: [number.wrapping_mul(0x9e37_79b9), number, 7],
            facts: number * 3,
        };
        let mut file = RecordHash::head().to_vec();
        for number in (0..3_000).rev() {
            file.extend(record(number).to_bytes());
        }
        let known = KnownRecords::read(&file).unwrap();
        for number in 0..3_000 {
            assert_eq!(known.facts_of(record(number).key), Some(number * 3));
            assert_eq!(known.facts_of([record(number).key[0], number + 1, 7]), None);
        }
        for key in [[0; 3], [u32::MAX; 3]] {
            assert_eq!(known.facts_of(key), None);
        }
        file.pop();
        assert!(KnownRecords::read(&file).is_none() && KnownRecords::read(b"").is_none());
        assert_eq!(KnownRecords::read(RecordHash::head()).unwrap().facts_of([1; 3]), None);
    }
}
