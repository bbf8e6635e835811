//! Where formulas stand in a sheet: one that no program has worked out yet has no value.

use std::collections::HashSet;
use std::fs::File;
use std::io::BufReader;
use std::sync::Arc;

use calamine::{Ods, Reader, Xls, Xlsb, Xlsx};

use super::container::{Container, refuse_large_parts};
use super::placed::PlacedFile;

/// Where formulas stand, by row and column from 0.
pub type Formulas = HashSet<(u64, usize)>;

/// Where formulas stand in the sheet of this name; none where that cannot be told.
pub(super) fn found(file: &Arc<File>, container: Container, sheet: &str) -> Formulas {
    let file_at = || BufReader::new(PlacedFile::new(file));
    if container != Container::Xls && refuse_large_parts(file, container).is_err() {
        return HashSet::new();
    }
    let places = match container {
        Container::Xlsx => Xlsx::new(file_at()).ok().and_then(|mut book| places(&mut book, sheet)),
        Container::Xlsb => Xlsb::new(file_at()).ok().and_then(|mut book| places(&mut book, sheet)),
        Container::Xls => Xls::new(file_at()).ok().and_then(|mut book| places(&mut book, sheet)),
        Container::Ods => Ods::new(file_at()).ok().and_then(|mut book| places(&mut book, sheet)),
    };
    places.unwrap_or_default()
}

fn places<R: Reader<BufReader<PlacedFile>>>(workbook: &mut R, sheet: &str) -> Option<Formulas> {
    let range = workbook.worksheet_formula(sheet).ok()?;
    let (top, left) = range.start()?;
    let cells = range.used_cells().filter(|(.., formula)| !formula.is_empty());
    Some(cells.map(|(row, column, _)| ((row + top as usize) as u64, column + left as usize)).collect())
}
