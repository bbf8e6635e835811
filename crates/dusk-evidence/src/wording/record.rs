//! Words about whole records.

use crate::{EarlierRecord, HeldAt, RecordFact, Severity};

pub(super) fn wrong(fact: &RecordFact) -> String {
    match fact {
        RecordFact::SetOnce { holds } => {
            format!("would change \"{holds}\", which the target holds, and the field may be set only once")
        }
        RecordFact::KeyWritten { holds } => format!("is written \"{holds}\" by the target"),
        RecordFact::HeldUnwritable { why } => {
            format!("is what the target holds here, which must be sent as it is, and {why}")
        }
        RecordFact::HeldTwice { first, count } => {
            format!("is the key of {count} records that the target holds; the first is {}", held(first))
        }
        RecordFact::HeldAlready { at } => format!("is held by the target already, {}", held(at)),
        RecordFact::FoundTwice { earlier } => {
            format!("is the same record of the target as {}, in another spelling", place(earlier))
        }
        RecordFact::UnknownIdentifier => "is not an identifier that the target has handed out".into(),
        RecordFact::IdentifierOfAnother { at, has } => {
            format!(
                "is the identifier of another record; the other fields are those of \"{has}\", {}",
                held(at)
            )
        }
        RecordFact::ValueTaken { at } => {
            format!("is the value of another record of the target, {}", held(at))
        }
        RecordFact::ValueTwice { earlier } => format!("is the value of {} already", place(earlier)),
        RecordFact::TableRefuses { table, says } => format!("is refused by {table}: {says}"),
        RecordFact::TargetRefused { batch, says } if says.is_empty() => {
            format!("was refused by the target, which did not say why (batch {batch})")
        }
        RecordFact::TargetRefused { batch, says } => {
            format!("was refused by the target, which says: {says} (batch {batch})")
        }
        RecordFact::SentUnderOtherKey { batch, key } => {
            format!(
                "is the key of a row that batch {batch} has sent as \"{key}\", so the target would hold it twice"
            )
        }
        RecordFact::MergedInto { other } => format!("went into the record of {}", place(other)),
        RecordFact::Contradicted { other, earlier } => {
            format!("contradicts {}, which has the same key and says \"{other}\"", place(earlier))
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

fn held(at: &HeldAt) -> String {
    format!("row {} of {}", at.row, at.list)
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
        RecordFact::KeyWritten { holds } => format!("\"{holds}\", by which it was found"),
        RecordFact::HeldUnwritable { .. } => {
            "a value that the upload file can hold; correct that record in the target, or write one into this row".into()
        }
        RecordFact::HeldTwice { .. } => "one record of the target for each key; correct the target first, or keep this row out".into(),
        RecordFact::HeldAlready { .. } => "records that the target does not hold yet; keep this row out".into(),
        RecordFact::FoundTwice { .. } => "one row for each record of the target; the first one stays".into(),
        RecordFact::UnknownIdentifier => "blank for a new record, or the identifier that the target has for it".into(),
        RecordFact::IdentifierOfAnother { has, .. } => {
            format!("\"{has}\", or the other fields of the record whose identifier this is")
        }
        RecordFact::ValueTaken { .. } => "a value that no other record of the target has".into(),
        RecordFact::ValueTwice { .. } => "a value that no other row has".into(),
        RecordFact::TableRefuses { .. } => "a record that the table takes; correct the row, or the table".into(),
        RecordFact::TargetRefused { .. } => {
            "a record that the target takes; correct the row, or keep it out; where the reason is not its own, --retry with a part of it sends it as it is".into()
        }
        RecordFact::SentUnderOtherKey { key, .. } => {
            format!("\"{key}\"; where that key was wrong, correct the record in the target and keep this row out")
        }
        RecordFact::MergedInto { .. } => String::new(),
        RecordFact::Contradicted { .. } => {
            "the same in all rows of one key, or blank; correct one of the rows, or keep one out".into()
        }
        RecordFact::DuplicateKey { .. } => "one record for each key; the first one stays".into(),
        RecordFact::KeyWithOtherFacts { .. } => {
            "the same facts wherever the key is the same, corrected in the export; the first one stays if it was accepted".into()
        }
        RecordFact::RuleBroken { must, .. } | RecordFact::BatchRuleBroken { must, .. } => must.clone(),
    }
}
