//! The result of a run: remarks, totals, causes.

use std::fmt;

use dusk_core::batch::{Ready, Summary};

use super::causes::Causes;
use super::layout::grouped;
use super::style::{GOOD, NAME, REMARK, WRONG, styled};
use super::visible::visible;

/// The result of a run for people.
pub(crate) struct Report<'r> {
    pub(crate) ready: &'r Ready<'r>,
    pub(crate) summary: &'r Summary,
    pub(crate) all_causes: bool,
    pub(crate) quiet: bool,
}

impl fmt::Display for Report<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if !self.quiet {
            for remark in &self.summary.remarks {
                let value = if remark.example.is_empty() {
                    remark.about.clone()
                } else {
                    format!("{} \"{}\"", remark.about, remark.example)
                };
                let word = remark.kind.severity().word();
                writeln!(
                    f,
                    "{}: {} {}; {}",
                    styled(REMARK, word),
                    styled(NAME, &visible(&value)),
                    remark.wrong,
                    remark.right
                )?;
            }
            if !self.summary.remarks.is_empty() {
                writeln!(f)?;
            }
        }
        let totals = self.summary.totals;
        let rejected = grouped(totals.rejected);
        let rejected = if totals.rejected > 0 { styled(WRONG, &rejected) } else { rejected };
        writeln!(
            f,
            "{} rows read = {} accepted + {rejected} rejected + {} merged + {} left out",
            styled(NAME, &grouped(totals.read)),
            styled(GOOD, &grouped(totals.accepted)),
            grouped(totals.merged),
            grouped(totals.left_out),
        )?;
        if totals.left_out > 0 && !self.quiet {
            writeln!(
                f,
                "  left out: {}",
                if totals.left_out == 1 {
                    "a blank row".into()
                } else {
                    format!("{} blank rows", grouped(totals.left_out))
                }
            )?;
        }
        Causes { ready: self.ready, causes: &self.summary.causes, all: self.all_causes }.fmt(f)
    }
}
