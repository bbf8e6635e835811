//! Which held records the rows of a run are, and how many of each kind there are.

use serde::{Deserialize, Serialize};

use super::block::BesideFate;
use dusk_conforming::Judged;
use dusk_description::Standing;
use dusk_held::HeldRecords;

/// How many records are what beside those that the target holds.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct BesideCounts {
    /// Accepted records that the target does not hold.
    pub new: u64,
    /// Accepted records that it holds otherwise.
    pub changed: u64,
    /// Accepted records that it holds as they are.
    pub same: u64,
    /// Held records that the export does not have.
    pub gone: u64,
    /// Accepted records that are sent.
    pub sent: u64,
    /// Accepted records that are not sent.
    pub unsent: u64,
    /// Held records that the target is told to remove.
    pub removed: u64,
    /// New records that the last batch had already, which is not known to be loaded.
    pub sent_before: u64,
    /// Rejected rows whose key cannot be read: each may be one of those that are gone.
    pub unplaced: u64,
}

impl BesideCounts {
    /// Every accepted record is one of the three, and is sent or not.
    pub fn add_up(&self, accepted: u64) -> bool {
        self.new + self.changed + self.same == accepted && self.sent + self.unsent == accepted
    }
}

/// The held records that were met.
#[derive(Debug)]
pub(crate) struct HeldSeen<'r> {
    pub(crate) held: &'r HeldRecords,
    /// For each held record, the accepted record that it is, or that a row has it.
    by: Vec<Seen>,
    pub(crate) counts: BesideCounts,
}

/// Whether a row has a held record.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Seen(u32);

impl Seen {
    /// No row has it.
    const NOT: Self = Self(u32::MAX);
    /// A row has it that does not go in.
    const OUT: Self = Self(u32::MAX - 1);
}

impl<'r> HeldSeen<'r> {
    pub(crate) fn new(held: &'r HeldRecords) -> Self {
        Self { held, by: vec![Seen::NOT; held.len() as usize], counts: BesideCounts::default() }
    }

    /// A row is a held record, whatever becomes of the row.
    pub(crate) fn see(&mut self, beside: &BesideFate, judged: Judged) {
        self.counts.unplaced += u64::from(beside.is_unplaced && judged != Judged::Accepted);
        let seen = beside.number.and_then(|number| self.by.get_mut(number as usize));
        if let Some(seen) = seen.filter(|seen| **seen == Seen::NOT) {
            *seen = Seen::OUT;
        }
    }

    /// The accepted record that a held one is already.
    pub(crate) fn taken_by(&self, number: u32) -> Option<u32> {
        self.by.get(number as usize).filter(|seen| seen.0 < Seen::OUT.0).map(|seen| seen.0)
    }

    /// Takes in an accepted record.
    pub(crate) fn take(&mut self, standing: Standing, held: Option<u32>, record: u32, is_sent: bool) {
        let counts = &mut self.counts;
        match standing {
            Standing::New => counts.new += 1,
            Standing::Changed => counts.changed += 1,
            Standing::Same => counts.same += 1,
        }
        if is_sent {
            counts.sent += 1;
        } else {
            counts.unsent += 1;
        }
        if let Some(seen) = held.and_then(|number| self.by.get_mut(number as usize)) {
            *seen = Seen(record);
        }
    }

    /// The held records that no row is.
    pub(crate) fn unseen(&self) -> Vec<u32> {
        let unseen = (0..).zip(&self.by).filter(|(_, seen)| **seen == Seen::NOT);
        unseen.map(|(number, _)| number).collect()
    }
}
