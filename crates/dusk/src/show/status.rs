//! What is in a folder, as `dusk status` shows it.

use std::fmt;

use super::delivered::stage_word;
use super::layout::{behind, columns, counted, padded};
use super::style::{COMMAND, NAME, QUIET, styled};
use super::visible::visible;
use crate::command::{ExportState, FolderState};

/// The most lines of each part.
const MOST: usize = 8;

/// What is in a folder.
pub(crate) struct StatusShown<'s>(pub(crate) &'s FolderState);

impl fmt::Display for StatusShown<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let state = self.0;
        part(f, "target", state.targets.iter().map(|(file, says)| (file.clone(), says.clone())))?;
        part(f, "mappings", state.mappings.iter().map(|(file, says)| (file.clone(), says.clone())))?;
        part(f, "exports", state.exports.iter().map(|export| (export.name.clone(), export_says(export))))?;
        let batches = state.batches.iter().rev().map(|batch| {
            let rows = counted(batch.accepted, "row");
            let says = format!("{}: {rows} accepted, {} rejected", stage_word(batch.stage), batch.rejected);
            (batch.name.clone(), says)
        });
        part(f, "batches", batches)?;
        match &state.next {
            Some((command, why)) => {
                writeln!(f, "{}", styled(QUIET, &visible(why)))?;
                writeln!(f, "next: {}", styled(COMMAND, &visible(command)))
            }
            None => writeln!(f, "nothing waits here"),
        }
    }
}

fn export_says(export: &ExportState) -> String {
    match (&export.batch, export.mappings.as_slice()) {
        (Some((batch, 0)), _) => format!("in batch {batch}, all of it accepted"),
        (Some((batch, rejected)), _) => format!("in batch {batch}, {} rejected", counted(*rejected, "row")),
        (None, []) => "fits no mapping that is saved here".to_owned(),
        (None, [mapping]) => format!("fits {mapping}; no batch yet"),
        (None, several) => format!("fits {}; no batch yet", several.join(", ")),
    }
}

/// A part with its lines; nothing where it has none.
fn part(
    f: &mut fmt::Formatter<'_>,
    title: &str,
    lines: impl Iterator<Item = (String, String)>,
) -> fmt::Result {
    let lines: Vec<(String, String)> =
        lines.map(|(name, says)| (visible(&name).into_owned(), visible(&says).into_owned())).collect();
    if lines.is_empty() {
        return Ok(());
    }
    writeln!(f, "{}", styled(NAME, title))?;
    let shown = lines.get(..MOST).unwrap_or(&lines);
    let widest = shown.iter().map(|(name, _)| columns(name)).max().unwrap_or(0);
    for (name, says) in shown {
        write!(f, "{}", behind(&format!("  {}  ", padded(name, widest)), widest + 4, says))?;
    }
    if lines.len() > shown.len() {
        writeln!(f, "  {}", styled(QUIET, &format!("and {} more", lines.len() - shown.len())))?;
    }
    writeln!(f)
}
