//! Words about whole records.

use crate::{EarlierRecord, RecordFact, Severity};

pub(super) fn wrong(fact: &RecordFact) -> String {
    match fact {
        RecordFact::SetOnce { holds } => {
            format!("would change \"{holds}\", which the target holds, and the field may be set only once")
        }
        RecordFact::DuplicateKey { earlier } => format!("is the key of {} already", place(earlier)),
        RecordFact::KeyWithOtherFacts { earlier } => {
            format!(
                "is the key of {} as well, and the two do not say the same in every field",
                place(earlier)
            )
        }
        RecordFact::RuleBroken { severity, says, .. } => format!("{} a rule: {says}", does(*severity)),
        RecordFact::BatchRuleBroken { severity, says, reckoned, .. } => {
            format!("{} a rule: {says} ({})", does(*severity), reckoned.join(", "))
        }
    }
}

fn does(severity: Severity) -> &'static str {
    match severity {
        Severity::Reject => "breaks",
        Severity::Warn | Severity::Note => "does not meet",
    }
}

fn place(earlier: &EarlierRecord) -> String {
    match earlier {
        EarlierRecord::SameRow => "another record of this row".into(),
        EarlierRecord::Row(row) => format!("row {row}"),
        EarlierRecord::RowOf(row, source) => format!("row {row} of {source}"),
    }
}

pub(super) fn right(fact: &RecordFact) -> String {
    match fact {
        RecordFact::SetOnce { holds } => format!("\"{holds}\", or blank, which leaves it alone"),
        RecordFact::DuplicateKey { .. } => "one record for each key; the first one stays".into(),
        RecordFact::KeyWithOtherFacts { .. } => {
            "the same facts wherever the key is the same, corrected in the export; the first one stays if it was accepted".into()
        }
        RecordFact::RuleBroken { must, .. } | RecordFact::BatchRuleBroken { must, .. } => must.clone(),
    }
}
