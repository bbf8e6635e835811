//! What became of the records of a job in batches before this one: so that nothing goes in twice, and what was refused
//! is known until it is mended.

use hashbrown::HashMap;
use serde::{Deserialize, Serialize};

use dusk_evidence::{Row, SourceId};

/// What is known of a record that was sent.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum SentFate {
    /// The target has it.
    Loaded,
    /// The target refused it, and said why.
    Refused(String),
    /// The target does not have it, as its own counts or its list show.
    NotThere,
    /// Nobody knows: the target has not answered, or not mentioned it.
    Unknown,
}

/// A record that was sent before.
#[derive(Debug, Clone)]
pub struct SentRecord {
    /// The batch that sent it.
    pub batch: String,
    /// Its key as people read it; blank where the target has none.
    pub key: String,
    /// Its source and row, where this job has the same source.
    pub place: Option<(SourceId, Row)>,
    /// The hash of what it said.
    pub content: u32,
    /// What became of it.
    pub fate: SentFate,
}

/// The records that batches before this one have sent.
#[derive(Debug, Default)]
pub struct SentBefore {
    records: Vec<SentRecord>,
    by_key: HashMap<String, usize>,
    by_row: HashMap<(SourceId, Row), Vec<usize>>,
    sends_unknown: bool,
}

/// What a record is beside those that were sent before.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Beforehand<'s> {
    /// It was never sent, or was refused and has been mended since.
    Goes,
    /// It stays back.
    Withheld(Withheld),
    /// It was refused, and says the same still.
    Refused { batch: &'s str, says: &'s str },
    /// Its row was sent under another key, and the record of that key may be in the target.
    OtherKey { batch: &'s str, key: &'s str },
}

/// Why an accepted record is not sent.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Withheld {
    /// The target has it.
    Loaded,
    /// It was sent, and nobody knows what became of it.
    Unknown,
    /// It waits: only a few rows are sent first.
    Waits,
}

/// How many accepted records stay back, and why.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct WithheldCounts {
    /// The target has them.
    pub loaded: u64,
    /// They were sent, and nobody knows what became of them.
    pub unknown: u64,
    /// They wait, since only a few rows are sent first.
    pub waiting: u64,
}

impl WithheldCounts {
    pub(crate) fn add(&mut self, why: Withheld) {
        match why {
            Withheld::Loaded => self.loaded += 1,
            Withheld::Unknown => self.unknown += 1,
            Withheld::Waits => self.waiting += 1,
        }
    }

    /// All of them.
    pub fn all(&self) -> u64 {
        self.loaded + self.unknown + self.waiting
    }
}

impl SentBefore {
    /// Nothing was sent yet. `sends_unknown` says that records of which nobody knows what became of them go once more,
    /// because somebody has said so.
    pub fn new(sends_unknown: bool) -> Self {
        Self { sends_unknown, ..Self::default() }
    }

    /// Takes in a record of the next batch. What is loaded stays so, whatever comes later; of all else the last word
    /// counts.
    pub fn take(&mut self, record: SentRecord) {
        let at = self.records.len();
        let same_row = record.place.and_then(|place| self.by_row.get(&place));
        let known = if record.key.is_empty() {
            // What is loaded was not sent again: it is another record of the row.
            let is_it = |known: &SentRecord| known.batch != record.batch && known.fate != SentFate::Loaded;
            same_row.into_iter().flatten().copied().find(|at| self.records.get(*at).is_some_and(is_it))
        } else {
            self.by_key.get(&record.key).copied()
        };
        if let Some(known) = known.and_then(|at| self.records.get_mut(at)) {
            if known.fate != SentFate::Loaded {
                known.fate = record.fate;
                known.content = record.content;
                known.batch = record.batch;
            }
            return;
        }
        if !record.key.is_empty() {
            self.by_key.insert(record.key.clone(), at);
        }
        if let Some(place) = record.place {
            self.by_row.entry(place).or_default().push(at);
        }
        self.records.push(record);
    }

    /// The records that were sent.
    pub fn records(&self) -> &[SentRecord] {
        &self.records
    }

    /// What a record is, by its key, its place, what it says, and whether its row makes no other.
    pub(crate) fn judge(
        &self,
        key: &str,
        place: (SourceId, Row),
        content: u32,
        is_only: bool,
    ) -> Beforehand<'_> {
        let of_row = || self.by_row.get(&place).into_iter().flatten().filter_map(|at| self.records.get(*at));
        if key.is_empty() {
            let same = of_row().find(|record| record.content == content);
            let refused = || of_row().find(|record| matches!(record.fate, SentFate::Refused(_)));
            return match same.or_else(refused).or_else(|| of_row().next()) {
                Some(record) => self.goes_again(record, content),
                None => Beforehand::Goes,
            };
        }
        if let Some(record) = self.by_key.get(key).and_then(|at| self.records.get(*at)) {
            return self.goes_again(record, content);
        }
        // A row that is under another key now would be in the target twice.
        let mut others = of_row();
        match (others.next(), others.next()) {
            (Some(other), None) if is_only => match other.fate {
                SentFate::Refused(_) | SentFate::NotThere => Beforehand::Goes,
                SentFate::Unknown if self.sends_unknown => Beforehand::Goes,
                SentFate::Loaded | SentFate::Unknown => {
                    Beforehand::OtherKey { batch: &other.batch, key: &other.key }
                }
            },
            _ => Beforehand::Goes,
        }
    }

    fn goes_again<'s>(&'s self, record: &'s SentRecord, content: u32) -> Beforehand<'s> {
        match &record.fate {
            SentFate::Loaded => Beforehand::Withheld(Withheld::Loaded),
            SentFate::Unknown if self.sends_unknown => Beforehand::Goes,
            SentFate::Unknown => Beforehand::Withheld(Withheld::Unknown),
            SentFate::Refused(says) if record.content == content => {
                Beforehand::Refused { batch: &record.batch, says }
            }
            SentFate::Refused(_) | SentFate::NotThere => Beforehand::Goes,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use dusk_evidence::Id as _;
    use proptest::collection::vec;
    use proptest::prelude::*;

    /// What the target does with a record, and what it says of it.
    #[derive(Debug, Clone, Copy)]
    struct Does {
        loads: bool,
        says: bool,
        /// The steward changes the row before the next batch.
        mended: bool,
    }

    fn does() -> impl Strategy<Value = Does> {
        (any::<bool>(), proptest::bool::weighted(0.7), any::<bool>()).prop_map(|(loads, says, mended)| Does {
            loads,
            says,
            mended,
        })
    }

    proptest! {
        /// Over any sequence of batches and answers nothing goes that the target has, and what it refused goes as soon
        /// as it says something else.
        #[test]
        fn nothing_that_the_target_has_goes_again(
            rounds in vec(vec(does(), 5), 1..8),
            keyed in any::<bool>(),
        ) {
            let mut before = SentBefore::new(false);
            let (mut holds, mut content, mut refused) = ([0; 5], [0_u32; 5], [None; 5]);
            for (number, round) in rounds.iter().enumerate() {
                let batch = format!("b{number}");
                let mut sent = Vec::new();
                for (at, does) in round.iter().enumerate() {
                    let key = if keyed { format!("k{at}") } else { String::new() };
                    let place = (SourceId::new(0), Row(at as u64 + 2));
                    match before.judge(&key, place, content[at], true) {
                        Beforehand::Goes => {
                            prop_assert_eq!(holds[at], 0, "it would be there twice");
                            holds[at] += usize::from(does.loads);
                            let fate = match (does.says, does.loads) {
                                (false, _) => SentFate::Unknown,
                                (true, true) => SentFate::Loaded,
                                (true, false) => SentFate::Refused(String::new()),
                            };
                            refused[at] = matches!(fate, SentFate::Refused(_)).then_some(content[at]);
                            let (batch, content) = (batch.clone(), content[at]);
                            sent.push(SentRecord { batch, key, place: Some(place), content, fate });
                        }
                        Beforehand::Refused { .. } => prop_assert_eq!(refused[at], Some(content[at])),
                        Beforehand::Withheld(Withheld::Loaded) => prop_assert_eq!(holds[at], 1),
                        Beforehand::Withheld(Withheld::Unknown) => prop_assert_eq!(refused[at], None),
                        other => prop_assert!(false, "{:?}", other),
                    }
                    content[at] += u32::from(does.mended);
                }
                sent.into_iter().for_each(|record| before.take(record));
            }
        }
    }

    fn sent(batch: &str, key: &str, row: u64, content: u32, fate: SentFate) -> SentRecord {
        let place = Some((SourceId::new(0), Row(row)));
        SentRecord { batch: batch.into(), key: key.into(), place, content, fate }
    }

    #[test]
    fn what_is_loaded_never_goes_again_and_what_is_refused_goes_once_it_is_mended() {
        let mut before = SentBefore::new(false);
        before.take(sent("a", "k1", 2, 1, SentFate::Loaded));
        before.take(sent("a", "k2", 3, 2, SentFate::Refused("closed".into())));
        before.take(sent("a", "k3", 4, 3, SentFate::Unknown));
        before.take(sent("b", "k1", 2, 9, SentFate::Refused("twice".into())));
        before.take(sent("b", "k2", 3, 5, SentFate::Unknown));
        let place = |row| (SourceId::new(0), Row(row));
        let judge = |key, row, content| before.judge(key, place(row), content, true);
        assert_eq!(judge("k1", 2, 7), Beforehand::Withheld(Withheld::Loaded));
        assert_eq!(
            judge("k2", 3, 5),
            Beforehand::Withheld(Withheld::Unknown),
            "sent again, and not answered"
        );
        assert_eq!(judge("k3", 4, 3), Beforehand::Withheld(Withheld::Unknown));
        assert_eq!(judge("k4", 5, 3), Beforehand::Goes);
        let other = Beforehand::OtherKey { batch: "a", key: "k1" };
        assert_eq!(judge("k9", 2, 7), other, "the row is in the target under another key");
        let mut yes = SentBefore::new(true);
        yes.take(sent("a", "k3", 4, 3, SentFate::Unknown));
        assert_eq!(yes.judge("k3", place(4), 3, true), Beforehand::Goes);
        let mut without = SentBefore::new(false);
        without.take(sent("a", "", 2, 1, SentFate::Loaded));
        without.take(sent("a", "", 2, 2, SentFate::Refused("no".into())));
        let judge = |content| without.judge("", place(2), content, false);
        assert_eq!(judge(1), Beforehand::Withheld(Withheld::Loaded));
        assert_eq!(judge(2), Beforehand::Refused { batch: "a", says: "no" });
        assert_eq!(judge(3), Beforehand::Goes, "the one that was refused, mended");
    }
}
