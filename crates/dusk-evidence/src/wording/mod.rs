//! The words for what was found: the one place where facts become sentences. What is wrong is the rest of a
//! sentence that begins with the value; what would be right may be empty. Nothing reads these back.

mod claim;
mod code;
mod date;
mod grounds;
mod number;
mod record;
mod row;
#[cfg(test)]
pub(crate) mod tests;
mod text;
mod upload;

pub(crate) use claim::claim;
pub use code::decided;

use crate::{Fact, Fate, Fault};

impl Fact {
    /// What is wrong, as the rest of a sentence that begins with the value.
    pub fn wrong(&self) -> String {
        match self {
            Self::Row(fact) => row::wrong(fact),
            Self::Text(fact) => text::wrong(fact),
            Self::Number(fact) => number::wrong(fact),
            Self::Date(fact) => date::wrong(fact),
            Self::Code(fact) => code::wrong(fact),
            Self::Record(fact) => record::wrong(fact),
            Self::Upload(fact) => upload::wrong(fact),
            Self::Part { part, column: None, fact } => format!("has \"{part}\", which {}", fact.wrong()),
            Self::Part { part, column: Some(column), fact } => {
                format!("has \"{part}\" in the column \"{column}\", which {}", fact.wrong())
            }
            Self::Unmatched { fate, fact } => format!("{}; {}", fact.wrong(), becomes(*fate)),
        }
    }

    /// What would be right, or what to do; may be empty.
    pub fn right(&self) -> String {
        match self {
            Self::Row(fact) => row::right(fact),
            Self::Text(fact) => text::right(fact).into(),
            Self::Number(fact) => number::right(fact),
            Self::Date(fact) => date::right(fact),
            Self::Code(fact) => code::right(fact),
            Self::Record(fact) => record::right(fact),
            Self::Upload(fact) => upload::right(fact).into(),
            Self::Unmatched { fate: Fate::NewTerm, fact } => {
                format!("{}; or somebody's yes to the new term", fact.right())
            }
            Self::Part { fact, .. } | Self::Unmatched { fact, .. } => fact.right(),
        }
    }
}

impl Fault {
    /// What is wrong, as the rest of a sentence that begins with the value.
    pub fn wrong(&self) -> String {
        self.fact.wrong()
    }

    /// What would be right, or what to do; may be empty.
    pub fn right(&self) -> String {
        self.fact.right()
    }

    /// Why the mapping leaves the row out, where that is what was found.
    pub fn why_left_out(&self) -> Option<String> {
        match &*self.fact {
            Fact::Row(row) => row.why_left_out(),
            _ => None,
        }
    }
}

/// What becomes of a value that nothing matches.
fn becomes(fate: Fate) -> &'static str {
    match fate {
        Fate::LeftBlank => "it is left blank, as the description says",
        Fate::LeftOut => "it is left out, as the description says",
        Fate::Kept => "it is kept as it is, as the description says",
        Fate::NewTerm => "the list is open, so it may be a new term, once somebody has allowed it",
    }
}
