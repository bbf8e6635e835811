//! Characters that nobody sees: one list, by the Unicode property Default_Ignorable_Code_Point (UAX #44, with the
//! Mongolian vowel separator), and where they say something all the same.

use crate::is_right_to_left;

/// Which characters of one text nobody sees and nothing needs.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Invisible {
    /// The text has no letters that run from right to left, beside which direction marks have their use.
    one_direction: bool,
    /// It has letters that join, or pictures that are put together: joiners have their use (RFC 5892, appendix A;
    /// UTS #51).
    joins: bool,
    /// It has pictures or signs whose form is chosen by what follows them.
    varies: bool,
    /// It has Hangul, in which fillers stand for missing parts.
    hangul: bool,
}

impl Invisible {
    /// Those of a text.
    pub fn in_text(text: &str) -> Self {
        let mut found = Self { one_direction: true, joins: false, varies: false, hangul: false };
        for c in text.chars().filter(|c| !c.is_ascii()) {
            found.one_direction &= !is_right_to_left(c);
            let pictured = is_picture(c);
            found.joins |= pictured || is_joining(c);
            found.varies |= pictured
                || is_joining(c)
                || matches!(c, '\u{f900}'..='\u{faff}' | '\u{1800}'..='\u{180a}' | '\u{1810}'..='\u{18af}' | '\u{3400}'..='\u{9fff}' | '\u{20000}'..='\u{3ffff}');
            found.hangul |= matches!(c, '\u{1100}'..='\u{115e}' | '\u{1161}'..='\u{11ff}' | '\u{3131}'..='\u{3163}' | '\u{ac00}'..='\u{d7fb}');
        }
        found
    }

    /// Whether a screen would act on it, or show the text as something else than it is: controls, what turns the
    /// direction of writing (UAX #9), and what nobody sees.
    pub fn misleads(self, c: char) -> bool {
        c.is_control()
            || matches!(c, '\u{61c}' | '\u{200e}' | '\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2066}'..='\u{2069}'
                | '\u{fff9}'..='\u{fffb}' | '\u{e0000}'..='\u{e00ff}')
            || self.hides(c)
    }

    /// Whether it may be taken away without anybody seeing a difference.
    pub fn hides(self, c: char) -> bool {
        match c {
            '\u{200c}' | '\u{200d}' => !self.joins,
            '\u{61c}' | '\u{200e}' | '\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}' => {
                self.one_direction
            }
            '\u{180b}'..='\u{180f}' | '\u{fe00}'..='\u{fe0f}' | '\u{e0000}'..='\u{e0fff}' => !self.varies,
            '\u{115f}' | '\u{1160}' | '\u{3164}' | '\u{ffa0}' => !self.hangul,
            '\u{ad}'
            | '\u{34f}'
            | '\u{200b}'
            | '\u{2060}'..='\u{2065}'
            | '\u{206a}'..='\u{206f}'
            | '\u{feff}'
            | '\u{fff0}'..='\u{fff8}'
            | '\u{1bca0}'..='\u{1bca3}'
            | '\u{1d173}'..='\u{1d17a}' => true,
            _ => false,
        }
    }
}

/// Letters of scripts in which a joiner chooses a form: Arabic and its neighbours, those of India, Tibet, Burma,
/// Cambodia and Mongolia.
fn is_joining(c: char) -> bool {
    matches!(c, '\u{600}'..='\u{61b}' | '\u{61d}'..='\u{7ff}' | '\u{840}'..='\u{109f}' | '\u{1700}'..='\u{180a}'
        | '\u{1810}'..='\u{1aff}' | '\u{a840}'..='\u{aaff}' | '\u{fb50}'..='\u{fdff}' | '\u{fe70}'..='\u{fefc}'
        | '\u{11000}'..='\u{11fff}')
}

/// Pictures and signs that are put together or have several forms.
fn is_picture(c: char) -> bool {
    matches!(c, '\u{203c}' | '\u{2049}' | '\u{20e3}' | '\u{2100}'..='\u{2bff}' | '\u{3030}' | '\u{303d}' | '\u{3297}'
        | '\u{3299}' | '\u{1f000}'..='\u{1faff}')
}

#[cfg(test)]
mod tests {
    use super::*;

    fn seen(text: &str) -> String {
        let invisible = Invisible::in_text(text);
        text.chars().filter(|c| !invisible.hides(*c)).collect()
    }

    #[test]
    fn what_nobody_sees_goes_and_what_says_something_stays() {
        for (text, expected) in [
            ("Quee\u{ad}n", "Queen"),
            ("\u{feff}a\u{200b}b\u{2060}c\u{200e}", "abc"),
            ("so\u{200d}so\u{200c}so", "sososo"),
            ("a\u{fe0f}b\u{3164}c\u{e0041}", "abc"),
            ("a\u{180e}b", "ab"),
        ] {
            assert_eq!(seen(text), expected, "{text:?}");
        }
        // A Persian word, a Devanagari one, a family, a heart in colour, a Hangul syllable in parts, a Hebrew mark.
        for text in [
            "می\u{200c}خواهم",
            "क\u{94d}\u{200d}ष",
            "👩\u{200d}👧",
            "❤\u{fe0f}",
            "\u{1100}\u{1160}\u{11a8}",
            "שלום\u{200f}",
            "葛\u{e0100}",
        ] {
            assert_eq!(seen(text), text, "{text:?}");
        }
    }
}
