//! The kinds of upload file, each with its word, its keys and how it takes a record.

use std::path::{Path, PathBuf};

use dusk_files::{At, Settings, beside};
use dusk_records::NEW_LEADER;

/// What kind of file the target takes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum UploadFormat {
    /// Delimited text.
    Delimited,
    /// A JSON object a line, its keys the headings: <https://jsonlines.org>.
    JsonLines,
    /// Text in which each value takes so many characters as its field says.
    FixedWidth,
    /// An XML document of flat records: an element each, and in it one for each value.
    Xml {
        /// The outermost element.
        root: String,
        /// The element of a record.
        record: String,
    },
    /// Bibliographic records (ISO 2709): those of the source with fields set or added, or new ones.
    Iso2709 {
        /// The leader of a new record.
        leader: String,
        /// They are lines of text, with a blank line between two.
        as_lines: bool,
    },
    /// One sheet of a workbook (xlsx).
    Workbook {
        /// The sheet's name.
        sheet: String,
        /// Numbers and dates are typed cells; otherwise every cell is text.
        typed: bool,
    },
    /// A table of a database that is there already.
    Database {
        /// The database: a file, or where its server is.
        path: PathBuf,
        /// The table.
        table: String,
        /// The column that holds the name of the batch that a row came with.
        batch_column: Option<String>,
    },
}

/// What a record looks like on its way to the file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Form {
    /// As it stands in a delimited file.
    Delimited,
    /// As a JSON object.
    Json,
    /// Padded to the width of its field.
    Fixed,
    /// As an XML element.
    Xml,
    /// Cells, each with its length before it, for a sheet or a table.
    Cells,
}

/// A word for a format in `[upload]`, and what goes with it.
pub(crate) struct FormatWord {
    pub(crate) word: &'static str,
    /// How its file's name ends.
    pub(crate) ending: &'static str,
    /// The keys of `[upload]` that go with some formats only, and with this one.
    keys: &'static [&'static str],
    /// Whether its columns have places, and not only names.
    pub(crate) has_places: bool,
    pub(crate) form: Form,
    /// Reads its keys; the description stands in the folder.
    read: fn(&mut Settings<'_>, &Path) -> UploadFormat,
}

static DELIMITED: FormatWord = FormatWord {
    word: "delimited",
    ending: "csv",
    keys: &[
        "bom",
        "delimiter",
        "quote",
        "quoting",
        "decimal_mark",
        "minus",
        "line_end",
        "encoding",
        "header",
        "labels",
        "columns",
        "max_bytes",
    ],
    has_places: true,
    form: Form::Delimited,
    read: |_, _| UploadFormat::Delimited,
};

static JSON_LINES: FormatWord = FormatWord {
    word: "json-lines",
    ending: "jsonl",
    keys: &["max_bytes"],
    has_places: false,
    form: Form::Json,
    read: |_, _| UploadFormat::JsonLines,
};

static FIXED_WIDTH: FormatWord = FormatWord {
    word: "fixed-width",
    ending: "txt",
    keys: &["bom", "decimal_mark", "minus", "line_end", "encoding", "max_bytes"],
    has_places: false,
    form: Form::Fixed,
    read: |_, _| UploadFormat::FixedWidth,
};

static XML: FormatWord = FormatWord {
    word: "xml",
    ending: "xml",
    keys: &["bom", "line_end", "encoding", "max_bytes", "root", "record"],
    has_places: false,
    form: Form::Xml,
    read: |upload, _| {
        let mut element = |key: &'static str, usual: &str| match upload.text(key) {
            Some(name) if is_xml_name(&name.value) => name.value,
            Some(name) => {
                upload.problem(name.line, format!("[upload] {key} \"{}\" is not a name of XML", name.value), |problem| {
                    problem.hint("a name begins with a letter, and has letters, digits, hyphens, dots and underscores");
                });
                usual.to_owned()
            }
            None => usual.to_owned(),
        };
        UploadFormat::Xml { root: element("root", "records"), record: element("record", "record") }
    },
};

static ISO2709: FormatWord = FormatWord {
    word: "iso2709",
    ending: "mrc",
    keys: &["leader", "record_form"],
    has_places: false,
    form: Form::Cells,
    read: |upload, _| {
        let leader = upload.text("leader");
        let fits = |leader: &At<String>| leader.value.len() == 24 && leader.value.is_ascii();
        if let Some(wrong) = leader.as_ref().filter(|leader| !fits(leader)) {
            upload.problem(
                wrong.line,
                format!("[upload] leader \"{}\" is not of 24 characters", wrong.value),
                |problem| {
                    problem.hint(format!("for example leader = \"{NEW_LEADER}\"; its lengths are filled in"));
                },
            );
        }
        UploadFormat::Iso2709 {
            leader: leader.map_or_else(|| NEW_LEADER.to_owned(), |leader| leader.value),
            as_lines: upload.choice("record_form", &[("binary", false), ("lines", true)]).unwrap_or_default(),
        }
    },
};

/// Whether a text may be the name of an element without a prefix (XML 1.0, 2.3).
pub(crate) fn is_xml_name(name: &str) -> bool {
    let mut letters = name.chars();
    letters.next().is_some_and(|first| first.is_alphabetic() || first == '_')
        && letters.all(|letter| letter.is_alphanumeric() || matches!(letter, '_' | '-' | '.'))
}

static WORKBOOK: FormatWord = FormatWord {
    word: "workbook",
    ending: "xlsx",
    keys: &["sheet", "cells", "header", "labels", "columns"],
    has_places: true,
    form: Form::Cells,
    read: |upload, _| UploadFormat::Workbook {
        sheet: upload.text("sheet").map_or_else(|| "Sheet1".into(), |sheet| sheet.value),
        typed: upload.choice("cells", &[("text", false), ("typed", true)]).unwrap_or(false),
    },
};

static DATABASE: FormatWord = FormatWord {
    word: "database",
    ending: "csv",
    keys: &["database", "table", "batch_column"],
    has_places: false,
    form: Form::Cells,
    read: |upload, folder| UploadFormat::Database {
        path: database(upload, folder),
        table: upload.required_text("table").map_or_else(String::new, |table| table.value),
        batch_column: upload.text("batch_column").map(|column| column.value),
    },
};

/// The database that the rows go into.
fn database(upload: &mut Settings<'_>, folder: &Path) -> PathBuf {
    let Some(path) = upload.required_text("database") else { return PathBuf::new() };
    if path.value.contains("://") {
        return PathBuf::from(path.value);
    }
    beside(folder, &path.value).unwrap_or_else(|error| {
        upload.problem(path.line, format!("database: {error}"), |_| ());
        PathBuf::new()
    })
}

/// Every format that an upload may have, the usual one first.
static FORMATS: [&FormatWord; 7] =
    [&DELIMITED, &FIXED_WIDTH, &JSON_LINES, &XML, &ISO2709, &WORKBOOK, &DATABASE];

impl UploadFormat {
    /// What goes with the format.
    pub(crate) fn word(&self) -> &'static FormatWord {
        match self {
            Self::Delimited => &DELIMITED,
            Self::JsonLines => &JSON_LINES,
            Self::FixedWidth => &FIXED_WIDTH,
            Self::Xml { .. } => &XML,
            Self::Iso2709 { .. } => &ISO2709,
            Self::Workbook { .. } => &WORKBOOK,
            Self::Database { .. } => &DATABASE,
        }
    }

    /// Reads the format that `[upload]` names, and says which keys go with others.
    pub(crate) fn read(upload: &mut Settings<'_>, folder: &Path) -> Self {
        let words = FORMATS.map(|format| (format.word, format));
        let format = upload.choice("format", &words).unwrap_or(&DELIMITED);
        let mut refused: Vec<&str> = Vec::new();
        for key in FORMATS.iter().flat_map(|other| other.keys) {
            if format.keys.contains(key) || refused.contains(key) || !upload.has(key) {
                continue;
            }
            refused.push(key);
            let takes = FORMATS.iter().filter(|other| other.keys.contains(key));
            let takes = takes.map(|other| other.word).collect::<Vec<_>>().join("\" or \"");
            upload.misplaced(key, &format!("[upload] {key} goes with format = \"{takes}\""));
        }
        (format.read)(upload, folder)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_format_of_the_table_reads_as_itself() {
        for format in FORMATS {
            let text = format!(
                "[upload]\nformat = \"{}\"\nsheet = \"S\"\ndatabase = \"d\"\ntable = \"t\"\n",
                format.word
            );
            let file = dusk_files::SettingsFile::from_text("target.toml", text);
            let mut problems = dusk_evidence::Problems::default();
            let read = file.read_with(&mut problems, |top| {
                top.table("upload", |upload| UploadFormat::read(upload, Path::new("")))
            });
            assert!(std::ptr::eq(read.word(), format), "{} is read as {}", format.word, read.word().word);
        }
    }
}
