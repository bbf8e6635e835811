//! A sample of records that is the same whatever their order is: those with the smallest hashes.

use std::collections::{BTreeMap, BTreeSet};

/// How many records a sample holds.
pub(crate) const MOST: usize = 2_048;

/// What a record holds in a field.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Held {
    /// Nothing.
    Blank,
    /// A value that is rejected.
    Wrong,
    /// A number, in millionths, and how many decimals it has.
    Number(i64, u8),
    /// A day, or a day with a time, in minutes from the start of 1970; a time of day in minutes.
    Moment(i64),
    /// A text.
    Text {
        /// Its hash.
        hash: u64,
        /// How many characters it has.
        chars: u32,
        /// It begins with 0, and has other digits behind it.
        zero_first: bool,
        /// It has letters outside ASCII.
        accented: bool,
    },
}

/// A record of a sample.
#[derive(Debug, Clone)]
pub struct SampledRecord {
    /// The hash of its row as it is written.
    pub hash: u64,
    /// The row.
    pub row: u64,
    /// What it holds, in the order of the fields.
    pub held: Box<[Held]>,
}

/// Chooses records, on one thread.
#[derive(Debug, Default)]
pub struct Sampler {
    /// The smallest hashes so far.
    smallest: BTreeSet<u64>,
}

impl Sampler {
    /// Whether a record with this hash may be in the sample, as far as this thread knows. What was chosen once is
    /// chosen no more.
    #[inline]
    pub fn chooses(&mut self, hash: u64) -> bool {
        if self.smallest.len() < MOST {
            return self.smallest.insert(hash);
        }
        let is_smaller = self.smallest.last().is_some_and(|largest| hash < *largest);
        if is_smaller && self.smallest.insert(hash) {
            self.smallest.pop_last();
            return true;
        }
        false
    }
}

/// The sample of a whole run.
#[derive(Debug, Clone, Default)]
pub struct Sample {
    records: BTreeMap<u64, SampledRecord>,
}

impl Sample {
    /// Takes a record in. Of rows that are written alike one counts, the first.
    pub fn add(&mut self, record: SampledRecord) {
        match self.records.get_mut(&record.hash) {
            Some(known) if known.row <= record.row => {}
            Some(known) => *known = record,
            None => {
                self.records.insert(record.hash, record);
                if self.records.len() > MOST {
                    self.records.pop_last();
                }
            }
        }
    }

    /// Its records, in the order of their hashes.
    pub fn records(&self) -> impl Iterator<Item = &SampledRecord> + Clone {
        self.records.values()
    }

    /// What its records hold in a field, by its place.
    pub(crate) fn held(&self, field: usize) -> impl Iterator<Item = Held> + Clone + '_ {
        self.records().filter_map(move |record| record.held.get(field).copied())
    }

    /// The first row whose value of a field satisfies this.
    pub(crate) fn first_row(&self, field: usize, is_it: impl Fn(Held) -> bool) -> Option<u64> {
        let rows = self.records().filter(|record| record.held.get(field).is_some_and(|held| is_it(*held)));
        rows.map(|record| record.row).min()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_sample_is_the_same_in_any_order_and_on_any_number_of_threads() {
        let hash = |number: u64| number.wrapping_mul(0x9e37_79b9_7f4a_7c15);
        let sampled = |rows: &mut dyn Iterator<Item = u64>, threads: usize| {
            let mut samplers: Vec<Sampler> = (0..threads).map(|_| Sampler::default()).collect();
            let mut sample = Sample::default();
            for (place, row) in rows.enumerate() {
                let sampler = samplers.get_mut(place % threads).unwrap();
                if sampler.chooses(hash(row)) {
                    sample.add(SampledRecord { hash: hash(row), row, held: Box::new([]) });
                }
            }
            sample.records().map(|record| record.hash).collect::<Vec<_>>()
        };
        let forward = sampled(&mut (0..10_000), 1);
        assert_eq!(forward.len(), MOST);
        assert_eq!(forward, sampled(&mut (0..10_000).rev(), 3));
        assert_ne!(forward, sampled(&mut (1..10_001), 1));
    }
}
