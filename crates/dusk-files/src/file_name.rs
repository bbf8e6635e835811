//! What becomes the name of a file: a field's name, a value, a batch's name.

use std::fmt;
use std::path::{Path, PathBuf};

use dusk_values::Invisible;

/// The longest name that every file system takes, in bytes.
const LONGEST: usize = 255;

/// The most that one value takes of it, in bytes.
const MOST_OF_A_WORD: usize = 120;

/// The name of one file in the folder that it is put in, never a way that leads out of it.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct FileName(String);

impl FileName {
    /// The text as a name.
    ///
    /// # Errors
    /// What about it keeps it from being one, as "leads to another folder".
    pub fn checked(text: &str) -> Result<Self, &'static str> {
        let trimmed = text.trim_matches(['.', ' ']);
        if text.contains(['/', '\\']) || matches!(text, "." | "..") || has_drive(text) {
            return Err("leads to another folder");
        }
        if trimmed.is_empty() {
            return Err("has no letters of a name");
        }
        let invisible = Invisible::in_text(text);
        if text.chars().any(|letter| invisible.misleads(letter)) {
            return Err("has a line break or another invisible character");
        }
        if text.len() > LONGEST {
            return Err("is longer than a file's name may be (255 bytes)");
        }
        Ok(Self(text.to_owned()))
    }

    /// A value as a part of a name: what cannot stand in one becomes `_`.
    pub fn word(value: &str) -> String {
        let invisible = Invisible::in_text(value);
        let fits = |letter: char| !invisible.misleads(letter) && !"/\\:*?\"<>|".contains(letter);
        let word: String = value.chars().map(|letter| if fits(letter) { letter } else { '_' }).collect();
        let word = word.trim_matches(['.', ' ']);
        match word.len() {
            0 => "blank".into(),
            1..=MOST_OF_A_WORD => word.to_owned(),
            // Long ones that begin alike stay apart.
            _ => {
                let hash = blake3::hash(value.as_bytes()).to_hex();
                let fits = |(at, letter): &(usize, char)| at + letter.len_utf8() <= MOST_OF_A_WORD - 9;
                let begin: String = word.char_indices().take_while(fits).map(|(_, letter)| letter).collect();
                format!("{begin}-{}", hash.get(..8).unwrap_or_default())
            }
        }
    }

    /// Where the file is in a folder.
    pub fn within(&self, folder: &Path) -> PathBuf {
        folder.join(&self.0)
    }

    /// The name.
    pub fn as_str(&self) -> &str {
        &self.0
    }
}

/// `C:name` is a file of another drive where drives have letters.
fn has_drive(text: &str) -> bool {
    let mut letters = text.chars();
    letters.next().is_some_and(|letter| letter.is_ascii_alphabetic()) && letters.next() == Some(':')
}

impl fmt::Display for FileName {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.0)
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::FileName;

    #[test]
    fn names_are_told_from_ways_that_lead_elsewhere() {
        for name in ["queen-colour.csv", "Größe (cm)", "a..b", ".hidden", "蜂 1"] {
            assert!(FileName::checked(name).is_ok(), "{name}");
        }
        for other in
            ["", ".", "..", "../../evil", "a/b", "a\\b", "C:evil", "a\nb", "a\u{202e}b", " ", "x\u{e0041}"]
        {
            assert!(FileName::checked(other).is_err(), "{other:?}");
        }
    }

    proptest! {
        #[test]
        fn every_word_is_a_name_and_stays_in_its_folder(value in any::<String>()) {
            let word = FileName::word(&value);
            let name = FileName::checked(&format!("x-{word}.csv")).unwrap();
            let path = name.within(std::path::Path::new("folder"));
            prop_assert_eq!(path.parent(), Some(std::path::Path::new("folder")));
        }
    }
}
