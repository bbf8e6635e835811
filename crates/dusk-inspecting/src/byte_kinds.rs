//! What kinds of bytes a value is made of, told at one look.

/// What kinds of bytes a value is made of.
#[derive(Debug, Clone, Copy)]
pub(super) struct Bytes(u8);

impl Bytes {
    pub(super) const DIGIT: u8 = 1;
    pub(super) const MARK: u8 = 2;
    pub(super) const SLASH_OR_COLON: u8 = 4;
    pub(super) const OTHER: u8 = 8;
    pub(super) const HIGH: u8 = 16;
    pub(super) const CONTROL: u8 = 32;
    pub(super) const QUESTION: u8 = 64;
    const TO_LOOK_AT: u8 = 128;

    pub(super) fn of(value: &str) -> Self {
        #[expect(clippy::indexing_slicing, reason = "it is worked out when the program is built")]
        const KINDS: [u8; 256] = {
            let mut kinds = [0; 256];
            let mut byte = 0;
            while byte < 256 {
                kinds[byte] = match byte as u8 {
                    b'0'..=b'9' => Bytes::DIGIT,
                    b'.' | b',' | b'-' | b'+' => Bytes::MARK,
                    b'/' | b':' => Bytes::SLASH_OR_COLON,
                    b'?' => Bytes::QUESTION,
                    b'#' | b'\'' | b'E' => Bytes::TO_LOOK_AT,
                    0..=0x1f | 0x7f => Bytes::CONTROL,
                    0x80.. => Bytes::HIGH,
                    _ => Bytes::OTHER,
                };
                byte += 1;
            }
            kinds
        };
        Self(value.bytes().fold(0, |all, byte| all | KINDS.get(usize::from(byte)).copied().unwrap_or(0)))
    }

    pub(super) fn has(self, kinds: u8) -> bool {
        self.0 & kinds != 0
    }

    pub(super) fn only(self, kinds: u8) -> bool {
        self.0 & !kinds == 0
    }
}
