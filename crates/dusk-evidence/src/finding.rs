//! What was noticed at a cell, a row, a column or a file.

use crate::{Fact, FieldId, Kind, Line, Row, SourceId};

/// What is wrong with a value and what would be right, before it is known where it stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Fault {
    /// What was found. The words for it are [`Fault::wrong`] and [`Fault::right`].
    pub fact: Box<Fact>,
    /// The part of the value that is wrong, where a cell holds several values.
    pub part: Option<String>,
    /// The parent code inside which the value was looked for; empty where there is none.
    pub within: String,
}

impl Fault {
    /// That something was found about a whole value.
    pub fn new(fact: impl Into<Fact>) -> Self {
        Self { fact: Box::new(fact.into()), part: None, within: String::new() }
    }

    /// Which kind of finding it is.
    pub fn kind(&self) -> Kind {
        self.fact.kind()
    }

    /// The same about one of several values in a cell; `column` is its heading, where they come from several.
    pub fn of_part(self, part: &str, column: Option<&str>) -> Self {
        let fact = Fact::Part { part: part.to_owned(), column: column.map(str::to_owned), fact: self.fact };
        Self { fact: Box::new(fact), part: Some(part.to_owned()), within: self.within }
    }
}

/// Something noticed in a row of a source.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Finding {
    /// Which of the run's sources.
    pub source: SourceId,
    /// The row.
    pub row: Row,
    /// The line on which the row begins.
    pub line: Line,
    /// The field; nothing when the finding is about the whole row.
    pub field: Option<FieldId>,
    /// The field's name, or what else the finding is about: a rule's name, the key.
    pub about: String,
    /// What the repeat is called, where its row makes several records; nothing otherwise.
    pub repeat: String,
    /// The value as the source has it.
    pub value: String,
    /// What is wrong and what would be right.
    pub fault: Fault,
}

/// What a finding about a row as a whole is about.
pub const THE_ROW: &str = "the row";

impl Finding {
    /// A finding at a row of a source.
    pub fn new(
        source: SourceId,
        (row, line): (Row, Line),
        about: impl Into<String>,
        value: impl Into<String>,
        fault: Fault,
    ) -> Self {
        let (about, value) = (about.into(), value.into());
        Self { source, row, line, field: None, about, repeat: String::new(), value, fault }
    }

    /// The same about a field.
    pub fn at_field(self, field: FieldId) -> Self {
        Self { field: Some(field), ..self }
    }

    /// What it is about, with the repeat where a row makes several records.
    pub fn full_about(&self) -> String {
        if self.repeat.is_empty() { self.about.clone() } else { format!("{} ({})", self.about, self.repeat) }
    }
}
