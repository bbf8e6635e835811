//! What a field may hold: one file for each type, which says its words and keys, how it is read from the
//! description, and how it stands in lists, templates and metadata.

mod boolean;
mod code;
mod codes;
mod date;
mod file;
mod number;
mod reference;
mod text;

pub use boolean::BooleanType;
pub use code::CodeType;
pub use codes::{CodesLayout, CodesType};
pub use date::{Bound, DateType, zone_named};
pub use file::FileType;
pub use number::NumberType;
pub use reference::ReferenceType;
pub use text::TextType;

use serde_json::{Map, Value as Json};

use crate::CodeList;
use crate::beside::{Beside, Open};
use dusk_evidence::FieldId;
use dusk_files::Settings;

use dusk_values::{Unit, ValueType};

/// What a field may hold.
#[derive(Debug)]
pub enum FieldType {
    /// Any text.
    Text(TextType),
    /// A number with at most so many digits after the point.
    Number(NumberType),
    /// A day, a day and a time, or a time of day.
    Date(DateType),
    /// True or false.
    Boolean(BooleanType),
    /// One code.
    Code(CodeType),
    /// Several codes.
    Codes(CodesType),
    /// A file that is there.
    File(FileType),
    /// A value that the target holds already.
    Reference(ReferenceType),
}

/// A word for a type in `target.toml`, and what goes with it.
#[derive(Debug)]
pub struct TypeWord {
    /// The word.
    pub word: &'static str,
    /// What dictionaries call the type, in small letters and digits only.
    pub called: &'static [&'static str],
    /// The keys that go with some types only, and with this one.
    pub(crate) keys: &'static [&'static str],
    /// Reads the keys of a `[[field]]` of this type.
    pub(crate) read: fn(&mut Settings<'_>, &Beside<'_>) -> (FieldType, Open),
}

/// Every type that a `[[field]]` may have.
pub const TYPE_WORDS: [&TypeWord; 11] = [
    &text::TEXT,
    &number::INTEGER,
    &number::DECIMAL,
    &date::DATE,
    &date::DATE_TIME,
    &date::TIME,
    &boolean::BOOLEAN,
    &code::CODE,
    &codes::CODES,
    &reference::REFERENCE,
    &file::FILE,
];

/// What a crosswalk of a field says that a value means.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MeansA {
    /// A code.
    Code,
    /// A word for true or false.
    Word,
    /// A value as the target writes it.
    Value,
}

/// What a template offers to choose from.
pub(crate) enum DropDown<'t> {
    Nothing,
    Words(&'t str, &'t str),
    Codes(&'t CodeList),
}

/// What every type says of itself; what most have in common is said here.
pub(crate) trait Described {
    /// Its word in `target.toml`.
    fn word(&self) -> &'static str;

    /// What its values are compared as.
    fn value_type(&self) -> ValueType {
        ValueType::Text
    }

    /// What a crosswalk line for it gives.
    fn means(&self) -> MeansA {
        MeansA::Value
    }

    /// Its code list.
    fn codes(&self) -> Option<&CodeList> {
        None
    }

    /// The field that holds the code inside which its own is valid.
    fn parent(&self) -> Option<FieldId> {
        None
    }

    /// The headings of its columns, where it does not stand in one.
    fn own_columns(&self) -> Option<&[String]> {
        None
    }

    /// How its values are written, in words.
    fn format(&self) -> String {
        String::new()
    }

    /// Which values it takes, in words; `parent` is the field that [`Described::parent`] names.
    fn values(&self, _parent: Option<&str>) -> String {
        String::new()
    }

    /// What its drop-down list offers under one of its headings.
    fn drop_down(&self) -> DropDown<'_> {
        DropDown::Nothing
    }

    /// What a note says of one of several columns.
    fn note(&self, _heading: &str) -> Option<String> {
        None
    }

    /// The parts of its datatype in W3C metadata for tabular data.
    fn datatype(&self, datatype: &mut Map<String, Json>) {
        datatype.insert("base".into(), "string".into());
    }

    /// Its columns in that metadata, where it does not stand in one.
    fn csvw_columns(&self) -> Option<Vec<Json>> {
        None
    }

    /// What parts several values in its column.
    fn separator(&self) -> Option<&str> {
        None
    }
}

impl FieldType {
    fn described(&self) -> &dyn Described {
        match self {
            Self::Text(own) => own,
            Self::Number(own) => own,
            Self::Date(own) => own,
            Self::Boolean(own) => own,
            Self::Code(own) => own,
            Self::Codes(own) => own,
            Self::File(own) => own,
            Self::Reference(own) => own,
        }
    }

    /// What the field's values are compared as.
    pub fn value_type(&self) -> ValueType {
        self.described().value_type()
    }

    /// What its crosswalk says that a value means.
    pub fn means(&self) -> MeansA {
        self.described().means()
    }

    /// The code list, where there is one.
    pub fn codes(&self) -> Option<&CodeList> {
        self.described().codes()
    }

    /// The field that holds the code inside which this one is valid, by its place.
    pub fn parent(&self) -> Option<FieldId> {
        self.described().parent()
    }

    /// The word of `target.toml`.
    pub fn word(&self) -> &'static str {
        self.described().word()
    }

    /// The unit that its numbers are to be in.
    pub fn unit(&self) -> Option<&'static Unit> {
        match self {
            Self::Number(number) => number.unit,
            _ => None,
        }
    }

    /// A value as it is kept in the cells of its columns in the upload file.
    pub fn cells_of(&self, text: &str) -> Vec<String> {
        match self {
            Self::Codes(codes) => codes.layout.cells(text, &codes.list),
            _ => vec![text.to_owned()],
        }
    }

    pub(crate) fn own_columns(&self) -> Option<&[String]> {
        self.described().own_columns()
    }

    pub(crate) fn format(&self) -> String {
        self.described().format()
    }

    pub(crate) fn values(&self, parent: Option<&str>) -> String {
        self.described().values(parent)
    }

    pub(crate) fn drop_down(&self) -> DropDown<'_> {
        self.described().drop_down()
    }

    pub(crate) fn note(&self, heading: &str) -> Option<String> {
        self.described().note(heading)
    }

    pub(crate) fn datatype(&self) -> Json {
        let mut datatype = Map::new();
        self.described().datatype(&mut datatype);
        datatype.into()
    }

    pub(crate) fn csvw_columns(&self) -> Option<Vec<Json>> {
        self.described().csvw_columns()
    }

    pub(crate) fn separator(&self) -> Option<&str> {
        self.described().separator()
    }
}

/// A range in words.
fn between(first: Option<String>, last: Option<String>) -> String {
    match (first, last) {
        (Some(first), Some(last)) => format!("{first} to {last}"),
        (Some(first), None) => format!("{first} or more"),
        (None, Some(last)) => format!("up to {last}"),
        (None, None) => String::new(),
    }
}

/// The parts that there are, with commas between them.
fn listed(parts: impl IntoIterator<Item = Option<String>>) -> String {
    parts.into_iter().flatten().collect::<Vec<_>>().join(", ")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_word_is_of_one_type_and_every_type_is_called_in_one_way_only() {
        let mut seen = hashbrown::HashSet::new();
        for word in TYPE_WORDS {
            assert!(seen.insert(word.word), "{} stands twice in the table", word.word);
        }
        let mut called = hashbrown::HashMap::new();
        for word in TYPE_WORDS {
            for name in word.called {
                let folded = name.chars().all(|c| c.is_lowercase() || c.is_ascii_digit());
                assert!(folded, "\"{name}\" would never be found");
                assert_eq!(called.insert(name, word.word), None, "\"{name}\" is of two types");
            }
        }
    }
}
