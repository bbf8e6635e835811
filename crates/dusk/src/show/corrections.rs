//! Corrected cells, old beside new.

use dusk_core::evidence::Id as _;
use dusk_core::rejects::ChangedCell;
use dusk_core::run::{CorrectionCounts, CorrectionFate, FoundCorrection};
use dusk_core::values::shown_day;
use serde_json::{Value, json};

use super::layout::{columns, cut, grouped, padded};
use super::style::{GOOD, WRONG, styled};
use super::table::SimpleTable;
use super::visible::visible;
use crate::args::TableFormat;

/// How many changes are listed one by one.
const MOST: usize = 200;

/// How wide a value may get.
const WIDEST: usize = 48;

/// Cells that were changed: what was to be read before, and what is from now on.
pub(crate) fn changes_table(changes: &[ChangedCell], sources: &[&str]) -> String {
    let shown = changes.get(..MOST).unwrap_or(changes);
    let place = |change: &ChangedCell| {
        let source = match sources {
            [_, _, ..] => format!(" of {}", sources.get(change.source.index()).copied().unwrap_or_default()),
            _ => String::new(),
        };
        format!("row {}{source}", change.row)
    };
    let widest = |texts: &dyn Fn(&ChangedCell) -> String| {
        shown.iter().map(|change| columns(&texts(change))).max().unwrap_or(0)
    };
    let places = widest(&place);
    let headings = widest(&|change| visible(&change.column).into_owned());
    let befores = widest(&|change| quoted(&change.before));
    let mut out = String::new();
    for change in shown {
        out.push_str(&format!(
            "  {}  {}  {}  →  {}\n",
            padded(&place(change), places),
            padded(&visible(&change.column), headings),
            styled(WRONG, &padded(&quoted(&change.before), befores)),
            styled(GOOD, &now(change)),
        ));
    }
    if changes.len() > shown.len() {
        out.push_str(&format!("  and {} more\n", grouped((changes.len() - shown.len()) as u64)));
    }
    out
}

/// What a cell holds from now on; one that held something and holds nothing is said to be cleared.
fn now(change: &ChangedCell) -> String {
    let is_cleared = change.now.is_empty() && !change.before.is_empty();
    if is_cleared { "(cleared)".to_owned() } else { quoted(&change.now) }
}

/// A value in quotes, cut to what the table has room for.
fn quoted(text: &str) -> String {
    match text {
        "" => "(blank)".to_owned(),
        text => cut(&format!("\"{}\"", visible(text)), WIDEST),
    }
}

/// The same for programs.
pub(crate) fn changes_json(changes: &[ChangedCell], sources: &[&str]) -> Value {
    let one = |change: &ChangedCell| {
        json!({
            "source": sources.get(change.source.index()), "row": change.row, "column": change.column,
            "was": change.was, "before": change.before, "now": change.now,
        })
    };
    changes.iter().map(one).collect()
}

fn word(found: CorrectionFate) -> &'static str {
    match found {
        CorrectionFate::Applied => "applied",
        CorrectionFate::NoLongerNeeded => "no longer needed",
        CorrectionFate::Stale => "stale",
        CorrectionFate::Unclear => "unclear",
        CorrectionFate::NotThere => "not there",
    }
}

/// What was corrected, and what has become of it.
pub(crate) fn corrections_table(found: &[FoundCorrection]) -> String {
    let mut table = SimpleTable::new(&["row", "column", "was", "now", "state", "by", "on", "note"]);
    for one in found {
        let correction = &one.correction;
        let row = match one.place {
            Some((_, row)) if row != correction.row => format!("{row} (was {})", correction.row),
            _ => correction.row.to_string(),
        };
        let state = match (one.found, &one.has) {
            (CorrectionFate::Stale, Some(has)) => format!("stale: \"{has}\" now"),
            (CorrectionFate::Stale, None) => "stale: the row has changed".to_owned(),
            (CorrectionFate::Unclear, _) => "unclear: several rows alike".to_owned(),
            (found, _) => word(found).to_owned(),
        };
        table.add([
            row,
            correction.column.clone(),
            correction.was.clone(),
            correction.now.clone(),
            state,
            correction.by.clone(),
            shown_day(&correction.on),
            correction.note.clone(),
        ]);
    }
    table.without_blank_columns().print(TableFormat::Text).unwrap_or_default()
}

/// The same for programs.
pub(crate) fn corrections_json(found: &[FoundCorrection]) -> Value {
    let one = |one: &FoundCorrection| {
        let correction = &one.correction;
        json!({
            "row": correction.row, "column": correction.column, "was": correction.was,
            "now": correction.now, "by": correction.by, "on": correction.on, "note": correction.note,
            "state": word(one.found), "row_now": one.place.map(|(_, row)| row), "has": one.has,
        })
    };
    found.iter().map(one).collect()
}

/// One line about the corrections of earlier days; nothing where there are none.
pub(super) fn corrections_line(found: &[FoundCorrection], source: &str) -> Option<String> {
    let counts = CorrectionCounts::of(found);
    let cells = |count: usize, what: &str| match count {
        0 => None,
        count => Some(format!("{} {what}", grouped(count as u64))),
    };
    let all: Vec<String> = [
        cells(counts.applied, "applied"),
        cells(counts.no_longer_needed, "no longer needed, the source has made them itself"),
        cells(counts.stale, "stale and not applied"),
    ]
    .into_iter()
    .flatten()
    .collect();
    if all.is_empty() {
        return None;
    }
    let look = if counts.no_longer_needed + counts.stale > 0 {
        format!("; to see them: dusk correct {}", super::visible::shell_word(source))
    } else {
        String::new()
    };
    Some(format!("{}{look}", all.join(", ")))
}
