//! A file of rejected rows read again after somebody has edited it.
//!
//! Any spreadsheet program may have saved it, as a workbook or as delimited text, with its columns in another
//! order and its rows sorted.

use std::path::Path;

use super::layout::{FIXED, NEEDED, OWN, has_all};
use super::whole_rows::{WHOLE, refuse_shifted};
use super::workbook::SHEET;
use dusk_decisions::BEYOND;
use dusk_evidence::{ColumnId, Error, Id as _, Problems, Result, Row};
use dusk_files::unguarded;
use dusk_sources::{CellKind, Known, SheetChoice, Source, SourceSettings};

/// What came back.
#[derive(Debug)]
pub struct BroughtBack {
    /// The file as the steward named it.
    pub name: String,
    /// Whether it is a workbook, whose cells say what they are.
    pub is_sheet: bool,
    /// The headings of the source's columns in it, in the order of the file.
    pub columns: Vec<String>,
    /// The heading of what is beyond the source's columns.
    pub beyond: String,
    /// The rows, in the order of the file.
    pub rows: Vec<BackRow>,
}

/// A row that came back.
#[derive(Debug)]
pub struct BackRow {
    /// Where it stands in the file.
    pub at: Row,
    /// The source that it says it is from.
    pub source: String,
    /// The row of the source, as it stands in the file.
    pub row: String,
    /// The batch that it says it is from.
    pub batch: String,
    /// By what it is recognised, as it stands in the file.
    pub print: String,
    /// What its cells hold, in the order of the columns.
    pub cells: Vec<(CellKind, String)>,
    /// How many of these the file has; the others are blank because the row ends before them.
    pub there: usize,
}

/// Whether a file is one of rejected rows, one that has lost a column or its sheet's name among them.
pub fn is_rejects(path: &Path) -> bool {
    open(path).is_ok_and(|source| holds_rejects(&source))
}

/// Whether a source is a file of rejected rows and no export: it has the columns of one, or some of them and what
/// rejected rows are recognised by.
pub fn holds_rejects(source: &Source) -> bool {
    let fixed = fixed_columns(source).1.iter().flatten().count();
    fixed > 3 || fixed > 1 && has_prints(source).unwrap_or(false)
}

/// Whether the first rows have cells as `print` has them: sixteen digits of a hash, another sixteen where the row was
/// corrected, and the batch.
fn has_prints(source: &Source) -> Result<bool> {
    let mut walk = source.walk()?;
    let Some(mut rows) = walk.more()? else { return Ok(false) };
    let is_hash = |text: &str| text.len() == 16 && text.bytes().all(|byte| byte.is_ascii_hexdigit());
    let is_print = |cell: &str| {
        let (hashes, batch) = CellKind::of(cell).1.trim().split_once(' ').unwrap_or_default();
        !batch.is_empty() && hashes.split('+').all(is_hash)
    };
    let row = rows.next();
    Ok(row.is_some_and(|row| row.cells().any(is_print)))
}

/// What stands before the headings that are not the source's, and where the fixed ones are.
fn fixed_columns(source: &Source) -> (String, Vec<Option<ColumnId>>) {
    let mut own = String::new();
    // Where a source has columns of these names itself, those of the batch have the longest.
    while has_all(&source.columns, &format!("{own}{OWN}")) {
        own.push_str(OWN);
    }
    let places = FIXED.iter().map(|name| source.column(&format!("{own}{name}"))).collect();
    (own, places)
}

fn open(path: &Path) -> Result<Source> {
    let ending = path.extension().map(|ending| ending.to_string_lossy().to_ascii_lowercase());
    let is_text = ending.is_none_or(|ending| matches!(ending.as_str(), "csv" | "txt" | "tsv"));
    let on = |sheet: Option<SheetChoice>| {
        let settings = SourceSettings { header_row: Some(1), sheet, ..SourceSettings::default() };
        Source::look(path, &settings, &Known::headings(&["reasons", "print"]))
            .or_else(|_| Source::look(path, &settings, &Known::default()))
    };
    match is_text {
        true => on(None),
        // A program, or a person, may have given the sheet another name.
        false => on(Some(SheetChoice::Name(SHEET.to_owned()))).or_else(|_| on(Some(SheetChoice::Number(1)))),
    }
}

/// A formula that no program has worked out looks like a cell that somebody cleared.
fn refuse_unworked_formulas(source: &Source, places: &[ColumnId]) -> Result<()> {
    let formulas = source.formulas();
    let mut problems = Problems::default();
    let mut walk = source.walk()?;
    while !formulas.is_empty()
        && let Some(mut rows) = walk.more()?
    {
        while let Some(row) = rows.next() {
            let at = row.row();
            let stands_at = |place: &ColumnId| formulas.contains(&(at.0.saturating_sub(1), place.index()));
            for place in places.iter().filter(|place| row.cell(**place).is_empty() && stands_at(place)) {
                let says = format!("row {at}, {}: the formula has no value", source.heading(*place));
                problems.at(&source.name, None, says).hint(
                    "open the file in a spreadsheet program and save it, which works it out, or write the value itself",
                );
            }
        }
    }
    problems.or(())
}

/// How many faulty rows are named.
const MOST_PROBLEMS: usize = 12;

/// Reads a file of rejected rows.
///
/// # Errors
/// [`Error::File`] and [`Error::Source`] when it cannot be read; [`Error::Problems`] when it lacks one of the
/// columns by which rows are recognised.
pub fn read_back(path: &Path) -> Result<BroughtBack> {
    let source = open(path)?;
    let mut problems = Problems::default();
    let (own, fixed) = fixed_columns(&source);
    for (name, place) in FIXED.iter().zip(&fixed) {
        if place.is_none() && NEEDED.contains(name) {
            problems.at(&source.name, None, format!("has no column \"{own}{name}\"")).hint(
                "the headings and the hidden columns tell which row is which; take the file as the batch wrote it, and edit only the cells",
            );
        }
    }
    problems.or(())?;
    let mut problems = Problems::default();
    let [_, from, row_at, _, print] = fixed.as_slice() else {
        return Err(Error::Invariant("the columns of rejected rows are not what they were".into()));
    };
    let is_sheet = source.dialect.is_sheet();
    let places: Vec<ColumnId> = source.column_ids().filter(|place| !fixed.contains(&Some(*place))).collect();
    let columns: Vec<String> = places.iter().map(|place| source.heading(*place).to_owned()).collect();
    refuse_unworked_formulas(&source, &places)?;
    let mut rows_back = Vec::new();
    let mut walk = source.walk()?;
    while let Some(mut rows) = walk.more()? {
        while let Some(row) = rows.next() {
            if row.is_blank() {
                continue;
            }
            let told = |place: &Option<ColumnId>| {
                let cell = place.map_or("", |place| CellKind::of(row.cell(place)).1);
                unguarded(cell).trim().to_owned()
            };
            let cell = |place: &ColumnId| {
                let (kind, text) = CellKind::of(row.cell(*place));
                // Only text needs guarding, and only delimited text is guarded.
                let text = if is_sheet { text.into() } else { unguarded(text) };
                (kind, text.into_owned())
            };
            let is_there = |place: &&ColumnId| place.index() < row.len();
            if !is_sheet {
                refuse_shifted(&source, &row, &mut problems);
            }
            let told_print = told(print);
            let (print, batch) = told_print.split_once(' ').unwrap_or((&told_print, ""));
            rows_back.push(BackRow {
                at: row.row(),
                source: told(from),
                row: told(row_at),
                batch: batch.to_owned(),
                print: print.to_owned(),
                cells: places.iter().map(cell).collect(),
                there: if is_sheet {
                    places.len()
                } else {
                    places.iter().filter(|place| is_there(place)).count()
                },
            });
        }
    }
    if !is_sheet && !source.ends_with_a_line_end()? {
        problems.at(&source.name, None, "ends in the middle of a line, so it is not whole").hint(WHOLE);
    }
    problems.keep_first(MOST_PROBLEMS);
    problems.or(())?;
    Ok(BroughtBack {
        name: source.name,
        is_sheet,
        columns,
        beyond: format!("{own}{BEYOND}"),
        rows: rows_back,
    })
}
