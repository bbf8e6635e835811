//! How a word sounds, roughly and in any language written in Latin letters: so that what somebody wrote down
//! by ear is found again. It is good enough for a suggestion, and for nothing else.

use unicode_normalization::UnicodeNormalization as _;

/// Letters that stand for one sound together, the longer ones first.
const TOGETHER: [(&str, &str); 12] = [
    ("tsch", "x"),
    ("sch", "x"),
    ("tch", "x"),
    ("ch", "x"),
    ("sh", "x"),
    ("ph", "f"),
    ("gh", ""),
    ("th", "t"),
    ("ck", "k"),
    ("qu", "kf"),
    ("tz", "s"),
    ("dg", "j"),
];

/// The sounds of a word, vowels left out except the first: words that are spelt otherwise and sound alike have
/// the same. Empty for what holds no letter.
pub fn sound_of(word: &str) -> String {
    let mut letters: String =
        word.nfd().filter(char::is_ascii_alphanumeric).map(|letter| letter.to_ascii_lowercase()).collect();
    for (together, sound) in TOGETHER {
        letters = letters.replace(together, sound);
    }
    let mut sounds = String::new();
    let mut last = None;
    for (place, letter) in letters.chars().enumerate() {
        let sound = match letter {
            'a' | 'e' | 'i' | 'o' | 'u' | 'y' if place == 0 => 'a',
            'a' | 'e' | 'i' | 'o' | 'u' | 'y' | 'h' => {
                last = None;
                continue;
            }
            'b' | 'p' => 'p',
            'd' | 't' => 't',
            'g' | 'k' | 'c' | 'q' => 'k',
            'f' | 'v' | 'w' => 'f',
            's' | 'z' => 's',
            other => other,
        };
        // A digit that stands twice is another number.
        if last != Some(sound) || sound.is_ascii_digit() {
            sounds.push(sound);
        }
        last = Some(sound);
    }
    sounds
}

#[cfg(test)]
mod tests {
    use crate::sound_of;

    #[test]
    fn words_that_sound_alike_have_the_same_sounds() {
        for (one, other) in [("Gelb", "gelp"), ("Yellow", "yelow"), ("Phacelia", "facelya"), ("Öst", "ost")]
        {
            assert_eq!(sound_of(one), sound_of(other), "{one} {other}");
        }
        assert_ne!(sound_of("Red"), sound_of("Green"));
        assert_ne!(sound_of("K 11"), sound_of("K 1"));
        assert_eq!(sound_of("?"), "");
    }
}
