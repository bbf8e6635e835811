//! Values of a column that may come again, so that those that repeat cost little.

use super::date_evidence::At;
use super::looks::Looks;
use dusk_values::ShortText;

/// How many values are kept.
const KEPT: usize = 1024;

/// After so many values a column has shown whether they repeat; at least so many of them have to.
const TRIED: u32 = 4096;
const REPEATED: u32 = 2048;

/// Values of a column that may come again.
#[derive(Debug, Clone, Default)]
pub(super) struct Repeating {
    slots: Vec<Met>,
    asked: u32,
    found: u32,
}

/// A value, how often it came while it was kept, and where first.
#[derive(Debug, Clone, Copy)]
pub(super) struct Met {
    pub(super) text: ShortText,
    pub(super) count: u64,
    pub(super) at: At,
    pub(super) looks: Looks,
}

impl Repeating {
    /// Whether the values have shown that they do not repeat, so that to look for them is in vain.
    pub(super) fn is_in_vain(&self) -> bool {
        self.asked == TRIED && self.found < REPEATED
    }

    /// Counts a value that is kept; gives what it looks like.
    pub(super) fn meet(&mut self, text: ShortText) -> Option<Looks> {
        let known = self.slots.get_mut(place_of(text)).filter(|known| known.text == text && known.count > 0);
        if self.asked < TRIED {
            self.asked += 1;
            self.found += u32::from(known.is_some());
        }
        let known = known?;
        known.count += 1;
        Some(known.looks)
    }

    /// Keeps a value that was met at `at`; gives the one that has to make room for it.
    pub(super) fn keep(&mut self, text: ShortText, at: At, looks: Looks) -> Option<Met> {
        if self.slots.is_empty() {
            let nothing = Met { text: ShortText::default(), count: 0, at, looks: Looks::Otherwise };
            self.slots = vec![nothing; KEPT];
        }
        let slot = self.slots.get_mut(place_of(text))?;
        let old = std::mem::replace(slot, Met { text, count: 1, at, looks });
        (old.count > 0).then_some(old)
    }

    /// Gives everything that is kept.
    pub(super) fn take(&mut self) -> impl Iterator<Item = Met> + use<> {
        std::mem::take(&mut self.slots).into_iter().filter(|met| met.count > 0)
    }
}

fn place_of(text: ShortText) -> usize {
    usize::try_from(text.hash(0)).unwrap_or(0) % KEPT
}
