//! What the shape of a table suggests: lines that close it, and records laid across its columns.

use dusk_evidence::{Claim, Evidence, Example, Reading, Verdict};
use dusk_sources::{Rows, Source};

/// A row's number and its cells.
pub type NumberedRow = (u64, Vec<String>);

/// The questions that the shape of the table raises.
pub(super) fn decisions(
    source: &Source,
    first_rows: &[NumberedRow],
    last_rows: &[NumberedRow],
) -> Vec<Evidence> {
    closing(source.columns.len(), last_rows).into_iter().chain(across(source, first_rows)).collect()
}

fn filled(cells: &[String]) -> impl Iterator<Item = &str> {
    cells.iter().map(|cell| cell.trim()).filter(|cell| !cell.is_empty())
}

/// Last rows that are nearly blank and begin with a word: totals, or who made the file.
fn closing(width: usize, last_rows: &[NumberedRow]) -> Option<Evidence> {
    let is_closing = |(_, cells): &&NumberedRow| {
        width >= 4
            && filled(cells).count() * 3 <= width
            && filled(cells).any(|cell| cell.starts_with(char::is_alphabetic))
    };
    let mut closing: Vec<&NumberedRow> = last_rows.iter().rev().take_while(is_closing).collect();
    closing.reverse();
    let words: Vec<String> = closing.iter().filter_map(|(_, cells)| begins_with(cells)).collect();
    let readings = vec!["records".into(), "lines that close the file".into()];
    let mut evidence = Evidence::new(Claim::ClosingLines, Verdict::Undecided(readings));
    evidence.readings = closing.iter().map(|(row, cells)| closing_row(*row, cells, width)).collect();
    evidence.settle = vec!["[source]".into(), format!("closing = [{}]", words.join(", "))];
    (!closing.is_empty()).then_some(evidence)
}

/// The word that a closing line begins with, as the mapping writes it.
fn begins_with(cells: &[String]) -> Option<String> {
    let cell = filled(cells).next()?;
    let word = cell.split_whitespace().next().unwrap_or(cell);
    Some(format!("\"{}\"", word.trim_end_matches(':')))
}

fn closing_row(row: u64, cells: &[String], width: usize) -> Reading {
    let first =
        |cell: &str| Example { place: "first".into(), value: super::excerpt(cell), reads: String::new() };
    Reading {
        name: format!("row {row}"),
        supports: filled(cells).count() as u64,
        counted: format!("cells of {width} are filled"),
        examples: filled(cells).next().map(first).into_iter().collect(),
        ..Reading::default()
    }
}

/// Rows of values and rows of words, each begun by a word: a table that lies on its side.
fn across(source: &Source, first_rows: &[NumberedRow]) -> Option<Evidence> {
    let rows = rows_on_top(source, first_rows);
    let word = |cell: &String| cell.starts_with(char::is_alphabetic);
    let value = |cell: &String| cell.starts_with(|c: char| c.is_ascii_digit());
    let rest = |row: &[String], is: &dyn Fn(&String) -> bool| {
        row.len() > 3 && row.iter().skip(1).all(|cell| is(cell) || cell.is_empty())
    };
    let begun_by_words = rows.len() > 1 && rows.iter().all(|row| row.first().is_some_and(word));
    let values = rows.iter().filter(|row| rest(row, &value)).count();
    let words = rows.iter().skip(1).filter(|row| rest(row, &word)).count();
    if !begun_by_words || values == 0 || words == 0 {
        return None;
    }
    let readings = vec!["down the rows".into(), "across the columns".into()];
    let mut evidence = Evidence::new(Claim::Records, Verdict::Undecided(readings));
    evidence.readings = vec![Reading {
        name: "across".into(),
        supports: (values + words) as u64,
        counted: "rows hold values of one kind only behind a word".into(),
        ..Reading::default()
    }];
    evidence.settle = vec!["[source]".into(), "records = \"across\"".into()];
    Some(evidence)
}

/// The rows at the top of the source, the header with them.
fn rows_on_top(source: &Source, first_rows: &[NumberedRow]) -> Vec<Vec<String>> {
    let text = source.first_lines.join("\n");
    let mut rows: Vec<Vec<String>> = Vec::new();
    if text.is_empty() {
        rows.push(source.headings.to_vec());
        rows.extend(first_rows.iter().map(|(_, cells)| cells.clone()));
    }
    let mut walker = Rows::new(&text, &source.dialect);
    while let Some(row) = walker.next() {
        rows.push(row.cells().map(|cell| cell.trim().to_owned()).collect());
    }
    rows
}
