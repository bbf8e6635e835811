//! The mapping: which columns of a source feed which fields of the target, and how.

mod read;

use std::path::PathBuf;

pub use read::read;

use crate::correct::Crosswalk;
use crate::files::Template;
use crate::inspect::DateOrder;
use crate::source::{Line, SourceSettings};
use crate::target::ReadAs;
use crate::value::{DatePattern, Rounding, Unit};

/// One source's way into a target, as `mapping.toml` and its crosswalks say it.
#[derive(Debug)]
pub struct Mapping {
    /// Where `mapping.toml` is.
    pub path: PathBuf,
    /// Where the target's description is.
    pub target_path: PathBuf,
    /// How the source is read.
    pub source: SourceSettings,
    /// The values that every run must be given: name and question.
    pub ask: Vec<(String, String)>,
    /// What feeds each field that is fed.
    pub maps: Vec<Map>,
    /// The columns that are left out on purpose.
    pub leave_out: Vec<String>,
    /// The crosswalk files that were read.
    pub crosswalk_files: Vec<PathBuf>,
}

/// Where a field's value comes from.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Feed {
    /// A column.
    Column(String),
    /// The same text in every record, with asked values in braces.
    Constant(Template),
    /// Several columns, with text between them.
    Join(Template),
}

/// What feeds one field, and how.
#[derive(Debug)]
pub struct Map {
    /// The field, by its place in the target.
    pub field: usize,
    /// Where it stands in `mapping.toml`.
    pub line: Line,
    /// Where the value comes from.
    pub feed: Feed,
    /// What to put where the source is blank, as the target writes it.
    pub if_blank: Option<String>,
    /// How text is cleaned.
    pub text: TextReading,
    /// How numbers are read.
    pub number: NumberReading,
    /// How dates are read.
    pub date: DateReading,
    /// The source's words for true and for false.
    pub words: Option<(String, String)>,
    /// Whether values are codes or labels.
    pub read_as: ReadAs,
    /// What stands between several values in one cell.
    pub between: Option<String>,
    /// Remembered translations.
    pub crosswalk: Crosswalk,
}

/// How text is cleaned.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct TextReading {
    /// White space at both ends is taken away.
    pub trim: bool,
    /// No-break spaces become ordinary ones.
    pub plain_spaces: bool,
    /// Line breaks become spaces.
    pub one_line: bool,
}

impl Default for TextReading {
    fn default() -> Self {
        Self { trim: true, plain_spaces: true, one_line: false }
    }
}

/// How numbers are read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct NumberReading {
    /// What stands before the decimals.
    pub decimal_mark: Option<char>,
    /// What stands between groups of three digits.
    pub thousands_mark: Option<char>,
    /// What the source is in.
    pub unit: Option<&'static Unit>,
    /// How to lose digits.
    pub round: Option<Rounding>,
}

/// How dates are read.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct DateReading {
    /// The order of day, month and year.
    pub order: Option<DateOrder>,
    /// The one form in which they are written.
    pub pattern: Option<DatePattern>,
    /// The first of the hundred years that two digits mean.
    pub years_from: Option<i16>,
    /// A time of day may be lost.
    pub drop_time: bool,
}

impl Mapping {
    /// The headings that the mapping uses, each once, in the order of the file.
    pub fn wanted(&self) -> Vec<&str> {
        let mut wanted: Vec<&str> = Vec::new();
        for map in &self.maps {
            let names: Vec<&str> = match &map.feed {
                Feed::Column(name) => vec![name],
                Feed::Join(template) => template.names().collect(),
                Feed::Constant(_) => Vec::new(),
            };
            for name in names {
                if !wanted.contains(&name) {
                    wanted.push(name);
                }
            }
        }
        wanted
    }
}
