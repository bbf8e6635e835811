//! Text in whose letters nothing can be wrong, told without looking at them one by one.

/// Whether a text outside ASCII has, beside printable ASCII, Latin letters and signs of typesetters only, which stand so
/// that they cannot come of a wrong decoding: bytes that were UTF-8 and became characters of a one-byte encoding are two
/// or more that touch, and the second of them is never one from U+00C0 to U+00FF.
pub fn has_plain_letters_only(text: &str) -> bool {
    let mut rest = text.as_bytes();
    let mut touches = false;
    loop {
        let plain = rest.iter().position(|byte| *byte >= 0x80).unwrap_or(rest.len());
        touches &= plain == 0;
        rest = rest.get(plain..).unwrap_or_default();
        let length = match rest {
            [] => return true,
            // U+00C0 to U+00FF.
            [0xc3, ..] => 2,
            _ if touches => return false,
            // U+00A1 to U+00BF without the soft hyphen, and without "¬", with which letters begin that were read as
            // Macintosh.
            [0xc2, 0xa1..=0xab | 0xae..=0xbf, ..] => 2,
            // U+0100 to U+024F, without "ƒ" for the same reason.
            [0xc6, 0x92, ..] => return false,
            [0xc4..=0xc8, ..] | [0xc9, 0x80..=0x8f, ..] => 2,
            // Dashes, curly quotes and the ellipsis; the sign of the euro.
            [0xe2, 0x80, 0x93 | 0x94 | 0x98 | 0x99 | 0x9c | 0x9d | 0xa6, ..] | [0xe2, 0x82, 0xac, ..] => 3,
            _ => return false,
        };
        rest = rest.get(length..).unwrap_or_default();
        touches = true;
    }
}
