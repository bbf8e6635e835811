//! What was read and how, in a few lines before the result.

use std::fmt;

use dusk_core::evidence::{Claim, ColumnClaim, Evidence, FieldId, Reading, Verdict};
use dusk_core::run::{FoundCorrection, Ready};

use super::corrections::corrections_line;
use super::layout::labelled;
use super::records::records_in_short;
use super::style::{NAME, QUIET, styled};
use super::visible::visible;

/// How the sources were read, and what was proven about them.
pub(crate) struct Digest<'r> {
    ready: &'r Ready<'r>,
    corrections: &'r [FoundCorrection],
}

impl<'r> Digest<'r> {
    pub(crate) fn of(ready: &'r Ready<'r>, corrections: &'r [FoundCorrection]) -> Self {
        Self { ready, corrections }
    }
}

impl fmt::Display for Digest<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let job = self.ready.job;
        for source in job.sources {
            writeln!(f, "{}", styled(NAME, &visible(&source.name)))?;
            if let Some(facts) = &source.workbook {
                labelled(
                    f,
                    "sheet",
                    &format!("\"{}\" of a workbook ({})", visible(&facts.sheet), facts.format),
                )?;
            }
            if let Some(facts) = &source.records {
                labelled(f, "records", &records_in_short(facts))?;
            }
            for evidence in &source.evidence {
                let claim = evidence.claim.to_string();
                let more = if evidence.claim == Claim::Header {
                    format!("; {}", source.header_note())
                } else {
                    String::new()
                };
                labelled(f, &claim, &format!("{}{more}", in_one_line(evidence)))?;
            }
        }
        for found in &self.ready.evidence {
            let name = job.target.fields.get(found.field).map_or("", |field| field.name.as_str());
            let label = found.evidence.claim.of_column().map_or("", ColumnClaim::title);
            labelled(f, label, &format!("{name}: {}", in_one_line(&found.evidence)))?;
        }
        labelled(f, "fed", &job.mapping.in_short(job.target))?;
        let name = |place: &FieldId| job.target.fields.get(*place).map(|field| field.name.as_str());
        let empty: Vec<&str> = job.mapping.left_empty(job.target).iter().filter_map(name).collect();
        if !empty.is_empty() {
            labelled(f, "left empty", &empty.join(", "))?;
        }
        if !job.mapping.leave_out.is_empty() {
            labelled(f, "left out", &job.mapping.leave_out.join(", "))?;
        }
        let first = job.sources.first().map_or("", |source| source.name.as_str());
        if let Some(says) = corrections_line(self.corrections, first) {
            labelled(f, "corrections", &says)?;
        }
        let target = job.target;
        let version =
            if target.version.is_empty() { String::new() } else { format!(", version {}", target.version) };
        writeln!(f, "{} {}{version}", styled(QUIET, "for"), styled(NAME, &target.name))?;
        writeln!(f)
    }
}

/// The verdict, and what supports it.
pub(super) fn in_one_line(evidence: &Evidence) -> String {
    let reading = match (&evidence.verdict, evidence.readings.first()) {
        (Verdict::Proven(_), Some(reading)) if reading.counted.is_empty() && reading.examples.is_empty() => {
            format!(": {}", reading.name)
        }
        (Verdict::Proven(_), Some(reading)) => {
            // The few rows that disagree are findings of their own.
            let brief = Reading { against: Vec::new(), ..reading.clone() };
            format!(": {brief}")
        }
        (Verdict::Named(_), Some(_)) => {
            let each = evidence.readings.iter().filter(|reading| !reading.name.is_empty());
            let each: Vec<String> = each.map(|reading| format!("{}: {reading}", reading.name)).collect();
            if each.is_empty() { String::new() } else { format!("; {}", each.join("; ")) }
        }
        _ => String::new(),
    };
    let suggests = evidence
        .suggests
        .iter()
        .map(|suggestion| format!("; a suggestion only: {suggestion}"))
        .collect::<String>();
    visible(&format!("{}{reading}{suggests}", evidence.verdict_shown())).into_owned()
}
