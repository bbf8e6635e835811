//! What a batch folder holds.

use std::fmt;
use std::path::Path;

use dusk_core::files::OutputFile;

use super::layout::{columns, padded, rows_of_file};
use super::style::{NAME, styled};

/// The batch that was made.
pub(crate) struct BatchShown<'r> {
    pub(crate) folder: &'r Path,
    pub(crate) outputs: &'r [OutputFile],
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
                "memory.json" => "what is compared with the next month",
                "compared.csv" => "what is new, changes and is gone beside what the target holds",
                "changes.csv" => "one for each distinct change",
                _ => "for the target",
            };
            line(&output.file, output.rows, says)?;
        }
        line("receipt.json", None, "counts, settings and hashes of all of it")?;
        writeln!(f)
    }
}
