//! How the practice target behaves.

use std::time::Duration;

/// How it behaves.
#[derive(Debug, Clone, Default)]
pub struct Manners {
    /// What it refuses.
    pub refuses: Vec<OwnRule>,
    /// What it loads with a warning.
    pub warns: Vec<OwnRule>,
    /// What it does beside that.
    pub behaves: Behaviour,
    /// It mentions only what it refuses or warns about, and counts the rest.
    pub mentions_few: bool,
    /// A record that it holds already is written over, and not refused.
    pub overwrites: bool,
    /// How long it takes over a file.
    pub waits: Duration,
    /// It knows a delivery again by its `Idempotency-Key`.
    pub knows_repeats: bool,
}

/// What the practice target does beside refusing.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum Behaviour {
    /// It answers at once.
    #[default]
    Prompt,
    /// It takes a file, and answers only when it is asked later.
    Queued,
    /// One refused record keeps all others out.
    AllOrNothing,
    /// It loads half of a file, and breaks off without an answer.
    BreaksOff,
    /// It loads the whole file, and breaks off without an answer.
    LoadsAndBreaksOff,
    /// It breaks off before it loads anything.
    BreaksOffFirst,
}

impl Behaviour {
    /// Each with its word on the command line.
    pub const WORDS: [(&'static str, Self); 6] = [
        ("prompt", Self::Prompt),
        ("queued", Self::Queued),
        ("all-or-nothing", Self::AllOrNothing),
        ("breaks-off", Self::BreaksOff),
        ("loads-and-breaks-off", Self::LoadsAndBreaksOff),
        ("breaks-off-first", Self::BreaksOffFirst),
    ];
}

/// A rule of its own: a column, a value, and what it says of records that have it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct OwnRule {
    /// The heading of the upload's column.
    pub column: String,
    /// The value, or a part of it with a star before or behind.
    pub value: String,
    /// What it says.
    pub says: String,
}

impl OwnRule {
    /// Reads a rule, as `site=000117: site closed`.
    ///
    /// # Errors
    /// What is wrong with it.
    pub fn parse(text: &str) -> Result<Self, String> {
        let expected = || {
            format!("\"{text}\" is not a rule; write COLUMN=VALUE: what it says, as site=000117: site closed")
        };
        let (column, rest) = text.split_once('=').ok_or_else(expected)?;
        let (value, says) = rest.split_once(':').unwrap_or((rest, ""));
        if column.trim().is_empty() {
            return Err(expected());
        }
        let says = if says.trim().is_empty() {
            format!("{} {} is not taken", column.trim(), value.trim())
        } else {
            says.trim().to_owned()
        };
        Ok(Self { column: column.trim().to_owned(), value: value.trim().to_owned(), says })
    }

    /// Whether a record has it.
    pub(crate) fn is_met(&self, cells: &[(String, String)]) -> bool {
        let fits = |text: &str| match (self.value.strip_prefix('*'), self.value.strip_suffix('*')) {
            (Some(end), None) => text.ends_with(end),
            (None, Some(begin)) => text.starts_with(begin),
            (Some(_), Some(_)) => text.contains(self.value.trim_matches('*')),
            (None, None) => text == self.value,
        };
        cells.iter().any(|(column, text)| *column == self.column && fits(text))
    }
}
