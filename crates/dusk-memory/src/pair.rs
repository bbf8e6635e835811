//! Which of two fields holds the smaller value: one day before another, one amount never above another.

use serde::{Deserialize, Serialize};

use crate::{Held, Sample};

/// How the values of two fields stand to one another, in a sample of records.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct PairMemory {
    /// The two fields.
    pub fields: [String; 2],
    /// How often the first has the smaller value.
    pub less: u64,
    /// How often both have the same.
    pub same: u64,
    /// How often the first has the greater value.
    pub greater: u64,
}

impl PairMemory {
    /// How many records have both.
    pub(crate) fn of(&self) -> u64 {
        self.less + self.same + self.greater
    }

    /// Every pair of fields with values of one kind.
    pub(crate) fn all(sample: &Sample, fields: &[&str]) -> Vec<Self> {
        let mut pairs = Vec::new();
        for (place, first) in fields.iter().enumerate() {
            for (behind, second) in fields.iter().enumerate().skip(place + 1) {
                let fields = [(*first).to_owned(), (*second).to_owned()];
                let mut pair = Self { fields, less: 0, same: 0, greater: 0 };
                for record in sample.records() {
                    pair.take(record.held.get(place).copied(), record.held.get(behind).copied());
                }
                if pair.of() > 0 {
                    pairs.push(pair);
                }
            }
        }
        pairs
    }

    fn take(&mut self, first: Option<Held>, second: Option<Held>) {
        let order = match (first, second) {
            (Some(Held::Number(first, _)), Some(Held::Number(second, _))) => first.cmp(&second),
            (Some(Held::Moment(first)), Some(Held::Moment(second))) => first.cmp(&second),
            _ => return,
        };
        match order {
            std::cmp::Ordering::Less => self.less += 1,
            std::cmp::Ordering::Equal => self.same += 1,
            std::cmp::Ordering::Greater => self.greater += 1,
        }
    }
}
