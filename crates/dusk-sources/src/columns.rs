//! A few columns of a file beside the steward's own: what a target holds, values to look up.

use std::path::Path;

use super::{CellKind, Known, RowCells, SheetChoice, Source, SourceSettings, Threads, Tray, in_order};
use dusk_evidence::{ColumnId, Error, Result, Row};

/// Which columns of a file are wanted.
#[derive(Debug, Clone, Copy)]
pub struct WantedColumns<'w> {
    /// The sheet of a workbook that has several.
    pub sheet: Option<&'w SheetChoice>,
    /// The names of each column, of which the first that is there counts.
    pub columns: &'w [&'w [&'w str]],
}

/// Gives the cells of some columns, row by row, without their marks and white space. Gives back the
/// file's name.
///
/// # Errors
/// [`Error::File`] and [`Error::Source`] when the file cannot be read; [`Error::Request`] when it lacks a
/// column.
pub fn each_row(
    path: &Path,
    wanted: WantedColumns<'_>,
    mut take: impl FnMut(Row, &[&str]),
) -> Result<String> {
    let (source, places) = with_columns(path, wanted)?;
    let mut walk = source.walk()?;
    while let Some(mut rows) = walk.more()? {
        while let Some(row) = rows.next() {
            take(row.row(), &cells_of(&row, &places));
        }
    }
    Ok(source.name)
}

/// The cells of some columns in the rows in which they are `wanted`, in order. All threads look for them. Otherwise as
/// [`each_row`].
///
/// # Errors
/// As [`each_row`].
pub fn rows_where(
    path: &Path,
    columns: &[&[&str]],
    threads: Threads,
    wanted: impl Fn(&[&str]) -> bool + Sync,
) -> Result<Vec<Vec<String>>> {
    let (source, places) = with_columns(path, WantedColumns { sheet: None, columns })?;
    let mut found = Vec::new();
    let make_worker = |_| {
        Ok(|tray: &mut Tray<Vec<Vec<String>>>| {
            let mut rows = tray.block.rows(&source.dialect);
            while let Some(row) = rows.next() {
                let cells = cells_of(&row, &places);
                if wanted(&cells) {
                    tray.result.push(cells.into_iter().map(str::to_owned).collect());
                }
            }
        })
    };
    in_order(
        std::slice::from_ref(&source),
        threads,
        |_| (),
        make_worker,
        |tray| {
            found.append(&mut tray.result);
            Ok(())
        },
    )?;
    Ok(found)
}

/// The source at `path`, and where the first of each column's names that is there stands in it.
fn with_columns(
    path: &Path,
    WantedColumns { sheet, columns }: WantedColumns<'_>,
) -> Result<(Source, Vec<ColumnId>)> {
    let likely: Vec<&str> = columns.iter().filter_map(|names| names.first().copied()).collect();
    let settings = SourceSettings { sheet: sheet.cloned(), ..SourceSettings::default() };
    let source = Source::look(path, &settings, &Known::headings(&likely))
        .or_else(|_| Source::look(path, &settings, &Known::default()))?;
    let place = |names: &&[&str]| {
        names.iter().find_map(|name| source.column(name)).ok_or_else(|| {
            let name = names.first().copied().unwrap_or_default();
            let has = source.columns.join(", ");
            Error::Request(format!("{} has no column \"{name}\"; it has {has}", source.name))
        })
    };
    let places: Vec<ColumnId> = columns.iter().map(place).collect::<Result<_>>()?;
    Ok((source, places))
}

fn cells_of<'r>(row: &RowCells<'r>, places: &[ColumnId]) -> Vec<&'r str> {
    places.iter().map(|place| CellKind::of(row.cell(*place)).1.trim()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn wanted<'w>(columns: &'w [&'w [&'w str]]) -> WantedColumns<'w> {
        WantedColumns { sheet: None, columns }
    }

    #[test]
    fn a_column_is_found_by_the_first_of_its_names_that_is_there() {
        let place = tempfile::tempdir().unwrap();
        let path = place.path().join("held.csv");
        std::fs::write(&path, "hive;Day\n H1 ;2026-05-01\n;\nH2;\n").unwrap();
        let mut seen = Vec::new();
        let read = each_row(&path, wanted(&[&["Hive no", "hive"], &["Day"]]), |row, cells| {
            seen.push(format!("{row}: {}", cells.join("|")));
        });
        assert!(read.is_ok());
        assert_eq!(seen, ["2: H1|2026-05-01", "3: |", "4: H2|"]);
        let second = rows_where(&path, &[&["hive"]], Threads::of(2), |cells| cells == ["H2"]);
        assert_eq!(second.unwrap(), [["H2"]]);
        let wrong = each_row(&path, wanted(&[&["Hive no", "nest"]]), |_, _| {}).unwrap_err().to_string();
        assert!(wrong.contains("has no column \"Hive no\"; it has hive, Day"), "{wrong}");
    }
}
