//! What the column of a field says about how it is read, and what it leaves open.

use crate::{ColumnCause, Evidence, Explains, FieldId, Kind};
use dusk_values::DateOrder;

/// The evidence in the column that feeds a field.
#[derive(Debug, Clone)]
pub struct FieldEvidence {
    /// The field, by its place.
    pub field: FieldId,
    /// The evidence.
    pub evidence: Evidence,
    /// The order of dates that it proves.
    pub date_order: Option<DateOrder>,
    /// The mark before the decimals that it proves.
    pub decimal_mark: Option<char>,
}

/// A column whose values do not say how they are to be read.
#[derive(Debug, Clone)]
pub struct Undecided {
    /// The field that it feeds, by its place.
    pub field: FieldId,
    /// The column.
    pub column: String,
    /// The sources as the steward named them.
    pub sources: Vec<String>,
    /// The mapping, as the steward named it.
    pub mapping: String,
    /// What is wrong, in words.
    pub says: &'static str,
    /// What the values say.
    pub evidence: Evidence,
}

/// What is said of dates that prove no order.
pub const NO_ORDER: &str = "its dates do not prove one order of day, month and year";

/// What is said of dates that prove another order than the mapping names.
pub const OTHER_ORDER: &str = "its dates prove another order of day, month and year than the mapping names";

impl std::fmt::Display for Undecided {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let sources = self.sources.join(", ");
        writeln!(f, "{sources}: column \"{}\": {}, so nothing was written", self.column, self.says)?;
        for line in self.evidence.to_string().lines() {
            writeln!(f, "  {line}")?;
        }
        write!(f, "  Ask whoever made the export, then write into {}:", self.mapping)?;
        for line in &self.evidence.settle {
            write!(f, "\n    {line}")?;
        }
        Ok(())
    }
}

impl Undecided {
    /// The same as a cause of what is rejected.
    pub fn cause(&self) -> ColumnCause {
        ColumnCause {
            explains: Explains::OneKind(self.field, Kind::DateUndecided),
            says: format!(
                "{}: {}; no batch is made until it is known",
                self.says,
                self.evidence.verdict_shown()
            ),
            details: self.evidence.details(),
            lines: self.evidence.lines_of_map().cloned().collect(),
        }
    }
}
