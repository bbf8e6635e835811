//! Records that were refused or warned about, put together by the target's own words.

use hashbrown::HashMap;
use serde::Serialize;

use super::told::{Told, ToldRecords};
use crate::SentRecords;
use dusk_description::AnswerOutcome;

/// How many places of a reason are named.
const FEW: usize = 3;

/// Records of which the target says the same.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct AnswerReason {
    /// What became of them.
    #[serde(serialize_with = "word")]
    pub outcome: AnswerOutcome,
    /// What the target says, of the first of them.
    pub says: String,
    /// Whether it says it of others with other numbers.
    pub varies: bool,
    /// How many there are.
    pub records: u64,
    /// The first of them: source, row, key.
    pub first: Vec<(String, u64, String)>,
}

fn word<S: serde::Serializer>(outcome: &AnswerOutcome, serializer: S) -> Result<S::Ok, S::Error> {
    serializer.serialize_str(outcome.word())
}

/// What the target says of records that it refused or warned about: refused ones first, the most records first.
pub fn reasons(sent: &SentRecords, told: &ToldRecords) -> Vec<AnswerReason> {
    let mut all: Vec<AnswerReason> = Vec::new();
    let mut places: HashMap<(AnswerOutcome, String), usize> = HashMap::new();
    for (at, record) in sent.iter().enumerate() {
        let Told::Said(outcome @ (AnswerOutcome::Refused | AnswerOutcome::Warned)) = told.get(at) else {
            continue;
        };
        let says = told.reason(at);
        let place = *places.entry((outcome, in_general(says, record.key))).or_insert_with(|| {
            all.push(AnswerReason {
                outcome,
                says: says.to_owned(),
                varies: false,
                records: 0,
                first: Vec::new(),
            });
            all.len() - 1
        });
        let Some(reason) = all.get_mut(place) else { continue };
        reason.records += 1;
        reason.varies |= reason.says != says;
        if reason.first.len() < FEW {
            reason.first.push((record.source.to_owned(), record.row.0, record.key.to_owned()));
        }
    }
    all.sort_by_key(|reason| (reason.outcome != AnswerOutcome::Refused, std::cmp::Reverse(reason.records)));
    all
}

/// What a target says, without what belongs to the one record: its key, and numbers.
fn in_general(says: &str, key: &str) -> String {
    let mut general = says.to_owned();
    for part in key.split(" + ").filter(|part| part.chars().count() > 1) {
        general = general.replace(part, "#");
    }
    let mut out = String::new();
    for letter in general.chars() {
        let is_digit = letter.is_ascii_digit();
        if !(is_digit && out.ends_with('#')) {
            out.push(if is_digit { '#' } else { letter });
        }
    }
    out
}
