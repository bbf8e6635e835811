//! Whole records: keys, rules, and what the target holds.

use crate::{Kind, Severity};

/// What was found about a record, or about all of them.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum RecordFact {
    /// The target holds another value, and the field may be set only once.
    SetOnce {
        /// What the target holds.
        holds: String,
    },
    /// An earlier record has its key.
    DuplicateKey {
        /// Where that one is.
        earlier: EarlierRecord,
    },
    /// An earlier record has its key, and says something else.
    KeyWithOtherFacts {
        /// Where that one is.
        earlier: EarlierRecord,
    },
    /// A rule of the target does not hold in its row.
    RuleBroken {
        /// Whether that rejects it or only warns.
        severity: Severity,
        /// What the rule says.
        says: String,
        /// The rule.
        must: String,
    },
    /// A rule over all records, or a group of them, does not hold.
    BatchRuleBroken {
        /// Whether that stops the batch or only warns.
        severity: Severity,
        /// What the rule says.
        says: String,
        /// The rule.
        must: String,
        /// What was reckoned: "sum of honey_kg 812.5".
        reckoned: Vec<String>,
    },
}

/// Where an earlier record of the same key is.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum EarlierRecord {
    /// In the same row.
    SameRow,
    /// In another row of the same source.
    Row(u64),
    /// In a row of another source.
    RowOf(u64, String),
}

impl RecordFact {
    pub(super) fn kind(&self) -> Kind {
        match self {
            Self::SetOnce { .. } => Kind::SetOnce,
            Self::DuplicateKey { .. } => Kind::DuplicateKey,
            Self::KeyWithOtherFacts { .. } => Kind::KeyWithOtherFacts,
            Self::RuleBroken { severity: Severity::Reject, .. } => Kind::RuleBroken,
            Self::RuleBroken { .. } => Kind::RuleNotMet,
            Self::BatchRuleBroken { severity: Severity::Reject, .. } => Kind::BatchRuleBroken,
            Self::BatchRuleBroken { .. } => Kind::BatchRuleNotMet,
        }
    }
}
