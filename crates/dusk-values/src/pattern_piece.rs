//! What a date pattern is made of.

/// A field of a date or a time, with its width.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Part {
    Year(usize),
    Month(usize),
    Day(usize),
    Weekday(usize),
    /// Width, lowest hour (0 or 1), hours on the clock (12 or 24).
    Hour(usize, i8, i8),
    Half,
    Minute(usize),
    Second(usize),
    Fraction(usize),
}

/// A field, or what stands between two.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Piece {
    Part(Part),
    Text(String),
}
