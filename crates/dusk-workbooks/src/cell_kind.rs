//! What a workbook says that a cell is, kept in front of its text on the way to the field.
//!
//! The marks are noncharacters, which Unicode sets aside for use inside a program (U+FDD0 to
//! U+FDEF). A delimited file that holds one has them taken for lost characters.

use crate::error_words::is_error;

/// What a cell is, beside its text.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum CellKind {
    /// Text; every cell of a delimited file.
    Text,
    /// A typed date, time or both, written as ISO 8601 has it, with a space before the time.
    Date,
    /// A typed number in plain notation.
    Number,
    /// A typed true or false, written TRUE or FALSE.
    Boolean,
    /// An error of the spreadsheet program, as #N/A.
    Error,
    /// A typed length of time, as 26:30:00.
    Duration,
}

const KINDS: [(CellKind, char); 5] = [
    (CellKind::Date, '\u{fdd0}'),
    (CellKind::Number, '\u{fdd1}'),
    (CellKind::Boolean, '\u{fdd2}'),
    (CellKind::Error, '\u{fdd3}'),
    (CellKind::Duration, '\u{fdd4}'),
];

/// The first mark of a group of rows.
const FIRST_GROUP: u32 = 0xfde0;

/// How many groups of rows a column can have.
pub const MOST_GROUPS: usize = 15;

impl CellKind {
    /// What stands before such a cell's text.
    #[inline]
    pub fn mark(self) -> &'static str {
        match self {
            Self::Text => "",
            Self::Date => "\u{fdd0}",
            Self::Number => "\u{fdd1}",
            Self::Boolean => "\u{fdd2}",
            Self::Error => "\u{fdd3}",
            Self::Duration => "\u{fdd4}",
        }
    }

    /// What people call it.
    #[inline]
    pub fn word(self) -> &'static str {
        match self {
            Self::Text => "text",
            Self::Date => "typed date",
            Self::Number => "typed number",
            Self::Boolean => "typed true or false",
            Self::Error => "error",
            Self::Duration => "typed duration",
        }
    }

    /// Whether a cell holds an error of a spreadsheet program: typed as one, or as such programs write it into
    /// delimited text.
    #[inline]
    pub fn holds_error(self, text: &str) -> bool {
        // Most texts are told by their first letter.
        self == Self::Error || self == Self::Text && is_error(text)
    }

    /// Takes the mark off a cell.
    #[inline]
    pub fn of(cell: &str) -> (Self, &str) {
        // All marks begin with the same byte, and few texts do.
        if cell.as_bytes().first() != Some(&0xef) {
            return (Self::Text, cell);
        }
        for (kind, mark) in KINDS {
            if let Some(text) = cell.strip_prefix(mark) {
                return (kind, text);
            }
        }
        (Self::Text, cell)
    }
}

/// Stands before a value that was taken from the row above.
pub const FROM_ABOVE: char = '\u{fdd5}';

/// Stands for a value that would be taken from the row above, if anybody could say what that is.
pub const ABOVE_UNKNOWN: char = '\u{fdd6}';

/// Stands before the reason why a record of a record file cannot be read, in the only cell of its row.
pub const DAMAGED_RECORD: char = '\u{fdd7}';

/// Stands for the value of a field that stays blank in a row of its record, whatever the source has.
pub const STAYS_BLANK: char = '\u{fdd8}';

/// The mark of the group of rows with this number.
#[inline]
pub fn group_mark(group: usize) -> Option<char> {
    u32::try_from(group)
        .ok()
        .filter(|_| group < MOST_GROUPS)
        .and_then(|group| char::from_u32(FIRST_GROUP + group))
}

/// Takes the mark of a group of rows off a raw value.
#[inline]
pub fn group_of(raw: &str) -> (Option<usize>, &str) {
    if raw.as_bytes().first() != Some(&0xef) {
        return (None, raw);
    }
    let group = raw.chars().next().map(u32::from).and_then(|mark| mark.checked_sub(FIRST_GROUP));
    match group.and_then(|group| usize::try_from(group).ok()).filter(|group| *group < MOST_GROUPS) {
        Some(group) => (Some(group), raw.get(3..).unwrap_or_default()),
        None => (None, raw),
    }
}

/// True for the characters that are set aside as marks.
#[inline]
pub fn is_mark(letter: char) -> bool {
    matches!(letter, '\u{fdd0}'..='\u{fdef}')
}

/// A raw value without any mark.
#[inline]
pub fn without_marks(raw: &str) -> std::borrow::Cow<'_, str> {
    if raw.contains(is_mark) { raw.replace(is_mark, "").into() } else { raw.into() }
}
