//! Values of a field that were met before. Most columns repeat few values, so that most cells
//! cost a look-up and no more.

use std::num::NonZeroU32;

use hashbrown::HashMap;

use super::Outcome;
use super::remembered::{MemoKey, NOT_REMEMBERED, Remembered, State};
use dusk_values::ShortText;

/// How many different short values of a field are remembered; as many long ones.
const MOST: usize = 8_192;

/// How far from its place a value may stand in the table.
const REACH: usize = 8;

/// After how many new values it is judged whether remembering pays: as many have to have come again.
const TRIAL: u32 = 8_192;

/// After how many new values it shows that none comes again. Of as many values as are remembered, each as likely as
/// the others, some 16 would have.
const FIRST_TRIAL: u32 = 512;
const FEW_AGAIN: u32 = 4;

/// How many values with faults are remembered. Those that come again and again are met early, and the others are many.
const MOST_FAULTY: usize = 1_000;

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
    /// How many new values were met since it was last judged whether remembering pays, and how often one was found.
    new_values: u32,
    found_again: u32,
    is_judged: bool,
    faulty: usize,
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
            found_again: 0,
            is_judged: false,
            faulty: 0,
            off: false,
        }
    }

    /// The outcome of a value met before.
    #[inline]
    pub(super) fn find(&mut self, key: MemoKey<'_>) -> Option<Remembered> {
        if self.off {
            return None;
        }
        let found = match key {
            MemoKey::Short(text, parent) => self.find_short(text, parent)?,
            MemoKey::Long(text) => self.long.get(text).map(|place| self.found(*place))?,
            MemoKey::None => return None,
        };
        self.found_again = self.found_again.saturating_add(1);
        Some(found)
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

    /// Whether the values met so far show that remembering a column of ever new values costs more than it saves.
    fn is_in_vain(&mut self) -> bool {
        self.new_values += 1;
        let wanted = match self.new_values {
            FIRST_TRIAL if !self.is_judged => FEW_AGAIN,
            TRIAL => TRIAL,
            _ => return false,
        };
        let in_vain = self.found_again < wanted;
        if self.new_values == TRIAL {
            (self.new_values, self.found_again, self.is_judged) = (0, 0, true);
        }
        in_vain
    }

    /// A place for the outcome of a new value; [`NOT_REMEMBERED`] where there is none.
    pub(super) fn place_for(&mut self, key: MemoKey<'_>) -> usize {
        if self.off {
            return NOT_REMEMBERED;
        }
        if self.is_in_vain() {
            *self = Self { off: true, ..Self::new(self.keeps_steps) };
            return NOT_REMEMBERED;
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
        if state == State::FAULTY && place != NOT_REMEMBERED {
            if self.faulty == MOST_FAULTY {
                return self.forget_last(key);
            }
            self.faulty += 1;
        }
        let Some(outcome) = self.outcomes.get_mut(place) else { return Remembered::NOTHING };
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

    /// Forgets the value that was the last to be remembered; its outcome is good until the next one.
    fn forget_last(&mut self, key: MemoKey<'_>) -> Remembered {
        let place = self.outcomes.len() - 1;
        if let (Some(outcome), Some(state)) = (self.outcomes.pop(), self.states.pop())
            && let (Some(first), Some(its_state)) = (self.outcomes.first_mut(), self.states.first_mut())
        {
            (*first, *its_state) = (outcome, state);
        }
        match key {
            MemoKey::Short(text, parent) => {
                let start = start_in(self.table.len(), text, parent);
                let spaces = self.table.get_mut(start..start + REACH).into_iter().flatten();
                // Nothing was put behind it since.
                for space in
                    spaces.filter(|space| space.is_some_and(|entry| entry.outcome.get() as usize == place))
                {
                    *space = None;
                    self.filled -= 1;
                }
            }
            MemoKey::Long(text) => {
                self.long.remove(text);
            }
            MemoKey::None => {}
        }
        Remembered { place: NOT_REMEMBERED, slot: None, state: State::FAULTY }
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
    fn remember(memo: &mut FieldMemo, key: MemoKey<'_>, text: &str) -> Remembered {
        let place = memo.place_for(key);
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
        let remembered_and_found = |text: &String| {
            let kept = remember(&mut memo, short(text, 0), text);
            memo.find(short(text, 0));
            kept
        };
        let kept: Vec<Remembered> = values.iter().map(remembered_and_found).collect();
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
        remember(&mut memo, short("wing", 1), "01");
        remember(&mut memo, short("wing", 2), "02");
        let mut inside = |parent| {
            let found = memo.find(short("wing", parent)).unwrap();
            written(&memo, found)
        };
        assert_eq!((inside(1), inside(2)), ("01".into(), "02".into()));
        assert_eq!(memo.find(short("wing", 3)), None);
        assert_eq!(memo.find(MemoKey::Long("wing")), None);
    }

    #[test]
    fn a_column_of_ever_new_values_is_no_longer_remembered_and_one_that_repeats_is() {
        // How often a value comes again: never, about as seldom as among the most that are remembered, each time.
        for (again, values, is_off) in
            [(0, 511, false), (0, 512, true), (30, 4_000, false), (1, 20_000, false)]
        {
            let mut memo = FieldMemo::new(false);
            for number in 0..values {
                let text = number.to_string();
                remember(&mut memo, short(&text, 0), &text);
                if again > 0 && number % again == 0 {
                    memo.find(short("0", 0));
                    memo.find(short("0", 0));
                }
            }
            assert_eq!(memo.is_off(), is_off, "{again} {values}");
            assert_eq!(memo.find(short("1", 0)).is_none(), is_off);
        }
        let mut memo = FieldMemo::new(false);
        (0..TRIAL).map(|number| number.to_string()).for_each(|text| {
            remember(&mut memo, short(&text, 0), &text);
        });
        let last = remember(&mut memo, short("new", 0), "became");
        assert_eq!((last.place, written(&memo, last).as_str()), (NOT_REMEMBERED, "became"));
    }

    #[test]
    fn of_values_with_faults_the_first_are_remembered() {
        let mut memo = FieldMemo::new(false);
        let long = |number: usize| format!("a value with a fault that is not short: {number}");
        fn key(text: &str) -> MemoKey<'_> {
            if text.len() < 10 { short(text, 0) } else { MemoKey::Long(text) }
        }
        for number in 0..MOST_FAULTY {
            for text in [number.to_string(), long(number)] {
                let at = memo.place_for(key(&text));
                let fault = dusk_evidence::Fault::new(dusk_evidence::RowFact::NothingRepeated);
                memo.outcome_mut(at).unwrap().faults = vec![fault];
                let settled = memo.settle(at, key(&text));
                assert_eq!(settled.state, State::FAULTY);
                assert_eq!(memo.outcome(settled.place).unwrap().faults.len(), 1);
                memo.find(short("0", 0));
            }
        }
        assert_eq!(memo.outcomes.len(), 1 + MOST_FAULTY);
        for (number, is_remembered) in [(0, true), (1, true), (MOST_FAULTY - 1, false)] {
            for text in [number.to_string(), long(number)] {
                assert_eq!(memo.find(key(&text)).is_some(), is_remembered, "{text}");
            }
        }
    }

    #[test]
    fn a_change_keeps_its_number() {
        let mut memo = FieldMemo::new(false);
        let found = remember(&mut memo, short("a", 0), "b");
        memo.number(found, 7);
        assert_eq!(memo.find(short("a", 0)).unwrap().state.number(), Some(7));
        assert_eq!(
            (State::CHANGED.number(), State::FAULTY.number(), State::UNCHANGED.number()),
            (None, None, None)
        );
    }
}
