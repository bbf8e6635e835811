//! All that a batch remembers of its records, as `memory.json` keeps it.

use serde::{Deserialize, Serialize};

use crate::{FieldMemory, PairMemory, Sample};

/// What a run tells of itself beside its sample.
#[derive(Debug, Clone, Copy)]
pub struct RunFacts<'r> {
    /// The names of the fields, in their order.
    pub fields: &'r [&'r str],
    /// What the source puts before the decimals of each of them.
    pub marks: &'r [char],
    /// The day of the run, as days from the start of 1970.
    pub day: i64,
    /// How many rows were read.
    pub rows: u64,
    /// How the first source was read.
    pub encoding: &'r str,
}

/// What a batch remembers of its records. The number of its form goes up when a key changes its meaning.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct BatchMemory {
    /// The number of this form.
    pub form: u32,
    /// The day of the run, as days from the start of 1970.
    pub day: i64,
    /// How many rows were read.
    pub rows: u64,
    /// The encoding of the first source.
    pub encoding: String,
    /// The hashes of the rows in the sample, as sixteen digits each.
    pub hashes: String,
    /// What is remembered of each field.
    pub fields: Vec<FieldMemory>,
    /// How pairs of fields stand to one another.
    pub pairs: Vec<PairMemory>,
}

impl BatchMemory {
    /// What is to be remembered of a run.
    pub fn of(sample: &Sample, facts: &RunFacts<'_>) -> Self {
        let field = |(place, name): (usize, &&str)| {
            let mark = facts.marks.get(place).copied().unwrap_or('.');
            FieldMemory::of(name, mark, sample.held(place))
        };
        Self {
            form: 1,
            day: facts.day,
            rows: facts.rows,
            encoding: facts.encoding.to_owned(),
            hashes: sample.records().map(|record| format!("{:016x}", record.hash)).collect(),
            fields: facts.fields.iter().enumerate().map(field).collect(),
            pairs: PairMemory::all(sample, facts.fields),
        }
    }

    /// What is remembered of the field of this name.
    pub(crate) fn field(&self, name: &str) -> Option<&FieldMemory> {
        self.fields.iter().find(|field| field.field == name)
    }

    /// Whether the row with this hash was in the sample; nothing where that cannot be told, since the sample ends
    /// before it.
    pub(crate) fn had_row(&self, hash: u64) -> Option<bool> {
        let hash = format!("{hash:016x}");
        let count = self.hashes.len() / 16;
        let at = |place: usize| self.hashes.get(place * 16..place * 16 + 16).unwrap_or_default();
        let (mut low, mut high) = (0, count);
        while low < high {
            let middle = low + (high - low) / 2;
            match at(middle).cmp(&hash) {
                std::cmp::Ordering::Less => low = middle + 1,
                std::cmp::Ordering::Equal => return Some(true),
                std::cmp::Ordering::Greater => high = middle,
            }
        }
        // A sample that is not full holds every row.
        (low < count || count < crate::sample::MOST).then_some(false)
    }
}
