//! A cause: findings that one decision would settle, and what is wrong with a whole column.

use std::collections::BTreeSet;

use dusk_values::fold;

use crate::{Evidence, Fault, FieldId, Grounds, Kind, Line, Row, SettledBy, SourceId, Unproven};

/// Where a finding of a cause is.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct CausePlace {
    /// The source, from 0.
    pub source: SourceId,
    /// The row.
    pub row: Row,
    /// Its line.
    pub line: Line,
    /// The value.
    pub value: String,
    /// What the repeat is called, where its row makes several records; nothing otherwise.
    pub repeat: String,
}

/// What is wrong with a whole column: it feeds the wrong field, two were exchanged, or nobody knows how it is to
/// be read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ColumnCause {
    /// Which findings it explains.
    pub explains: Explains,
    /// What is wrong with it. The words are [`ColumnFact::says`] and [`ColumnFact::details`].
    pub fact: ColumnFact,
    /// The lines of the mapping that would put it right.
    pub lines: Vec<String>,
}

/// What is wrong with a whole column, and what speaks for it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum ColumnFact {
    /// Two columns are exchanged.
    Exchanged {
        /// The two.
        columns: [String; 2],
        /// What the second holds, seen from the field that the first feeds.
        grounds: Grounds,
    },
    /// Two columns are exchanged, as a rule between their fields says.
    ExchangedByRule {
        /// The two.
        columns: [String; 2],
        /// How many records that break the rule were looked at.
        broken: u64,
        /// How many of these would if the two were exchanged.
        broken_then: u64,
    },
    /// Another column holds what the field takes.
    Wrong {
        /// The column that feeds it.
        column: String,
        /// The other one.
        better: String,
        /// What that holds, seen from the field.
        grounds: Grounds,
    },
    /// One key of the mapping would let its values in, or one of several. Each was tried on all rows.
    Settled {
        /// The keys.
        ways: Vec<Way>,
        /// How many values each of them lets in.
        settled: u64,
        /// Of how many.
        of: u64,
    },
    /// Nothing proves how its values are to be read.
    Unproven {
        /// What is not proven.
        why: Unproven,
        /// What the values say.
        evidence: Evidence,
    },
}

/// A line of the mapping that lets values in, and what becomes of one of them.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Way {
    /// The line, as `pattern = "d.M-yyyy"`.
    pub line: String,
    /// A value of the column, the same for all ways.
    pub value: String,
    /// What becomes of it, in a form that cannot be misread.
    pub becomes: String,
}

/// Which findings come from what is wrong with a whole column. Fields are their places in the target.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Explains {
    /// All about these fields.
    Fields(Vec<FieldId>),
    /// Those of one kind about a field.
    OneKind(FieldId, Kind),
    /// Those of one kind about these values of a field.
    Values(FieldId, Kind, BTreeSet<String>),
    /// That rows break the rule of this name, and that values of these fields are too small or too large.
    Exchange(String, [FieldId; 2]),
}

impl Explains {
    /// Whether it is about values of this field alone.
    pub fn is_about(&self, field: FieldId) -> bool {
        matches!(self, Self::OneKind(own, _) | Self::Values(own, ..) if *own == field)
    }

    /// Whether a finding of this kind about this field and value, and called so, is one of them.
    pub fn takes(&self, kind: Kind, field: Option<FieldId>, about: &str, value: &str) -> bool {
        match self {
            Self::Fields(fields) => field.is_some_and(|field| fields.contains(&field)),
            Self::OneKind(own, one) => field == Some(*own) && kind == *one,
            Self::Values(own, one, values) => {
                let is_one = || {
                    values.contains(value) || values.iter().any(|known| is_one_decision(kind, known, value))
                };
                field == Some(*own) && kind == *one && is_one()
            }
            Self::Exchange(rule, fields) => match kind {
                Kind::RuleBroken => about == rule,
                Kind::BelowMinimum | Kind::AboveMaximum => field.is_some_and(|field| fields.contains(&field)),
                _ => false,
            },
        }
    }
}

/// Whether one decision settles two values that are rejected for the same: a line of a crosswalk does not tell
/// case and spaces apart.
pub fn is_one_decision(kind: Kind, one: &str, other: &str) -> bool {
    one == other || kind.settled_by() == SettledBy::ListLine && fold(one) == fold(other)
}

/// Findings that one decision would settle.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Cause {
    /// Which kind of finding.
    pub kind: Kind,
    /// The field by its place in the target; nothing when it is about whole rows.
    pub field: Option<FieldId>,
    /// The field's name, or what else it is about.
    pub about: String,
    /// The value, where the value is what has to be decided.
    pub value: Option<String>,
    /// The parent code inside which it has to be decided; empty where there is none.
    pub within: String,
    /// How many findings there are.
    pub count: u64,
    /// How many rejected rows have one.
    pub rows: u64,
    /// How many rejected rows have no other cause: so many this one decision lets in.
    pub alone: u64,
    /// Where (nearly) every filled cell of the column is wrong in this way: how many are filled.
    pub of: Option<u64>,
    /// What is wrong with the whole column, where that is the cause.
    pub column: Option<ColumnCause>,
    /// The source of the first one, from 0.
    pub source: SourceId,
    /// The row of the first one.
    pub row: Row,
    /// The line of the first one.
    pub line: Line,
    /// The value of the first one.
    pub example: String,
    /// What was found, in the first one.
    pub fault: Fault,
    /// The first few places.
    pub first: Vec<CausePlace>,
    /// What the same records had in an earlier batch, and its name.
    pub earlier: Option<(String, String)>,
}
