//! What a batch remembers of its records, and what of the next export is unlike it.
//!
//! ```text
//! sample   records chosen by their hash, so that neither their order nor the number of threads matters
//! field    what is remembered of a field: how large, when, how long, which
//! pair     which of two fields holds the smaller value
//! memory   all of it, as a batch keeps it
//! records  the records by the hashes of their keys, to tell which are there again
//! compare  what is unlike, as far as chance and seasons do not make it
//! unlike   the same in words
//! ```
//!
//! Nothing here is proof: it is said first, worded as what it may be.

mod compare;
mod field;
mod memory;
mod pair;
mod records;
mod sample;
mod unlike;

pub use field::{FieldMemory, MomentMemory, NumberMemory, TextMemory};
pub use memory::{BatchMemory, RunFacts};
pub use pair::PairMemory;
pub use records::{KnownRecords, RecordHash};
pub use sample::{Held, Sample, SampledRecord, Sampler};
pub use unlike::Unlike;

/// How many of a hundred; nothing of nothing.
fn percent(count: u64, of: u64) -> u64 {
    (count * 100 + of / 2).checked_div(of).unwrap_or(0)
}
