//! What the target holds now, and what of an export is sent beside it.

use std::path::PathBuf;

use dusk_evidence::FieldId;
use jiff::civil::Date;

/// What `[holds]` says of a target.
#[derive(Debug, Clone, Default)]
pub struct Holds {
    /// Where its records are listed.
    pub lists: Vec<HeldList>,
    /// The day that the lists are from, where somebody says so.
    pub as_of: Option<Date>,
    /// The fields by which a record is found again; the fields of its key where nothing else is said.
    pub found_by: Vec<FieldId>,
    /// Which records are sent.
    pub sending: Sending,
    /// Where only new records are sent: whether one that is held already is rejected, or only not sent.
    pub refuses_known: bool,
    /// Whether records that the export does not have any more are removed from the target.
    pub removing: Option<MostRemoved>,
}

/// A list of held records.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum HeldList {
    /// An export of the target.
    File {
        /// The file.
        path: PathBuf,
        /// How its columns are read, where they are not called as the target calls them.
        mapping: Option<PathBuf>,
    },
    /// A table of a database.
    Table {
        /// The database: a file, or where its server is.
        database: PathBuf,
        /// The table.
        table: String,
    },
}

/// Which records are sent, by what they are beside the held ones.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Sending {
    /// All of them.
    #[default]
    All,
    /// Those that the target does not hold.
    New,
    /// Those that it holds otherwise.
    Changed,
    /// Both, and none that it holds as they are.
    NewAndChanged,
}

/// What a record is beside the held ones.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Standing {
    /// The target does not hold it.
    New,
    /// The target holds it, and says something else in at least one field.
    Changed,
    /// The target holds it as it is.
    Same,
}

impl Standing {
    /// The word for it on screens and in files.
    pub fn word(self) -> &'static str {
        match self {
            Self::New => "new",
            Self::Changed => "changed",
            Self::Same => "same",
        }
    }
}

impl Sending {
    /// The words of the description.
    pub const WORDS: [(&'static str, Self); 4] = [
        ("all", Self::All),
        ("new", Self::New),
        ("changed", Self::Changed),
        ("new-and-changed", Self::NewAndChanged),
    ];

    /// Whether a record is sent.
    pub fn takes(self, standing: Standing) -> bool {
        match self {
            Self::All => true,
            Self::New => standing == Standing::New,
            Self::Changed => standing == Standing::Changed,
            Self::NewAndChanged => standing != Standing::Same,
        }
    }

    /// The word of the description.
    pub fn word(self) -> &'static str {
        Self::WORDS.iter().find(|(_, sending)| *sending == self).map_or("", |(word, _)| word)
    }
}

/// How many records a batch may remove without being told that it is right.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MostRemoved {
    /// So many.
    Count(u64),
    /// So many of a hundred held ones.
    Percent(u64),
}

impl MostRemoved {
    /// Reads "20" or "5 %".
    pub fn parse(text: &str) -> Option<Self> {
        let text = text.trim();
        match text.strip_suffix('%') {
            Some(percent) => percent.trim().parse().ok().filter(|percent| *percent <= 100).map(Self::Percent),
            None => text.parse().ok().map(Self::Count),
        }
    }

    /// How many of so many held records that is.
    pub fn of(self, held: u64) -> u64 {
        match self {
            Self::Count(count) => count,
            Self::Percent(percent) => held.saturating_mul(percent) / 100,
        }
    }
}

/// The target's own words for what is to be done with a record.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct OperationWords {
    /// It is to be added.
    pub new: String,
    /// It is to be changed.
    pub changed: String,
    /// It is the same; the word for a changed one where there is none of its own.
    pub same: String,
    /// It is to be removed; nothing where the target has no word for that.
    pub gone: Option<String>,
}

impl OperationWords {
    /// The word for a record that goes in.
    pub fn of(&self, standing: Standing) -> &str {
        match standing {
            Standing::New => &self.new,
            Standing::Changed => &self.changed,
            Standing::Same => &self.same,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_limit_is_a_number_or_a_share() {
        assert_eq!(MostRemoved::parse(" 5 % ").map(|most| most.of(250)), Some(12));
        assert_eq!(MostRemoved::parse("20").map(|most| most.of(3)), Some(20));
        assert_eq!(MostRemoved::parse("101%").or(MostRemoved::parse("few")), None);
    }
}
