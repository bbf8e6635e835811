//! The first rows of a source, kept as they are: what is said of several columns has to hold row by row.

use dusk_evidence::{ColumnId, Id as _, Result};
use dusk_sources::{CellKind, Source};

/// How many rows are kept.
const KEPT: usize = 500;

/// Rows of a source, each cell with the white space around it.
#[derive(Debug, Default)]
pub(super) struct Rows(Vec<Vec<String>>);

impl Rows {
    /// The first rows of a source that hold anything.
    ///
    /// # Errors
    /// Whatever stops reading the source.
    pub(super) fn of(source: &Source) -> Result<Self> {
        let mut kept = Vec::new();
        let mut walk = source.walk()?;
        while kept.len() < KEPT
            && let Some(mut rows) = walk.more()?
        {
            while kept.len() < KEPT
                && let Some(row) = rows.next()
            {
                if source.is_whole(&row) && !row.is_blank() {
                    kept.push(row.cells().map(|cell| CellKind::of(cell).1.to_owned()).collect());
                }
            }
        }
        Ok(Self(kept))
    }

    /// What several columns hold, row by row, without white space around it; blank where a cell is.
    pub(super) fn of_columns<const N: usize>(
        &self,
        columns: [ColumnId; N],
    ) -> impl Iterator<Item = [&str; N]> {
        self.as_they_stand(columns).map(|cells| cells.map(str::trim))
    }

    /// The same with the white space.
    pub(super) fn as_they_stand<const N: usize>(
        &self,
        columns: [ColumnId; N],
    ) -> impl Iterator<Item = [&str; N]> {
        self.0.iter().map(move |row| columns.map(|column| row.get(column.index()).map_or("", String::as_str)))
    }

    /// The filled cells of a column.
    pub(super) fn filled(&self, column: ColumnId) -> impl Iterator<Item = &str> {
        self.of_columns([column]).map(|[text]| text).filter(|text| !text.is_empty())
    }

    /// How many blank cells of a column stand below a filled one, where that is how it is written: most cells are
    /// blank, the first is not, and each filled one begins another group.
    pub(super) fn held_from_above(&self, column: ColumnId) -> Option<usize> {
        let cells: Vec<&str> = self.of_columns([column]).map(|[text]| text).collect();
        let filled: Vec<&str> = cells.iter().copied().filter(|text| !text.is_empty()).collect();
        let blank = cells.len() - filled.len();
        let is_grouped = filled.windows(2).all(|two| two.first() != two.last());
        let begins = cells.first().is_some_and(|first| !first.is_empty());
        (begins && is_grouped && filled.len() >= 2 && blank > filled.len()).then_some(blank)
    }
}
