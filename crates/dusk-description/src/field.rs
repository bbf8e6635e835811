//! A field of the target.

use crate::{ColumnWidth, FieldType, OperationWords};
use dusk_evidence::Line;
use dusk_files::Template;
use dusk_values::{Mention, Unit, Wordy};

/// One column that the target knows.
#[derive(Debug)]
pub struct Field {
    /// Its name in commands, rules and the steward's files.
    pub name: String,
    /// Its heading in the upload file, where that is not its name.
    pub heading: Option<String>,
    /// Its column in the upload file, counted from 1, where columns before it stay blank.
    pub position: Option<usize>,
    /// How many characters it takes in fixed-width text.
    pub width: Option<ColumnWidth>,
    /// Whether its values are quoted where only texts are, whatever its type.
    pub quoted: Option<bool>,
    /// True when it goes into a field that is added to each bibliographic record, and not into one that is there.
    pub added: bool,
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
    /// The group whose rows it stands in, where a record has several rows.
    pub in_group: Option<String>,
    /// True when it may be set when a record is new, and never be changed afterwards.
    pub set_once: bool,
    /// True when it is set for new records only, and a record that is held keeps what it has.
    pub only_when_new: bool,
    /// True when the target alone hands its values out: blank for a new record.
    pub given_by_target: bool,
    /// True when no two records may have the same value.
    pub unique: bool,
    /// The target's words for what is to be done with a record, where the field says that.
    pub operation: Option<OperationWords>,
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

    /// The unit that its name or its label names, where it is one, and which of the two does.
    pub fn named_unit(&self) -> Option<(&'static Unit, &'static str)> {
        let named = [(Some(&self.name), "its name"), (self.label.as_ref(), "its label")];
        named.into_iter().find_map(|(text, what)| match Wordy::of(text?).mention_for(None)? {
            Mention::Unit(unit) => Some((unit, what)),
            Mention::Unclear(_) => None,
        })
    }

    /// Its heading in the upload file.
    pub fn heading(&self) -> &str {
        self.heading.as_deref().unwrap_or(&self.name)
    }

    /// Its headings in the upload file: one, several where each code has a column, none where it is not sent.
    pub fn headings(&self) -> Vec<&str> {
        match self.kind.own_columns() {
            _ if !self.is_sent() => Vec::new(),
            Some(columns) => columns.iter().map(String::as_str).collect(),
            None => vec![self.heading()],
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
