//! What speaks for a column being what a field takes, or against it.

/// Some of how many.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Share {
    /// How many of them fit.
    pub fit: u64,
    /// How many there are.
    pub of: u64,
}

impl Share {
    /// How many of a hundred, rounded down; 0 where there are none.
    pub fn percent(self) -> u64 {
        self.fit * 100 / self.of.max(1)
    }
}

/// What a column holds, seen from a field. The words for it are [`Grounds::words`].
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub enum Grounds {
    /// That says nothing.
    #[default]
    Nothing,
    /// Some of its values are so.
    Some(Share, Holding),
    /// No value is in a list of this name.
    NoneIn(String),
    /// So many different values, where two are expected.
    Different(usize),
}

/// What values are.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Holding {
    /// In a list of this name.
    In(String),
    /// The same, several in one cell with this between them.
    InParted {
        /// What stands between two of them.
        between: &'static str,
        /// The list's name.
        list: String,
    },
    /// Files of a folder.
    Files,
    /// Numbers.
    Numbers,
    /// Outside the limits.
    OutsideLimits,
    /// Words for true and false.
    Booleans,
    /// Of so many digits at most.
    Digits(usize),
    /// In the form demanded.
    Form,
    /// Longer than the field takes.
    TooLong,
    /// Times of day.
    Times,
    /// Dates.
    Dates,
    /// Dates with a time.
    DatesWithTime,
    /// Dates, most of them without a time.
    DatesWithoutTime,
}
