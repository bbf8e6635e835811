//! Where formulas stand in a sheet: one that no program has worked out yet has no value.

use std::collections::HashSet;
use std::io::Cursor;
use std::path::Path;
use std::sync::Arc;

use calamine::{Reader, open_workbook_auto_from_rs};

use super::READING_THREAD;

/// Where formulas stand in the sheet of this name of the workbook at `path`, by row and column from 0; none where
/// that cannot be told.
pub fn formulas(path: &Path, sheet: &str) -> HashSet<(u64, usize)> {
    let found = || {
        // Each kind of workbook is tried on the same bytes.
        let bytes: Arc<[u8]> = std::fs::read(path).ok()?.into();
        let mut workbook = open_workbook_auto_from_rs(Cursor::new(bytes)).ok()?;
        let range = workbook.worksheet_formula(sheet).ok()?;
        let (top, left) = range.start()?;
        let places = range.used_cells().filter(|(.., formula)| !formula.is_empty());
        Some(places.map(|(row, column, _)| ((row + top as usize) as u64, column + left as usize)).collect())
    };
    // As where cells are read: a damaged file can lead the library into a panic, which ends this thread only.
    let found = std::thread::scope(|scope| {
        let thread = std::thread::Builder::new().name(READING_THREAD.into()).spawn_scoped(scope, found);
        thread.ok().and_then(|thread| thread.join().ok()).flatten()
    });
    found.unwrap_or_default()
}
