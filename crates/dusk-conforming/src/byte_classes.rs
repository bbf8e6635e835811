//! What the bytes of a text ask for, told in one pass: whether it needs cleaning, a closer look, or quotes.

use dusk_description::PlainLayout;

/// What each byte asks for.
#[derive(Debug, Clone)]
pub(crate) struct ByteClasses([u8; 256]);

impl ByteClasses {
    /// It is looked at more closely: control characters, and signs of damage that are plain characters.
    pub(crate) const ODD: u8 = 1;
    /// It is part of a character outside ASCII.
    pub(crate) const HIGH: u8 = 2;
    /// It makes the value need quotes in the upload file.
    pub(crate) const QUOTED: u8 = 4;
    /// A text that begins with it is looked at more closely.
    const NEVER_FIRST: u8 = 8;
    /// A text that ends with it is looked at more closely.
    const NEVER_LAST: u8 = 16;

    /// Of texts on their way into an upload of this layout.
    pub(crate) fn of(layout: Option<PlainLayout>) -> Self {
        let class = |byte: u8| {
            let odd = byte < b' ' || matches!(byte, 0x7f | b'?' | b'+');
            let quoted = layout.is_some_and(|layout| byte == layout.delimiter || byte == layout.quote);
            let asked = [
                (odd, Self::ODD),
                (byte >= 0x80, Self::HIGH),
                (quoted, Self::QUOTED),
                (matches!(byte, b' ' | b'\'' | b'#'), Self::NEVER_FIRST),
                (byte == b' ', Self::NEVER_LAST),
            ];
            asked.into_iter().filter(|(asks, _)| *asks).fold(0, |all, (_, class)| all | class)
        };
        let mut classes = [0; 256];
        for (place, byte) in classes.iter_mut().zip(0..=u8::MAX) {
            *place = class(byte);
        }
        Self(classes)
    }

    /// What the bytes of a text ask for, all together; [`Self::ODD`] for a blank one.
    #[inline]
    pub(crate) fn in_text(&self, bytes: &[u8]) -> u8 {
        let (Some(first), Some(last)) = (bytes.first(), bytes.last()) else { return Self::ODD };
        let ends = self.class(*first) & Self::NEVER_FIRST | self.class(*last) & Self::NEVER_LAST;
        let inside = bytes.iter().fold(0, |all, byte| all | self.class(*byte));
        let all = inside & (Self::ODD | Self::HIGH | Self::QUOTED);
        if ends == 0 { all } else { all | Self::ODD }
    }

    #[inline]
    fn class(&self, byte: u8) -> u8 {
        self.0.get(usize::from(byte)).copied().unwrap_or(Self::ODD)
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::Trail;
    use crate::clean::clean;
    use dusk_inspecting::has_plain_letters_only;
    use dusk_mapping::TextReading;

    fn needs_nothing(text: &str) -> bool {
        match ByteClasses::of(None).in_text(text.as_bytes()) {
            0 => true,
            ByteClasses::HIGH => has_plain_letters_only(text),
            _ => false,
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(4_000))]

        /// What is said to need nothing is what the long way leaves alone, and says nothing of.
        #[test]
        fn a_text_that_needs_nothing_is_left_alone_the_long_way(text in "[aZ5 .éÖçßñÃÂâ€‚ƒ¬√–’“ŽœŠčšłżа αµ\u{a0}\u{ad}\u{301}\u{200b}?\u{85}\n]{0,7}", one_line in any::<bool>()) {
            if !needs_nothing(&text) {
                return Ok(());
            }
            let reading = TextReading { one_line, ..TextReading::default() };
            let mut trail = Trail::keeping();
            prop_assert_eq!(clean(&text, reading, None, &mut trail), text.as_str());
            prop_assert!(!trail.changed());
            let mut remarks = Vec::new();
            dusk_inspecting::notice_damage(&text, &mut remarks);
            prop_assert!(remarks.is_empty(), "{:?}", remarks);
        }
    }

    #[test]
    fn everyday_text_needs_nothing() {
        for text in [
            "plain text, with (signs) & 12 %",
            "Öst Quay",
            "coração",
            "Straße größer",
            "l’été – “oui” …",
            "5 €",
            "x",
        ] {
            assert!(needs_nothing(text), "{text}");
        }
        for text in [
            "", " a", "a ", "Ch?teau", "1E+05", "a\nb", "Ã–st", "Ã¢", "\u{a0}a", "蜂蜜", "Анна", "'5",
            "#N/A", "a\u{301}",
        ] {
            assert!(!needs_nothing(text), "{text}");
        }
        let layout = PlainLayout { delimiter: b';', quote: b'"', is_utf_8: true };
        let class = |text: &str| ByteClasses::of(Some(layout)).in_text(text.as_bytes());
        assert_eq!(
            [class("a;b"), class("\"é\""), class("a,b")],
            [ByteClasses::QUOTED, ByteClasses::QUOTED | ByteClasses::HIGH, 0]
        );
    }
}
