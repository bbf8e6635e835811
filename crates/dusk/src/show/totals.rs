//! What became of the rows, and what the accepted records are beside those that the target holds: a line each.

use std::fmt;

use dusk_core::run::{BesideCounts, Summary};

use super::layout::{counted, grouped};
use super::style::{GOOD, NAME, REMARK, WRONG, styled};

/// What became of the rows, in one line.
pub(crate) struct Totals<'r>(pub(crate) &'r Summary);

impl fmt::Display for Totals<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let totals = self.0.totals;
        let rejected = grouped(totals.rejected);
        let rejected = if totals.rejected > 0 { styled(WRONG, &rejected) } else { rejected };
        writeln!(
            f,
            "{} {} read = {} accepted + {rejected} rejected + {} merged + {} left out",
            styled(NAME, &grouped(totals.read)),
            if totals.read == 1 { "row" } else { "rows" },
            styled(GOOD, &grouped(totals.accepted)),
            grouped(totals.merged),
            grouped(totals.left_out),
        )
    }
}

/// How many accepted records stay back, and why, in a line.
pub(crate) struct WithheldLine<'r>(pub(crate) &'r Summary);

impl fmt::Display for WithheldLine<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let withheld = self.0.withheld;
        if withheld.all() == 0 {
            return Ok(());
        }
        let why = [
            (withheld.loaded, "loaded before"),
            (withheld.unknown, "sent before, unknown whether loaded"),
            (withheld.waiting, "waiting for the rest"),
        ];
        let why: Vec<String> = why
            .iter()
            .filter(|(count, _)| *count > 0)
            .map(|(count, why)| format!("{} {why}", grouped(*count)))
            .collect();
        let sent = self.0.records.saturating_sub(withheld.all());
        let sent = if self.0.beside.is_some() {
            String::new()
        } else {
            format!("{} sent, ", styled(GOOD, &grouped(sent)))
        };
        writeln!(f, "  of the accepted records: {sent}{}", why.join(", "))
    }
}

/// What the accepted records are beside the held ones, in a line.
pub(crate) struct BesideLine<'r> {
    pub(crate) summary: &'r Summary,
    /// The last batch.
    pub(crate) last: Option<&'r str>,
}

impl fmt::Display for BesideLine<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Some(counts) = self.summary.beside else { return Ok(()) };
        let BesideCounts { new, changed, same, sent, unsent, removed, sent_before, .. } = counts;
        writeln!(
            f,
            "  {} accepted = {} new + {} changed + {} the same; {} sent + {} not sent",
            grouped(self.summary.records),
            styled(GOOD, &grouped(new)),
            styled(REMARK, &grouped(changed)),
            grouped(same),
            grouped(sent),
            grouped(unsent)
        )?;
        if removed > 0 {
            writeln!(
                f,
                "  {} that the target is told to remove",
                styled(WRONG, &counted(removed, "record"))
            )?;
        }
        if let Some(last) = self.last.filter(|_| sent_before > 0) {
            let were = if sent_before == 1 { "was" } else { "were" };
            writeln!(
                f,
                "  {} of the new ones {were} in batch {last} already, which is not known to be loaded",
                grouped(sent_before)
            )?;
        }
        Ok(())
    }
}
