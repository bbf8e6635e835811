//! What the rows of a source show, and the few rows that together show all of it: every shape of value, every kind of
//! change and every cause.
//!
//! They are chosen by a greedy cover: the row that shows most that no row before it showed comes
//! next, among equals the first one. So the choice is always the same, and the first few rows show
//! most. Memory grows with what there is to show, not with the rows.

use std::cmp::Reverse;
use std::collections::BinaryHeap;
use std::sync::OnceLock;

use hashbrown::{HashMap, HashSet};

use crate::Ready;
use crate::running::rows_above::RowsAbove;
use dusk_conforming::{Above, Bound, Conformer, Fit, Shape};
use dusk_evidence::{ColumnId, FieldId, Id as _, Result, Row, SourceId};
use dusk_inspecting::shape_of;
use dusk_sources::{CellKind, Progress, Rejoined, RowCells, Source, Tray, in_order};

/// How many different things to show are told apart.
pub(super) const MOST_THINGS: usize = 5_000;

/// How many rows are kept for each of them: one may show more than another.
const KEPT_FOR_EACH: u32 = 4;

/// Something that a row may show.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Thing {
    /// A value of this shape in this column.
    Shape(String, String),
    /// A field changed by these steps.
    Change(String, String),
    /// A cause of findings: what it is about, and what is wrong.
    Cause(String, String),
}

/// What a thing is looked up with: the column, the field or [`CAUSES`], and a hash of what it is there.
type Key = (u32, u64);

/// The first part of the key of each cause.
const CAUSES: u32 = u32::MAX / 2;

/// Rows that show something, while the source is read.
#[derive(Debug, Default)]
pub(super) struct Showing {
    /// The number of each thing.
    numbers: HashMap<Thing, usize>,
    things: Vec<(Key, Thing)>,
    /// How many rows are kept for each.
    kept: Vec<u32>,
    known: HashMap<Key, usize>,
    rows: Vec<(Row, Vec<usize>)>,
}

/// The rows of a block that show something of which their worker has kept few: all that can be among the first to
/// show it in the whole source, each with everything that it shows.
#[derive(Debug, Default)]
struct Shown {
    /// What stands above the block in the columns that are filled down.
    above: Vec<Above>,
    rows: Vec<(Row, Vec<(Key, Thing)>)>,
}

/// Looks at blocks of the source, on a thread of its own.
struct Looking<'l> {
    ready: &'l Ready<'l>,
    source: &'l Source,
    columns: &'l [Bound],
    used: &'l [ColumnId],
    firsts: &'l HashMap<u64, Vec<Thing>>,
    /// The keys of all things, once there are as many as are told apart.
    all: &'l OnceLock<HashSet<Key>>,
    conformer: Conformer<'l>,
    showing: Showing,
    /// The change that a remembered outcome of a field is, by their places.
    by_outcome: HashMap<(FieldId, usize), Option<usize>>,
}

impl Looking<'_> {
    fn look(&mut self, tray: &mut Tray<Shown>) {
        tray.result.rows.clear();
        self.showing.rows.clear();
        let shape = Shape::of(self.source, SourceId::FIRST, self.columns);
        let mut shows = Vec::new();
        self.conformer.start_below(&tray.result.above);
        let mut rows = tray.block.rows(&self.source.dialect);
        while let Some(as_read) = rows.next() {
            shows.clear();
            let (mut room, mut found) = (Rejoined::default(), Vec::new());
            let (row, fit) = self.conformer.fit(as_read, &shape, &mut room, &mut found);
            if fit == Fit::Whole {
                self.shapes(&row, &mut shows);
                for record in shape.records(&row, &self.ready.plan) {
                    self.conformer.judge(&row, &record, &mut found);
                    self.changes(&mut shows);
                }
            }
            for thing in self.firsts.get(&as_read.row().0).into_iter().flatten() {
                let Thing::Cause(about, wrong) = thing else { continue };
                let hash = xxhash_rust::xxh3::xxh3_64(format!("{about}\u{0}{wrong}").as_bytes());
                let key = (CAUSES, hash);
                shows.extend(self.showing.number(key, || is_shown(self.all, key), || thing.clone()));
            }
            self.showing.keep(as_read.row(), &shows);
            self.conformer.pass(&as_read, &shape);
        }
        let things = &self.showing.things;
        let named =
            |numbers: Vec<usize>| numbers.iter().filter_map(|number| things.get(*number).cloned()).collect();
        tray.result.rows.extend(self.showing.rows.drain(..).map(|(row, numbers)| (row, named(numbers))));
    }

    fn shapes(&mut self, row: &RowCells<'_>, shows: &mut Vec<usize>) {
        let source = self.source;
        for column in self.used {
            let (kind, value) = CellKind::of(row.cell(*column));
            let value = value.trim();
            let shape = shape_of(value);
            let hash = shape.map_or(1, |shape| shape.hash(kind as u32));
            let key = (u32::try_from(column.index()).unwrap_or(u32::MAX), hash);
            shows.extend(self.showing.number(
                key,
                || is_shown(self.all, key),
                || {
                    let shown = match shape {
                        _ if value.is_empty() => "blank".to_owned(),
                        Some(shape) if kind == CellKind::Text => shape.to_text(),
                        Some(shape) => format!("{} {}", kind.word(), shape.to_text()),
                        None => "long text".to_owned(),
                    };
                    let name = source.heading(*column).to_owned();
                    Thing::Shape(name, shown)
                },
            ));
        }
    }

    fn changes(&mut self, shows: &mut Vec<usize>) {
        for (place, field) in self.ready.plan.fields.with_ids() {
            let Some(remembered) = self.conformer.change_at(place) else { continue };
            // What is remembered was changed in the same steps wherever it stands.
            let known = remembered.and_then(|outcome| self.by_outcome.get(&(place, outcome)));
            if let Some(known) = known {
                shows.extend(*known);
                continue;
            }
            let Some(trail) = self.conformer.trail(place).filter(|trail| trail.changed()) else { continue };
            let steps = trail
                .taken
                .iter()
                .fold(7_u64, |hash, taken| hash.wrapping_mul(31).wrapping_add(taken.basis.step() as u64));
            let key = (u32::MAX - u32::try_from(place.index()).unwrap_or(0), steps);
            let change = || Thing::Change(field.field.name.clone(), trail.steps());
            let thing = self.showing.number(key, || is_shown(self.all, key), change);
            shows.extend(thing);
            if let Some(outcome) = remembered {
                self.by_outcome.insert((place, outcome), thing);
            }
        }
    }
}

/// Whether a thing is among those that are told apart, as far as that is known.
fn is_shown(all: &OnceLock<HashSet<Key>>, key: Key) -> bool {
    all.get().is_none_or(|all| all.contains(&key))
}

impl Showing {
    /// Looks through the whole source for what its rows show. `firsts` are the causes that rows are the first to have.
    pub(super) fn of(
        ready: &Ready<'_>,
        source: &Source,
        firsts: &HashMap<u64, Vec<Thing>>,
        progress: &Progress<'_>,
    ) -> Result<Self> {
        let mut showing = Self::default();
        let columns = [ready.plan.bind(source)?];
        let [bound] = &columns;
        let mut used: Vec<ColumnId> = bound.iter().flatten().copied().collect();
        used.sort_unstable();
        used.dedup();
        let all = OnceLock::new();
        let sources = std::slice::from_ref(source);
        let mut above = RowsAbove::new(&ready.plan, sources, &columns);
        let make_worker = |_| {
            let mut looking = Looking {
                ready,
                source,
                columns: bound,
                used: &used,
                firsts,
                all: &all,
                conformer: Conformer::new(&ready.plan, true)?,
                showing: Self::default(),
                by_outcome: HashMap::new(),
            };
            Ok(move |tray: &mut Tray<Shown>| looking.look(tray))
        };
        let begin = |tray: &mut Tray<Shown>| above.begin(tray.source, &tray.block, &mut tray.result.above);
        in_order(sources, ready.job.threads, begin, make_worker, |tray| {
            for (row, things) in tray.result.rows.drain(..) {
                showing.take(row, things);
            }
            if showing.is_full() {
                all.get_or_init(|| showing.known.keys().copied().collect());
            }
            progress(0, tray.block.bytes_read);
            Ok(())
        })?;
        Ok(showing)
    }

    /// How many things there are to show.
    pub(super) fn count(&self) -> usize {
        self.things.len()
    }

    /// The thing of a number.
    pub(super) fn thing(&self, number: usize) -> Option<&Thing> {
        self.things.get(number).map(|(_, thing)| thing)
    }

    fn is_full(&self) -> bool {
        self.things.len() >= MOST_THINGS
    }

    /// Takes in the next row with everything that it shows.
    fn take(&mut self, row: Row, things: Vec<(Key, Thing)>) {
        let mut numbers = Vec::with_capacity(things.len());
        for (key, thing) in things {
            let is_full = self.is_full();
            numbers.extend(self.number(key, || !is_full, || thing));
        }
        self.keep(row, &numbers);
    }

    /// The number of a thing that is looked up by a key. Where it is met for the first time it gets one, if it is to
    /// be shown.
    fn number(
        &mut self,
        key: Key,
        is_shown: impl FnOnce() -> bool,
        thing: impl FnOnce() -> Thing,
    ) -> Option<usize> {
        if let Some(number) = self.known.get(&key) {
            return Some(*number);
        }
        if !is_shown() {
            return None;
        }
        let thing = thing();
        let next = self.things.len();
        let number = *self.numbers.entry(thing.clone()).or_insert(next);
        if number == next {
            self.things.push((key, thing));
            self.kept.push(0);
        }
        self.known.insert(key, number);
        Some(number)
    }

    /// Keeps a row that shows something of which few rows are kept.
    fn keep(&mut self, row: Row, shows: &[usize]) {
        let wanted = |thing: &usize| self.kept.get(*thing).is_some_and(|kept| *kept < KEPT_FOR_EACH);
        if !shows.iter().any(wanted) {
            return;
        }
        let mut shows = shows.to_vec();
        shows.sort_unstable();
        shows.dedup();
        for thing in &shows {
            if let Some(kept) = self.kept.get_mut(*thing) {
                *kept += 1;
            }
        }
        self.rows.push((row, shows));
    }

    /// The rows in the order in which they show most that is new, with what that is, until nothing is
    /// left to show.
    pub(super) fn cover(&self) -> Vec<(Row, Vec<usize>)> {
        let mut shown = vec![false; self.things.len()];
        let fresh = |shown: &[bool], things: &[usize]| {
            things.iter().filter(|thing| shown.get(**thing) == Some(&false)).copied().collect::<Vec<usize>>()
        };
        // What a row shows that is new only becomes less, so that a row whose count still holds when its turn comes is
        // ahead of all others.
        let mut waiting: BinaryHeap<(usize, Reverse<Row>, usize)> = self
            .rows
            .iter()
            .zip(0..)
            .map(|((row, things), place)| (things.len(), Reverse(*row), place))
            .collect();
        let mut order = Vec::new();
        while let Some((count, Reverse(row), place)) = waiting.pop() {
            let Some((_, things)) = self.rows.get(place) else { continue };
            let fresh = fresh(&shown, things);
            if fresh.len() < count {
                if !fresh.is_empty() {
                    waiting.push((fresh.len(), Reverse(row), place));
                }
                continue;
            }
            for thing in &fresh {
                if let Some(slot) = shown.get_mut(*thing) {
                    *slot = true;
                }
            }
            order.push((row, fresh));
        }
        order
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn showing(rows: &[&[usize]]) -> Showing {
        let most = rows.iter().copied().flatten().max().map_or(0, |most| most + 1);
        let mut showing = Showing::default();
        for number in 0..most {
            let thing = || Thing::Shape("column".into(), number.to_string());
            showing.number((0, number as u64), || true, thing);
        }
        for (row, things) in (2..).zip(rows) {
            showing.keep(Row(row), things);
        }
        showing
    }

    #[test]
    fn the_row_that_shows_most_comes_first_and_among_equals_the_first() {
        let showing = showing(&[&[0], &[1, 2], &[2, 3], &[0, 1], &[3, 3]]);
        let order: Vec<(u64, Vec<usize>)> =
            showing.cover().into_iter().map(|(row, things)| (row.0, things)).collect();
        assert_eq!(order, [(3, vec![1, 2]), (2, vec![0]), (4, vec![3])]);
    }

    #[test]
    fn rows_are_kept_only_while_they_show_something_rare() {
        let rows: Vec<&[usize]> = std::iter::repeat_n(&[0_usize][..], 100).chain([&[0, 1][..]]).collect();
        let showing = showing(&rows);
        assert_eq!(showing.rows.len(), KEPT_FOR_EACH as usize + 1);
        assert_eq!(showing.cover().len(), 1, "the last row shows both");
    }
}
