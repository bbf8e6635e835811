//! The best assignment of columns to fields: no column to two fields, no field from two columns, and
//! the greatest total (Kuhn 1955 and Munkres 1957, by way of shortest augmenting paths).

/// Columns assigned to fields, with the prices that prove that nothing else is worth more.
pub(super) struct Assigned {
    fields: usize,
    columns: usize,
    /// Of each field and each column, counted from 1.
    field_prices: Vec<i64>,
    column_prices: Vec<i64>,
    /// The field of each column, both counted from 1; 0 for none. Column 0 holds the field at hand.
    taken: Vec<usize>,
}

/// What a field and a column are worth together, counted from 0.
type Worth<'w> = &'w dyn Fn(usize, usize) -> u32;

impl Assigned {
    /// Assigns columns. `worth` is asked for each field and column; what is worth nothing is not assigned.
    pub(super) fn of(fields: usize, columns: usize, worth: Worth<'_>) -> Self {
        // Every field may stay without a column: as many columns more that are worth nothing.
        let width = columns + fields;
        let mut assigned = Self {
            fields,
            columns,
            field_prices: vec![0; fields + 1],
            column_prices: vec![0; width + 1],
            taken: vec![0; width + 1],
        };
        for field in 1..=fields {
            assigned.take(field, worth);
        }
        assigned
    }

    fn width(&self) -> usize {
        self.columns + self.fields
    }

    fn holder(&self, column: usize) -> usize {
        self.taken.get(column).copied().unwrap_or(0)
    }

    /// What it costs that a field takes a column, beyond the prices of both; never less than nothing.
    fn reduced(&self, field: usize, column: usize, worth: Worth<'_>) -> i64 {
        let cost = if column <= self.columns { -i64::from(worth(field - 1, column - 1)) } else { 0 };
        let price = |list: &[i64], at: usize| list.get(at).copied().unwrap_or(0);
        cost - price(&self.field_prices, field) - price(&self.column_prices, column)
    }

    /// Finds a column for a field, and others for those that it takes theirs from.
    fn take(&mut self, field: usize, worth: Worth<'_>) {
        let width = self.width();
        put(&mut self.taken, 0, field);
        let mut least = vec![i64::MAX; width + 1];
        let mut came_from = vec![0_usize; width + 1];
        let mut done = vec![false; width + 1];
        let mut at = 0;
        loop {
            put(&mut done, at, true);
            let here = self.holder(at);
            let mut step = i64::MAX;
            let mut next = 0;
            for column in 1..=width {
                if done.get(column).copied().unwrap_or(true) {
                    continue;
                }
                let reduced = self.reduced(here, column, worth);
                let known = least.get(column).copied().unwrap_or(i64::MAX);
                if reduced < known {
                    put(&mut least, column, reduced);
                    put(&mut came_from, column, at);
                }
                if reduced.min(known) < step {
                    step = reduced.min(known);
                    next = column;
                }
            }
            for column in 0..=width {
                if done.get(column).copied().unwrap_or(false) {
                    let field = self.holder(column);
                    add(&mut self.field_prices, field, step);
                    add(&mut self.column_prices, column, -step);
                } else {
                    let left = least.get(column).map_or(0, |left| left.saturating_sub(step));
                    put(&mut least, column, left);
                }
            }
            at = next;
            if self.holder(at) == 0 {
                break;
            }
        }
        while at != 0 {
            let before = came_from.get(at).copied().unwrap_or(0);
            let field = self.holder(before);
            put(&mut self.taken, at, field);
            at = before;
        }
    }

    /// The column of each field, by its place; nothing where none is worth it.
    pub(super) fn columns(&self, worth: Worth<'_>) -> Vec<Option<usize>> {
        let mut columns = vec![None; self.fields];
        for (column, field) in self.taken.iter().enumerate().skip(1).take(self.columns) {
            if let Some(field) = field.checked_sub(1).filter(|field| worth(*field, column - 1) > 0) {
                put(&mut columns, field, Some(column - 1));
            }
        }
        columns
    }

    /// What all pairs are worth together.
    fn total(&self, worth: Worth<'_>) -> u64 {
        let columns = self.columns(worth).into_iter().enumerate();
        columns.filter_map(|(field, column)| Some(u64::from(worth(field, column?)))).sum()
    }
}

/// How much less all pairs would be worth together, if each field had another column than it is assigned, or none:
/// what it costs to be wrong about it. Nothing for a field without a column.
pub(super) fn margins(assigned: &[Option<usize>], columns: usize, worth: Worth<'_>) -> Vec<Option<u32>> {
    /// Of more fields that could have one another's columns, only the nearest other pair is asked.
    const MOST: usize = 60;
    let groups = groups(assigned.len(), columns, worth);
    let margin = |field: usize, column: usize| {
        let own = groups.get(field).copied();
        let fields: Vec<usize> =
            (0..assigned.len()).filter(|other| groups.get(*other).copied() == own).collect();
        if fields.len() > MOST {
            let nearest = (0..columns)
                .filter(|other| *other != column)
                .map(|other| worth(field, other))
                .chain(fields.iter().filter(|other| **other != field).map(|other| worth(*other, column)));
            return worth(field, column).saturating_sub(nearest.max().unwrap_or(0));
        }
        let with = |place: usize, column: usize| fields.get(place).map_or(0, |field| worth(*field, column));
        let without = |place: usize, other: usize| {
            if fields.get(place) == Some(&field) && other == column { 0 } else { with(place, other) }
        };
        let total = |worth: Worth<'_>| Assigned::of(fields.len(), columns, worth).total(worth);
        u32::try_from(total(&with).saturating_sub(total(&without))).unwrap_or(u32::MAX)
    };
    assigned.iter().enumerate().map(|(field, column)| Some(margin(field, (*column)?))).collect()
}

/// For each field the first of those that could have one another's columns, directly or by way of others.
fn groups(fields: usize, columns: usize, worth: Worth<'_>) -> Vec<usize> {
    let mut groups: Vec<usize> = (0..fields).collect();
    for column in 0..columns {
        let wanting: Vec<usize> = (0..fields).filter(|field| worth(*field, column) > 0).collect();
        let of: Vec<usize> = wanting.iter().filter_map(|field| groups.get(*field).copied()).collect();
        if let Some(first) = of.iter().min().copied() {
            groups.iter_mut().filter(|group| of.contains(group)).for_each(|group| *group = first);
        }
    }
    groups
}

fn add(list: &mut [i64], at: usize, more: i64) {
    if let Some(slot) = list.get_mut(at) {
        *slot += more;
    }
}

fn put<T>(list: &mut [T], at: usize, value: T) {
    if let Some(slot) = list.get_mut(at) {
        *slot = value;
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::{Assigned, margins};

    /// The greatest total, by trying everything.
    fn greatest(field: usize, free: &mut Vec<usize>, worth: &[Vec<u32>]) -> u32 {
        if field == worth.len() {
            return 0;
        }
        let mut best = greatest(field + 1, free, worth);
        for place in 0..free.len() {
            let column = free.swap_remove(place);
            best = best.max(worth[field][column] + greatest(field + 1, free, worth));
            free.push(column);
            let last = free.len() - 1;
            free.swap(place, last);
        }
        best
    }

    proptest! {
        #[test]
        fn no_other_assignment_is_worth_more(worth in (1..5_usize).prop_flat_map(|columns| prop::collection::vec(prop::collection::vec(prop_oneof![Just(0), 0..9_u32], columns), 1..5))) {
            let columns = worth[0].len();
            let of_pair = |field: usize, column: usize| worth[field][column];
            let found = Assigned::of(worth.len(), columns, &of_pair);
            let assigned = found.columns(&of_pair);
            let mut used: Vec<usize> = assigned.iter().flatten().copied().collect();
            let total: u32 = assigned.iter().enumerate().filter_map(|(field, column)| column.map(|column| worth[field][column])).sum();
            used.sort_unstable();
            used.dedup();
            prop_assert_eq!(used.len(), assigned.iter().flatten().count(), "no column twice");
            prop_assert_eq!(total, greatest(0, &mut (0..columns).collect(), &worth));
            for (field, column) in assigned.iter().enumerate().filter_map(|(field, column)| Some((field, (*column)?))) {
                let mut without = worth.clone();
                without[field][column] = 0;
                let less = total - greatest(0, &mut (0..columns).collect(), &without);
                prop_assert_eq!(margins(&assigned, columns, &of_pair)[field], Some(less), "field {}", field);
            }
        }
    }
}
