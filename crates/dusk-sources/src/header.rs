//! The headings: in which row or rows they stand, and names by which each can be told.

use std::collections::BTreeMap;

use super::CellKind;
use super::dialect::Dialect;
use super::row_cells::RowCells;
use super::rows::Rows;
use dusk_evidence::Refusal;
use dusk_evidence::{Claim, Evidence, Line, Reading, Verdict};
use dusk_values::{WrittenDate, nearest};
use dusk_workbooks::column_letters;

/// How many rows are looked at to find the headings.
pub(super) const LOOKED_AT: u64 = 40;

/// The headings of a source.
#[derive(Debug)]
pub(super) struct Header {
    /// The first row of the header, from 1.
    pub(super) row: u64,
    /// The line on which it begins.
    pub(super) line: Line,
    /// The headings as they stand, trimmed.
    pub(super) headings: Vec<String>,
    /// The same with a name of its own for each.
    pub(super) columns: Vec<String>,
    /// Which row, and why.
    pub(super) evidence: Evidence,
}

/// A long text cut for a message.
pub(super) fn shortened(text: &str) -> String {
    if text.chars().count() <= 60 { text.to_owned() } else { text.chars().take(59).chain(['…']).collect() }
}

/// Names by which each column can be told: a heading that stands twice is numbered, and a column
/// without one is called by its letters, as `(column C)`.
pub(super) fn unique_names(headings: &[String]) -> Vec<String> {
    let mut counts: BTreeMap<&str, usize> = BTreeMap::new();
    for heading in headings {
        *counts.entry(heading).or_default() += 1;
    }
    let mut met: BTreeMap<&str, usize> = BTreeMap::new();
    (0..)
        .zip(headings)
        .map(|(place, heading)| {
            let number = met.entry(heading).or_default();
            *number += 1;
            let numbered = format!("{heading} ({number})");
            if heading.is_empty() {
                format!("{WITHOUT_HEADING}{})", column_letters(place))
            } else if counts.get(heading.as_str()) == Some(&1) || headings.contains(&numbered) {
                heading.clone()
            } else {
                numbered
            }
        })
        .collect()
}

/// How the names of columns without a heading begin.
const WITHOUT_HEADING: &str = "(column ";

/// Whether this is the name of a column that has no heading.
pub fn has_no_heading(column: &str) -> bool {
    column.starts_with(WITHOUT_HEADING)
}

fn trimmed(row: &RowCells<'_>) -> Vec<String> {
    row.cells().map(|cell| CellKind::of(cell).1.trim().to_owned()).collect()
}

/// The row that most likely holds the headings: the first that has every wanted one, else the first
/// whose cells are all words, as many as the rows below have.
pub(super) fn likely_row(text: &str, dialect: &Dialect, wanted: &[&str]) -> u64 {
    let mut rows = Rows::new(text, dialect);
    let mut seen: Vec<RowSeen> = Vec::new();
    while let Some(row) = rows.next() {
        let number = row.row().0;
        if number > LOOKED_AT + 60 {
            break;
        }
        let cells = trimmed(&row);
        if !wanted.is_empty() && number <= LOOKED_AT {
            let names = unique_names(&cells);
            if wanted.iter().all(|name| names.iter().any(|column| column == name)) {
                return number;
            }
        }
        if !row.is_blank() {
            let typed = row.cells().any(|cell| CellKind::of(cell).0 != CellKind::Text);
            let filled = cells.iter().filter(|cell| !cell.is_empty()).count();
            seen.push(RowSeen { number, filled, words: !typed && cells.iter().all(|cell| is_word(cell)) });
        }
    }
    let usual = usual_width(&seen);
    let fits = |row: &&RowSeen| row.filled * 10 >= usual * 7;
    seen.iter()
        .take(usize::try_from(LOOKED_AT).unwrap_or(40))
        .find(|row| row.words && fits(row))
        .or_else(|| seen.iter().find(fits))
        .map_or(1, |row| row.number)
}

/// A row that may hold the headings.
struct RowSeen {
    number: u64,
    /// How many cells are not blank.
    filled: usize,
    /// Whether all of them are words.
    words: bool,
}

/// How many cells most rows have, that are not blank.
fn usual_width(seen: &[RowSeen]) -> usize {
    let mut widths: BTreeMap<usize, usize> = BTreeMap::new();
    for row in seen {
        *widths.entry(row.filled).or_default() += 1;
    }
    widths.iter().max_by_key(|(width, count)| (**count, **width)).map_or(1, |(width, _)| *width)
}

/// A heading is a word, or blank.
fn is_word(cell: &str) -> bool {
    cell.is_empty()
        || cell.starts_with(|c: char| c.is_alphabetic() || c == '(') && WrittenDate::read(cell).is_none()
}

/// Finds the headings: in the row that the mapping names, or else in the one that brings out every
/// heading that the mapping uses. `rows` is how many rows the header takes.
///
/// # Errors
/// Says which headings are missing or stand there twice, and where the header seems to be.
pub(super) fn settle(
    text: &str,
    dialect: &Dialect,
    named: Option<u64>,
    rows: u64,
    wanted: &[&str],
) -> Result<Header, Refusal> {
    let header_row = match named {
        Some(row) => row,
        // The last of two rows is the one that looks like headings.
        None => likely_row(text, dialect, wanted)
            .saturating_sub(if wanted.is_empty() { rows - 1 } else { 0 })
            .max(1),
    };
    let (found, best) = look(text, dialect, (header_row, rows), wanted)?;
    let elsewhere = best.filter(|row| *row != header_row).map(|row| {
        format!("row {row} looks like the header: write header_row = {row} under [source] in the mapping")
    });
    let Some((mut headings, line)) = found else {
        return Err(Refusal::new(
            format!("has fewer than {header_row} rows, so there is no header in row {header_row}"),
            elsewhere.unwrap_or_else(|| "check header_row under [source] in the mapping".into()),
        ));
    };
    // Columns beyond the last heading of a sheet are no part of the table.
    while headings.len() > 1 && headings.last().is_some_and(String::is_empty) && dialect.is_sheet() {
        headings.pop();
    }
    let columns = unique_names(&headings);
    check_wanted(&headings, &columns, header_row, wanted, elsewhere)?;
    // A heading without a digit over values that all have one is no value itself.
    let contrast = columns_below(text, dialect, header_row + rows - 1, &headings);
    let evidence = said(named, header_row, (wanted.len(), columns.len()), contrast);
    Ok(Header { row: header_row, line, headings, columns, evidence })
}

/// A table without a header: its columns are called by their numbers.
///
/// # Errors
/// Says which of the columns that are wanted are not there.
pub(super) fn without(text: &str, dialect: &Dialect, wanted: &[&str]) -> Result<Header, Refusal> {
    let mut rows = Rows::new(text, dialect);
    let mut width = 0;
    while let Some(row) = rows.next() {
        if !row.is_blank() {
            width = row.len();
            break;
        }
    }
    let columns: Vec<String> = (1..=width).map(|number| number.to_string()).collect();
    if let Some(missing) = wanted.iter().find(|name| !columns.iter().any(|column| column == *name)) {
        return Err(Refusal::new(
            format!("has no header, as header_row = 0 says, and no column \"{missing}\""),
            format!("its columns are called by their numbers, \"1\" to \"{width}\""),
        ));
    }
    let evidence = Evidence::named(Claim::Header, "none");
    Ok(Header { row: 0, line: Line::FIRST, headings: vec![String::new(); width], columns, evidence })
}

/// The headings of rows whose columns something else names. `skipped` is the row of headings that stands above them all
/// the same.
///
/// # Errors
/// Says which of the columns that are wanted are not there.
pub(super) fn given(
    mut headings: Vec<String>,
    wanted: &[&str],
    skipped: Option<u64>,
) -> Result<Header, Refusal> {
    let may_be_missing =
        |name: &&&str| is_subfield(name) && !headings.iter().any(|heading| heading == **name);
    let missing: Vec<String> = wanted.iter().filter(may_be_missing).map(|name| (*name).to_owned()).collect();
    if headings.iter().any(|heading| is_subfield(heading)) {
        headings.extend(missing);
    }
    let columns = unique_names(&headings);
    check_wanted(&headings, &columns, 0, wanted, None)?;
    let row = skipped.unwrap_or(0);
    let mut evidence = Evidence::new(Claim::Header, Verdict::NotNeeded);
    evidence.readings.push(Reading {
        name: format!("the columns are called {}", first_of(&columns)),
        ..Reading::default()
    });
    Ok(Header { row, line: Line(row.max(1)), headings, columns, evidence })
}

/// The first names of a list, and how many there are beside them.
fn first_of(names: &[String]) -> String {
    const SHOWN: usize = 5;
    let shown: Vec<&str> = names.iter().take(SHOWN).map(String::as_str).collect();
    let more = names.len().saturating_sub(SHOWN);
    format!("{}{}", shown.join(", "), if more > 0 { format!(" and {more} more") } else { String::new() })
}

/// Whether a name is that of a bibliographic field or subfield, such as `245$a`, which few files have all of.
fn is_subfield(name: &str) -> bool {
    let (tag, rest) = name.split_at_checked(3).unwrap_or((name, ""));
    tag.len() == 3
        && tag.bytes().all(|byte| byte.is_ascii_digit())
        && (rest.is_empty() || rest.len() == 2 && rest.starts_with(['$', '@']))
}

/// The headings and the line on which they begin; nothing where there is no such row.
type Headings = Option<(Vec<String>, Line)>;

/// Reads the header, and finds the row with the most headings that are wanted.
fn look(
    text: &str,
    dialect: &Dialect,
    (header_row, rows): (u64, u64),
    wanted: &[&str],
) -> Result<(Headings, Option<u64>), Refusal> {
    let mut walker = Rows::new(text, dialect);
    let mut upper: Vec<String> = Vec::new();
    let mut found = None;
    let mut best: Option<(u64, usize)> = None;
    while let Some(row) = walker.next() {
        let number = row.row().0;
        if number > header_row.max(LOOKED_AT) {
            break;
        }
        let names = trimmed(&row);
        let count = wanted.iter().filter(|name| names.iter().any(|column| column == *name)).count();
        if count > best.map_or(0, |(_, most)| most) {
            best = Some((number, count));
        }
        if number == header_row {
            if !row.is_closed() {
                return Err(Refusal::new(
                    format!("row {header_row} opens a quote that is never closed"),
                    "check header_row and quote under [source] in the mapping",
                ));
            }
            found = Some((names.clone(), row.line()));
            upper = names;
        } else if number > header_row
            && number < header_row + rows
            && let Some((headings, _)) = &mut found
        {
            *headings = under(&upper, &names);
            upper.clone_from(headings);
        }
    }
    Ok((found, best.map(|(row, _)| row)))
}

/// What says that the header is in this row.
fn said(named: Option<u64>, header_row: u64, (wanted, columns): (usize, usize), contrast: usize) -> Evidence {
    let verdict = match named {
        Some(row) => Verdict::Named(format!("row {row}")),
        None if wanted > 0 || contrast > 0 => Verdict::Proven(format!("row {header_row}")),
        None => Verdict::Undecided(vec![
            format!("row {header_row} (the likeliest)"),
            "another, until the mapping names headings".into(),
        ]),
    };
    let counted = match (wanted, contrast) {
        (0, 0) => "headings, all of them words".to_owned(),
        (0, 1) => "headings, all of them words; in 1 column nothing but digits follows".to_owned(),
        (0, columns) => {
            format!("headings, all of them words; in {columns} columns nothing but digits follows")
        }
        _ => "mapped headings, all there".to_owned(),
    };
    let mut evidence = Evidence::new(Claim::Header, verdict);
    if evidence.needs_decision() {
        evidence.settle = vec![
            "[source]".into(),
            format!("header_row = {header_row}   # or the row that holds the headings"),
        ];
    }
    evidence.readings.push(Reading {
        name: format!("row {header_row}"),
        supports: if wanted == 0 { columns } else { wanted } as u64,
        counted,
        ..Reading::default()
    });
    evidence
}

/// In how many columns every value of the rows below begins with a digit, and the heading does not.
fn columns_below(text: &str, dialect: &Dialect, header_ends: u64, headings: &[String]) -> usize {
    let mut walker = Rows::new(text, dialect);
    let mut states: Vec<Option<bool>> = vec![None; headings.len()];
    while let Some(row) = walker.next() {
        if row.row().0 <= header_ends || row.len() < headings.len() {
            continue;
        }
        if row.row().0 > header_ends + 20 {
            break;
        }
        for (state, cell) in states.iter_mut().zip(trimmed(&row)) {
            let digit = cell.starts_with(|c: char| c.is_ascii_digit());
            if !cell.is_empty() {
                *state = Some(state.unwrap_or(true) && digit);
            }
        }
    }
    let word = |heading: &String| heading.starts_with(char::is_alphabetic);
    states.iter().zip(headings).filter(|(state, heading)| **state == Some(true) && word(heading)).count()
}

/// Headings over two rows: what stands above holds for the columns to its right as well, up to the
/// next, since such cells are mostly merged.
fn under(upper: &[String], lower: &[String]) -> Vec<String> {
    let mut above = "";
    (0..upper.len().max(lower.len()))
        .map(|place| {
            let (top, bottom) =
                (upper.get(place).map_or("", String::as_str), lower.get(place).map_or("", String::as_str));
            if !top.is_empty() {
                above = top;
            }
            match (above, bottom) {
                (_, "") => top.to_owned(),
                ("", bottom) => bottom.to_owned(),
                (above, bottom) => format!("{above} {bottom}"),
            }
        })
        .collect()
}

fn check_wanted(
    headings: &[String],
    columns: &[String],
    header_row: u64,
    wanted: &[&str],
    elsewhere: Option<String>,
) -> Result<(), Refusal> {
    let missing: Vec<&str> =
        wanted.iter().copied().filter(|name| !columns.iter().any(|column| column == name)).collect();
    if let Some(twice) = missing.iter().find(|name| headings.iter().any(|heading| heading == *name)) {
        let each: Vec<String> = columns
            .iter()
            .zip(headings)
            .filter(|(_, heading)| heading == twice)
            .map(|(column, _)| format!("\"{column}\""))
            .collect();
        return Err(Refusal::new(
            format!("the header in row {header_row} has the column \"{twice}\" more than once"),
            format!("write {} in the mapping, from left to right", each.join(" or ")),
        ));
    }
    if missing.is_empty() {
        return Ok(());
    }
    let says: Vec<String> = missing
        .iter()
        .map(|name| match nearest(name, columns.iter().map(String::as_str)) {
            Some(near) => format!("\"{name}\" (did you mean \"{near}\"?)"),
            None => format!("\"{name}\""),
        })
        .collect();
    Err(Refusal::new(
        format!("the header in row {header_row} has no column {}", says.join(", nor ")),
        elsewhere.unwrap_or_else(|| {
            let named: Vec<String> = columns.iter().map(|column| format!("\"{column}\"")).collect();
            format!("its columns are {}", named.join(", "))
        }),
    ))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_header_is_found_below_a_title_and_over_two_rows() {
        let dialect = Dialect::new(",", "\"");
        let text = "Fen club,,\n,,\nNo,Honey,\n,lb,kg\n1,2,3\n4,5,6\n7,8,9\n";
        let found = settle(text, &dialect, None, 1, &["No"]).unwrap();
        assert_eq!((found.row, found.columns.join("|")), (3, "No|Honey|(column C)".into()));
        let over_two = settle(text, &dialect, Some(3), 2, &["Honey kg"]).unwrap();
        assert_eq!(over_two.columns, ["No", "Honey lb", "Honey kg"]);
        assert_eq!(likely_row("Title\n\nNo,Date,Town\n1,2026-01-02,A\n2,2026-01-03,B\n", &dialect, &[]), 3);
    }

    #[test]
    fn names_that_stand_twice_are_numbered() {
        let named = |names: &[&str]| {
            unique_names(&names.iter().map(|name| (*name).to_owned()).collect::<Vec<_>>()).join("|")
        };
        assert_eq!(named(&["a", "b", "a", ""]), "a (1)|b|a (2)|(column D)");
        let dialect = Dialect::new(",", "\"");
        let refused = settle("a,b,a\n1,2,3\n", &dialect, None, 1, &["a"]).unwrap_err();
        assert!(refused.hint.contains("\"a (1)\" or \"a (2)\""), "{refused:?}");
    }
}
