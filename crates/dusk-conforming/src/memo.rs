//! Values of a field that were met before. Most columns repeat few values, so that most cells
//! cost a look-up and no more.

use std::num::NonZeroU32;

use hashbrown::HashMap;

use super::Outcome;
use dusk_values::ShortText;

/// How many different short values of a field are remembered; as many long ones.
const MOST: usize = 8_192;

/// How far from its place a value may stand in the table.
const REACH: usize = 8;

/// After how many new values it is judged whether remembering pays.
const TRIAL: u32 = 8_192;

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
    fn at_once(changed: bool) -> Self {
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

/// A remembered short value, with what it is in the upload file where that is short as well. It
/// is one cache line, which is all that most cells touch.
#[derive(Debug, Clone, Copy)]
#[repr(align(64))]
struct Entry {
    text: ShortText,
    parent: u32,
    // Never zero, so that an empty space needs no room of its own.
    outcome: NonZeroU32,
    state: State,
    encoded: Encoded,
}

/// A short piece of the upload file.
#[derive(Debug, Clone, Copy, Default)]
struct Encoded {
    bytes: [u8; 24],
    length: u8,
}

impl Encoded {
    fn of(bytes: &[u8]) -> Option<Self> {
        let mut encoded = Self { length: u8::try_from(bytes.len()).ok()?, ..Self::default() };
        encoded.bytes.get_mut(..bytes.len())?.copy_from_slice(bytes);
        Some(encoded)
    }

    /// Appends the bytes: all 24 of them at once, and then the surplus is cut off.
    #[inline]
    fn append_to(&self, out: &mut Vec<u8>) {
        let length = out.len() + usize::from(self.length);
        out.extend_from_slice(&self.bytes);
        out.truncate(length);
    }
}

/// The outcomes of one field, by raw value.
#[derive(Debug)]
pub(super) struct FieldMemo {
    table: Vec<Option<Entry>>,
    filled: usize,
    long: HashMap<Box<str>, usize>,
    outcomes: Vec<Outcome>,
    states: Vec<State>,
    new_values: u32,
    /// The row at which the count of new values began.
    since: u64,
    off: bool,
    keeps_steps: bool,
}

impl FieldMemo {
    /// Remembers nothing yet. The outcomes keep their steps if `keeps_steps` says so.
    pub(super) fn new(keeps_steps: bool) -> Self {
        Self {
            keeps_steps,
            table: vec![None; 64 + REACH],
            filled: 0,
            long: HashMap::new(),
            outcomes: vec![Outcome::new(keeps_steps)],
            states: vec![State::UNCHANGED],
            new_values: 0,
            since: 0,
            off: false,
        }
    }

    /// The outcome of a value met before.
    #[inline]
    pub(super) fn find(&self, key: MemoKey<'_>) -> Option<Remembered> {
        if self.off {
            return None;
        }
        match key {
            MemoKey::Short(text, parent) => self.find_short(text, parent),
            MemoKey::Long(text) => self.long.get(text).map(|place| self.found(*place)),
            MemoKey::None => None,
        }
    }

    #[inline]
    fn find_short(&self, text: ShortText, parent: u32) -> Option<Remembered> {
        let start = start_in(self.table.len(), text, parent);
        for (entry, slot) in self.table.get(start..start + REACH)?.iter().zip(start..) {
            let entry = entry.as_ref()?;
            if entry.text == text && entry.parent == parent {
                return Some(Remembered {
                    place: entry.outcome.get() as usize,
                    slot: Some(slot),
                    state: entry.state,
                });
            }
        }
        None
    }

    /// An outcome by its place.
    pub(super) fn found(&self, place: usize) -> Remembered {
        Remembered { place, slot: None, state: self.states.get(place).copied().unwrap_or(State::FAULTY) }
    }

    /// A place for the outcome of a new value, met in the `row`-th row; [`NOT_REMEMBERED`] where
    /// there is none.
    pub(super) fn place_for(&mut self, key: MemoKey<'_>, row: u64) -> usize {
        if self.off {
            return NOT_REMEMBERED;
        }
        self.new_values += 1;
        if self.new_values == TRIAL {
            if row - self.since < u64::from(TRIAL) * 2 {
                // Remembering a column of ever new values costs more than it saves.
                *self = Self { off: true, ..Self::new(self.keeps_steps) };
                return NOT_REMEMBERED;
            }
            (self.new_values, self.since) = (0, row);
        }
        let place = self.outcomes.len();
        let kept = match key {
            MemoKey::Short(text, parent) => self.keep_short(text, parent, place),
            MemoKey::Long(text) if self.long.len() < MOST => self.long.insert(text.into(), place).is_none(),
            MemoKey::Long(_) | MemoKey::None => false,
        };
        if !kept {
            return NOT_REMEMBERED;
        }
        self.outcomes.push(Outcome::new(self.keeps_steps));
        self.states.push(State::UNCHANGED);
        place
    }

    fn keep_short(&mut self, text: ShortText, parent: u32, place: usize) -> bool {
        if self.filled * 2 >= self.table.len() && self.table.len() < MOST * 2 {
            let old = std::mem::take(&mut self.table);
            self.table = vec![None; (old.len() - REACH) * 4 + REACH];
            // What finds no room any more is forgotten and met again.
            old.into_iter().flatten().for_each(|entry| {
                self.put(entry);
            });
        }
        let Some(outcome) = u32::try_from(place).ok().and_then(NonZeroU32::new) else { return false };
        let kept =
            self.put(Entry { text, parent, outcome, state: State::UNCHANGED, encoded: Encoded::default() });
        self.filled += usize::from(kept);
        kept
    }

    fn put(&mut self, entry: Entry) -> bool {
        let start = start_in(self.table.len(), entry.text, entry.parent);
        let free =
            self.table.get_mut(start..start + REACH).into_iter().flatten().find(|space| space.is_none());
        match free {
            Some(space) => {
                *space = Some(entry);
                true
            }
            None => false,
        }
    }

    /// Notes what a run has to know about a new outcome.
    pub(super) fn settle(&mut self, place: usize, key: MemoKey<'_>) -> Remembered {
        let Some(outcome) = self.outcomes.get_mut(place) else { return Remembered::NOTHING };
        let state = match (outcome.faults.is_empty(), outcome.trail.changed()) {
            (false, _) => State::FAULTY,
            (true, _) if !outcome.remarks.is_empty() => State::REMARKED,
            (true, true) => State::CHANGED,
            (true, false) => State::UNCHANGED,
        };
        if let Some(slot) = self.states.get_mut(place) {
            *slot = state;
        }
        if let (MemoKey::Short(text, parent), true) = (key, place != NOT_REMEMBERED) {
            let start = start_in(self.table.len(), text, parent);
            let entries = self.table.get_mut(start..start + REACH).into_iter().flatten();
            for (slot, entry) in entries.enumerate() {
                if let Some(entry) = entry
                    && entry.outcome.get() as usize == place
                {
                    entry.state = state;
                    if let Some(encoded) = Encoded::of(&outcome.encoded) {
                        entry.encoded = encoded;
                        outcome.encoded = Vec::new();
                    }
                    return Remembered { place, slot: Some(start + slot), state };
                }
            }
        }
        Remembered { place, slot: None, state }
    }

    /// Appends an outcome's piece of the upload file.
    #[inline]
    pub(super) fn append(&self, found: Remembered, out: &mut Vec<u8>) {
        let entry = found.slot.and_then(|slot| self.table.get(slot)?.as_ref());
        match entry.filter(|entry| entry.encoded.length > 0) {
            Some(entry) => entry.encoded.append_to(out),
            None => out.extend_from_slice(
                self.outcomes.get(found.place).map_or(&[][..], |outcome| &outcome.encoded),
            ),
        }
    }

    /// Whether values are no longer remembered.
    #[inline]
    pub(super) fn is_off(&self) -> bool {
        self.off
    }

    /// The outcome that is used again and again, filled at once where `fill` can do that with a value that fits.
    #[inline]
    pub(super) fn at_once(
        &mut self,
        fill: impl FnOnce(&mut Outcome) -> bool,
    ) -> Option<(Remembered, &Outcome)> {
        let outcome = self.outcomes.first_mut()?;
        if !fill(outcome) {
            return None;
        }
        let found = Remembered::at_once(outcome.trail.changed());
        *self.states.first_mut()? = found.state;
        Some((found, outcome))
    }

    /// Makes the outcome that is not remembered one that nobody can judge.
    pub(super) fn leave_unjudged(&mut self) {
        let fresh = Outcome { unjudged: true, ..Outcome::new(self.keeps_steps) };
        if let (Some(outcome), Some(state)) = (self.outcomes.first_mut(), self.states.first_mut()) {
            *outcome = fresh;
            *state = State::UNCHANGED;
        }
    }

    pub(super) fn outcome(&self, place: usize) -> Option<&Outcome> {
        self.outcomes.get(place)
    }

    pub(super) fn outcome_mut(&mut self, place: usize) -> Option<&mut Outcome> {
        self.outcomes.get_mut(place)
    }

    /// Gives the change of a remembered outcome its number.
    pub(super) fn number(&mut self, found: Remembered, number: u32) {
        let state = State::numbered(number);
        if let Some(slot) = self.states.get_mut(found.place) {
            *slot = state;
        }
        if let Some(Some(entry)) = found.slot.and_then(|slot| self.table.get_mut(slot)) {
            entry.state = state;
        }
    }
}

/// Where the stretch of a value begins in a table of so many entries: a power of two and a reach.
fn start_in(entries: usize, text: ShortText, parent: u32) -> usize {
    (text.hash(parent) as usize) & (entries - REACH - 1)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn short(text: &str, parent: u32) -> MemoKey<'_> {
        ShortText::within(text.as_bytes(), 0, text.len())
            .map_or(MemoKey::None, |text| MemoKey::Short(text, parent))
    }

    /// Remembers a value as if it had been conformed to itself.
    fn remember(memo: &mut FieldMemo, key: MemoKey<'_>, text: &str, row: u64) -> Remembered {
        let place = memo.place_for(key, row);
        let outcome = memo.outcome_mut(place).unwrap();
        *outcome = Outcome { text: text.into(), encoded: text.into(), ..Outcome::default() };
        memo.settle(place, key)
    }

    fn written(memo: &FieldMemo, found: Remembered) -> String {
        let mut out = Vec::new();
        memo.append(found, &mut out);
        String::from_utf8(out).unwrap()
    }

    #[test]
    fn what_was_remembered_is_found_with_what_it_became_however_the_table_grows() {
        let mut memo = FieldMemo::new(false);
        let values: Vec<String> = (0..6_000).map(|number| format!("value {number}")).collect();
        let kept: Vec<Remembered> = values
            .iter()
            .zip(0..)
            .map(|(text, row)| remember(&mut memo, short(text, 0), text, row * 9))
            .collect();
        let mut found = 0;
        for (text, kept) in values.iter().zip(kept) {
            if let Some(again) = memo.find(short(text, 0)) {
                assert_eq!(written(&memo, again), *text);
                assert_eq!(again.place, kept.place);
                found += 1;
            }
        }
        assert!(found > 5_000, "{found} of 6,000 were remembered");
        assert_eq!(memo.find(short("value", 0)), None);
    }

    #[test]
    fn the_same_value_inside_another_parent_is_another_value() {
        let mut memo = FieldMemo::new(false);
        remember(&mut memo, short("wing", 1), "01", 1);
        remember(&mut memo, short("wing", 2), "02", 2);
        let inside = |parent| written(&memo, memo.find(short("wing", parent)).unwrap());
        assert_eq!((inside(1), inside(2)), ("01".into(), "02".into()));
        assert_eq!(memo.find(short("wing", 3)), None);
        assert_eq!(memo.find(MemoKey::Long("wing")), None);
    }

    #[test]
    fn a_column_of_ever_new_values_is_no_longer_remembered() {
        let mut memo = FieldMemo::new(false);
        for number in 0..u64::from(TRIAL) {
            let text = number.to_string();
            remember(&mut memo, short(&text, 0), &text, number);
        }
        assert_eq!(memo.find(short("1", 0)), None);
        let last = remember(&mut memo, short("new", 0), "became", 9_999);
        assert_eq!((last.place, written(&memo, last).as_str()), (NOT_REMEMBERED, "became"));
    }

    #[test]
    fn a_change_keeps_its_number() {
        let mut memo = FieldMemo::new(false);
        let found = remember(&mut memo, short("a", 0), "b", 1);
        memo.number(found, 7);
        assert_eq!(memo.find(short("a", 0)).unwrap().state.number(), Some(7));
        assert_eq!(
            (State::CHANGED.number(), State::FAULTY.number(), State::UNCHANGED.number()),
            (None, None, None)
        );
    }
}
