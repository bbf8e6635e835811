//! The record layout of fixed-width text, as the export's own documentation lists it: a table with a name, where each column
//! begins, and where it ends or how long it is.

use std::path::Path;

use dusk_description::fold;
use dusk_evidence::{ColumnId, Error, Refusal, Result};
use dusk_sources::{CellKind, Known, Position, Source, SourceSettings};

/// What the columns of such a table are called.
const NAMES: [&str; 4] = ["name", "field", "column", "heading"];
const BEGINNINGS: [&str; 5] = ["from", "start", "begin", "first", "position"];
const ENDS: [&str; 3] = ["to", "end", "last"];
const LENGTHS: [&str; 3] = ["length", "width", "size"];

/// Reads the layout at `path`.
///
/// # Errors
/// Whatever stops reading it; [`Error::Source`] where it has no such columns, or a row that says no range.
pub(super) fn read_record_layout(path: &Path) -> Result<Vec<Position>> {
    let source = Source::look(path, &SourceSettings::default(), &Known::default())?;
    let wrong = |says: String, hint: &str| -> Error { Refusal::new(says, hint).of(&source.name) };
    let column =
        |names: &[&str]| source.column_ids().find(|id| names.contains(&fold(source.heading(*id)).as_str()));
    let (Some(name), Some(from)) = (column(&NAMES), column(&BEGINNINGS)) else {
        let hint = "its columns must be name, from, and to or length";
        return Err(wrong("is not a record layout: it does not say where its columns begin".into(), hint));
    };
    let (to, length) = (column(&ENDS), column(&LENGTHS));
    let mut positions: Vec<Position> = Vec::new();
    let mut walk = source.walk()?;
    while let Some(mut rows) = walk.more()? {
        while let Some(row) = rows.next() {
            let text = |id: ColumnId| CellKind::of(row.cell(id)).1.trim().to_owned();
            let number = |id: ColumnId| text(id).parse::<usize>().ok().filter(|number| *number > 0);
            if row.is_blank() {
                continue;
            }
            let first = number(from);
            let last = match (first, to.and_then(number), length.and_then(number)) {
                (_, Some(last), _) => Some(last),
                (Some(first), None, Some(length)) => Some(first + length - 1),
                _ => None,
            };
            let (name, range) = (text(name), first.zip(last).filter(|(first, last)| first <= last));
            match range {
                Some((from, last)) if !name.is_empty() => {
                    positions.push(Position { name, from, to: Some(last) })
                }
                _ => {
                    let says = format!("row {}: \"{name}\" has no range of characters", row.row());
                    return Err(wrong(
                        says,
                        "each column has a name, a first character from 1, and a last one or a length",
                    ));
                }
            }
        }
    }
    if positions.is_empty() {
        return Err(wrong(
            "lists no column".into(),
            "each row is a column: its name, from, and to or length",
        ));
    }
    Ok(positions)
}
