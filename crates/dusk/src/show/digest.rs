//! What was read and how, in a few lines before the result.

use std::fmt;

use dusk_core::evidence::{Claim, ColumnClaim, Evidence, FieldEvidence, FieldId, Reading, Verdict};
use dusk_core::run::{FoundCorrection, Ready};
use dusk_core::sources::Source;

use super::corrections::corrections_line;
use super::layout::{columns, labelled, width, wrapped};
use super::records::{how_read, records_in_short};
use super::style::{NAME, QUIET, styled};
use super::visible::visible;

/// How the sources were read, and what was proven about them.
pub(crate) struct Digest<'r> {
    ready: &'r Ready<'r>,
    corrections: &'r [FoundCorrection],
    /// All of the evidence is told, and not only what leaves a doubt.
    evidence: bool,
}

impl<'r> Digest<'r> {
    pub(crate) fn of(ready: &'r Ready<'r>, corrections: &'r [FoundCorrection], evidence: bool) -> Self {
        Self { ready, corrections, evidence }
    }

    /// How a source was read in one line, and what leaves a doubt.
    fn in_short(f: &mut fmt::Formatter<'_>, source: &Source) -> fmt::Result {
        let says = match &source.workbook {
            Some(facts) => {
                format!(
                    "read as \"{}\" of a workbook ({}), headings in row {}",
                    facts.sheet, facts.format, source.header_row
                )
            }
            None => format!("read as {}", how_read(source, true)),
        };
        let margin = columns(&source.name) + 2;
        for (place, line) in
            wrapped(&visible(&says), width().saturating_sub(margin).max(30), 0).iter().enumerate()
        {
            match place {
                0 => writeln!(f, "{}  {line}", styled(NAME, &visible(&source.name)))?,
                _ => writeln!(f, "{}{line}", " ".repeat(margin.min(8)))?,
            }
        }
        for evidence in source.evidence.iter().filter(|evidence| leaves_a_doubt(evidence)) {
            labelled(f, &evidence.claim.to_string(), &in_one_line(evidence))?;
        }
        Ok(())
    }

    /// What was found out about the columns of fields, in one line.
    fn columns_in_short(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let name = |found: &FieldEvidence| {
            let field = self.ready.job.target.fields.get(found.field);
            visible(field.map_or("", |field| field.name.as_str())).into_owned()
        };
        let is_told = |found: &&FieldEvidence| {
            !matches!(found.evidence.verdict, Verdict::NotNeeded) && !leaves_a_doubt(&found.evidence)
        };
        let told: Vec<String> = self
            .ready
            .evidence
            .iter()
            .filter(is_told)
            .map(|found| format!("{} {}", name(found), visible(&found.evidence.verdict_shown())))
            .collect();
        if !told.is_empty() {
            labelled(f, "fields", &told.join(", "))?;
        }
        for found in self.ready.evidence.iter().filter(|found| leaves_a_doubt(&found.evidence)) {
            let label = found.evidence.claim.of_column().map_or("", ColumnClaim::title);
            labelled(f, label, &format!("{}: {}", name(found), in_one_line(&found.evidence)))?;
        }
        Ok(())
    }
}

/// Whether somebody has to look at a piece of evidence: it proves nothing, or suggests something else.
fn leaves_a_doubt(evidence: &Evidence) -> bool {
    let is_settled = matches!(
        evidence.verdict,
        Verdict::Proven(_) | Verdict::Named(_) | Verdict::NotNeeded | Verdict::NoMatter(_)
    );
    !is_settled || !evidence.suggests.is_empty()
}

impl fmt::Display for Digest<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let job = self.ready.job;
        if !self.evidence {
            job.sources.iter().try_for_each(|source| Self::in_short(f, source))?;
            self.columns_in_short(f)?;
            return self.about_the_target(f);
        }
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
        self.about_the_target(f)
    }
}

impl Digest<'_> {
    /// The corrections that hold, and what all of it is for.
    fn about_the_target(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let job = self.ready.job;
        let first = job.sources.first().map_or("", |source| source.name.as_str());
        if let Some(says) = corrections_line(self.corrections, first) {
            labelled(f, "corrections", &says)?;
        }
        let target = job.target;
        let version =
            if target.version.is_empty() { String::new() } else { format!(", version {}", target.version) };
        for (place, line) in
            wrapped(&visible(&format!("{}{version}", target.name)), width(), 4).iter().enumerate()
        {
            let head = if place == 0 { styled(QUIET, "for ") } else { "  ".to_owned() };
            writeln!(f, "{head}{}", styled(NAME, line))?;
        }
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
