//! One line of an answer.

use dusk_description::AnswerOutcome;

/// One line of an answer: which record it is about, how it went, and why.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct AnswerLine {
    /// The line, the row, or the number of the entry in the answer.
    pub at: u64,
    /// The line of the upload file, as it is written.
    pub line: Option<String>,
    /// The number of the record in it, as it is written, and the number of the first one.
    pub record: Option<(String, u64)>,
    /// The key of the record.
    pub key: Option<String>,
    /// The upload file; blank where it is not named.
    pub file: String,
    /// How it went; nothing where the word is not known.
    pub outcome: Option<AnswerOutcome>,
    /// The target's own word for it.
    pub word: String,
    /// Why.
    pub reason: String,
    /// The number that the target gave.
    pub number: String,
}

/// A whole number as people and programs write it: 1204, 1,204, 1 204, or 12.0 of a spreadsheet program.
pub(crate) fn whole_number(text: &str) -> Option<u64> {
    const MARKS: [char; 6] = [',', '.', ' ', '\'', '\u{a0}', '\u{202f}'];
    let text = text.trim();
    let text = text
        .split_once('.')
        .filter(|(_, rest)| rest.bytes().all(|byte| byte == b'0') && rest.len() < 3)
        .map_or(text, |(whole, _)| whole);
    if text.bytes().all(|byte| byte.is_ascii_digit()) {
        return text.parse().ok();
    }
    let mut groups = text.split(MARKS);
    let first = groups.next()?;
    let is_group = |group: &str, most: usize| {
        !group.is_empty() && group.len() <= most && group.bytes().all(|byte| byte.is_ascii_digit())
    };
    let is_grouped = is_group(first, 3) && groups.all(|group| group.len() == 3 && is_group(group, 3));
    let digits: String = text.chars().filter(char::is_ascii_digit).collect();
    if is_grouped { digits.parse().ok() } else { None }
}

#[cfg(test)]
mod tests {
    use super::whole_number;

    #[test]
    fn numbers_are_read_as_they_are_written() {
        for (text, number) in
            [("14", 14), ("1,204", 1204), ("1 204", 1204), ("1.204.000", 1_204_000), ("12.0", 12)]
        {
            assert_eq!(whole_number(text), Some(number), "{text}");
        }
        for text in ["", "12,5", "1.5", "a1", "12,34,567", "-4", "1..204"] {
            assert_eq!(whole_number(text), None, "{text}");
        }
    }
}
