//! What is remembered of a field's values.

use hashbrown::HashMap;
use serde::{Deserialize, Serialize};

use crate::Held;

/// How many different texts are remembered, those with the smallest hashes.
const MOST_TEXTS: usize = 400;

/// The most decimals that are told apart.
const MOST_DECIMALS: usize = 8;

/// What is remembered of the values of a field, in a sample of its records.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct FieldMemory {
    /// The field's name.
    pub field: String,
    /// How many records were looked at.
    pub of: u64,
    /// In how many of them the value was rejected.
    pub wrong: u64,
    /// Its numbers.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub numbers: Option<NumberMemory>,
    /// Its days and times.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub moments: Option<MomentMemory>,
    /// Its texts and codes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub texts: Option<TextMemory>,
}

/// What is remembered of numbers.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct NumberMemory {
    /// How many there were.
    pub count: u64,
    /// The least, those below which a quarter, a half and three quarters lie, and the greatest; in millionths.
    pub quarters: [i64; 5],
    /// How many are below zero.
    pub below_zero: u64,
    /// How many are above it.
    pub above_zero: u64,
    /// How many have no decimals, one, two and so on.
    pub decimals: Vec<u64>,
    /// What the source puts before the decimals.
    pub mark: char,
}

/// What is remembered of days and times.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct MomentMemory {
    /// How many there were.
    pub count: u64,
    /// The first, those before which a quarter, a half and three quarters lie, and the last; in minutes from the
    /// start of 1970, or of the day.
    pub quarters: [i64; 5],
}

/// What is remembered of texts.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct TextMemory {
    /// How many there were.
    pub count: u64,
    /// The shortest, those below which a quarter, a half and three quarters lie, and the longest; in characters.
    pub lengths: [i64; 5],
    /// How many are as long as the longest.
    pub longest: u64,
    /// How many begin with 0.
    pub zero_first: u64,
    /// How many have letters outside ASCII.
    pub accented: u64,
    /// How many different ones there were.
    pub different: u64,
    /// Some of them by their hashes, each with how often it was met.
    pub texts: Vec<(String, u64)>,
}

impl FieldMemory {
    /// What is to be remembered of a field.
    pub(crate) fn of(field: &str, mark: char, held: impl Iterator<Item = Held> + Clone) -> Self {
        let numbers = held.clone().filter_map(|held| match held {
            Held::Number(number, decimals) => Some((number, decimals)),
            _ => None,
        });
        let moments = held.clone().filter_map(|held| match held {
            Held::Moment(minutes) => Some(minutes),
            _ => None,
        });
        Self {
            field: field.to_owned(),
            of: held.clone().count() as u64,
            wrong: held.clone().filter(|held| *held == Held::Wrong).count() as u64,
            numbers: NumberMemory::of(numbers.collect(), mark),
            moments: quarters(moments.collect()).map(|(count, quarters)| MomentMemory { count, quarters }),
            texts: TextMemory::of(held),
        }
    }
}

impl NumberMemory {
    fn of(numbers: Vec<(i64, u8)>, mark: char) -> Option<Self> {
        let below_zero = numbers.iter().filter(|(number, _)| *number < 0).count() as u64;
        let above_zero = numbers.iter().filter(|(number, _)| *number > 0).count() as u64;
        let mut decimals = vec![0; MOST_DECIMALS];
        for (_, places) in &numbers {
            if let Some(count) = decimals.get_mut(usize::from(*places).min(MOST_DECIMALS - 1)) {
                *count += 1;
            }
        }
        let (count, quarters) = quarters(numbers.into_iter().map(|(number, _)| number).collect())?;
        Some(Self { count, quarters, below_zero, above_zero, decimals, mark })
    }

    /// How many numbers have more decimals than so many.
    pub(crate) fn with_more_decimals(&self, than: usize) -> u64 {
        self.decimals.iter().skip(than + 1).sum()
    }
}

impl TextMemory {
    fn of(held: impl Iterator<Item = Held>) -> Option<Self> {
        let mut counts: HashMap<u64, u64> = HashMap::new();
        let mut lengths = Vec::new();
        let (mut zeros, mut accents) = (0, 0);
        for held in held {
            let Held::Text { hash, chars, zero_first, accented } = held else { continue };
            *counts.entry(hash).or_insert(0) += 1;
            lengths.push(i64::from(chars));
            zeros += u64::from(zero_first);
            accents += u64::from(accented);
        }
        let longest = lengths.iter().max().copied().unwrap_or(0);
        let at_longest = lengths.iter().filter(|length| **length == longest).count() as u64;
        let (count, lengths) = quarters(lengths)?;
        let different = counts.len() as u64;
        let mut texts: Vec<(u64, u64)> = counts.into_iter().collect();
        texts.sort_unstable();
        texts.truncate(MOST_TEXTS);
        Some(Self {
            count,
            lengths,
            longest: at_longest,
            zero_first: zeros,
            accented: accents,
            different,
            texts: texts.into_iter().map(|(hash, count)| (format!("{hash:016x}"), count)).collect(),
        })
    }
}

/// How many values there are, the least, the quarters and the greatest; nothing of none.
fn quarters(mut values: Vec<i64>) -> Option<(u64, [i64; 5])> {
    values.sort_unstable();
    let last = values.len().checked_sub(1)?;
    let at = |quarter: usize| values.get(last * quarter / 4).copied().unwrap_or_default();
    Some((values.len() as u64, [at(0), at(1), at(2), at(3), at(4)]))
}
