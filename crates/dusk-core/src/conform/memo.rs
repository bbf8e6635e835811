//! Values of a field that were met before. Most columns repeat few values, so that most cells
//! cost a look-up and no more.

use hashbrown::HashMap;

use super::Outcome;

/// How many different values of a field are remembered.
const MOST: usize = 2_048;

/// After how many look-ups it is judged whether remembering pays.
const TRIAL: u32 = 16_384;

/// The outcomes of one field, by raw value.
#[derive(Debug)]
pub(super) struct FieldMemo {
    places: HashMap<Box<str>, usize>,
    /// The first one is used again and again for values that are not remembered.
    outcomes: Vec<Outcome>,
    look_ups: u32,
    hits: u32,
    off: bool,
}

impl FieldMemo {
    pub(super) fn new() -> Self {
        Self { places: HashMap::new(), outcomes: vec![Outcome::default()], look_ups: 0, hits: 0, off: false }
    }

    /// Where the outcome of a value met before is.
    pub(super) fn find(&mut self, raw: &str) -> Option<usize> {
        if self.off {
            return None;
        }
        self.look_ups += 1;
        let found = self.places.get(raw).copied();
        self.hits += u32::from(found.is_some());
        if self.look_ups == TRIAL {
            // Remembering a column of ever new values costs more than it saves.
            if self.hits < TRIAL / 2 {
                self.off = true;
                self.forget();
                return None;
            }
            (self.look_ups, self.hits) = (0, 0);
        }
        found
    }

    /// A place for the outcome of a new value.
    pub(super) fn place_for(&mut self, raw: &str) -> usize {
        if self.off || self.places.len() >= MOST {
            return 0;
        }
        let place = self.outcomes.len();
        self.outcomes.push(Outcome::default());
        self.places.insert(raw.into(), place);
        place
    }

    pub(super) fn outcome(&self, place: usize) -> Option<&Outcome> {
        self.outcomes.get(place)
    }

    pub(super) fn outcome_mut(&mut self, place: usize) -> Option<&mut Outcome> {
        self.outcomes.get_mut(place)
    }

    /// Forgets every value.
    pub(super) fn forget(&mut self) {
        self.places.clear();
        self.outcomes.truncate(1);
    }
}
