//! The numbers and days of columns as plain figures, to hold columns against one another row by row.

use super::contents::number_of;
use super::rows::Rows;
use dusk_evidence::{ColumnId, Share};
use dusk_values::{DateOrder, day_in_order};

/// A column in figures: nothing for a cell that is none.
pub(super) struct RowValues(Vec<Option<f64>>);

/// How many of a hundred filled cells must be figures.
const NEARLY_ALL: usize = 80;

/// How many of a hundred rows must hold what is said of columns.
const HOLDS: u64 = 95;

/// So many rows prove something.
const ENOUGH: u64 = 10;

impl RowValues {
    /// The numbers of a column, where it holds numbers.
    pub(super) fn numbers(rows: &Rows, column: ColumnId) -> Option<Self> {
        #[expect(clippy::cast_precision_loss, reason = "what is held against it is rounded")]
        let read = |text: &str| number_of(text).map(|number| number.millionths() as f64 / 1e6);
        Self::read(rows, column, read)
    }

    /// The days of a column, in the order that most of its dates can be read in.
    pub(super) fn days(rows: &Rows, column: ColumnId) -> Option<Self> {
        let read_in = |order| {
            move |text: &str| {
                let day = day_in_order(text, order)?;
                let minutes = text.split_once(':').and_then(|(hour, minute)| {
                    let hour: f64 = hour.rsplit([' ', 'T']).next()?.parse().ok()?;
                    Some(hour * 60.0 + minute.get(..2)?.parse::<f64>().ok()?)
                });
                let days =
                    f64::from(day.year()) * 372.0 + f64::from(day.month()) * 31.0 + f64::from(day.day());
                Some(days + minutes.unwrap_or(0.0) / 1440.0)
            }
        };
        // Of several that fit as well, the first.
        let all =
            DateOrder::ALL.into_iter().rev().filter_map(|order| Self::read(rows, column, read_in(order)));
        all.max_by_key(|values| values.0.iter().flatten().count())
    }

    fn read(rows: &Rows, column: ColumnId, read: impl Fn(&str) -> Option<f64>) -> Option<Self> {
        let filled = rows.filled(column).count();
        let values: Vec<Option<f64>> = rows.of_columns([column]).map(|[text]| read(text)).collect();
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
    pub(super) fn is_made_of(&self, [first, second]: [&Self; 2], of: impl Fn(f64, f64) -> f64) -> bool {
        let all = || {
            let rows = self.0.iter().zip(&first.0).zip(&second.0);
            rows.filter_map(|((made, first), second)| {
                Some(((*made)?, of((*first)?, (*second)?), (*first)?, (*second)?))
            })
        };
        // What is nothing, or the same as one of the two, shows nothing.
        let telling =
            || all().filter(|(made, _, first, second)| *made != 0.0 && *first != 0.0 && *second != 0.0);
        let shows = |(made, _, first, second): &(f64, f64, f64, f64)| made != first && made != second;
        let count = |count: usize| u64::try_from(count).unwrap_or(u64::MAX);
        if count(telling().filter(shows).count()) < ENOUGH {
            return false;
        }
        let Some((made, worked_out, ..)) = telling().next() else { return false };
        let power = (made / worked_out).abs().log10().round();
        if !power.is_finite() || power.abs() > 3.0 {
            return false;
        }
        let factor = 10_f64.powf(power);
        let is_near = |made: f64, worked_out: f64| {
            let worked_out = worked_out * factor;
            (made - worked_out).abs() <= 0.0051_f64.max(worked_out.abs() * 0.002)
        };
        let held = Share {
            fit: count(all().filter(|(made, worked_out, ..)| is_near(*made, *worked_out)).count()),
            of: count(all().count()),
        };
        held.percent() >= HOLDS
    }
}
