//! Short texts as three machine words, so that two compare in a few instructions. Most cells of
//! most exports are short.

/// A text of at most 23 bytes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(crate) struct ShortText([u64; 3]);

impl ShortText {
    /// The longest text that fits, in bytes.
    const MOST: usize = 23;

    /// The part of `bytes` from `start` to `end`, if it is short enough. The bytes around it may
    /// be looked at, but have no part in the result.
    pub(crate) fn within(bytes: &[u8], start: usize, end: usize) -> Option<Self> {
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
        let mask = |word: u64, before: usize| match length.saturating_sub(before) {
            0 => 0,
            kept @ 1..8 => word & ((1 << (8 * kept)) - 1),
            _ => word,
        };
        let [a, b, c] = words;
        // The last byte is never text, so the length goes there: "a" and "a\0" differ.
        Some(Self([mask(a, 0), mask(b, 8), mask(c, 16) | (length as u64) << 56]))
    }

    /// A hash of the text and a number beside it, good enough for a small table.
    pub(crate) fn hash(self, beside: u32) -> u64 {
        let [a, b, c] = self.0;
        let fold = |a: u64, b: u64| {
            let product = u128::from(a) * u128::from(b);
            (product as u64) ^ ((product >> 64) as u64)
        };
        fold(a ^ 0x9E37_79B9_7F4A_7C15, b ^ 0xA076_1D64_78BD_642F)
            ^ fold(c ^ 0xE703_7ED1_A0B4_28DB, u64::from(beside) ^ 0x8EBC_6AF0_9C88_C6E3)
    }
}

fn words(window: [u8; 24]) -> [u64; 3] {
    let (chunks, _) = window.as_chunks::<8>();
    let mut words = chunks.iter().map(|chunk| u64::from_le_bytes(*chunk));
    [(); 3].map(|()| words.next().unwrap_or(0))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::ShortText;

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
            }
        }
    }
}
