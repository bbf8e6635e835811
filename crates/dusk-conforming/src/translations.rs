//! The crosswalk of a field during a run, and which of its lines were used.

use std::sync::atomic::{AtomicBool, Ordering};

use dusk_decisions::{Crosswalk, CrosswalkLine};

/// What is remembered about the values of a field. Looking up changes nothing; the run notes what it used.
#[derive(Debug, Default)]
pub(super) struct Translations<'p> {
    crosswalk: Option<&'p Crosswalk>,
    /// One for each line.
    used: Vec<AtomicBool>,
}

impl<'p> Translations<'p> {
    /// Those of a crosswalk, none of them used yet.
    pub(super) fn of(crosswalk: &'p Crosswalk) -> Self {
        let used = crosswalk.lines().iter().map(|_| AtomicBool::new(false)).collect();
        Self { crosswalk: Some(crosswalk), used }
    }

    /// The lines in the order of the file.
    pub(super) fn lines(&self) -> &'p [CrosswalkLine] {
        self.crosswalk.map_or(&[], Crosswalk::lines)
    }

    /// The line that translates a value of the source, which counts as used from now on.
    pub(super) fn find(&self, value: &str, parent: Option<&str>) -> Option<&'p CrosswalkLine> {
        let place = self.crosswalk?.place_of(value, parent)?;
        if let Some(used) = self.used.get(place) {
            used.store(true, Ordering::Relaxed);
        }
        self.lines().get(place)
    }

    /// The line that allows the term which a value is, or which its own line leads to.
    pub(super) fn term(&self, value: &str, parent: Option<&str>) -> Option<&'p CrosswalkLine> {
        let line = self.crosswalk?.term(value, parent)?;
        self.find(&line.value, parent)
    }

    /// Whether there is a line for a value outside any parent. That does not use it.
    pub(super) fn has(&self, value: &str) -> bool {
        self.crosswalk.is_some_and(|crosswalk| crosswalk.place_of(value, None).is_some())
    }

    /// Every line with whether it was used, in the order of the file.
    pub(super) fn lines_and_use(&self) -> impl Iterator<Item = (&'p CrosswalkLine, bool)> {
        self.lines().iter().zip(self.used.iter().map(|used| used.load(Ordering::Relaxed)))
    }
}
