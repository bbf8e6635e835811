//! Rules on a sheet of their own.

use super::claim::DraftedRule;
use super::dictionary::HEADINGS_WITHIN;
use super::facts::fold;
use super::headings::{Role, role};
use super::{Material, MaterialSheet};

/// Rules on a sheet of their own: a column of checks, and one of messages.
pub(super) fn rules(material: &Material, sheet: &MaterialSheet) -> Option<Vec<DraftedRule>> {
    let is_message = |cell: &String| {
        matches!(
            fold(cell).as_str(),
            "message" | "says" | "error" | "errormessage" | "text" | "explanation" | "meaning"
        )
    };
    let (header, cells) =
        sheet.cells.rows.iter().enumerate().take(HEADINGS_WITHIN).find(|(_, cells)| cells.len() > 1)?;
    let check = cells.iter().position(|cell| role(cell) == Some(Role::Rule))?;
    let message = cells.iter().position(is_message)?;
    let rows = sheet.rows_below(header).filter(|(row, _)| !sheet.cells.cell(*row, check).is_empty());
    let rule = |(row, _)| DraftedRule {
        must: sheet.cells.cell(row, check).to_owned(),
        says: sheet.cells.cell(row, message).to_owned(),
        from: material.place(sheet, row, check),
    };
    Some(rows.map(rule).collect())
}
