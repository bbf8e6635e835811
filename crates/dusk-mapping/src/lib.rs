//! The mapping: which columns of a source feed which fields of the target, and how.
//!
//! ```text
//! drift     what is new since the last batch
//! feed      where a field's value comes from: columns, another file, the mapping itself
//! look_up   a value found in another file
//! part      cells that hold several parts, and how one of them is taken out
//! read      mapping.toml and its crosswalks, with everything that is wrong said at once
//! words     a mapping in words
//! ```

mod drift;
mod feed;
mod look_up;
mod part;
mod read;
mod words;

use std::path::PathBuf;

pub use drift::{ColumnDrift, FieldDigest, IsOfList, Run, drift};
pub use feed::{Feed, NUMBER_MARK, Repeat, SameKey, WorkedOut};
pub use look_up::{Answer, KeyTranslation, LookUp, LookUpPlace};
pub use part::{MadeOf, NotTaken, Part, PartPiece};

pub use read::{read, read_incomplete, read_reading, read_unwritten};

use dusk_decisions::{Corrections, Crosswalk, RowHashes};
use dusk_description::{ReadAs, Rule, Target};
use dusk_evidence::{Error, FieldId, Line, Result};
use dusk_inspecting::DateShape;
use dusk_sources::{Known, Source, SourceSettings};
use dusk_values::{DateOrder, DatePattern, Rounding, Unit, Zone};

/// One source's way into a target, as `mapping.toml` and its crosswalks say it.
#[derive(Debug, Clone)]
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
    /// Those of them that are handed on beside the upload, in a file of their own.
    pub hand_on: Vec<String>,
    /// The fields that nothing feeds on purpose.
    pub fields_left_out: Vec<FieldId>,
    /// Which rows hold a record, where not all do.
    pub keep: Option<Keep>,
    /// The first and the last row that hold records, where others do not.
    pub within: Option<(u64, u64)>,
    /// A batch that is unlike the last one is not made.
    pub stops_unlike: bool,
    /// What becomes of a record whose key another record has already.
    pub same_key: SameKey,
    /// The fields by which rows are of one record; those of the key where none is named.
    pub same_by: Vec<FieldId>,
    /// How a row makes several records, where it does.
    pub repeat: Option<Repeat>,
    /// The files in which values are looked up.
    pub look_up_files: Vec<PathBuf>,
    /// The crosswalk files that were read.
    pub crosswalk_files: Vec<PathBuf>,
    /// The cells of its sources that were corrected.
    pub corrections: Corrections,
}

/// Which rows hold a record.
#[derive(Debug, Clone)]
pub struct Keep {
    /// The rule over the texts of columns, each by its place in `columns`.
    pub rule: Rule,
    /// The columns that it speaks of.
    pub columns: Vec<String>,
}

/// What feeds one field, and how.
#[derive(Debug, Clone)]
pub struct Map {
    /// The field, by its place in the target.
    pub field: FieldId,
    /// Where it stands in `mapping.toml`.
    pub line: Line,
    /// Where the value comes from.
    pub feed: Feed,
    /// The part of the cell that is taken.
    pub part: Option<Part>,
    /// A blank cell holds what the cell above it holds.
    pub fill_down: bool,
    /// Words that stand for a blank cell; case and spaces do not count.
    pub blank: Vec<String>,
    /// What to put where the source is blank, as the target writes it.
    pub if_blank: Option<String>,
    /// A blank in the source clears what the target holds; otherwise it leaves it alone.
    pub blank_clears: bool,
    /// How text is cleaned.
    pub text: TextReading,
    /// How numbers are read.
    pub number: NumberReading,
    /// The value of `[ask]` that says at every run which unit they are in.
    pub unit_asked: Option<String>,
    /// How dates are read.
    pub date: DateReading,
    /// The source's words for true and for false.
    pub words: Option<(String, String)>,
    /// Whether values are codes or labels.
    pub read_as: ReadAs,
    /// What stands between several values in one cell, or any of these; none where a cell holds one.
    pub between: Vec<String>,
    /// The value among several that makes a field true.
    pub true_where: Option<String>,
    /// Remembered translations.
    pub crosswalk: Crosswalk,
}

impl Map {
    /// What feeds a field, and nothing said about how it is read.
    pub fn fed_by(field: FieldId, feed: Feed) -> Self {
        Self {
            field,
            line: Line::FIRST,
            feed,
            part: None,
            fill_down: false,
            blank: Vec::new(),
            if_blank: None,
            blank_clears: false,
            text: TextReading::default(),
            number: NumberReading::default(),
            unit_asked: None,
            date: DateReading::default(),
            words: None,
            read_as: ReadAs::default(),
            between: Vec::new(),
            true_where: None,
            crosswalk: Crosswalk::default(),
        }
    }
}

/// A form that a text is brought into.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum TextForm {
    /// Capital letters.
    Upper,
    /// Small letters.
    Lower,
    /// The first letter of each word, as a capital letter.
    Initials,
}

impl TextForm {
    /// The words of the mapping.
    pub const WORDS: [(&'static str, Self); 3] =
        [("upper", Self::Upper), ("lower", Self::Lower), ("initials", Self::Initials)];

    /// Its word.
    pub fn word(self) -> &'static str {
        Self::WORDS.iter().find(|(_, form)| *form == self).map_or("", |(word, _)| word)
    }

    /// The text in this form.
    pub fn of(self, text: &str) -> String {
        match self {
            Self::Upper => text.to_uppercase(),
            Self::Lower => text.to_lowercase(),
            // Initials are their own.
            Self::Initials if !text.contains(char::is_whitespace) && text.to_uppercase() == text => {
                text.to_owned()
            }
            Self::Initials => {
                let words = text.split(|letter: char| letter.is_whitespace() || letter == '-');
                words
                    .filter_map(|word| word.chars().find(|letter| letter.is_alphanumeric()))
                    .flat_map(char::to_uppercase)
                    .collect()
            }
        }
    }
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
    /// The form that it is brought into.
    pub form: Option<TextForm>,
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
            form: None,
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
    /// Each number has its unit behind it, from a column of its own.
    pub units_in_cells: bool,
    /// Percents are percents although all of them lie between 0 and 1.
    pub small_percents: bool,
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
    /// What a field that holds no dates takes of a date.
    pub form: Option<DatePattern>,
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
    pub fn known(&self, target: &Target) -> Known {
        // Headings prove nothing of an encoding: they may have been written under a guess.
        let mut headings = self.wanted();
        headings.extend(
            self.hand_on.iter().filter(|column| !headings.contains(column)).cloned().collect::<Vec<_>>(),
        );
        let mut known = Known { headings, ..Known::default() };
        learn_target(&mut known, target);
        known
    }

    /// Takes the units that every run is asked for from what was given. What was not given is asked for later.
    ///
    /// # Errors
    /// [`Error::Request`] for a word that is no unit, or one that the field cannot be in.
    pub fn answer_units(&mut self, target: &Target, asked: &[(String, String)]) -> Result<()> {
        for map in &mut self.maps {
            let given =
                map.unit_asked.as_ref().and_then(|name| asked.iter().find(|(known, _)| known == name));
            let (Some((name, symbol)), Some(field)) = (given, target.fields.get(map.field)) else { continue };
            let unit = read::unit_for(symbol.trim(), field).map_err(|error| {
                Error::Request(format!("--set {name}={symbol}: {}; {}", error.says, error.hint))
            })?;
            map.number.unit = Some(unit);
        }
        Ok(())
    }

    /// A mapping that feeds nothing.
    pub fn empty(target: &Target) -> Self {
        let path = target.files.first().cloned().unwrap_or_default();
        Self {
            path: path.clone(),
            target_path: path,
            source: SourceSettings::default(),
            ask: Vec::new(),
            maps: Vec::new(),
            leave_out: Vec::new(),
            hand_on: Vec::new(),
            fields_left_out: Vec::new(),
            keep: None,
            within: None,
            stops_unlike: false,
            same_key: SameKey::Reject,
            same_by: Vec::new(),
            repeat: None,
            look_up_files: Vec::new(),
            crosswalk_files: Vec::new(),
            corrections: Corrections::default(),
        }
    }

    /// The headings that the mapping uses, each once, in the order of the file; those of columns that
    /// repeat with `{n}` in the place of the repeat.
    pub fn used(&self) -> Vec<&str> {
        let mut used: Vec<&str> = Vec::new();
        let kept = self.keep.iter().flat_map(|keep| keep.columns.iter().map(String::as_str));
        for name in self.maps.iter().flat_map(|map| map.feed.columns()).chain(kept) {
            if !used.contains(&name) {
                used.push(name);
            }
        }
        used
    }

    /// The places of the fields that a column feeds, alone or with others.
    pub fn fields_fed_by<'m>(&'m self, heading: &'m str) -> impl Iterator<Item = FieldId> + 'm {
        let is_it = move |name: &str| match &self.repeat {
            Some(repeat) if name.contains(NUMBER_MARK) => {
                repeat.headings_of(name).iter().any(|known| known == heading)
            }
            _ => name == heading,
        };
        self.maps
            .iter()
            .filter(move |map| map.feed.columns().iter().any(|name| is_it(name)))
            .map(|map| map.field)
    }

    /// The headings of the columns that feed a field in the record of a repeat (nothing where a row makes one).
    /// Where repeats are numbered as they are met, nobody can say which columns were this one's: it may be any.
    pub fn headings_for(&self, field: FieldId, number: &str) -> Vec<String> {
        let map = self.maps.iter().find(|map| map.field == field);
        let columns = map.map_or_else(Vec::new, |map| map.feed.columns());
        let headings = columns.into_iter().flat_map(|name| match &self.repeat {
            Some(repeat) if name.contains(NUMBER_MARK) && !repeat.in_order && !number.is_empty() => {
                vec![Repeat::heading(name, number)]
            }
            Some(repeat) if name.contains(NUMBER_MARK) => repeat.headings_of(name),
            _ => vec![name.to_owned()],
        });
        headings.collect()
    }

    /// How many decisions are remembered beside the mapping: lines of crosswalks, and corrected cells.
    pub fn decisions(&self) -> u64 {
        let lines: usize = self.maps.iter().map(|map| map.crosswalk.lines().len()).sum();
        let cells: usize = self.corrections.files.iter().map(|file| file.lines.len()).sum();
        (lines + cells) as u64
    }

    /// What the rows of a source are recognised by.
    pub fn row_hashes(&self, source: &Source, target: &Target) -> RowHashes {
        let is_key = |field: FieldId| target.fields.get(field).is_some_and(|field| field.key);
        let keys = self.maps.iter().filter(|map| is_key(map.field));
        let keys: Vec<&str> = keys.flat_map(|map| map.feed.columns()).collect();
        RowHashes::of(source, &self.wanted(), &keys)
    }

    /// The headings of the columns that the mapping uses, each once, with every repeat of those that
    /// repeat.
    pub fn wanted(&self) -> Vec<String> {
        let mut wanted: Vec<String> = Vec::new();
        for name in self.used() {
            match &self.repeat {
                Some(repeat) if name.contains(NUMBER_MARK) => {
                    wanted.extend(repeat.headings_of(name));
                }
                _ => wanted.push(name.to_owned()),
            }
        }
        wanted
    }
}

/// Takes the words of a target and of its code lists in.
pub fn learn_target(known: &mut Known, target: &Target) {
    for field in &target.fields {
        for text in [&field.name].into_iter().chain(&field.label).chain(&field.also) {
            known.learn(text);
        }
        if let Some(list) = field.kind.codes() {
            for code in list.codes() {
                for text in [&code.code, &code.label].into_iter().chain(&code.also) {
                    known.learn(text);
                }
            }
        }
    }
}
