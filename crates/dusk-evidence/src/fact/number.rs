//! Numbers.

use dusk_values::{Decimal, Unit};

use crate::Kind;

/// Which marks a number is to be written with.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NumberMarks {
    /// A point before the decimals, and no other mark.
    Plain,
    /// Those that the mapping names.
    Named {
        /// What stands before the decimals.
        decimal: char,
        /// What stands between groups of three digits.
        thousands: Option<char>,
    },
    /// The one before the decimals that the column proves.
    Proven(char),
}

/// What was found about a number.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum NumberFact {
    /// It is none.
    NotANumber(NumberMarks),
    /// It has more digits than can be kept exactly.
    TooLong,
    /// It is one number if a comma comes before the decimals.
    CommaUndecided {
        /// That number.
        with_comma: String,
    },
    /// It is one number if a point stands before the decimals, and another if a comma does.
    MarksUndecided {
        /// The one.
        with_point: String,
        /// The other.
        with_comma: String,
    },
    /// It is in brackets, which may mean that it is below zero.
    Brackets,
    /// It is in percent, and what the target counts in is nowhere said.
    Percent,
    /// The target holds fewer decimals.
    NeedsRounding {
        /// How many it holds.
        decimals: u32,
        /// The unit to which the number was converted.
        unit: Option<&'static Unit>,
    },
    /// The cell names another unit than the mapping does.
    UnitDiffers {
        /// The cell's unit.
        cell: &'static Unit,
        /// The column's unit.
        column: &'static Unit,
    },
    /// Nobody knows which unit its column is in.
    UnitUndecided,
    /// It is below the smallest allowed.
    BelowMinimum {
        /// The number.
        number: Decimal,
        /// The smallest.
        least: Decimal,
        /// The unit of both.
        unit: Option<&'static Unit>,
    },
    /// It is above the largest allowed.
    AboveMaximum {
        /// The number.
        number: Decimal,
        /// The largest.
        most: Decimal,
        /// The unit of both.
        unit: Option<&'static Unit>,
    },
}

impl NumberFact {
    pub(super) fn kind(&self) -> Kind {
        match self {
            Self::NotANumber(_) => Kind::NotANumber,
            Self::TooLong => Kind::NumberTooLong,
            Self::CommaUndecided { .. } | Self::MarksUndecided { .. } | Self::Brackets | Self::Percent => {
                Kind::NumberUndecided
            }
            Self::NeedsRounding { .. } => Kind::NeedsRounding,
            Self::UnitDiffers { .. } => Kind::UnitDiffers,
            Self::UnitUndecided => Kind::UnitUndecided,
            Self::BelowMinimum { .. } => Kind::BelowMinimum,
            Self::AboveMaximum { .. } => Kind::AboveMaximum,
        }
    }
}
