//! Rows that are none, that are split, or that are left out; columns and sheets.

use crate::Kind;

/// A value under its heading.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct HeadedValue {
    /// The heading.
    pub heading: String,
    /// The value.
    pub value: String,
}

/// What was found about a row, a column or a sheet.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum RowFact {
    /// It has fewer cells than the header, or more.
    Width {
        /// How many cells it has.
        cells: usize,
        /// How many the header has.
        header: usize,
    },
    /// It has more cells than the header, and could be put together in several ways.
    SeveralWays {
        /// How many cells it has.
        cells: usize,
        /// How many the header has.
        header: usize,
        /// How many ways there are.
        ways: usize,
        /// The first of them, each by the values that it makes.
        first: Vec<Vec<HeadedValue>>,
    },
    /// It was split by a delimiter inside a value, and put together in the only way that fits.
    Rejoined {
        /// How many cells it had.
        cells: usize,
        /// The values that were put together.
        values: Vec<HeadedValue>,
    },
    /// A quote inside a quoted cell is not doubled.
    Misquoted,
    /// A quote is never closed.
    UnclosedQuote,
    /// It stands for a record of a record file that cannot be read.
    DamagedRecord {
        /// Why not.
        why: String,
    },
    /// A quoted cell holds a line that would be a whole row.
    RowsInCell,
    /// It repeats the header.
    RepeatsHeader,
    /// It begins as closing lines do.
    ClosingLine {
        /// The words with which it begins.
        word: String,
    },
    /// Nothing is in any of the columns that repeat.
    NothingRepeated,
    /// Somebody decided to keep it out.
    KeptOut {
        /// Who, when and why.
        decided: String,
    },
    /// It stands outside the rows that hold records.
    OutsideRows {
        /// The first of those.
        first: u64,
        /// The last of those; nothing for the end of the source.
        last: Option<u64>,
    },
    /// It does not satisfy the rule of rows that are kept.
    NotKept {
        /// The rule.
        rule: String,
    },
    /// A cell of which the rule of rows that are kept speaks is blank.
    KeepOpen {
        /// The rule.
        rule: String,
    },
    /// Rows of the sheet are hidden.
    Hidden {
        /// The first of them.
        first: u64,
        /// How many there are.
        count: u64,
    },
    /// Cells of the sheet are merged.
    Merged {
        /// The first range of them: B2:B5.
        first: String,
        /// How many ranges there are.
        count: usize,
    },
    /// The mapping does not speak of the column.
    ColumnNotMapped {
        /// The mapping, as the steward knows it.
        mapping: String,
    },
    /// Nothing feeds the field.
    FieldNotFed,
}

impl RowFact {
    pub(super) fn kind(&self) -> Kind {
        match self {
            Self::Width { cells, header } if cells < header => Kind::RowTooShort,
            Self::Width { .. } | Self::SeveralWays { .. } => Kind::RowTooLong,
            Self::Rejoined { .. } => Kind::RowRejoined,
            Self::Misquoted => Kind::Misquoted,
            Self::UnclosedQuote => Kind::UnclosedQuote,
            Self::DamagedRecord { .. } => Kind::DamagedRecord,
            Self::RowsInCell => Kind::RowsInCell,
            Self::RepeatsHeader => Kind::RepeatedHeader,
            Self::ClosingLine { .. } => Kind::ClosingLine,
            Self::NothingRepeated => Kind::NothingRepeated,
            Self::KeptOut { .. } => Kind::KeptOut,
            Self::OutsideRows { .. } | Self::NotKept { .. } => Kind::NotKept,
            Self::KeepOpen { .. } => Kind::KeepUndecided,
            Self::Hidden { .. } => Kind::HiddenRows,
            Self::Merged { .. } => Kind::MergedCells,
            Self::ColumnNotMapped { .. } => Kind::ColumnNotMapped,
            Self::FieldNotFed => Kind::FieldNotFed,
        }
    }
}
