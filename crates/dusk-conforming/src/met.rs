//! What was met in the columns that feed fields: enough to tell next month that something is new.

use std::collections::BTreeSet;

use hashbrown::HashSet;

use super::cell::shown_raw;
use super::plan::FieldPlan;
use super::types::{Kept, conforming};
use dusk_evidence::{ById, FieldId};
use dusk_inspecting::{LongNumbers, have_one_shape, shape_of};
use dusk_sources::CellKind;
use dusk_values::Decimal;

/// How many different values or shapes of a field are kept; of more, none is.
const MOST: usize = 300;

/// What one thread met, field by field.
#[derive(Debug)]
pub(crate) struct Met {
    fields: ById<FieldId, MetField>,
}

#[derive(Debug)]
struct MetField {
    kept: Kept,
    /// Its long numbers may have lost their last digits.
    is_text: bool,
    /// The text whose shape was met last; most values of a column have one shape.
    last: String,
    /// The hashes of what was met.
    seen: HashSet<u64>,
    new: Vec<String>,
    blank: u64,
    long: LongNumbers,
    percents: Percents,
    decades: Decades,
}

/// Numbers in percent.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Percents {
    /// How many were met.
    pub all: u64,
    /// How many of them lie between 0 and 1, with a part behind the point.
    pub shares: u64,
    /// How many are more than 1, or less than 0.
    pub others: u64,
}

impl Percents {
    /// True where they may be shares of one: none is more than 1.
    pub fn may_be_shares(self) -> bool {
        self.shares >= 3 && self.others == 0
    }

    fn see(&mut self, number: Decimal) {
        let (zero, one) = (Decimal::whole(0), Decimal::whole(1));
        self.all += 1;
        self.shares += u64::from(zero < number && number < one);
        self.others += u64::from(number < zero || number > one);
    }

    fn add(&mut self, other: Self) {
        self.all += other.all;
        self.shares += other.shares;
        self.others += other.others;
    }
}

/// The decades of years of two digits, of the hundred years in which they are read: a bit for each, the first the
/// lowest.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Decades(u16);

impl Decades {
    const ALL: u32 = 10;

    fn see(&mut self, year: i16, from: i16) {
        if let Ok(decade) = u32::try_from((year - from) / 10)
            && decade < Self::ALL
        {
            self.0 |= 1 << decade;
        }
    }

    fn add(&mut self, other: Self) {
        self.0 |= other.0;
    }

    /// The decades in which there are years, counted from 0.
    pub fn met(self) -> impl Iterator<Item = i16> {
        (0..10).filter(move |decade| self.0 & (1 << decade) != 0)
    }

    /// True where years stand in the first or the last decade, and two decades or more are empty between years.
    pub fn are_at_the_edge(self) -> bool {
        let met: Vec<i16> = self.met().collect();
        let at_edge = met.first() == Some(&0) || met.last() == Some(&9);
        at_edge && met.windows(2).any(|two| matches!(two, [one, next] if next - one > 2))
    }
}

/// What one thread met in a field since it was asked the last time.
#[derive(Debug, Default)]
pub struct NewlyMet {
    blank: u64,
    new: Vec<String>,
    long: LongNumbers,
    percents: Percents,
    decades: Decades,
}

/// What a whole run met in the column of a field.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct MetInField {
    /// How many cells were blank.
    pub blank: u64,
    /// The values or their shapes; nothing where there are too many, or none are kept.
    pub seen: Option<BTreeSet<String>>,
    /// Whether these are shapes.
    pub are_shapes: bool,
    /// Its numbers of sixteen digits.
    pub long: LongNumbers,
    /// Its numbers in percent.
    pub percents: Percents,
    /// The decades of its years of two digits.
    pub decades: Decades,
}

impl MetField {
    /// Takes in a text, or its shape.
    fn see(&mut self, text: &str) {
        let is_shape = self.kept == Kept::Shapes;
        if is_shape && !text.is_empty() && have_one_shape(text, &self.last) {
            return;
        }
        let shape = if is_shape { shape_of(text) } else { None };
        let hash = match shape {
            Some(shape) => shape.hash(0),
            None if is_shape => 0,
            None => xxhash_rust::xxh3::xxh3_64(text.as_bytes()),
        };
        if is_shape {
            self.last.clear();
            self.last.push_str(text);
        }
        if self.seen.insert(hash) {
            self.new.push(match (self.kept, shape) {
                (Kept::Shapes, None) => "long text".to_owned(),
                (_, Some(shape)) => shape.to_text(),
                (_, None) => text.to_owned(),
            });
        }
    }
}

impl Met {
    pub(super) fn new(fields: &[FieldPlan<'_>]) -> Self {
        let met = |field: &FieldPlan<'_>| MetField {
            kept: kept(field),
            is_text: field.is_text_that_may_lose_digits(),
            last: String::new(),
            seen: HashSet::new(),
            new: Vec::new(),
            blank: 0,
            long: LongNumbers::default(),
            percents: Percents::default(),
            decades: Decades::default(),
        };
        Self { fields: fields.iter().map(met).collect() }
    }

    /// A blank cell.
    #[inline]
    pub(super) fn blank(&mut self, place: FieldId) {
        if let Some(field) = self.fields.get_mut(place) {
            field.blank += 1;
        }
    }

    /// A value that was told at once, so that it has no marks and no white space at its ends, and what became of it.
    #[inline]
    pub(super) fn clean(&mut self, place: FieldId, raw: &str, became: &str) {
        let Some(field) = self.fields.get_mut(place) else { return };
        if field.is_text {
            field.long.see(became);
        }
        if field.kept != Kept::Nothing && field.seen.len() <= MOST && !raw.is_empty() {
            field.see(raw);
        }
    }

    /// A value that is not remembered yet.
    pub(super) fn value(&mut self, place: FieldId, raw: &str) {
        let Some(field) = self.fields.get_mut(place).filter(|field| field.seen.len() <= MOST) else { return };
        if field.kept == Kept::Nothing {
            return;
        }
        let (kind, _) = CellKind::of(raw);
        if field.kept == Kept::Shapes && kind != CellKind::Text {
            // What a workbook says that it is tells more than its digits.
            if field.seen.insert(u64::MAX - kind as u64) {
                field.new.push(kind.word().to_owned());
            }
            return;
        }
        // Most raw values are texts as they stand, and need no room of their own.
        let shown;
        let text = match raw.is_ascii() {
            true => raw.trim(),
            false => {
                shown = shown_raw(raw);
                shown.trim()
            }
        };
        if text.is_empty() {
            return;
        }
        field.see(text);
    }

    /// The text of a value that was not met before.
    pub(super) fn text(&mut self, place: FieldId, text: &str) {
        if let Some(field) = self.fields.get_mut(place) {
            field.long.see(text);
        }
    }

    /// A number in percent that was not met before.
    pub(super) fn percent(&mut self, place: FieldId, number: Decimal) {
        if let Some(field) = self.fields.get_mut(place) {
            field.percents.see(number);
        }
    }

    /// A year of two digits that was not met before, as it is read in the hundred years from `from`.
    pub(super) fn short_year(&mut self, place: FieldId, year: i16, from: i16) {
        if let Some(field) = self.fields.get_mut(place) {
            field.decades.see(year, from);
        }
    }

    /// Hands over what is new since the last time, for each field.
    pub(crate) fn take(&mut self) -> Vec<NewlyMet> {
        let take = |field: &mut MetField| NewlyMet {
            blank: std::mem::take(&mut field.blank),
            new: std::mem::take(&mut field.new),
            long: std::mem::take(&mut field.long),
            percents: std::mem::take(&mut field.percents),
            decades: std::mem::take(&mut field.decades),
        };
        self.fields.iter_mut().map(take).collect()
    }
}

/// What is kept of the values of a field; nothing of one that no column feeds.
fn kept(field: &FieldPlan<'_>) -> Kept {
    if field.input.columns().is_empty() { Kept::Nothing } else { conforming(&field.field.kind).kept() }
}

impl MetInField {
    /// Nothing met yet in the column of a field.
    pub fn of(field: &FieldPlan<'_>) -> Self {
        let kept = kept(field);
        let seen = (kept != Kept::Nothing).then(BTreeSet::new);
        Self {
            blank: 0,
            seen,
            are_shapes: kept == Kept::Shapes,
            long: LongNumbers::default(),
            percents: Percents::default(),
            decades: Decades::default(),
        }
    }

    /// Takes in what a thread handed over.
    pub fn add(&mut self, NewlyMet { blank, new, long, percents, decades }: NewlyMet) {
        self.blank += blank;
        self.long.add(long);
        self.percents.add(percents);
        self.decades.add(decades);
        if let Some(seen) = &mut self.seen {
            seen.extend(new);
            // Which ones came first depends on the threads; that there are too many does not.
            if seen.len() > MOST {
                self.seen = None;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn years_at_the_edge_of_their_hundred_with_empty_decades_are_told() {
        let at_the_edge = |years: &[i16]| {
            let mut decades = Decades::default();
            years.iter().for_each(|year| decades.see(*year, 1950));
            decades.are_at_the_edge()
        };
        assert!(at_the_edge(&[1951, 1958, 2021, 2024]) && at_the_edge(&[1990, 2044]));
        assert!(
            !at_the_edge(&[1961, 1972, 1988, 1994, 2003, 2011, 2024]),
            "no decade is empty, none at an edge"
        );
        assert!(!at_the_edge(&[1950, 1960, 1970, 1985]) && !at_the_edge(&[2021, 2024]) && !at_the_edge(&[]));
    }
}
