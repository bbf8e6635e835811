//! Short texts as three machine words, so that two compare in a few instructions. Most cells of
//! most exports are short.

use std::cmp::Ordering;

/// A text of at most 23 bytes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default)]
pub struct ShortText([u64; 3]);

impl ShortText {
    /// The longest text that fits, in bytes.
    const MOST: usize = 23;

    /// The part of `bytes` from `start` to `end`, if it is short enough. The bytes around it may
    /// be looked at, but have no part in the result.
    #[inline]
    pub fn within(bytes: &[u8], start: usize, end: usize) -> Option<Self> {
        let length = end.checked_sub(start)?;
        if length > Self::MOST {
            return None;
        }
        let words = match bytes.get(start..start + 24).and_then(|window| window.first_chunk::<24>()) {
            Some(window) => words(*window),
            // Near the end of the bytes there is no window of full width.
            None => {
                let mut window = [0; 24];
                window.get_mut(..length)?.copy_from_slice(bytes.get(start..end)?);
                words(window)
            }
        };
        let ([a, b, c], [d, e, f]) = (words, *MASKS.get(length)?);
        // The last byte is never text, so the length goes there: "a" and "a\0" differ.
        Some(Self([a & d, b & e, c & f | (length as u64) << 56]))
    }

    /// Gives the text to `take`, without a copy on the heap.
    #[inline]
    pub fn with_text<T>(self, take: impl FnOnce(&str) -> T) -> T {
        let bytes = self.to_bytes();
        let length = usize::from(*bytes.last().unwrap_or(&0)).min(Self::MOST);
        // It was made of a whole text, so its bytes are one.
        take(std::str::from_utf8(bytes.get(..length).unwrap_or_default()).unwrap_or_default())
    }

    /// The text again.
    #[inline]
    pub fn to_text(self) -> String {
        self.with_text(str::to_owned)
    }

    /// The text as bytes of a fixed number, to be kept on a disk for a while.
    pub fn to_bytes(self) -> [u8; 24] {
        let mut bytes = [0; 24];
        for (chunk, word) in bytes.chunks_exact_mut(8).zip(self.0) {
            chunk.copy_from_slice(&word.to_le_bytes());
        }
        bytes
    }

    /// The text that was kept so.
    pub fn from_bytes(bytes: [u8; 24]) -> Self {
        Self(words(bytes))
    }

    /// A hash of the text and a number beside it, good enough for a small table.
    #[inline]
    pub fn hash(self, beside: u32) -> u64 {
        let [a, b, c] = self.0;
        let product = u128::from(a ^ c.rotate_left(24) ^ 0x9E37_79B9_7F4A_7C15)
            * u128::from(b ^ c ^ u64::from(beside).rotate_left(40) ^ 0xA076_1D64_78BD_642F);
        (product as u64) ^ ((product >> 64) as u64)
    }
}

impl Ord for ShortText {
    /// As the texts compare: their first bytes weigh most, and of two that begin alike the shorter is the smaller.
    fn cmp(&self, other: &Self) -> Ordering {
        self.0.map(u64::swap_bytes).cmp(&other.0.map(u64::swap_bytes))
    }
}

impl PartialOrd for ShortText {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

/// The bits of a window that belong to a text, by the text's length.
#[expect(clippy::indexing_slicing, reason = "it is worked out when the program is built")]
const MASKS: [[u64; 3]; 24] = {
    let mut masks = [[0; 3]; 24];
    let mut length = 0;
    while length < 24 {
        let mut at = 0;
        while at < length {
            masks[length][at / 8] |= 0xff << (8 * (at % 8));
            at += 1;
        }
        length += 1;
    }
    masks
};

fn words(window: [u8; 24]) -> [u64; 3] {
    let (chunks, _) = window.as_chunks::<8>();
    let mut words = chunks.iter().map(|chunk| u64::from_le_bytes(*chunk));
    [(); 3].map(|()| words.next().unwrap_or(0))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use crate::ShortText;

    proptest! {
        #[test]
        fn short_texts_are_equal_when_the_texts_are(a in "[ab\u{0}]{0,26}", b in "[ab\u{0}]{0,26}", around in "[ab]{0,30}") {
            let packed = |text: &str| {
                let whole = format!("x{text}{around}");
                ShortText::within(whole.as_bytes(), 1, 1 + text.len())
            };
            prop_assert_eq!(packed(&a).is_some(), a.len() <= 23);
            if let (Some(x), Some(y)) = (packed(&a), packed(&b)) {
                prop_assert_eq!(x == y, a == b);
                let alone = ShortText::within(a.as_bytes(), 0, a.len());
                prop_assert_eq!(alone, Some(x));
                prop_assert_eq!(x.cmp(&y), a.cmp(&b));
                prop_assert_eq!(ShortText::from_bytes(x.to_bytes()), x);
                prop_assert_eq!(x.to_text(), a);
            }
        }
    }
}
