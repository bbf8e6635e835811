//! What evidence is about.

use std::fmt;

use serde::{Serialize, Serializer};

/// What evidence is about: how a source is read, or how the values of one of its columns are.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Claim {
    /// The encoding of the source.
    Encoding,
    /// What parts its cells.
    Delimiter,
    /// Which row holds the headings.
    Header,
    /// Whether its last rows hold records.
    ClosingLines,
    /// Whether records stand down the rows or across the columns.
    Records,
    /// How the values of a column are read.
    Column(ColumnClaim, String),
}

/// How the values of a column are read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ColumnClaim {
    /// The order of day, month and year.
    DateOrder,
    /// Whether whole numbers count days, and from when.
    DayCounts,
    /// Which century years of two digits mean.
    ShortYears,
    /// The mark before the decimals.
    DecimalMark,
    /// What numbers in brackets mean.
    Brackets,
    /// What percent signs mean.
    Percents,
    /// The unit that its numbers are in.
    Unit,
}

impl ColumnClaim {
    /// What it is about, in two words: "date order".
    pub fn title(self) -> &'static str {
        match self {
            Self::DateOrder | Self::DayCounts | Self::ShortYears => "date order",
            Self::DecimalMark | Self::Brackets | Self::Percents => "decimal mark",
            Self::Unit => "unit",
        }
    }

    /// Whether it is about dates; otherwise it is about numbers.
    pub fn is_about_dates(self) -> bool {
        matches!(self, Self::DateOrder | Self::DayCounts | Self::ShortYears)
    }
}

impl Claim {
    /// What is claimed of a column, where it is about one.
    pub fn of_column(&self) -> Option<ColumnClaim> {
        match self {
            Self::Column(claim, _) => Some(*claim),
            _ => None,
        }
    }
}

impl Serialize for Claim {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

impl fmt::Display for Claim {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&crate::wording::claim(self))
    }
}
