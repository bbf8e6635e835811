//! The bytes at which rows and cells may begin or end, found eight at a time.

/// The low bit of every byte of a word.
const LOW: u64 = 0x0101_0101_0101_0101;
/// The high bit of every byte of a word.
const HIGH: u64 = 0x8080_8080_8080_8080;

/// Finds the places of four kinds of byte in a text: a delimiter's and a quote's first byte, line
/// feed, and carriage return.
#[derive(Debug, Clone, Copy)]
pub(super) struct Marks([u64; 4]);

impl Marks {
    /// Looks for these bytes and for line ends.
    pub(super) fn new(delimiter: u8, quote: u8) -> Self {
        Self([delimiter, quote, b'\n', b'\r'].map(|byte| u64::from(byte) * LOW))
    }

    /// Every place in `bytes`, in order, in `places`, whose old contents are thrown away.
    pub(super) fn find(self, bytes: &[u8], places: &mut Vec<usize>) {
        places.clear();
        let (chunks, rest) = bytes.as_chunks::<8>();
        let mut base = 0;
        for chunk in chunks {
            let mut found = self.wanted_in(u64::from_le_bytes(*chunk));
            while found != 0 {
                places.push(base + (found.trailing_zeros() / 8) as usize);
                found &= found - 1;
            }
            base += 8;
        }
        let Self(wanted) = self;
        let is_wanted = |byte: u8| wanted.contains(&(u64::from(byte) * LOW));
        places.extend(rest.iter().enumerate().filter(|(_, byte)| is_wanted(**byte)).map(|(at, _)| base + at));
    }

    /// The high bit of each byte that is wanted. Exact for every byte: no carry leaves a byte.
    fn wanted_in(self, word: u64) -> u64 {
        // The high bit of each byte that is not zero.
        let filled = |word: u64| ((word & !HIGH) + !HIGH) | word;
        let [a, b, c, d] = self.0;
        !(filled(word ^ a) & filled(word ^ b) & filled(word ^ c) & filled(word ^ d)) & HIGH
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::Marks;

    proptest! {
        #[test]
        fn every_wanted_byte_is_found_and_no_other(bytes in prop::collection::vec(prop::sample::select(vec![0, 1, b'\n', b'\r', b',', b'"', b'a', 0x80, 0xff, 0x8a]), 0..40), delimiter in prop::sample::select(vec![b',', 0, 1, 0xff])) {
            let mut found = vec![7];
            Marks::new(delimiter, b'"').find(&bytes, &mut found);
            let wanted = [delimiter, b'"', b'\n', b'\r'];
            let plain: Vec<usize> = (0..bytes.len()).filter(|at| wanted.contains(&bytes[*at])).collect();
            prop_assert_eq!(found, plain);
        }
    }
}
