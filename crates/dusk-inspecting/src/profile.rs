//! One column, looked over value by value in memory that does not grow with the rows.

use hashbrown::HashMap;
use jiff::civil::Date;
use serde::Serialize;

use super::byte_kinds::Bytes;
use super::damage_seen::{Damage, DamageSeen};
use super::date_evidence::At;
use super::distinct::Distinct;
use super::looks::Looks;
use super::repeating::{Met, Repeating};
use super::value_shape::shape_of;
use super::{Marks, NumberEvidence};
use dusk_evidence::{ColumnId, Example, SourceId};
use dusk_sources::{CellKind, RowCells};
use dusk_values::{DateOrder, Decimal, ShortText, WrittenDate};

/// How many shapes of a column are told apart.
const MOST_SHAPES: usize = 200;

/// How many different values are counted one by one.
const MOST_VALUES: usize = 60;

/// What a column's values look like.
#[derive(Debug, Clone, Default)]
pub(super) struct Profile {
    pub(super) filled: u64,
    pub(super) blank: u64,
    kinds: [u64; 6],
    shapes: HashMap<ShortText, Seen>,
    other_shapes: u64,
    distinct: Distinct,
    values: HashMap<Box<str>, Seen>,
    many_values: bool,
    numbers: Option<(Decimal, Decimal)>,
    wholes: Option<(u64, u64)>,
    days: [Option<(Date, Date)>; 3],
    lengths: Option<(u32, u32)>,
    pub(super) number_evidence: NumberEvidence,
    damage: Vec<DamageSeen>,
    repeating: Repeating,
}

/// How often something was seen, and where first.
#[derive(Debug, Clone, Copy)]
struct Seen {
    count: u64,
    row: u64,
    example: ShortText,
}

/// A shape or value with how often it was seen.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Counted {
    /// The shape or value.
    pub text: String,
    /// How many values.
    pub count: u64,
    /// The first row with it.
    pub row: u64,
    /// The first value of this shape.
    pub example: String,
}

impl Seen {
    /// Something that is about to be seen.
    fn nowhere() -> Self {
        Self { count: 0, row: u64::MAX, example: ShortText::default() }
    }

    /// Takes in that it is seen in `count` rows, first in `row` and there as `value`.
    fn note(&mut self, value: &str, row: u64, count: u64) {
        self.count += count;
        if row < self.row {
            let whole = ShortText::within(value.as_bytes(), 0, value.len());
            (self.row, self.example) = (row, whole.unwrap_or_else(|| cut(value)));
        }
    }

    /// Adds how often another part of the column has it.
    fn add(&mut self, more: Self) {
        self.count += more.count;
        if more.row < self.row {
            (self.row, self.example) = (more.row, more.example);
        }
    }
}

impl Profile {
    /// Takes in a cell. Gives the date that it is written like, or nothing; a whole number that may
    /// count days is given as such.
    pub(super) fn add(&mut self, row: &RowCells<'_>, column: ColumnId, source: SourceId) -> Looks {
        let at = At { source, row: row.row(), line: row.line() };
        let Some(short) = row.short_cell(column) else {
            let cell = row.cell(column);
            self.take(cell, at, 1, None);
            return Looks::Otherwise;
        };
        if short == ShortText::default() {
            self.blank += 1;
            return Looks::Otherwise;
        }
        if self.repeating.is_in_vain() {
            let cell = row.cell(column);
            let looks = Looks::of(cell);
            self.take(cell, at, 1, Some(looks));
            return looks;
        }
        if let Some(looks) = self.repeating.meet(short) {
            return looks;
        }
        let looks = Looks::of(row.cell(column));
        if let Some(old) = self.repeating.keep(short, at, looks) {
            self.take_met(old);
        }
        looks
    }

    /// Takes in what is still kept because it may come again.
    pub(super) fn settle(&mut self) {
        self.repeating.take().for_each(|met| self.take_met(met));
    }

    fn take_met(&mut self, met: Met) {
        met.text.with_text(|text| self.take(text, met.at, met.count, Some(met.looks)));
    }

    /// Takes in a value that stands in `count` rows, first at `at`.
    fn take(&mut self, cell: &str, at: At, count: u64, looks: Option<Looks>) {
        let (kind, raw) = CellKind::of(cell);
        let value = raw.trim();
        if value.is_empty() {
            self.blank += count;
            return;
        }
        self.filled += count;
        if let Some(kinds) = self.kinds.get_mut(kind as usize) {
            *kinds += count;
        }
        self.distinct.add(value);
        self.count(value, at.row.0, count);
        let bytes = Bytes::of(raw);
        self.measure(value, bytes);
        match looks.unwrap_or_else(|| Looks::of(cell)) {
            Looks::Date(written, _) => self.take_day(written),
            _ if bytes.has(Bytes::DIGIT) && !bytes.has(Bytes::SLASH_OR_COLON) => {
                self.take_number(kind, value, bytes, at, count)
            }
            _ => {}
        }
        if kind != CellKind::Text || may_be_damaged(raw, value, bytes) {
            Damage::of(kind, raw, bytes, |damage, reads| self.damage(damage, at, raw, reads, count));
        }
    }

    /// Counts the value and its shape.
    fn count(&mut self, value: &str, row: u64, count: u64) {
        let has_room = self.shapes.len() < MOST_SHAPES;
        match shape_of(value) {
            Some(shape) if has_room => {
                self.shapes.entry(shape).or_insert_with(Seen::nowhere).note(value, row, count)
            }
            Some(shape) => match self.shapes.get_mut(&shape) {
                Some(known) => known.note(value, row, count),
                None => self.other_shapes += count,
            },
            None => self.other_shapes += count,
        }
        if self.many_values {
            return;
        }
        if let Some(known) = self.values.get_mut(value) {
            known.note(value, row, count);
        } else if self.values.len() < MOST_VALUES && value.len() <= 80 {
            self.values.entry(value.into()).or_insert_with(Seen::nowhere).note(value, row, count);
        } else {
            self.many_values = true;
            self.values.clear();
        }
    }

    /// Notes how long the value is.
    fn measure(&mut self, value: &str, bytes: Bytes) {
        let letters = if bytes.has(Bytes::HIGH) { value.chars().count() } else { value.len() };
        let letters = u32::try_from(letters).unwrap_or(u32::MAX);
        let (least, most) = self.lengths.get_or_insert((letters, letters));
        (*least, *most) = ((*least).min(letters), (*most).max(letters));
    }

    fn take_number(&mut self, kind: CellKind, value: &str, bytes: Bytes, at: At, count: u64) {
        if bytes.only(Bytes::DIGIT)
            && let Ok(whole) = value.parse::<u64>()
        {
            self.number_evidence.add_plain(kind, count);
            let (least, most) = self.wholes.get_or_insert((whole, whole));
            (*least, *most) = ((*least).min(whole), (*most).max(whole));
            return;
        }
        if !value.starts_with(|c: char| c.is_ascii_digit() || !c.is_alphanumeric()) {
            return;
        }
        let marks = self.number_evidence.add_many(at, kind, value, count);
        let sure = matches!(marks, Marks::None | Marks::Point);
        let Some(number) = Some(value).filter(|_| sure).and_then(Decimal::parse) else { return };
        let (least, most) = self.numbers.get_or_insert((number, number));
        (*least, *most) = ((*least).min(number), (*most).max(number));
    }

    fn take_day(&mut self, written: WrittenDate) {
        for (range, order) in self.days.iter_mut().zip(DateOrder::ALL) {
            if let Some(day) = written.day(order, None) {
                let (first, last) = range.get_or_insert((day, day));
                (*first, *last) = ((*first).min(day), (*last).max(day));
            }
        }
    }

    fn damage(&mut self, damage: Damage, at: At, value: &str, reads: String, count: u64) {
        let first = Example {
            place: format!("row {}", at.row.with_line(at.line)),
            value: super::excerpt(value),
            reads,
        };
        self.add_damage(DamageSeen { damage, count, first, first_row: at.row.0 });
    }

    fn add_damage(&mut self, more: DamageSeen) {
        match self.damage.iter_mut().find(|seen| seen.damage == more.damage) {
            Some(seen) => {
                seen.count += more.count;
                if more.first_row < seen.first_row {
                    (seen.first, seen.first_row) = (more.first, more.first_row);
                }
            }
            None => self.damage.push(more),
        }
    }

    /// Adds what another part of the same column looks like.
    pub(super) fn append(&mut self, other: Self) {
        self.filled += other.filled;
        self.blank += other.blank;
        for (sum, more) in self.kinds.iter_mut().zip(other.kinds) {
            *sum += more;
        }
        self.other_shapes += other.other_shapes;
        note_all(&mut self.shapes, other.shapes);
        self.distinct.append(other.distinct);
        self.many_values |= other.many_values;
        note_all(&mut self.values, other.values);
        self.many_values |= self.values.len() > MOST_VALUES;
        self.numbers = joined(self.numbers, other.numbers);
        self.wholes = joined(self.wholes, other.wholes);
        for (mine, theirs) in self.days.iter_mut().zip(other.days) {
            *mine = joined(*mine, theirs);
        }
        self.lengths = joined(self.lengths, other.lengths);
        self.number_evidence.append(other.number_evidence);
        other.damage.into_iter().for_each(|seen| self.add_damage(seen));
    }

    /// The shapes, the commonest first.
    pub(super) fn shapes(&self) -> Vec<Counted> {
        let mut shapes = counted(self.shapes.iter().map(|(shape, seen)| (shape.to_text(), *seen)));
        if self.other_shapes > 0 {
            shapes.push(Counted {
                text: "longer text".into(),
                count: self.other_shapes,
                row: 0,
                example: String::new(),
            });
            shapes.sort_by(|a, b| b.count.cmp(&a.count).then(a.row.cmp(&b.row)));
        }
        shapes
    }

    /// The values, the commonest first, where there are few.
    pub(super) fn values(&self) -> Vec<Counted> {
        if self.many_values {
            Vec::new()
        } else {
            counted(self.values.iter().map(|(value, seen)| (value.to_string(), *seen)))
        }
    }

    /// How many different values there are, and whether that is an estimate.
    pub(super) fn distinct(&self) -> (u64, bool) {
        self.distinct.count()
    }

    /// What the values are, where a workbook says it.
    pub(super) fn kinds(&self) -> Vec<(&'static str, u64)> {
        let kinds = [
            CellKind::Text,
            CellKind::Date,
            CellKind::Number,
            CellKind::Boolean,
            CellKind::Error,
            CellKind::Duration,
        ];
        kinds
            .iter()
            .zip(self.kinds)
            .filter(|(_, count)| *count > 0)
            .map(|(kind, count)| (kind.word(), count))
            .collect()
    }

    /// The damage seen, in the order of the documentation.
    pub(super) fn seen(&self) -> Vec<DamageSeen> {
        let mut seen = self.damage.clone();
        seen.sort_by_key(|seen| seen.damage);
        seen
    }

    /// The least and the greatest number, where most values are numbers.
    pub(super) fn number_range(&self) -> Option<(Decimal, Decimal)> {
        let whole = |number: u64| Decimal::whole(i64::try_from(number).unwrap_or(i64::MAX));
        let wholes = self.wholes.map(|(least, most)| (whole(least), whole(most)));
        let mostly_numbers = self.number_evidence.numbers() * 10 >= self.filled * 9;
        joined(self.numbers, wholes).filter(|_| mostly_numbers)
    }

    /// The least and the greatest, as `dates` and `order` say that they are to be read.
    pub(super) fn range(&self, dates: bool, order: Option<DateOrder>) -> String {
        let day =
            |place: usize| {
                self.days.get(place).copied().flatten().map(|(first, last)| {
                    format!("{} to {}", dusk_values::shown(first), dusk_values::shown(last))
                })
            };
        if dates {
            let place = order.and_then(|order| DateOrder::ALL.iter().position(|other| *other == order));
            return match place {
                Some(place) => day(place).unwrap_or_default(),
                None => String::new(),
            };
        }
        if let Some((least, most)) = self.number_range() {
            return if least == most { least.to_string() } else { format!("{least} to {most}") };
        }
        match self.lengths {
            Some((1, 1)) => "1 character".into(),
            Some((least, most)) if least == most => format!("{least} characters"),
            Some((least, most)) => format!("{least} to {most} characters"),
            None => String::new(),
        }
    }
}

/// The beginning of a long value.
fn cut(value: &str) -> ShortText {
    let end = (0..=20).rev().find(|end| value.is_char_boundary(*end)).unwrap_or(0);
    let cut = format!("{}…", value.get(..end).unwrap_or_default());
    ShortText::within(cut.as_bytes(), 0, cut.len()).unwrap_or_default()
}

/// Adds what a later part has seen, in the order of its rows.
fn note_all<T: std::hash::Hash + Eq>(known: &mut HashMap<T, Seen>, more: HashMap<T, Seen>) {
    let mut more: Vec<(T, Seen)> = more.into_iter().collect();
    more.sort_by_key(|(_, seen)| seen.row);
    for (what, seen) in more {
        known.entry(what).or_insert_with(Seen::nowhere).add(seen);
    }
}

fn joined<T: Ord + Copy>(a: Option<(T, T)>, b: Option<(T, T)>) -> Option<(T, T)> {
    match (a, b) {
        (Some((a, b)), Some((c, d))) => Some((a.min(c), b.max(d))),
        (one, other) => one.or(other),
    }
}

fn counted(all: impl Iterator<Item = (String, Seen)>) -> Vec<Counted> {
    let mut counted: Vec<Counted> = all
        .map(|(text, seen)| Counted {
            text,
            count: seen.count,
            row: seen.row,
            example: seen.example.to_text(),
        })
        .collect();
    counted.sort_by(|a, b| b.count.cmp(&a.count).then(a.row.cmp(&b.row)).then(a.text.cmp(&b.text)));
    counted
}

/// Plain values show no damage; those with edges, odd bytes or very long numbers may.
pub(super) fn may_be_damaged(raw: &str, value: &str, bytes: Bytes) -> bool {
    let plain = bytes.only(Bytes::DIGIT | Bytes::SLASH_OR_COLON | Bytes::OTHER)
        || bytes.only(Bytes::DIGIT | Bytes::MARK) && !value.ends_with(".0");
    let has_edges = value.len() != raw.len();
    let is_long = value.len() > 15 && bytes.only(Bytes::DIGIT);
    !plain || has_edges || is_long
}

#[cfg(test)]
mod tests {
    use super::*;
    use dusk_sources::{Dialect, Rows};

    /// The profile of a column, made in parts of `part` rows and put together.
    fn profile(values: &[String], part: usize) -> Profile {
        let dialect = Dialect::new("\u{1f}", "");
        let mut whole = Profile::default();
        for (number, values) in values.chunks(part).enumerate() {
            let text: String = values.iter().map(|value| format!("{value}\n")).collect();
            let first = (number * part) as u64 + 2;
            let mut rows = Rows::starting_at(
                &text,
                &dialect,
                dusk_evidence::Row(first),
                dusk_evidence::Line(first),
                Default::default(),
            );
            let mut profile = Profile::default();
            while let Some(row) = rows.next() {
                profile.add(&row, ColumnId::FIRST, SourceId::FIRST);
            }
            profile.settle();
            whole.append(profile);
        }
        whole
    }

    #[test]
    fn a_column_looks_alike_however_it_is_cut_and_however_often_values_repeat() {
        let value = |number: usize| match number % 9 {
            0 => String::new(),
            1 => format!("{}", number % 1500),
            2 => "Öst Quay".into(),
            3 => format!(" town {}", number % 40),
            4 => format!("{}.5", number % 300),
            5 => "25/03/2026".into(),
            6 => "a text that is longer than any that is kept in a few machine words".into(),
            7 => format!("unlike every other value: {number}"),
            _ => "1.2E+11".into(),
        };
        let values: Vec<String> = (0..9_000).map(value).collect();
        let whole = profile(&values, values.len());
        for part in [7, 1_000] {
            let parts = profile(&values, part);
            assert_eq!((parts.filled, parts.blank), (whole.filled, whole.blank));
            assert_eq!(parts.shapes(), whole.shapes());
            assert_eq!(parts.seen(), whole.seen());
            assert_eq!(parts.range(false, None), whole.range(false, None));
            assert_eq!(parts.distinct(), whole.distinct());
        }
        assert_eq!((whole.filled, whole.blank), (8_000, 1_000));
        let commonest = whole.shapes();
        assert_eq!((commonest[0].text.as_str(), commonest[0].count), ("longer text", 1_000));
        let edge = whole.seen().into_iter().find(|seen| seen.damage == Damage::EdgeSpace).unwrap();
        assert_eq!((edge.count, edge.first.place.as_str()), (1_000, "row 5"));
    }

    #[test]
    fn few_values_are_counted_one_by_one() {
        let values: Vec<String> =
            (0..3_000).map(|number| ["White", "Yellow", "yel."][number % 3].to_owned()).collect();
        let profile = profile(&values, 700);
        let counts: Vec<(String, u64, u64)> =
            profile.values().into_iter().map(|value| (value.text, value.count, value.row)).collect();
        assert_eq!(
            counts,
            [("White".into(), 1_000, 2), ("Yellow".into(), 1_000, 3), ("yel.".into(), 1_000, 4)]
        );
        assert_eq!(profile.distinct(), (3, false));
        assert_eq!(profile.range(false, None), "4 to 6 characters");
    }
}
