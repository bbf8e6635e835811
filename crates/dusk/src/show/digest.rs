//! What was read and how, in a few lines before the result.

use std::fmt;

use dusk_core::batch::Ready;
use dusk_core::inspect::DateOrderEvidence;

use super::layout::grouped;
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
            writeln!(f, "{}", styled(NAME, &visible(&source.name)))?;
            writeln!(f, "  encoding    {} ({})", source.encoding.label(), source.encoding.reason())?;
            writeln!(f, "  delimiter   {} ({})", source.delimiter_name(), source.delimiter.reason)?;
            writeln!(f, "  header      row {}{above}; {} columns", source.header_row, source.columns.len())?;
        }
        for (place, evidence) in &self.ready.date_orders {
            let name = job.target.fields.get(*place).map_or("", |field| field.name.as_str());
            writeln!(f, "  date order  {name}: {}", order(evidence))?;
        }
        let left_out = &job.mapping.leave_out;
        if !left_out.is_empty() {
            writeln!(f, "  {}", styled(QUIET, &format!("left out    {}", left_out.join(", "))))?;
        }
        let target = job.target;
        let version =
            if target.version.is_empty() { String::new() } else { format!(", version {}", target.version) };
        writeln!(f, "{} {}{version}", styled(QUIET, "for"), styled(NAME, &target.name))?;
        writeln!(f)
    }
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
