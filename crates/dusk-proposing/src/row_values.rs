//! The numbers and days of columns as whole figures, to hold columns against one another row by row.

use super::contents::number_of;
use super::rows::Rows;
use dusk_evidence::{ColumnId, Share};
use dusk_values::{DateOrder, day_in_order};

/// Numbers are counted in millionths.
pub(super) const MILLION: i128 = 1_000_000;

/// A column in figures: nothing for a cell that is none.
pub(super) struct RowValues(Vec<Option<i128>>);

/// How many of a hundred filled cells must be figures.
const NEARLY_ALL: usize = 80;

/// How many of a hundred rows must hold what is said of columns.
const HOLDS: u64 = 95;

/// So many rows prove something.
const ENOUGH: usize = 10;

/// Between the units of columns may stand a power of ten: kilograms and tonnes.
const POWERS: [(i128, i128); 7] = [(1, 1), (10, 1), (100, 1), (1_000, 1), (1, 10), (1, 100), (1, 1_000)];

impl RowValues {
    /// The numbers of a column, where it holds numbers.
    pub(super) fn numbers(rows: &Rows, column: ColumnId) -> Option<Self> {
        Self::read(rows, column, |text| number_of(text).map(|number| i128::from(number.millionths())))
    }

    /// The minutes of a column's days and clocks, in the order that most of its dates can be read in.
    pub(super) fn days(rows: &Rows, column: ColumnId) -> Option<Self> {
        let read_in = |order| {
            move |text: &str| {
                let day = day_in_order(text, order)?;
                let clock = text.split_once(':').and_then(|(hour, minute)| {
                    let hour: i128 = hour.rsplit([' ', 'T']).next()?.parse().ok()?;
                    Some(hour * 60 + minute.get(..2)?.parse::<i128>().ok()?)
                });
                let days =
                    i128::from(day.year()) * 372 + i128::from(day.month()) * 31 + i128::from(day.day());
                Some(days * 1_440 + clock.unwrap_or(0))
            }
        };
        // Of several that fit as well, the first.
        let all =
            DateOrder::ALL.into_iter().rev().filter_map(|order| Self::read(rows, column, read_in(order)));
        all.max_by_key(|values| values.0.iter().flatten().count())
    }

    fn read(rows: &Rows, column: ColumnId, read: impl Fn(&str) -> Option<i128>) -> Option<Self> {
        let filled = rows.filled(column).count();
        let values: Vec<Option<i128>> = rows.of_columns([column]).map(|[text]| read(text)).collect();
        let figures = values.iter().flatten().count();
        (figures > 0 && figures * 100 >= filled * NEARLY_ALL).then_some(Self(values))
    }

    /// In how many rows this is at most the other, and in how many it is less.
    pub(super) fn at_most(&self, other: &Self) -> (Share, Share) {
        let (mut at_most, mut less) = (Share::default(), Share::default());
        for (mine, theirs) in self.0.iter().zip(&other.0).filter_map(|(mine, theirs)| mine.zip(*theirs)) {
            at_most.of += 1;
            less.of += 1;
            at_most.fit += u64::from(mine <= theirs);
            less.fit += u64::from(mine < theirs);
        }
        (at_most, less)
    }

    /// Whether nearly all rows have `of(first, second)` here, but for rounding and for a power of ten between
    /// their units.
    pub(super) fn is_made_of(
        &self,
        [first, second]: [&Self; 2],
        of: impl Fn(i128, i128) -> Option<i128>,
    ) -> bool {
        let rows = self.0.iter().zip(&first.0).zip(&second.0);
        let rows: Vec<(i128, i128, i128)> =
            rows.filter_map(|((made, first), second)| Some(((*made)?, (*first)?, (*second)?))).collect();
        // What is nothing, or the same as one of the two, shows nothing.
        let shows = |(made, first, second): &&(i128, i128, i128)| {
            *made != 0 && *first != 0 && *second != 0 && made != first && made != second
        };
        if rows.iter().filter(shows).count() < ENOUGH {
            return false;
        }
        POWERS.iter().any(|(times, by)| {
            let fits = |(made, first, second): &&(i128, i128, i128)| {
                let scaled =
                    of(*first, *second).and_then(|made| made.checked_mul(*times)).map(|made| made / by);
                scaled.is_some_and(|scaled| (made - scaled).abs() <= ROUNDED.max(scaled.abs() / 500))
            };
            let fit = rows.iter().filter(fits).count();
            let count = |count: usize| u64::try_from(count).unwrap_or(u64::MAX);
            Share { fit: count(fit), of: count(rows.len()) }.percent() >= HOLDS
        })
    }
}

/// Two decimals are rounded by so many millionths at most.
const ROUNDED: i128 = 5_100;
