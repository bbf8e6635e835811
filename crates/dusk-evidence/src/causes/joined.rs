//! What is wrong with a whole column made one cause of all that it explains.

use std::collections::BTreeMap;

use super::{Causes, FEW};
use crate::{Cause, ColumnCause, FieldId, Grouping, Kind, SettledBy};

/// How much of a column has to be wrong in one way, in percent, for the column to be the cause and not its
/// values.
const WHOLE_COLUMN: u64 = 98;

/// Which causes are taken into which.
type Joined = BTreeMap<usize, usize>;

impl Causes {
    /// Makes one cause of all wrong values of a column that is wrong as a whole.
    pub(super) fn join_columns(&mut self, filled: &dyn Fn(FieldId) -> u64, wrong: &[ColumnCause]) {
        let mut joined = Joined::new();
        wrong.iter().for_each(|column| self.join_explained(column, &mut joined));
        self.join_whole(filled, &mut joined);
        if !joined.is_empty() {
            self.take_in(&joined);
            self.join_sets(&joined);
        }
    }

    /// Joins what one wrong column explains.
    fn join_explained(&mut self, column: &ColumnCause, joined: &mut Joined) {
        let is_of = |cause: &Cause| {
            let value = cause.value.as_deref().unwrap_or_default();
            column.explains.takes(cause.kind, cause.field, &cause.about, value)
        };
        let places: Vec<usize> =
            (0..self.causes.len()).filter(|place| self.causes.get(*place).is_some_and(is_of)).collect();
        let count_of = |place: &usize| self.causes.get(*place).map_or(0, |cause| cause.count);
        // The largest of them speaks for all; among equals the one met first.
        let first = places.iter().copied().max_by_key(|place| (count_of(place), std::cmp::Reverse(*place)));
        let Some(first) = first else { return };
        let count = places.iter().map(count_of).sum();
        joined.extend(places.into_iter().filter(|place| *place != first).map(|other| (other, first)));
        if let Some(cause) = self.causes.get_mut(first) {
            (cause.value, cause.count) = (None, count);
            cause.column = Some(column.clone());
        }
    }

    /// Joins the values of columns in which nearly every cell is wrong in one way.
    fn join_whole(&mut self, filled: &dyn Fn(FieldId) -> u64, joined: &mut Joined) {
        let mut columns: BTreeMap<(FieldId, Kind), (u64, Vec<usize>)> = BTreeMap::new();
        for (place, cause) in self.causes.iter().enumerate() {
            if cause.column.is_some() || joined.contains_key(&place) {
                continue;
            }
            if let (Some(field), Grouping::Value) = (cause.field, cause.kind.grouping()) {
                let (count, places) = columns.entry((field, cause.kind)).or_default();
                *count += cause.count;
                places.push(place);
            }
        }
        for ((field, kind), (count, places)) in columns {
            let filled = filled(field);
            // Words that stand for codes are settled one by one, also where all of them are unknown.
            let many = if kind.settled_by() == SettledBy::ListLine { 24 } else { 3 };
            if places.len() <= many || filled == 0 || count * 100 < filled * WHOLE_COLUMN {
                continue;
            }
            let Some((first, others)) = places.split_first() else { continue };
            joined.extend(others.iter().map(|other| (*other, *first)));
            if let Some(cause) = self.causes.get_mut(*first) {
                // A cell of several values may have several findings, which are no share of the cells.
                let of = (count <= filled).then_some(filled);
                (cause.value, cause.of, cause.count) = (None, of, count);
            }
        }
    }

    /// Rows that had several of what is one cause now have that one.
    fn join_sets(&mut self, joined: &Joined) {
        for (set, rows) in std::mem::take(&mut self.together) {
            let mut set: Vec<usize> =
                set.into_iter().map(|place| joined.get(&place).copied().unwrap_or(place)).collect();
            set.sort_unstable();
            let before = set.len();
            // A row that has several of them was counted for each, and is one row.
            for (one, next) in set.iter().zip(set.iter().skip(1)) {
                if let Some(cause) = self.causes.get_mut(*one).filter(|_| one == next) {
                    cause.rows = cause.rows.saturating_sub(rows);
                }
            }
            set.dedup();
            if let ([only], true) = (set.as_slice(), before > 1)
                && let Some(cause) = self.causes.get_mut(*only)
            {
                cause.alone += rows;
            } else {
                *self.together.entry(set).or_insert(0) += rows;
            }
        }
    }

    /// Takes what was joined into the causes that speak for it. It keeps its place, so that sets stay right,
    /// and is ranked last.
    fn take_in(&mut self, joined: &Joined) {
        let taken = |(other, first): (&usize, &usize)| Some((*first, self.causes.get(*other)?.clone()));
        let all: Vec<(usize, Cause)> = joined.iter().filter_map(taken).collect();
        for (first, taken) in all {
            if let Some(cause) = self.causes.get_mut(first) {
                cause.rows += taken.rows;
                cause.alone += taken.alone;
                let room = FEW.saturating_sub(cause.first.len());
                cause.first.extend(taken.first.into_iter().take(room));
            }
        }
        for other in joined.keys() {
            if let Some(cause) = self.causes.get_mut(*other) {
                (cause.count, cause.rows, cause.alone) = (0, 0, 0);
            }
        }
    }
}
