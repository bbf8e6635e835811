//! What a row is recognised by: a hash of its cells that does not depend on where the row stands, on the
//! order of its columns, or on how its text is quoted.
//!
//! The hash of a row is the sum of the hashes of its cells, so that a cell can be taken out of it or
//! exchanged without reading the row again. Blank cells count for nothing.

use xxhash_rust::xxh3::xxh3_64_with_seed;

use super::without_marks;

/// The hashes of the cells under one heading.
#[derive(Debug, Clone, Copy)]
pub struct CellHash {
    seed: u64,
}

impl CellHash {
    /// Of cells under this heading.
    pub fn under(heading: &str) -> Self {
        Self { seed: xxh3_64_with_seed(heading.as_bytes(), 0x6475_736b) }
    }

    /// The hash of a cell, marks and white space at its ends aside; 0 for a blank one.
    pub fn of(self, cell: &str) -> u64 {
        let text = without_marks(cell);
        let text = text.trim();
        if text.is_empty() { 0 } else { xxh3_64_with_seed(text.as_bytes(), self.seed) }
    }
}

#[cfg(test)]
mod tests {
    use super::CellHash;

    #[test]
    fn a_hash_is_of_the_value_under_its_heading() {
        let (hive, frames) = (CellHash::under("Hive"), CellHash::under("Frames"));
        assert_eq!(hive.of(" 12\u{a0}"), hive.of("\u{fdd1}12"));
        assert_ne!(hive.of("12"), frames.of("12"));
        assert_eq!([hive.of(""), hive.of("  ")], [0, 0]);
        // Two cells exchanged are another row.
        assert_ne!(hive.of("1").wrapping_add(frames.of("2")), hive.of("2").wrapping_add(frames.of("1")));
    }
}
