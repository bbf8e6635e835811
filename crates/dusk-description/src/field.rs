//! A field of the target, and what it may hold.

use std::sync::Arc;

use jiff::civil::Date;
use regex::Regex;

use super::{CodeList, FolderFiles, KnownValues};
use dusk_evidence::Line;
use dusk_files::Template;
use dusk_values::{DatePattern, Decimal, Unit, ValueType, Zone};

/// One column that the target knows.
#[derive(Debug)]
pub struct Field {
    /// Its name in commands, rules and the steward's files.
    pub name: String,
    /// Its heading in the upload file, where that is not its name.
    pub heading: Option<String>,
    /// Its column in the upload file, counted from 1, where columns before it stay blank.
    pub position: Option<usize>,
    /// What people call it.
    pub label: Option<String>,
    /// Other names that people use for it.
    pub also: Vec<String>,
    /// What the dictionary says about it.
    pub description: Option<String>,
    /// What it may hold.
    pub kind: FieldType,
    /// What it holds in every record, where the target says so.
    pub fixed: Option<String>,
    /// What becomes of a value that no code and no known value matches.
    pub unmatched: Unmatched,
    /// True when the target fills it by itself: the upload file has no column for it.
    pub never_send: bool,
    /// The numbered fields that it is one of, as they are written together: `frame_{n}`.
    pub group: Option<String>,
    /// True when it may be set when a record is new, and never be changed afterwards.
    pub set_once: bool,
    /// True when it has no column of its own and is part of another field only.
    pub only_part: bool,
    /// The fields that it is put together from, with text between them; their names in braces.
    pub made_of: Option<Template>,
    /// True when it must not be blank.
    pub required: bool,
    /// True when it is part of what identifies a record.
    pub key: bool,
    /// Where it stands in `target.toml`.
    pub line: Line,
}

impl Field {
    /// Whether the upload file has a column for it.
    pub fn is_sent(&self) -> bool {
        !self.never_send && !self.only_part
    }

    /// Its heading in the upload file.
    pub fn heading(&self) -> &str {
        self.heading.as_deref().unwrap_or(&self.name)
    }

    /// Its headings in the upload file: one, several where each code has a column, none where it is not sent.
    pub fn headings(&self) -> Vec<&str> {
        match &self.kind {
            _ if !self.is_sent() => Vec::new(),
            FieldType::Codes {
                layout: CodesLayout::ColumnPerCode { columns, .. } | CodesLayout::Numbered(columns),
                ..
            } => columns.iter().map(String::as_str).collect(),
            _ => vec![self.heading()],
        }
    }
}

/// What becomes of a value that no code and no known value matches.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Unmatched {
    /// Its record is kept out.
    #[default]
    Reject,
    /// It is left blank, and listed for later.
    Blank,
    /// It is kept as it is, with a warning.
    Keep,
    /// It is kept as a new term of an open list, and listed for somebody's yes.
    Open,
}

/// A day that a date is compared with.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Bound {
    /// The day of the run.
    Today,
    /// A fixed day.
    Day(Date),
}

impl Bound {
    /// The day that is meant when the run's day is `today`.
    pub fn day(self, today: Date) -> Date {
        match self {
            Self::Today => today,
            Self::Day(day) => day,
        }
    }
}

/// How several codes stand in the upload file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum CodesLayout {
    /// In one column, parted by this.
    Joined(String),
    /// One code in each of these columns, from the first on; the others stay blank.
    Numbered(Vec<String>),
    /// One column per code, in the order of the code list.
    ColumnPerCode {
        /// The headings.
        columns: Vec<String>,
        /// The word in the column of a code that the record has.
        yes: String,
        /// The word in the other columns.
        no: String,
    },
}

/// What a field may hold.
#[derive(Debug)]
pub enum FieldType {
    /// Any text.
    Text {
        /// Always so many digits.
        digits: Option<usize>,
        /// The most characters it may have.
        max_length: Option<usize>,
        /// A regular expression that the whole text must match, and as it was written.
        pattern: Option<(Regex, String)>,
    },
    /// A number with at most so many digits after the point.
    Number {
        /// The most digits after the point; 0 for whole numbers.
        decimals: u32,
        /// The unit that the target wants.
        unit: Option<&'static Unit>,
        /// The smallest number allowed.
        min: Option<Decimal>,
        /// The largest number allowed.
        max: Option<Decimal>,
    },
    /// A day, a day and a time, or a time of day.
    Date {
        /// Which of the three.
        holds: ValueType,
        /// How it is written.
        format: DatePattern,
        /// Other ways of writing it that the target takes as well.
        also_formats: Vec<DatePattern>,
        /// The first day allowed.
        not_before: Option<Bound>,
        /// The last day allowed.
        not_after: Option<Bound>,
        /// The zone of the target's clock, where times are converted to it.
        zone: Option<Zone>,
        /// How a month without a day is written, where it is allowed.
        month_format: Option<DatePattern>,
        /// How a year alone is written, where it is allowed.
        year_format: Option<DatePattern>,
    },
    /// True or false.
    Boolean {
        /// The word for true.
        yes: String,
        /// The word for false.
        no: String,
    },
    /// One code.
    Code {
        /// The codes.
        list: Arc<CodeList>,
        /// The field that holds the code inside which this one is valid, by its place.
        within: Option<usize>,
    },
    /// Several codes.
    Codes {
        /// The codes.
        list: Arc<CodeList>,
        /// How they stand in the upload file.
        layout: CodesLayout,
    },
    /// A file that is there.
    File {
        /// The files that may be named.
        files: Arc<FolderFiles>,
        /// The endings allowed, in small letters and without the point; any where there is none.
        endings: Vec<String>,
        /// The most bytes that it may have.
        max_bytes: Option<u64>,
    },
    /// A value that the target holds already.
    Reference {
        /// What it holds.
        known: Arc<KnownValues>,
    },
}

impl FieldType {
    /// The words of `target.toml`.
    pub const WORDS: [&'static str; 11] = [
        "text",
        "integer",
        "decimal",
        "date",
        "datetime",
        "time",
        "boolean",
        "code",
        "codes",
        "reference",
        "file",
    ];

    /// What the field's values are compared as.
    pub fn value_type(&self) -> ValueType {
        match self {
            Self::Text { .. }
            | Self::Code { .. }
            | Self::Codes { .. }
            | Self::Reference { .. }
            | Self::File { .. } => ValueType::Text,
            Self::Number { .. } => ValueType::Number,
            Self::Date { holds, .. } => *holds,
            Self::Boolean { .. } => ValueType::Boolean,
        }
    }

    /// The code list, where there is one.
    pub fn codes(&self) -> Option<&CodeList> {
        match self {
            Self::Code { list, .. } | Self::Codes { list, .. } => Some(list),
            _ => None,
        }
    }

    /// The word of `target.toml`.
    pub fn word(&self) -> &'static str {
        match self {
            Self::Text { .. } => "text",
            Self::Number { decimals: 0, .. } => "integer",
            Self::Number { .. } => "decimal",
            Self::Date { holds: ValueType::DateTime, .. } => "datetime",
            Self::Date { holds: ValueType::Time, .. } => "time",
            Self::Date { .. } => "date",
            Self::Boolean { .. } => "boolean",
            Self::Code { .. } => "code",
            Self::Codes { .. } => "codes",
            Self::Reference { .. } => "reference",
            Self::File { .. } => "file",
        }
    }
}
