//! The bytes at which rows and cells may begin or end, found eight at a time.

/// The low bit of every byte of a word.
const LOW: u64 = 0x0101_0101_0101_0101;
/// The high bit of every byte of a word.
const HIGH: u64 = 0x8080_8080_8080_8080;

/// Walks over the places of four kinds of byte in a text: a delimiter's and a quote's first byte,
/// line feed, and carriage return.
#[derive(Debug, Clone)]
pub(super) struct Marks {
    wanted: [u64; 4],
    /// Where the word at hand begins.
    base: usize,
    /// The high bit of each byte of the word at hand that is wanted and was not yet given.
    found: u64,
}

impl Marks {
    /// Begins at the start of a text.
    pub(super) fn new(delimiter: u8, quote: u8) -> Self {
        let wanted = [delimiter, quote, b'\n', b'\r'].map(|byte| u64::from(byte) * LOW);
        // The first step leads to zero.
        Self { wanted, base: 0_usize.wrapping_sub(8), found: 0 }
    }

    /// The next place in `bytes`, which must be the same at every call.
    #[inline]
    pub(super) fn next(&mut self, bytes: &[u8]) -> Option<usize> {
        while self.found == 0 {
            self.base = self.base.wrapping_add(8);
            let rest = bytes.get(self.base..)?;
            self.found = match rest.first_chunk::<8>() {
                Some(chunk) => self.wanted_in(u64::from_le_bytes(*chunk)),
                None if rest.is_empty() => return None,
                None => {
                    let mut chunk = [0; 8];
                    chunk.get_mut(..rest.len())?.copy_from_slice(rest);
                    // Only bytes that are there count, even where zero is wanted.
                    self.wanted_in(u64::from_le_bytes(chunk)) & ((1 << (8 * rest.len())) - 1)
                }
            };
        }
        let at = self.base + (self.found.trailing_zeros() / 8) as usize;
        self.found &= self.found - 1;
        Some(at)
    }

    /// The high bit of each byte that is wanted. Exact for every byte: no carry leaves a byte.
    #[inline]
    fn wanted_in(&self, word: u64) -> u64 {
        let zero_bytes = |word: u64| !((((word & !HIGH) + !HIGH) | word) | !HIGH);
        let [a, b, c, d] = self.wanted;
        zero_bytes(word ^ a) | zero_bytes(word ^ b) | zero_bytes(word ^ c) | zero_bytes(word ^ d)
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::Marks;

    proptest! {
        #[test]
        fn every_wanted_byte_is_found_and_no_other(bytes in prop::collection::vec(prop::sample::select(vec![0, 1, b'\n', b'\r', b',', b'"', b'a', 0x80, 0xff, 0x8a]), 0..40), delimiter in prop::sample::select(vec![b',', 0, 1, 0xff])) {
            let mut marks = Marks::new(delimiter, b'"');
            let found: Vec<usize> = std::iter::from_fn(|| marks.next(&bytes)).collect();
            let wanted = [delimiter, b'"', b'\n', b'\r'];
            let plain: Vec<usize> = (0..bytes.len()).filter(|at| wanted.contains(&bytes[*at])).collect();
            prop_assert_eq!(found, plain);
        }
    }
}
