//! The mappings that are saved in a folder, as a table.

use std::path::Path;

use super::table::SimpleTable;
use crate::args::TableFormat;
use crate::outcome::Failure;

/// What is shown of a saved mapping.
pub(crate) struct SavedShown {
    /// Its file.
    pub(crate) name: String,
    /// The name of its target; empty where it cannot be read.
    pub(crate) target: String,
    /// The columns that it uses.
    pub(crate) columns: Vec<String>,
    /// The exports that it fits.
    pub(crate) fits: Vec<String>,
    /// Why it does not fit the export that was named.
    pub(crate) why_not: Option<String>,
    /// The last batch that it made, and its day.
    pub(crate) last: Option<String>,
    pub(crate) day: Option<String>,
}

/// How many names are listed in a cell.
const NAMED: usize = 3;

/// The first few names, and how many more there are.
fn few(names: &[String]) -> String {
    let first = names.get(..NAMED).unwrap_or(names).join(", ");
    match names.len().saturating_sub(NAMED) {
        0 => first,
        more => format!("{first} and {more} more"),
    }
}

/// The saved mappings, one in a row.
pub(crate) fn saved_table(shown: &[SavedShown], source: Option<&Path>) -> Result<String, Failure> {
    let fits = if source.is_some() { "fits" } else { "fits here" };
    let mut table = SimpleTable::new(&["mapping", "for", "columns", fits, "last used"]);
    for one in shown {
        let fits = match (&one.why_not, one.fits.as_slice(), source) {
            (Some(why), ..) => format!("no: {why}"),
            (None, [_, ..], Some(_)) => "yes".to_owned(),
            (None, [], _) => "no export".to_owned(),
            (None, exports, None) => few(exports),
        };
        let last = match (&one.day, &one.last) {
            // Most batches are called after their day.
            (Some(day), Some(batch)) if batch.starts_with(day) => format!("batch {batch}"),
            (Some(day), Some(batch)) => format!("{day}, batch {batch}"),
            _ => "never".to_owned(),
        };
        table.add([one.name.clone(), one.target.clone(), few(&one.columns), fits, last]);
    }
    table.print(TableFormat::Text)
}
