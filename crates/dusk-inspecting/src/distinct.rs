//! How many different values a column holds: counted exactly up to a limit, estimated beyond it in
//! memory that does not grow (HyperLogLog, Flajolet and others 2007, with 4,096 registers: the
//! standard error is 1.6 %).

use hashbrown::HashSet;

/// How many values are counted exactly.
const EXACT: usize = 2_000;

/// Of the hash, so many bits choose the register.
const BITS: u32 = 12;

/// Counts different values.
#[derive(Debug, Clone)]
pub(super) struct Distinct {
    exact: HashSet<u64>,
    registers: Vec<u8>,
}

impl Default for Distinct {
    fn default() -> Self {
        Self { exact: HashSet::new(), registers: Vec::new() }
    }
}

impl Distinct {
    /// Takes in a value.
    pub(super) fn add(&mut self, value: &str) {
        self.add_hash(xxhash_rust::xxh3::xxh3_64(value.as_bytes()));
    }

    fn add_hash(&mut self, hash: u64) {
        if self.registers.is_empty() {
            if self.exact.len() < EXACT || self.exact.contains(&hash) {
                self.exact.insert(hash);
                return;
            }
            self.registers = vec![0; 1 << BITS];
            for hash in std::mem::take(&mut self.exact) {
                self.register(hash);
            }
        }
        self.register(hash);
    }

    fn register(&mut self, hash: u64) {
        let place = usize::try_from(hash >> (64 - BITS)).unwrap_or(0);
        // The first one among the other bits; the last bit set bounds it.
        let rank = ((hash << BITS) | (1 << (BITS - 1))).leading_zeros() + 1;
        if let Some(register) = self.registers.get_mut(place) {
            *register = (*register).max(u8::try_from(rank).unwrap_or(u8::MAX));
        }
    }

    /// Adds what another part of the column holds.
    pub(super) fn append(&mut self, other: Self) {
        for hash in other.exact {
            self.add_hash(hash);
        }
        if other.registers.is_empty() {
            return;
        }
        if self.registers.is_empty() {
            self.registers = vec![0; 1 << BITS];
            for hash in std::mem::take(&mut self.exact) {
                self.register(hash);
            }
        }
        for (mine, theirs) in self.registers.iter_mut().zip(other.registers) {
            *mine = (*mine).max(theirs);
        }
    }

    /// How many there are, and whether that is an estimate.
    #[expect(clippy::float_arithmetic, reason = "an estimate, and said to be one")]
    pub(super) fn count(&self) -> (u64, bool) {
        if self.registers.is_empty() {
            return (self.exact.len() as u64, false);
        }
        let registers = self.registers.len() as f64;
        let sum: f64 = self.registers.iter().map(|rank| (-f64::from(*rank)).exp2()).sum();
        let raw = 0.7213 / (1.0 + 1.079 / registers) * registers * registers / sum;
        let empty = self.registers.iter().filter(|rank| **rank == 0).count();
        let estimate = if raw <= 2.5 * registers && empty > 0 {
            registers * (registers / empty as f64).ln()
        } else {
            raw
        };
        (estimate.round() as u64, true)
    }
}

#[cfg(test)]
mod tests {
    use super::Distinct;

    #[test]
    fn few_values_are_counted_and_many_are_estimated() {
        for (count, most_off) in [(0, 0), (1_999, 0), (50_000, 2_500), (1_000_000, 50_000)] {
            let (mut even, mut odd) = (Distinct::default(), Distinct::default());
            for value in 0..count {
                let half = if value % 2 == 0 { &mut even } else { &mut odd };
                half.add(&format!("value {value}"));
            }
            even.append(odd);
            let (found, estimated) = even.count();
            assert!(found.abs_diff(count) <= most_off, "{found} for {count}");
            assert_eq!(estimated, count > 2_000);
        }
    }
}
