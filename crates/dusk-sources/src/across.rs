//! Records laid across columns instead of down rows: the table is turned, so that every column of
//! the file becomes a row. The number of such a row is the number of its column.

use std::fs::File;
use std::io::{BufWriter, IntoInnerError, Write as _};

use super::{Blocks, Dialect};
use dusk_evidence::Refusal;

/// The largest table that is turned, in bytes; it has to be held in memory as a whole.
const MOST: usize = 256 << 20;

fn push_cell(cell: &str, quote: &str, line: &mut String) {
    if cell.contains(['\n', '\r', '\u{1f}', '\u{1e}']) {
        line.push_str(&format!("{quote}{}{quote}", cell.replace(quote, &quote.repeat(2))));
    } else {
        line.push_str(cell);
    }
}

/// Turns the table that `blocks` read, from its first row on.
pub(super) fn turned(mut blocks: Blocks, dialect: &Dialect) -> dusk_evidence::Result<Result<File, Refusal>> {
    let mut lines: Vec<String> = Vec::new();
    let mut size = 0;
    let mut text = String::new();
    let mut count = 0;
    let quote = Dialect::of_a_sheet().quote().to_owned();
    while let Some(block) = blocks.next(text)? {
        let mut rows = block.rows(dialect);
        while let Some(row) = rows.next() {
            if lines.len() < row.len() {
                // What was not there in the rows before is blank.
                lines.resize_with(row.len(), || "\u{1f}".repeat(count));
            }
            for (place, line) in lines.iter_mut().enumerate() {
                let before = line.len();
                if count > 0 {
                    line.push('\u{1f}');
                }
                push_cell(row.nth(place), &quote, line);
                size += line.len() - before;
            }
            count += 1;
            if size > MOST {
                return Ok(Err(Refusal::new(
                    "is too large to be turned (256 MiB)",
                    "turn it in a spreadsheet program, and leave records = \"across\" out of the mapping",
                )));
            }
        }
        text = block.text;
    }
    let written = tempfile::tempfile().and_then(|file| {
        let mut out = BufWriter::new(file);
        for line in lines {
            writeln!(out, "{line}")?;
        }
        out.into_inner().map_err(IntoInnerError::into_error)
    });
    written.map(Ok).map_err(dusk_evidence::Error::writing(&std::env::temp_dir()))
}
