//! What a run comes to.

use serde::{Deserialize, Serialize};

use super::beside::BesideCounts;
use super::field_totals::FieldTotal;
use crate::WithheldCounts;
use dusk_evidence::{ById, Cause, Error, FieldId, Result};
use dusk_mapping::FieldDigest;
use dusk_memory::{BatchMemory, Sample};
use dusk_sources::{Source, SourceIdentity};

/// What became of the rows. Every row is in exactly one of the last four.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Totals {
    /// Rows below the header, blank ones as well.
    pub read: u64,
    /// Rows that are right. They are in the upload file, but for records that need not be sent, or stay back.
    pub accepted: u64,
    /// Rows that at least one finding keeps out.
    pub rejected: u64,
    /// Rows that went into the record of another row.
    pub merged: u64,
    /// Rows that hold no record: blank ones.
    pub left_out: u64,
}

impl Totals {
    /// True when every row read is accounted for once.
    pub fn add_up(&self) -> bool {
        self.read == self.accepted + self.rejected + self.merged + self.left_out
    }
}

/// How many accepted records the last batch had already, by their keys.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct AgainCounts {
    /// Those that say the same.
    pub same: u64,
    /// Those that say something else.
    pub other: u64,
}

/// A rule over the whole batch, and what it comes to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct BatchLimit {
    /// What the rule is called.
    pub rule: String,
    /// What must hold.
    pub must: String,
    /// What was reckoned, in words: "sum of honey_kg 812.5".
    pub reckoned: Vec<String>,
    /// The rule does not hold.
    #[serde(rename = "broken")]
    pub is_broken: bool,
}

/// What a run comes to.
#[derive(Debug, Clone)]
pub struct Summary {
    /// What became of the rows.
    pub totals: Totals,
    /// What keeps records out, the largest cause first.
    pub causes: Vec<Cause>,
    /// For each cause, how many rejected rows are explained by it and those before it.
    pub explained: Vec<u64>,
    /// What was noticed and keeps nothing out.
    pub remarks: Vec<Cause>,
    /// How many of the rows that were left out are kept out by a decision.
    pub kept_out: u64,
    /// How many records are in the upload file; more than rows where a row makes several.
    pub records: u64,
    /// How many cells of accepted records were changed.
    pub changed_cells: u64,
    /// What was met in the column of each field that has one.
    pub digest: Vec<FieldDigest>,
    /// The records that are remembered, and what of them is.
    pub sample: Sample,
    /// How many of the accepted records the last batch had already; nothing where that is not known.
    pub again: Option<AgainCounts>,
    /// How many records are what beside those that the target holds, where that is known.
    pub beside: Option<BesideCounts>,
    /// How many accepted records stay back, since batches before have sent them, or only a few go first.
    pub withheld: WithheldCounts,
    /// What the sent records come to, field by field, where that was wanted.
    pub field_totals: Vec<FieldTotal>,
    /// In how many of the records that are sent each field is filled, in the target's order; where the run adds up.
    pub sent_filled: Vec<(FieldId, u64)>,
    /// The rules over the whole batch, and what they come to.
    pub limits: Vec<BatchLimit>,
    /// What the batch remembers.
    pub memory: BatchMemory,
    /// What identifies each source.
    pub sources: Vec<SourceIdentity>,
    /// How many records were conformed, rejected ones among them.
    pub conformed: u64,
    /// For each field, in how many of these its column is not blank.
    pub filled: ById<FieldId, u64>,
}

impl Summary {
    /// How many records are sent: of the accepted ones those that do not stay back.
    pub fn sent(&self) -> u64 {
        self.beside.map_or_else(|| self.records.saturating_sub(self.withheld.all()), |counts| counts.sent)
    }

    /// Stops where not one row holds a record: nothing can be said of such an export.
    ///
    /// # Errors
    /// [`Error::NoRows`] then.
    pub fn refuse_no_rows(&self, sources: &[Source]) -> Result<()> {
        let Totals { read, accepted, rejected, merged, .. } = self.totals;
        // A row that is left out for a reason that is said is no sign of an export cut short.
        let says_why = read > 0 && !(self.causes.is_empty() && self.remarks.is_empty());
        if accepted + rejected + merged + self.kept_out > 0 || says_why {
            return Ok(());
        }
        let sources: Vec<&str> = sources.iter().map(|source| source.name.as_str()).collect();
        Err(Error::NoRows { sources: sources.join(", "), rows: read })
    }
}
