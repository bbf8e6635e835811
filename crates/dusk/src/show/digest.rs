//! What was read and how, in a few lines before the result.

use std::fmt;

use dusk_core::batch::Ready;
use dusk_core::inspect::DateOrderEvidence;

use super::layout::{grouped, padded, width, wrapped};
use super::style::{NAME, QUIET, styled};
use super::visible::visible;

/// How the sources were read, and what was proven about them.
pub(crate) struct Digest<'r> {
    ready: &'r Ready<'r>,
}

impl<'r> Digest<'r> {
    pub(crate) fn of(ready: &'r Ready<'r>) -> Self {
        Self { ready }
    }
}

impl fmt::Display for Digest<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let job = self.ready.job;
        for source in job.sources {
            let above = match source.header_row {
                1 => String::new(),
                2 => ", 1 row above it skipped".into(),
                row => format!(", {} rows above it skipped", row - 1),
            };
            let (row, columns) = (source.header_row, source.columns.len());
            writeln!(f, "{}", styled(NAME, &visible(&source.name)))?;
            item(f, "encoding", &format!("{} ({})", source.encoding.label(), source.encoding.reason()))?;
            item(f, "delimiter", &format!("{} ({})", source.delimiter_name(), source.delimiter.reason))?;
            item(f, "header", &format!("row {row}{above}; {columns} columns"))?;
        }
        for (place, evidence) in &self.ready.date_orders {
            let name = job.target.fields.get(*place).map_or("", |field| field.name.as_str());
            item(f, "date order", &format!("{name}: {}", order(evidence)))?;
        }
        if !job.mapping.leave_out.is_empty() {
            item(f, "left out", &job.mapping.leave_out.join(", "))?;
        }
        let target = job.target;
        let version =
            if target.version.is_empty() { String::new() } else { format!(", version {}", target.version) };
        writeln!(f, "{} {}{version}", styled(QUIET, "for"), styled(NAME, &target.name))?;
        writeln!(f)
    }
}

/// One line of the digest, or several where it is long.
fn item(f: &mut fmt::Formatter<'_>, label: &str, text: &str) -> fmt::Result {
    const MARGIN: usize = 14;
    for (place, line) in wrapped(text, width() - MARGIN, 0).iter().enumerate() {
        let label = if place == 0 { label } else { "" };
        writeln!(f, "  {}{line}", styled(QUIET, &padded(label, MARGIN - 2)))?;
    }
    Ok(())
}

/// What a column's dates prove, with the counts and an example that cannot be misread.
fn order(evidence: &DateOrderEvidence) -> String {
    match evidence.proven() {
        Some(order) => {
            let count = evidence.proofs(order);
            let example = count.proof.as_ref().map_or_else(String::new, |proof| {
                format!(
                    "; first row {} \"{}\" = {}",
                    proof.row.with_line(proof.line),
                    visible(&proof.value),
                    proof.reads
                )
            });
            let values = if count.only == 1 { "value allows" } else { "values allow" };
            format!(
                "{} (proven: {} {values} no other order, none contradicts it{example})",
                order.word(),
                grouped(count.only)
            )
        }
        None => format!("not needed ({} values have one reading only)", grouped(evidence.self_evident)),
    }
}
