//! The layout of the file that the target takes.

use encoding_rs::Encoding;
use hashbrown::{HashMap, HashSet};
use jiff::civil::Date;

use crate::{FieldType, Target, UploadFormat};
use dusk_evidence::FieldId;
use dusk_files::Template;
use dusk_values::DatePattern;

/// How the upload file's text becomes bytes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum UploadEncoding {
    /// An encoding of the WHATWG standard.
    Whatwg(&'static Encoding),
    /// UTF-16, the low byte first.
    Utf16Le,
    /// UTF-16, the high byte first.
    Utf16Be,
}

impl UploadEncoding {
    /// The encoding that a WHATWG label names.
    pub fn named(label: &str) -> Option<Self> {
        let encoding = dusk_sources::encoding_named(label)?;
        Some(match encoding.name() {
            "UTF-16LE" => Self::Utf16Le,
            "UTF-16BE" => Self::Utf16Be,
            _ => Self::Whatwg(encoding),
        })
    }

    /// The encoding's name in messages.
    pub fn label(self) -> String {
        match self {
            Self::Whatwg(encoding) => encoding.name().to_ascii_lowercase(),
            Self::Utf16Le => "utf-16le".into(),
            Self::Utf16Be => "utf-16be".into(),
        }
    }
}

/// When a value stands in quotes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Quoting {
    /// Every value.
    Always,
    /// A value that holds the delimiter, a quote or a line break.
    WhenNeeded,
    /// Every value of a column of texts, and others where they need it.
    Texts,
    /// No value; one that would need quotes keeps its record out.
    Never,
}

/// How many characters a value takes in fixed-width text, and where it stands among them.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ColumnWidth {
    /// How many characters.
    pub width: usize,
    /// Whether what is left of them comes before the value.
    pub right: bool,
    /// What fills them up.
    pub fill: char,
}

impl ColumnWidth {
    /// The value with what fills it up; nothing where it is longer.
    pub fn filled(&self, text: &str) -> Option<String> {
        let left = self.width.checked_sub(text.chars().count())?;
        let fill: String = std::iter::repeat_n(self.fill, left).collect();
        Some(match text.strip_prefix('-') {
            // A sign stands before the zeros.
            Some(digits) if self.right && self.fill == '0' => format!("-{fill}{digits}"),
            _ if text.is_empty() => " ".repeat(self.width),
            _ if self.right => format!("{fill}{text}"),
            _ => format!("{text}{fill}"),
        })
    }
}

/// The layout of the upload file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Upload {
    /// What kind of file it is.
    pub format: UploadFormat,
    /// How many characters each column takes in fixed-width text, by its heading.
    pub widths: HashMap<String, ColumnWidth>,
    /// The columns whose values are quoted where texts are, by their headings.
    pub quoted: HashSet<String>,
    /// What stands for a line break inside a value, where line breaks may not stand themselves.
    pub line_break: Option<String>,
    /// True when a second row below the headings holds the fields' labels.
    pub labels: bool,
    /// How many columns the file has, where some behind the last field stay blank.
    pub columns: Option<usize>,
    /// The field whose values divide the records among files, by its place.
    pub split_by: Option<FieldId>,
    /// What of a date divides them, where that field holds dates.
    pub split_form: Option<DatePattern>,
    /// The most bytes that one file may hold.
    pub max_bytes: Option<u64>,
    /// How text becomes bytes.
    pub encoding: UploadEncoding,
    /// True when the file begins with a byte order mark.
    pub bom: bool,
    /// What stands between two values.
    pub delimiter: String,
    /// What stands around a quoted value.
    pub quote: String,
    /// When a value stands in quotes.
    pub quoting: Quoting,
    /// What stands before the decimals of a number, where the file is delimited text.
    pub decimal_mark: char,
    /// True where the sign of a number below zero stands behind it.
    pub minus_behind: bool,
    /// What ends a row.
    pub line_end: &'static str,
    /// True when the first row holds the headings.
    pub header: bool,
    /// The most records that one file may hold.
    pub max_rows: Option<u64>,
    /// True when the target leaves alone what a blank value stands for; otherwise it clears it.
    pub blank_leaves: bool,
    /// What the target is told to clear a value by, where a blank leaves it alone.
    pub clearing: Option<String>,
    /// The file's name, from `{batch}`, `{part}` and `{today}`.
    pub file_name: Template,
}

impl Target {
    /// By what a record is divided from others: a value of the field that divides them, or what is taken of its date.
    pub fn split_of(&self, field: FieldId, text: &str) -> String {
        let kind = self.fields.get(field).map(|field| &field.kind);
        let (Some(form), Some(FieldType::Date(date))) = (&self.upload.split_form, kind) else {
            return text.to_owned();
        };
        let mut formats = std::iter::once(&date.format).chain(&date.also_formats);
        let moment = formats.find_map(|format| format.read(text));
        let day = moment.and_then(|moment| Date::new(moment.year?, moment.month?, moment.day?).ok());
        let mut out = String::new();
        match day {
            Some(day) => form.write(day.into(), &mut out),
            None => out.push_str(text),
        }
        out
    }
}
