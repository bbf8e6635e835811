//! How a record file is to be read, and what is noticed about it.

use std::borrow::Cow;

use serde::{Deserialize, Serialize};

/// How a mapping says that a record file is to be read.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct RecordChoice {
    /// The path of the list of which each item is a row; left out where the file has only one.
    pub each: Option<String>,
    /// What stands between several values of one cell.
    pub between: Option<String>,
    /// The tags of bibliographic fields that are told apart by their indicators.
    pub by_indicator: Vec<String>,
}

/// What was noticed about a record file.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct RecordFacts {
    /// What kind of file it is.
    pub format: Cow<'static, str>,
    /// The path of the list of which each item is a row; empty where each record of the file is one.
    pub each: String,
    /// How many rows there are.
    pub rows: u64,
    /// Lists inside the records, each with how many items it has: `each` may name one, so that each item is a row.
    pub lists: Vec<(String, u64)>,
    /// Columns that hold several values in a cell, with what stands between them.
    pub several: Vec<String>,
    /// The mark between several values.
    pub between: String,
    /// How many records have no item in the list that `each` names, and so no row.
    pub without_row: u64,
    /// How many records cannot be read.
    pub damaged: u64,
    /// The columns: each path, in the order in which they were met.
    pub columns: Vec<String>,
}
