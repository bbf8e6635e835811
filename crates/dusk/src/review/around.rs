//! A rejected row found by its number or its key, and shown as its file has it.

use dusk_core::conforming::Judged;
use dusk_core::evidence::{Id as _, Row, SourceId};
use dusk_core::run::ReviewRow;
use dusk_core::values::fold;

use super::desk::Desk;
use crate::outcome::Failure;
use crate::show::visible;

type Result<T> = std::result::Result<T, Failure>;

impl Desk<'_> {
    /// Where a row is, in its source.
    pub(super) fn at(&self, place: usize) -> Option<(SourceId, Row)> {
        self.review.rows.get(place).map(|row| (row.source, row.row))
    }

    /// The rejected row of this number, or the first that has this text in a cell by which its record is found again.
    pub(super) fn find(&self, text: &str) -> Option<usize> {
        let text = text.trim();
        let rejected =
            || self.review.rows.iter().enumerate().filter(|(_, row)| row.judged == Judged::Rejected);
        let number = text.parse::<u64>().ok();
        let by_number = rejected().find(|(_, row)| Some(row.row.0) == number);
        let has_key = |(_, row): &(usize, &ReviewRow)| {
            let Some(source) = self.loaded.sources.get(row.source.index()) else { return false };
            let keys = self.loaded.target.fields.with_ids().filter(|(_, field)| field.key);
            let mut columns = keys
                .flat_map(|(id, _)| self.loaded.mapping.headings_for(id, ""))
                .filter_map(|heading| source.column(&heading));
            columns.any(|column| {
                row.cells
                    .get(column.index())
                    .is_some_and(|cell| !text.is_empty() && fold(cell).contains(&fold(text)))
            })
        };
        by_number.or_else(|| rejected().find(has_key)).map(|(place, _)| place)
    }

    /// A row as its file has it, with the rows around it, as lines of text.
    pub(super) fn around(&self, place: usize) -> Result<Vec<String>> {
        /// How many rows are shown before it and behind it.
        const NEIGHBOURS: u64 = 3;
        let Some(row) = self.review.rows.get(place) else { return Ok(Vec::new()) };
        let Some(source) = self.loaded.sources.get(row.source.index()) else { return Ok(Vec::new()) };
        let number = row.row.0;
        let mut lines = Vec::new();
        if !source.dialect.is_sheet() {
            lines.push("As the file has it:".to_owned());
            lines.extend(
                row.raw().trim_end_matches(['\r', '\n']).lines().map(|line| format!("  {}", visible(line))),
            );
            lines.push(String::new());
        }
        lines.push("Rows around it:".to_owned());
        let mut walk = source.walk_as_exported()?;
        'rows: while let Some(mut rows) = walk.more()? {
            while let Some(one) = rows.next() {
                let at = one.row().0;
                if at > number + NEIGHBOURS {
                    break 'rows;
                }
                if at + NEIGHBOURS >= number {
                    let mark = if at == number { '▸' } else { ' ' };
                    let cells: Vec<String> = one.cells().map(|cell| visible(cell).into_owned()).collect();
                    lines.push(format!("{mark} {at:>6}  {}", cells.join(" │ ")));
                }
            }
        }
        Ok(lines)
    }
}
