//! What the values of a column say about the order of its dates, and what a program may have done
//! to them.
//!
//! A value whose parts allow one order only (25/03/2026) proves that order for values of its own
//! shape. It proves nothing for another shape: a spreadsheet program that reads the values which
//! fit with day and month swapped, and leaves the others as text, leaves two shapes behind, one in
//! which no part is above 12 and one in which one always is.

mod judge;
mod said;
mod standing;

pub use said::DatesOf;
pub use standing::Standing;

use jiff::civil::Date;

use super::DateShape;
use crate::short_years::ShortYears;
use dusk_evidence::{Line, Row, SourceId};
use dusk_sources::CellKind;
use dusk_values::{DateOrder, WrittenDate, shown};
use judge::Judgement;

/// The most shapes that are told apart in a column: more than there are, so that none goes unseen.
const MOST_SHAPES: usize = 256;

/// The most changes from one order to another that are followed.
const MOST_BLOCKS: usize = 64;

/// Where a value stands.
#[derive(Debug, Clone, Copy)]
pub struct At {
    /// The source.
    pub source: SourceId,
    /// The row.
    pub row: Row,
    /// The line on which the row begins.
    pub line: Line,
}

/// A value that speaks for an order.
#[derive(Debug, Clone, PartialEq, Eq)]
struct Spoken {
    source: SourceId,
    row: Row,
    line: Line,
    value: String,
    reads: String,
}

impl Spoken {
    fn new(at: At, value: &str, reads: String) -> Self {
        Self { source: at.source, row: at.row, line: at.line, value: value.to_owned(), reads }
    }
}

/// How values stand to one order.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
struct OrderCount {
    /// Values that this order alone allows; the first of them.
    only: u64,
    proof: Option<Spoken>,
    /// The first value that this order allows and others too.
    possible: Option<Spoken>,
}

/// The values of one shape.
#[derive(Debug, Clone, PartialEq, Eq)]
struct Group {
    shape: DateShape,
    orders: [OrderCount; 3],
    /// Values that more than one order allows, with another day under each.
    undecided: u64,
    /// Of those that begin with the year: how many would be another day with month and day
    /// swapped, and how many would be none.
    small: u64,
    big: u64,
    first_small: Option<Spoken>,
    first_big: Option<Spoken>,
}

impl Group {
    fn new(shape: DateShape) -> Self {
        Self {
            shape,
            orders: Default::default(),
            undecided: 0,
            small: 0,
            big: 0,
            first_small: None,
            first_big: None,
        }
    }

    /// The orders that some of its values alone allow.
    fn proves(&self) -> impl Iterator<Item = DateOrder> {
        DateOrder::ALL
            .into_iter()
            .zip(&self.orders)
            .filter(|(_, count)| count.only > 0)
            .map(|(order, _)| order)
    }

    /// Adds what later values of the shape say.
    fn append(&mut self, later: Self) {
        self.undecided += later.undecided;
        self.small += later.small;
        self.big += later.big;
        self.first_small = self.first_small.take().or(later.first_small);
        self.first_big = self.first_big.take().or(later.first_big);
        for (count, later) in self.orders.iter_mut().zip(later.orders) {
            count.only += later.only;
            count.proof = count.proof.take().or(later.proof);
            count.possible = count.possible.take().or(later.possible);
        }
    }

    /// Takes in a value that begins with the year: the same with month and day swapped may have been meant.
    fn take_year_first(&mut self, at: At, value: &str, written: WrittenDate) {
        let WrittenDate::Numbers([_, (month, _), (day, _)]) = written else { return };
        let swappable = day <= 12 && day != month;
        self.small += u64::from(swappable);
        self.big += u64::from(day > 12);
        if day > 12
            && self.first_big.is_none()
            && let Some(as_is) = written.day(DateOrder::YearMonthDay, None)
        {
            self.first_big = Some(Spoken::new(at, value, shown(as_is)));
        }
        if swappable
            && self.first_small.is_none()
            && let (Some(as_is), Some(swapped)) =
                (written.day(DateOrder::YearMonthDay, None), written.day(DateOrder::YearDayMonth, None))
        {
            let reads = format!("{}, or {} if day and month were swapped", shown(as_is), shown(swapped));
            self.first_small = Some(Spoken::new(at, value, reads));
        }
    }

    /// Takes in a value that is another day under each of the orders that allow it.
    fn take_ordered(&mut self, at: At, value: &str, days: [Option<Date>; 3], short_year: bool) {
        let count = days.iter().flatten().count();
        self.undecided += u64::from(count > 1);
        for (order, day) in self.orders.iter_mut().zip(days) {
            let Some(day) = day else { continue };
            let spoken = || {
                let reads = if short_year { day.strftime("%-d %b '%y").to_string() } else { shown(day) };
                Spoken::new(at, value, reads)
            };
            if count == 1 {
                order.only += 1;
                order.proof.get_or_insert_with(spoken);
            } else if order.possible.is_none() {
                order.possible = Some(spoken());
            }
        }
    }
}

/// Rows one after the other whose values prove the same order.
#[derive(Debug, Clone, PartialEq, Eq)]
struct Block {
    source: SourceId,
    order: DateOrder,
    first: Row,
    last: Row,
    count: u64,
}

/// What the values of a column say about its dates.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct DateEvidence {
    groups: Vec<Group>,
    blocks: Vec<Block>,
    /// Values with one reading whatever the order.
    pub self_evident: u64,
    /// Values that begin with a year, have a month's name, or a year of two digits.
    pub year_first: u64,
    /// Values with the name of a month.
    pub named_months: u64,
    /// Values with a year of two digits.
    pub(crate) short_years: ShortYears,
    /// Values with a time of day.
    pub with_time: u64,
    /// Typed dates of a workbook.
    pub typed: u64,
    /// Numbers that may be counts of days.
    pub day_counts: u64,
    /// The first of them.
    pub first_day_count: Option<String>,
    /// Parts of dates: a year, or a year and a month.
    pub partial: u64,
    /// Values that are no dates.
    pub others: u64,
    /// Steps from one date to the next that go forward, and all steps, under each order.
    steps: [(u64, u64); 3],
    last: [Option<Date>; 3],
    /// Values that the dictionary's limits forbid under each order.
    outside: [u64; 3],
    limits: (Option<Date>, Option<Date>),
}

impl DateEvidence {
    /// The evidence of a column's values, the first of them in row 2.
    pub fn of(values: &[&str]) -> Self {
        let mut evidence = Self::default();
        for (value, row) in values.iter().zip(2..) {
            let at = At { source: SourceId::FIRST, row: Row(row), line: Line(row) };
            evidence.add(at, CellKind::Text, false, value.trim());
        }
        evidence
    }

    /// Evidence for a field with these limits.
    pub fn within(limits: (Option<Date>, Option<Date>)) -> Self {
        Self { limits, ..Self::default() }
    }

    /// Takes in one value.
    pub fn add(&mut self, at: At, kind: CellKind, quoted: bool, value: &str) {
        if value.is_empty() {
            return;
        }
        match WrittenDate::read(value).filter(|_| kind != CellKind::Number) {
            Some(written) => self.add_written(at, kind, quoted, value, written),
            None => self.add_other(value),
        }
    }

    /// Takes in a value that was read already.
    pub(crate) fn add_written(
        &mut self,
        at: At,
        kind: CellKind,
        quoted: bool,
        value: &str,
        (written, time): (WrittenDate, dusk_values::WrittenTime),
    ) {
        self.typed += u64::from(kind == CellKind::Date);
        self.with_time += u64::from(time != dusk_values::WrittenTime::None);
        if written.has_short_year() {
            self.short_years.see(DateOrder::ALL.map(|order| written.day(order, Some(1970))));
        }
        let Some(shape) = DateShape::of(kind, quoted, value, written) else {
            self.self_evident += 1;
            self.named_months += u64::from(matches!(written, WrittenDate::Named { .. }));
            return;
        };
        let Some(group) = self.group(shape) else { return };
        if shape.year_first {
            group.take_year_first(at, value, written);
            (self.self_evident, self.year_first) = (self.self_evident + 1, self.year_first + 1);
            return;
        }
        // Which century is meant makes no difference to the order.
        let days = DateOrder::ALL.map(|order| written.day(order, Some(1970)));
        let mut allowed = days.iter().flatten();
        let Some(first) = allowed.next() else {
            self.others += 1;
            return;
        };
        if days.iter().flatten().count() > 1 && allowed.all(|day| day == first) {
            // 04/04/2026 is the same day either way.
            self.self_evident += 1;
            return;
        }
        group.take_ordered(at, value, days, written.has_short_year());
        self.follow(at, days);
    }

    /// A number, a part of a date, or something else.
    pub(crate) fn add_other(&mut self, value: &str) {
        let digits = value.bytes().all(|byte| byte.is_ascii_digit());
        match value.parse::<u32>() {
            Ok(10_000..=99_999) if digits && value.len() == 5 => {
                self.day_counts += 1;
                self.first_day_count.get_or_insert_with(|| value.to_owned());
            }
            Ok(1_000..=2_999) if digits => self.partial += 1,
            _ if is_year_and_month(value) => self.partial += 1,
            _ => self.others += 1,
        }
    }

    fn group(&mut self, shape: DateShape) -> Option<&mut Group> {
        let known = self.groups.iter().position(|group| group.shape == shape);
        if known.is_none() && self.groups.len() < MOST_SHAPES {
            self.groups.push(Group::new(shape));
            return self.groups.last_mut();
        }
        self.groups.get_mut(known?)
    }

    /// Follows the file's own order: which rows prove what, and whether the dates go forward.
    fn follow(&mut self, at: At, days: [Option<Date>; 3]) {
        let mut allowed = DateOrder::ALL.into_iter().zip(days).filter(|(_, day)| day.is_some());
        if let (Some((order, _)), None) = (allowed.next(), allowed.next()) {
            self.push(Block { source: at.source, order, first: at.row, last: at.row, count: 1 });
        }
        for (((day, last), steps), outside) in
            days.into_iter().zip(&mut self.last).zip(&mut self.steps).zip(&mut self.outside)
        {
            let Some(day) = day else { continue };
            if let Some(last) = last {
                steps.0 += u64::from(*last <= day);
                steps.1 += 1;
            }
            *last = Some(day);
            let (not_before, not_after) = self.limits;
            *outside += u64::from(
                not_before.is_some_and(|limit| day < limit) || not_after.is_some_and(|limit| day > limit),
            );
        }
    }

    fn push(&mut self, block: Block) {
        if let Some(last) =
            self.blocks.last_mut().filter(|last| last.order == block.order && last.source == block.source)
        {
            last.last = block.last;
            last.count += block.count;
        } else if self.blocks.len() < MOST_BLOCKS {
            self.blocks.push(block);
        }
    }

    /// Adds what other rows of the same column, which come later, have to say.
    pub fn append(&mut self, later: Self) {
        self.count_in(&later);
        for other in later.groups {
            if let Some(group) = self.group(other.shape) {
                group.append(other);
            }
        }
        for block in later.blocks {
            self.push(block);
        }
        self.first_day_count = self.first_day_count.take().or(later.first_day_count);
        for ((mine, last), (theirs, their_last)) in
            self.steps.iter_mut().zip(&mut self.last).zip(later.steps.into_iter().zip(later.last))
        {
            (mine.0, mine.1) = (mine.0 + theirs.0, mine.1 + theirs.1);
            *last = their_last.or(*last);
        }
        for (sum, more) in self.outside.iter_mut().zip(later.outside) {
            *sum += more;
        }
        self.limits = later.limits;
    }

    fn count_in(&mut self, later: &Self) {
        self.short_years.add(later.short_years);
        for (sum, more) in [
            (&mut self.self_evident, later.self_evident),
            (&mut self.year_first, later.year_first),
            (&mut self.named_months, later.named_months),
            (&mut self.with_time, later.with_time),
            (&mut self.typed, later.typed),
            (&mut self.day_counts, later.day_counts),
            (&mut self.partial, later.partial),
            (&mut self.others, later.others),
        ] {
            *sum += more;
        }
    }

    /// How many values are dates of any form.
    pub fn dates(&self) -> u64 {
        let ordered: u64 = self
            .groups
            .iter()
            .map(|group| group.undecided + group.orders.iter().map(|count| count.only).sum::<u64>())
            .sum();
        ordered + self.self_evident
    }

    /// How many values more than one order allows.
    pub fn undecided(&self) -> u64 {
        self.groups.iter().map(|group| group.undecided).sum()
    }

    /// The proven order, if there is one.
    pub fn proven(&self) -> Option<DateOrder> {
        match self.judge() {
            Judgement::Proven(order) => Some(order),
            _ => None,
        }
    }

    /// True when no value needs an order to be read.
    pub fn is_not_needed(&self) -> bool {
        self.judge() == Judgement::NotNeeded
    }
}

fn is_year_and_month(value: &str) -> bool {
    let mut parts = value.split(['-', '/', '.', ' ']);
    let (Some(a), Some(b), None) = (parts.next(), parts.next(), parts.next()) else { return false };
    let year = |text: &str| text.len() == 4 && text.bytes().all(|byte| byte.is_ascii_digit());
    let month = |text: &str| {
        text.parse::<u8>().is_ok_and(|month| (1..=12).contains(&month))
            || dusk_values::month_named(text).is_some()
    };
    year(a) && month(b) || month(a) && year(b)
}

#[cfg(test)]
mod tests {
    use super::*;

    const DATES: DatesOf<'_> = DatesOf { column: "Date", field: "day", by_itself: true };

    fn evidence_of(values: &[(CellKind, &str)]) -> DateEvidence {
        let mut evidence = DateEvidence::default();
        for ((kind, value), row) in values.iter().zip(2..) {
            evidence.add(At { source: SourceId::FIRST, row: Row(row), line: Line(row) }, *kind, false, value);
        }
        evidence
    }

    fn texts(values: &[&str]) -> DateEvidence {
        DateEvidence::of(values)
    }

    #[test]
    fn an_order_is_proven_by_a_value_of_the_same_shape_that_allows_no_other() {
        assert_eq!(texts(&["03/04/2026", "25/03/2026"]).proven(), Some(DateOrder::DayMonthYear));
        assert_eq!(texts(&["12/11/2026", "03/25/2026"]).proven(), Some(DateOrder::MonthDayYear));
        assert_eq!(texts(&["03/04/2026", "04/05/2026"]).proven(), None);
        assert_eq!(texts(&["25/03/2026", "03/25/2026"]).judge(), Judgement::Contradicted);
        assert_eq!(texts(&["25-03-26"]).proven(), None, "2025-03-26 is a reading as well");
        assert_eq!(texts(&["03/04/2026", "03/25/26"]).proven(), None, "another shape proves nothing");
    }

    #[test]
    fn a_half_conversion_is_seen_in_every_disguise() {
        let day_first = Some(DateOrder::DayMonthYear);
        let iso = texts(&["2026-03-04", "25/03/2026"]);
        assert!(matches!(iso.judge(), Judgement::Half(DateOrder::DayMonthYear, _)), "{:?}", iso.judge());
        let typed = evidence_of(&[(CellKind::Date, "2026-03-04"), (CellKind::Text, "25/03/2026")]);
        let settle = typed.evidence(DATES, &[]).settle.join("\n");
        assert!(settle.contains("order = \"day-month-year\"\norder_where = [{ shape = \"typed\", order = \"year-day-month\" }]"), "{settle}");
        for bare in [
            &["4/3/2026", "25/03/2026"],
            &["04-03-2026", "25/03/2026"],
            &["04/03/26", "25/03/2026"],
            &["04/03/2026 00:00", "25/03/2026"],
        ] {
            assert!(matches!(texts(bare).judge(), Judgement::HiddenHalf(_)), "{bare:?}");
        }
        assert_eq!(
            texts(&["4/3/2026", "12/11/2026", "25/12/2026", "05/03/2026", "25/03/2026"]).proven(),
            None
        );
        assert_eq!(texts(&["2026-03-04", "25/03/2026", "04/05/2026"]).proven(), day_first);
        assert_eq!(texts(&["2026-03-14", "25/03/2026"]).proven(), day_first);
        assert_eq!(texts(&["2026-04-04", "25/03/2026"]).proven(), day_first);
    }

    #[test]
    fn blocks_that_disagree_are_named() {
        let mut values = vec!["25/03/2026"; 4];
        values.extend(["03/25/2026"; 5]);
        let verdict = texts(&values).evidence(DATES, &[]).verdict_shown();
        assert_eq!(verdict, "contradicted: rows 2-5 day-month-year; rows 6-10 month-day-year");
    }

    #[test]
    fn forms_that_speak_for_themselves_need_no_order() {
        let evidence = texts(&[
            "2026-03-04",
            "4 Mar 2026",
            "March 4th, 2026",
            "04/04/2026",
            "soon",
            "46085",
            "2026",
            "Mar 2026",
        ]);
        assert!(evidence.is_not_needed());
        assert_eq!((evidence.day_counts, evidence.partial, evidence.others), (1, 2, 1));
    }
}
