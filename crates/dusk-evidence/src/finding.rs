//! What was noticed at a cell, a row, a column or a file.

use crate::{Kind, Line, Row};

/// What is wrong with a value and what would be right, before it is known where it stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Fault {
    /// Which kind of finding this is.
    pub kind: Kind,
    /// What is wrong, as the rest of a sentence that begins with the value.
    pub wrong: String,
    /// What would be right, or what to do; may be empty.
    pub right: String,
    /// The part of the value that is wrong, where a cell holds several values.
    pub part: Option<String>,
    /// The parent code inside which the value was looked for; empty where there is none.
    pub within: String,
}

impl Fault {
    /// A fault of the given kind.
    pub fn new(kind: Kind, wrong: impl Into<String>, right: impl Into<String>) -> Self {
        Self { kind, wrong: wrong.into(), right: right.into(), part: None, within: String::new() }
    }
}

/// Something noticed in a row of a source.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Finding {
    /// Which of the run's sources, from 0.
    pub source: usize,
    /// The row.
    pub row: Row,
    /// The line on which the row begins.
    pub line: Line,
    /// The field by its place in the target; nothing when the finding is about the whole row.
    pub field: Option<usize>,
    /// The field's name, or what else the finding is about: a rule's name, the key.
    pub about: String,
    /// What the instance is called, where its row makes several records; nothing otherwise.
    pub instance: String,
    /// The value as the source has it.
    pub value: String,
    /// What is wrong and what would be right.
    pub fault: Fault,
}

/// What a finding about a row as a whole is about.
pub const THE_ROW: &str = "the row";

impl Finding {
    /// A finding at a row of source number `source`.
    pub fn new(
        source: usize,
        (row, line): (Row, Line),
        about: impl Into<String>,
        value: impl Into<String>,
        fault: Fault,
    ) -> Self {
        let (about, value) = (about.into(), value.into());
        Self { source, row, line, field: None, about, instance: String::new(), value, fault }
    }

    /// The same about a field, by its place in the target.
    pub fn at_field(self, field: usize) -> Self {
        Self { field: Some(field), ..self }
    }

    /// What it is about, with the instance where a row makes several records.
    pub fn full_about(&self) -> String {
        if self.instance.is_empty() {
            self.about.clone()
        } else {
            format!("{} ({})", self.about, self.instance)
        }
    }
}
