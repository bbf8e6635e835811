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
    /// The target writes its key otherwise.
    KeyWritten {
        /// As the target writes it.
        holds: String,
    },
    /// What the target holds is to be sent as it is, and the upload file cannot hold it.
    HeldUnwritable {
        /// Why, in words.
        why: String,
    },
    /// The target holds several records that it may be.
    HeldTwice {
        /// Where the first of them is.
        first: HeldAt,
        /// How many there are.
        count: u64,
    },
    /// The target holds it already, and takes new records only.
    HeldAlready {
        /// Where it is.
        at: HeldAt,
    },
    /// An earlier record is the same held one.
    FoundTwice {
        /// Where that one is.
        earlier: EarlierRecord,
    },
    /// Its identifier is none that the target has handed out.
    UnknownIdentifier,
    /// Its identifier is that of another held record than its other fields say.
    IdentifierOfAnother {
        /// The one that its other fields say.
        at: HeldAt,
        /// The identifier of that one.
        has: String,
    },
    /// Another record of the target has the value, which may not come twice.
    ValueTaken {
        /// Which one.
        at: HeldAt,
    },
    /// An earlier record has the value, which may not come twice.
    ValueTwice {
        /// Where that one is.
        earlier: EarlierRecord,
    },
    /// The table that is loaded refuses it.
    TableRefuses {
        /// The table and where it is.
        table: String,
        /// What the database says.
        says: String,
    },
    /// The target refused it when a batch sent it, and it says the same still.
    TargetRefused {
        /// The batch.
        batch: String,
        /// What the target said.
        says: String,
    },
    /// A batch has sent its row with another key.
    SentUnderOtherKey {
        /// The batch.
        batch: String,
        /// That key.
        key: String,
    },
    /// It went into the record of another row.
    MergedInto {
        /// Where that one is.
        other: EarlierRecord,
    },
    /// Rows of one key say different things in a field.
    Contradicted {
        /// What another row says.
        other: String,
        /// Where that one is.
        earlier: EarlierRecord,
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

/// Where a held record is.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct HeldAt {
    /// Its row in the list.
    pub row: u64,
    /// The list.
    pub list: String,
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
            Self::KeyWritten { .. } => Kind::KeyWritten,
            Self::HeldUnwritable { .. } => Kind::HeldUnwritable,
            Self::HeldTwice { .. } => Kind::HeldTwice,
            Self::HeldAlready { .. } => Kind::HeldAlready,
            Self::FoundTwice { .. } => Kind::FoundTwice,
            Self::UnknownIdentifier => Kind::UnknownIdentifier,
            Self::IdentifierOfAnother { .. } => Kind::IdentifierOfAnother,
            Self::ValueTaken { .. } => Kind::ValueTaken,
            Self::ValueTwice { .. } => Kind::ValueTwice,
            Self::TableRefuses { .. } => Kind::TableRefuses,
            Self::TargetRefused { .. } => Kind::TargetRefused,
            Self::SentUnderOtherKey { .. } => Kind::SentUnderOtherKey,
            Self::MergedInto { .. } => Kind::MergedInto,
            Self::Contradicted { .. } => Kind::Contradicted,
            Self::DuplicateKey { .. } => Kind::DuplicateKey,
            Self::KeyWithOtherFacts { .. } => Kind::KeyWithOtherFacts,
            Self::RuleBroken { severity: Severity::Reject, .. } => Kind::RuleBroken,
            Self::RuleBroken { .. } => Kind::RuleNotMet,
            Self::BatchRuleBroken { severity: Severity::Reject, .. } => Kind::BatchRuleBroken,
            Self::BatchRuleBroken { .. } => Kind::BatchRuleNotMet,
        }
    }
}
