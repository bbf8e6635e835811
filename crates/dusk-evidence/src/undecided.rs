//! What the column of a field says about how it is read, and what it leaves open.

use crate::{ColumnCause, ColumnFact, Evidence, Explains, FieldId, Kind};
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
    /// What is wrong.
    pub why: Unproven,
    /// What the values say.
    pub evidence: Evidence,
}

/// What the values of a column do not prove.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Unproven {
    /// One order of its dates.
    NoOrder,
    /// The order of dates that the mapping names: they prove another.
    OtherOrder,
    /// The unit of its numbers: nothing names it.
    NoUnit,
    /// The unit of its numbers: its heading names something that is not one known unit.
    UnclearUnit,
    /// The unit of its numbers: its heading names one, and the target another or none.
    OwnUnit,
    /// The unit that the mapping names: its heading names another.
    OtherUnit,
    /// The unit that is taken for granted: a column beside it names others.
    UnitsBeside,
    /// Whether its numbers are percents: all of them would be shares of one as well.
    Shares,
}

impl Unproven {
    /// What values are rejected for while it is open.
    pub fn kind(self) -> Kind {
        match self {
            Self::NoOrder | Self::OtherOrder => Kind::DateUndecided,
            Self::NoUnit
            | Self::UnclearUnit
            | Self::OwnUnit
            | Self::OtherUnit
            | Self::UnitsBeside
            | Self::Shares => Kind::UnitUndecided,
        }
    }
}

impl Undecided {
    /// The same as a cause of what is rejected.
    pub fn cause(&self) -> ColumnCause {
        ColumnCause {
            explains: Explains::OneKind(self.field, self.why.kind()),
            fact: ColumnFact::Unproven { why: self.why, evidence: self.evidence.clone() },
            lines: self.evidence.lines_of_map().cloned().collect(),
        }
    }
}
