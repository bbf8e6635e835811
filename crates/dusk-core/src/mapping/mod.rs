//! The mapping: which columns of a source feed which fields of the target, and how.

mod read;

use std::path::PathBuf;

pub use read::read;

use crate::correct::Crosswalk;
use crate::files::Template;
use crate::inspect::{DateOrder, DateShape};
use crate::source::{Known, Line, SourceSettings};
use crate::target::{FieldType, ReadAs, Target};
use crate::value::{DatePattern, Rounding, Unit, Zone};

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
    /// Characters that nobody sees go away: zero-width spaces, byte order marks, and marks of
    /// direction in text that is written in one direction.
    pub no_hidden: bool,
    /// Letters with separate accents become single letters (Unicode NFC).
    pub composed: bool,
    /// Text that was decoded wrongly once is put right where that is exact.
    pub redecoded: bool,
    /// Curly quotes become straight ones.
    pub straight_quotes: bool,
    /// Long numbers whose last digits may be lost are kept.
    pub keep_rounded: bool,
    /// Typed dates become text as ISO 8601 has it.
    pub dates_as_iso: bool,
}

impl Default for TextReading {
    fn default() -> Self {
        Self {
            trim: true,
            plain_spaces: true,
            one_line: false,
            no_hidden: true,
            composed: true,
            redecoded: true,
            straight_quotes: false,
            keep_rounded: false,
            dates_as_iso: false,
        }
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
    /// The column proves the decimal mark, so any other mark stands between groups.
    pub proven: bool,
    /// A number in brackets is below zero.
    pub brackets: bool,
    /// The currency mark that may stand beside the number, of up to four letters.
    pub currency: Option<[char; 4]>,
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
    /// Values that are in another order.
    pub order_where: Vec<OrderWhere>,
    /// The day from which whole numbers count days.
    pub day_count: Option<DayCount>,
    /// The zone of the clock that the source's times were read from.
    pub zone: Option<Zone>,
}

/// Some values of a column are in an order of their own.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct OrderWhere {
    /// Which values.
    pub which: Which,
    /// Their order.
    pub order: DateOrder,
}

/// Which values of a column.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Which {
    /// Those of one shape.
    Shape(DateShape),
    /// Those in these rows, from the first to the last.
    Rows(u64, u64),
}

/// How spreadsheet programs count days.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum DayCount {
    /// From 1 January 1900, with a leap day in that year that there never was.
    From1900,
    /// From 1 January 1904, which is day 0.
    From1904,
}

impl DayCount {
    /// The words of the mapping.
    pub const WORDS: [(&'static str, Self); 2] = [("1900", Self::From1900), ("1904", Self::From1904)];
}

impl Mapping {
    /// What is known before a source is opened: the headings that the mapping uses, and the words
    /// of the target's code lists.
    pub fn known<'m>(&'m self, target: &Target) -> Known<'m> {
        let mut known = Known::headings(&self.wanted());
        for heading in self.wanted() {
            known.learn(heading);
        }
        learn_target(&mut known, target);
        known
    }

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

/// Takes the words of a target and of its code lists in.
pub fn learn_target(known: &mut Known<'_>, target: &Target) {
    for field in &target.fields {
        for text in [&field.name].into_iter().chain(&field.label).chain(&field.also) {
            known.learn(text);
        }
        if let FieldType::Code { list, .. } | FieldType::Codes { list, .. } = &field.kind {
            for code in list.codes() {
                for text in [&code.code, &code.label].into_iter().chain(&code.also) {
                    known.learn(text);
                }
            }
        }
    }
}
