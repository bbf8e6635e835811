//! Rows whose key an earlier row has: what that one says, shown beside them.

use std::collections::{BTreeMap, BTreeSet};

use super::layout::{FIXED, RejectedRow};
use dusk_evidence::{Row, SourceId};

/// How many of them are shown.
pub(super) const MOST: usize = 1_000;

/// How many columns in which the two differ are told.
const FEW: usize = 12;

/// Where earlier rows are.
pub type EarlierPlaces = BTreeSet<(SourceId, Row)>;

/// Earlier rows by where they are, as rejected rows are handed out.
pub type EarlierRows = BTreeMap<(SourceId, Row), RejectedRow>;

/// A rejected row in the workbook whose key an earlier row has.
#[derive(Debug)]
pub(super) struct Double {
    /// Its row in the sheet.
    pub(super) at: u32,
    /// The row itself.
    pub(super) row: RejectedRow,
}

impl Double {
    /// What the earlier row says, and where it differs from this one; nothing where it is not at hand.
    pub(super) fn says(&self, headings: &[String], earlier: &EarlierRows) -> Option<String> {
        let place = self.row.earlier?;
        let other = earlier.get(&place)?;
        let cells =
            headings.iter().zip(other.texts().skip(FIXED.len())).zip(self.row.texts().skip(FIXED.len()));
        let differing: Vec<String> = cells
            .filter(|((_, there), here)| there != here)
            .map(|((heading, there), here)| format!("{heading}: \"{there}\" there, \"{here}\" here"))
            .collect();
        let (_, row) = place;
        if differing.is_empty() {
            return Some(format!("Row {row} is the same in every cell."));
        }
        let more = match differing.len().saturating_sub(FEW) {
            0 => String::new(),
            more => format!("\nand {more} more"),
        };
        let told = differing.get(..FEW).unwrap_or(&differing).join("\n");
        Some(format!("Row {row} differs in\n{told}{more}"))
    }
}
