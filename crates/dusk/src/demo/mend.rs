//! What a steward does in a spreadsheet program: a few cells of the rejected rows are typed anew, and the
//! workbook is saved under another name, without anything that the program put into it.

use std::path::Path;

use dusk_core::Error;
use dusk_core::files::write_whole;
use dusk_core::rejects::read_back;
use dusk_core::sources::{CellKind, Known, Source, SourceSettings};
use rust_xlsxwriter::{Workbook, XlsxError};

use crate::outcome::Failure;

/// Mends cells: for each column and old text, the first row that has it gets the new text. Gives what was done
/// in words.
pub(super) fn mend(from: &Path, to: &Path, cells: &[(&str, &str, &str)]) -> Result<String, Failure> {
    let back = read_back(from)?;
    let mut says = String::new();
    let mut rows: Vec<Vec<String>> = Vec::new();
    for row in &back.rows {
        let fixed = [String::new(), row.source.clone(), row.row.clone(), String::new()];
        let texts = row.cells.iter().map(|(_, text)| text.clone());
        let print = format!("{} {}", row.print, row.batch);
        rows.push(fixed.into_iter().chain([print]).chain(texts).collect());
    }
    let fixed = ["reasons", "source", "row", "line", "print"];
    for (heading, was, now) in cells {
        let column = back.columns.iter().position(|name| name == heading).map(|place| place + fixed.len());
        let is_it = |text: &String| text == was || (was.ends_with(' ') && text.starts_with(&was.repeat(3)));
        let place = column.and_then(|column| {
            Some((rows.iter().position(|row| row.get(column).is_some_and(is_it))?, column))
        });
        let Some((row, column)) = place else { continue };
        if let Some(row) = rows.get_mut(row) {
            let number = row.get(2).cloned().unwrap_or_default();
            says.push_str(&format!("{}: row {number}, {heading}: now {now}\n", file_name(to)));
            if let Some(cell) = row.get_mut(column) {
                (*now).clone_into(cell);
            }
        }
    }
    let headings = fixed.iter().map(|name| (*name).to_owned()).chain(back.columns);
    rows.insert(0, headings.collect());
    let bytes = save(&rows).map_err(|error| Error::Invariant(error.to_string()))?;
    write_whole(to, &bytes)?;
    Ok(says)
}

/// Answers no beside the first record of a workbook for sign-off whose row says all of these words. Gives what was done
/// in words.
pub(super) fn say_no(from: &Path, to: &Path, words: &[&str]) -> Result<String, Failure> {
    let source = Source::look(from, &SourceSettings::default(), &Known::headings(&["go in"]))?;
    let mut rows: Vec<Vec<String>> = vec![source.columns.to_vec()];
    let mut says = String::new();
    let mut walk = source.walk()?;
    while let Some(mut block) = walk.more()? {
        while let Some(row) = block.next() {
            let mut cells: Vec<String> = row.cells().map(|cell| CellKind::of(cell).1.to_owned()).collect();
            let is_it = words.iter().all(|word| cells.iter().any(|cell| cell == word));
            if says.is_empty() && is_it {
                if let Some(answer) = cells.first_mut() {
                    "no".clone_into(answer);
                }
                says = format!("{}: row {}, {}: no\n", file_name(to), row.row(), words.join(", "));
            }
            rows.push(cells);
        }
    }
    let bytes = save(&rows).map_err(|error| Error::Invariant(error.to_string()))?;
    write_whole(to, &bytes)?;
    Ok(says)
}

fn file_name(path: &Path) -> String {
    path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned())
}

fn save(rows: &[Vec<String>]) -> Result<Vec<u8>, XlsxError> {
    let mut book = Workbook::new();
    let sheet = book.add_worksheet().set_name("Rejects")?;
    for (row, cells) in (0..).zip(rows) {
        for (column, cell) in (0..).zip(cells) {
            if !cell.is_empty() {
                sheet.write_string(row, column, cell)?;
            }
        }
    }
    book.save_to_buffer()
}
