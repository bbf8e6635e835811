//! Where what became of a value is remembered, and what a run has to know about it at every cell.

use dusk_values::ShortText;

/// The place of the outcome that is used again and again for values that are not remembered.
pub(super) const NOT_REMEMBERED: usize = 0;

/// What a run has to know about an outcome at every cell, in one word.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct State(u32);

impl State {
    /// It fits as it is.
    pub(super) const UNCHANGED: Self = Self(0);
    /// It has faults.
    pub(super) const FAULTY: Self = Self(1);
    /// It was changed, and the change has no number yet.
    pub(super) const CHANGED: Self = Self(2);
    /// It fits, changed or not, and something is to be said about it.
    pub(super) const REMARKED: Self = Self(3);
    /// The state of a change with the number zero.
    const FIRST_NUMBER: u32 = 4;

    /// It was changed, and the change has this number.
    pub(super) fn numbered(number: u32) -> Self {
        Self(number.saturating_add(Self::FIRST_NUMBER))
    }

    /// The change's number, where it has one.
    pub(super) fn number(self) -> Option<u32> {
        self.0.checked_sub(Self::FIRST_NUMBER)
    }
}

/// Where an outcome is, and what a run has to know about it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Remembered {
    /// Its place among the outcomes.
    pub(super) place: usize,
    /// Its slot in the table of short values, if it has one.
    pub(super) slot: Option<usize>,
    /// Its state.
    pub(super) state: State,
}

/// The place of a value that is as it stands in the source: it is in the record already, and nowhere else.
const STANDS: usize = usize::MAX;

impl Remembered {
    /// Nothing that was conformed.
    pub(super) const NOTHING: Self = Self { place: NOT_REMEMBERED, slot: None, state: State::UNCHANGED };

    /// A value that is as it stands in the source.
    pub(super) const STANDS: Self = Self { place: STANDS, slot: None, state: State::UNCHANGED };

    /// Whether it is as it stands in the source.
    #[inline]
    pub(super) fn stands(self) -> bool {
        self.place == STANDS
    }

    /// An outcome that is not remembered, changed or not, and fits.
    #[inline]
    pub(super) fn at_once(changed: bool) -> Self {
        Self { state: if changed { State::CHANGED } else { State::UNCHANGED }, ..Self::NOTHING }
    }
}

/// What a value is remembered by: its text, and the place of its parent's outcome.
#[derive(Debug, Clone, Copy)]
pub(super) enum MemoKey<'k> {
    Short(ShortText, u32),
    Long(&'k str),
    /// A value that cannot be remembered.
    None,
}
