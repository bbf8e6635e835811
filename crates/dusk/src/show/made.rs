//! What a batch folder holds.

use std::fmt;
use std::path::Path;

use dusk_core::files::OutputFile;
use dusk_core::run::ReceiptLoaded;

use super::layout::{columns, counted, padded, rows_of_file};
use super::style::{GOOD, NAME, styled};
use super::visible::visible;

/// The batch that was made.
pub(crate) struct BatchShown<'r> {
    pub(crate) folder: &'r Path,
    pub(crate) outputs: &'r [OutputFile],
    /// What was done to a table.
    pub(crate) loaded: Option<&'r ReceiptLoaded>,
}

/// What was done to a table: "12 rows inserted into the table visits of register.db".
pub(super) fn loaded_line(loaded: &ReceiptLoaded) -> String {
    let parts = [
        (loaded.inserted, "inserted into"),
        (loaded.updated, "updated in"),
        (loaded.removed, "removed from"),
    ];
    let parts: Vec<String> = parts
        .iter()
        .filter(|(count, _)| *count > 0)
        .map(|(count, what)| format!("{} {what}", counted(*count, "row")))
        .collect();
    match parts.as_slice() {
        [] => format!("no row was written into {}", visible(&loaded.table)),
        parts => format!("{} {}", parts.join(", "), visible(&loaded.table)),
    }
}

impl fmt::Display for BatchShown<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        writeln!(f, "{}", styled(NAME, &format!("{}/", self.folder.display())))?;
        let widest = self.outputs.iter().map(|output| columns(&output.file)).max().unwrap_or(0);
        let mut line = |file: &str, rows: Option<u64>, says: &str| {
            writeln!(f, "  {}  {}  {says}", padded(file, widest), rows_of_file(rows))
        };
        for output in self.outputs {
            let says = match output.file.as_str() {
                "new-values.csv" => "one for each value that nothing matches",
                "decided-values.csv" => {
                    "one for each value that was decided to be blank, kept out, or a new term"
                }
                "rejects.xlsx" => "to be edited, and brought back with dusk correct",
                "report.html" => "to be read, printed or handed on",
                "rejects.csv" => "as the source has them, with the reasons",
                "findings.csv" => "one for each finding",
                "records-again.csv" => "one for each record that the last batch had already",
                "records.bin" => "by what next month knows its records",
                "companion.csv" => "columns without a field, with the record that each is of",
                "rows.csv" => "what became of each row, and where it is in the upload",
                "memory.json" => "what is compared with the next month",
                "compared.csv" => "what is new, changes and is gone beside what the target holds",
                "changes.csv" => "one for each distinct change",
                page if page.starts_with("report-") => "the same about one group",
                _ => "for the target",
            };
            line(&output.file, output.rows, says)?;
        }
        line("receipt.json", None, "counts, settings and hashes of all of it")?;
        if let Some(loaded) = self.loaded {
            writeln!(f, "\n{}", styled(GOOD, &loaded_line(loaded)))?;
        }
        writeln!(f)
    }
}
