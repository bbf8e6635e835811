//! The best assignment of columns to fields: no column to two fields, no field from two columns, and
//! the greatest total (Kuhn 1955 and Munkres 1957, by way of shortest augmenting paths).

/// The column of each field, by its place; nothing where none is worth it. `worth` is asked for each
/// field and column; what is worth nothing is not assigned.
pub(super) fn assign(
    fields: usize,
    columns: usize,
    worth: &dyn Fn(usize, usize) -> u32,
) -> Vec<Option<usize>> {
    // Every field may stay without a column: as many columns more that are worth nothing.
    let width = columns + fields;
    let cost = |field: usize, column: usize| -> i64 {
        if column < columns { -i64::from(worth(field, column)) } else { 0 }
    };
    let get = |list: &[i64], at: usize| list.get(at).copied().unwrap_or(0);
    let mut field_price = vec![0_i64; fields + 1];
    let mut column_price = vec![0_i64; width + 1];
    // The field of each column, counted from 1; 0 for none. Column 0 holds the field at hand.
    let mut taken = vec![0_usize; width + 1];
    for field in 1..=fields {
        put(&mut taken, 0, field);
        let mut least = vec![i64::MAX; width + 1];
        let mut came_from = vec![0_usize; width + 1];
        let mut done = vec![false; width + 1];
        let mut at = 0;
        loop {
            put(&mut done, at, true);
            let here = taken.get(at).copied().unwrap_or(0);
            let mut step = i64::MAX;
            let mut next = 0;
            for column in 1..=width {
                if done.get(column).copied().unwrap_or(true) {
                    continue;
                }
                let reduced =
                    cost(here - 1, column - 1) - get(&field_price, here) - get(&column_price, column);
                if reduced < get(&least, column) {
                    put(&mut least, column, reduced);
                    put(&mut came_from, column, at);
                }
                if get(&least, column) < step {
                    step = get(&least, column);
                    next = column;
                }
            }
            for column in 0..=width {
                if done.get(column).copied().unwrap_or(false) {
                    let field = taken.get(column).copied().unwrap_or(0);
                    let (more, less) = (get(&field_price, field) + step, get(&column_price, column) - step);
                    put(&mut field_price, field, more);
                    put(&mut column_price, column, less);
                } else {
                    let left = get(&least, column).saturating_sub(step);
                    put(&mut least, column, left);
                }
            }
            at = next;
            if taken.get(at).copied().unwrap_or(0) == 0 {
                break;
            }
        }
        while at != 0 {
            let before = came_from.get(at).copied().unwrap_or(0);
            let field = taken.get(before).copied().unwrap_or(0);
            put(&mut taken, at, field);
            at = before;
        }
    }
    let mut assigned = vec![None; fields];
    for (column, field) in taken.iter().enumerate().skip(1).take(columns) {
        if let Some(field) = field.checked_sub(1).filter(|field| worth(*field, column - 1) > 0) {
            put(&mut assigned, field, Some(column - 1));
        }
    }
    assigned
}

fn put<T>(list: &mut [T], at: usize, value: T) {
    if let Some(slot) = list.get_mut(at) {
        *slot = value;
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::assign;

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
            let assigned = assign(worth.len(), columns, &|field, column| worth[field][column]);
            let mut used: Vec<usize> = assigned.iter().flatten().copied().collect();
            let total: u32 = assigned.iter().enumerate().filter_map(|(field, column)| column.map(|column| worth[field][column])).sum();
            used.sort_unstable();
            used.dedup();
            prop_assert_eq!(used.len(), assigned.iter().flatten().count(), "no column twice");
            prop_assert_eq!(total, greatest(0, &mut (0..columns).collect(), &worth));
        }
    }
}
