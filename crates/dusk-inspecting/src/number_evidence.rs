//! Which mark stands before the decimals of a column's numbers: proven by its values or not at all.

use super::date_evidence::At;
use dusk_evidence::{Claim, ColumnClaim, Evidence, Example, Reading, SourceId, Verdict};
use dusk_sources::CellKind;

/// How a written number can be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Marks {
    /// It has no mark, or one that stands between groups of digits only.
    None,
    /// Only a point can stand before the decimals.
    Point,
    /// Only a comma can.
    Comma,
    /// Either can: "1,204" and "1.204".
    Either,
    /// It is no number.
    NoNumber,
}

/// What can stand between groups of three digits beside a point or a comma.
pub(crate) fn is_group_mark(c: char) -> bool {
    matches!(c, ' ' | '\u{a0}' | '\u{2007}' | '\u{2009}' | '\u{202f}' | '\'' | '’')
}

/// True when the digits of `whole` stand in groups of three behind the first, each parted by `mark`.
fn is_grouped(whole: &str, mark: impl Fn(char) -> bool) -> bool {
    let mut groups = whole.split(mark);
    let digits = |group: &str| !group.is_empty() && group.bytes().all(|byte| byte.is_ascii_digit());
    groups.next().is_some_and(|first| digits(first) && first.len() <= 3)
        && groups.all(|group| group.len() == 3 && digits(group))
}

/// The figures of a written number: without its sign, brackets, percent and currency signs, and a unit.
pub fn bare_figures(text: &str) -> &str {
    text.trim_matches(|c: char| !c.is_ascii_digit() && !matches!(c, '.' | ','))
}

impl Marks {
    /// Reads the marks of figures without a sign.
    pub(crate) fn of(figures: &str) -> Self {
        let digits = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
        if digits(figures) {
            return Self::None;
        }
        // Nearly all numbers have one mark only.
        for (mark, sure) in [('.', Self::Point), (',', Self::Comma)] {
            if let Some((whole, part)) = figures.split_once(mark)
                && digits(whole)
                && digits(part)
            {
                return if whole.len() <= 3 && part.len() == 3 { Self::Either } else { sure };
            }
        }
        let count = |mark: char| figures.matches(mark).count();
        let (points, commas) = (count('.'), count(','));
        // What would stand before the decimals, and in which groups the digits before it would stand.
        let reads = |decimal: char, other: char| {
            let (whole, part) =
                figures.split_once(decimal).map_or((figures, None), |(whole, part)| (whole, Some(part)));
            let part_fits = part.is_none_or(|part| part.bytes().all(|byte| byte.is_ascii_digit()));
            let has_other = whole.contains(other);
            let whole_fits = digits(whole)
                || whole.is_empty() && part.is_some_and(|part| !part.is_empty())
                || is_grouped(whole, |c| c == other)
                || !has_other && is_grouped(whole, is_group_mark);
            part_fits && whole_fits
        };
        match (points, commas, reads('.', ','), reads(',', '.')) {
            (0, 0, true, _) => Self::None,
            (_, _, true, true) => {
                // "0,204" and "1204,567" cannot be grouped digits, so the mark stands before decimals.
                Self::Either
            }
            (_, _, true, false) => Self::Point,
            (_, _, false, true) => Self::Comma,
            _ => Self::NoNumber,
        }
    }

    /// The same for a mark with digits that could be a group: a leading zero is never grouped.
    pub fn strictly(figures: &str) -> Self {
        match Self::of(figures) {
            Self::Either if figures.starts_with('0') => {
                if figures.contains(',') {
                    Self::Comma
                } else {
                    Self::Point
                }
            }
            marks => marks,
        }
    }
}

/// How many values there are, and the first of them with its row.
type Marked = (u64, Option<(u64, Example)>);

/// What the values of a column say about its numbers.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct NumberEvidence {
    /// Values without a mark in question.
    pub plain: u64,
    /// Typed numbers of a workbook.
    pub typed: u64,
    point: Marked,
    comma: Marked,
    either: Marked,
    /// How many of those have a comma in question.
    either_commas: u64,
    /// Values that are no numbers.
    pub others: u64,
    /// Values in brackets, as accounts write what is below zero.
    pub brackets: u64,
    /// Values with a percent sign.
    pub percents: u64,
}

/// What the two marks are called.
const POINT: &str = "decimal point";
const COMMA: &str = "decimal comma";

/// A value as it reads where `decimal` is the mark before the decimals.
fn read_with(value: &str, decimal: char) -> String {
    let other = if decimal == '.' { ',' } else { '.' };
    let figures = bare_figures(value).chars().filter(|c| *c != other && !is_group_mark(*c));
    figures.map(|c| if c == decimal { '.' } else { c }).collect()
}

impl NumberEvidence {
    /// The evidence of a column's values, the first of them in row 2.
    pub fn of(values: &[&str]) -> Self {
        let mut evidence = Self::default();
        for (value, row) in values.iter().zip(2..) {
            let at =
                At { source: SourceId::FIRST, row: dusk_evidence::Row(row), line: dusk_evidence::Line(row) };
            evidence.add(at, CellKind::Text, value.trim());
        }
        evidence
    }

    /// Takes in one value.
    pub fn add(&mut self, at: At, kind: CellKind, value: &str) {
        self.add_many(at, kind, value, 1);
    }

    /// Takes in a number of digits only that stands in `count` rows.
    pub(crate) fn add_plain(&mut self, kind: CellKind, count: u64) {
        let sum = if kind == CellKind::Number { &mut self.typed } else { &mut self.plain };
        *sum += count;
    }

    /// Takes in a value that stands in `count` rows, first at `at`; gives how it can be read.
    pub(crate) fn add_many(&mut self, at: At, kind: CellKind, value: &str, count: u64) -> Marks {
        if value.is_empty() {
            return Marks::NoNumber;
        }
        if kind == CellKind::Number {
            self.typed += count;
            return Marks::None;
        }
        self.brackets += if value.starts_with('(') && value.ends_with(')') { count } else { 0 };
        self.percents += if value.ends_with('%') { count } else { 0 };
        let marks = Marks::strictly(bare_figures(value));
        let slot = match marks {
            Marks::None => {
                self.plain += count;
                return marks;
            }
            Marks::NoNumber => {
                self.others += count;
                return marks;
            }
            Marks::Point => &mut self.point,
            Marks::Comma => &mut self.comma,
            Marks::Either => {
                self.either_commas += if value.contains(',') { count } else { 0 };
                &mut self.either
            }
        };
        slot.0 += count;
        // Values come in any order, since those that repeat are counted together.
        if slot.1.as_ref().is_none_or(|(row, _)| at.row.0 < *row) {
            let place = format!("row {}", at.row.with_line(at.line));
            slot.1 = Some((at.row.0, Example { place, value: value.to_owned(), reads: String::new() }));
        }
        marks
    }

    /// Adds what later rows have to say.
    pub fn append(&mut self, later: Self) {
        for (sum, more) in [
            (&mut self.plain, later.plain),
            (&mut self.typed, later.typed),
            (&mut self.others, later.others),
            (&mut self.either_commas, later.either_commas),
            (&mut self.brackets, later.brackets),
            (&mut self.percents, later.percents),
        ] {
            *sum += more;
        }
        for (mine, theirs) in
            [(&mut self.point, later.point), (&mut self.comma, later.comma), (&mut self.either, later.either)]
        {
            mine.0 += theirs.0;
            mine.1 = match (mine.1.take(), theirs.1) {
                (Some(mine), Some(theirs)) => Some(if theirs.0 < mine.0 { theirs } else { mine }),
                (one, other) => one.or(other),
            };
        }
    }

    /// The same for a field of whole numbers: where every value in question has the same mark before three digits,
    /// it stands between groups of digits, since there are no decimals.
    pub fn of_whole_numbers(mut self) -> Self {
        let slot = match (self.either.0, self.either_commas) {
            (1.., 0) => &mut self.comma,
            (all @ 1.., commas) if all == commas => &mut self.point,
            _ => return self,
        };
        // Another value may prove that there are decimals after all.
        if slot.0 == 0 && self.point.0 + self.comma.0 > 0 {
            return self;
        }
        let either = std::mem::take(&mut self.either);
        let slot = if self.either_commas > 0 { &mut self.point } else { &mut self.comma };
        slot.0 += either.0;
        slot.1 = slot.1.take().or(either.1);
        self.either_commas = 0;
        self
    }

    /// How many values are numbers.
    pub fn numbers(&self) -> u64 {
        self.plain + self.typed + self.point.0 + self.comma.0 + self.either.0
    }

    /// True when some value can be read in two ways by itself.
    pub fn has_undecided(&self) -> bool {
        self.either.0 > 0
    }

    /// The mark before the decimals, if the values prove one.
    pub fn proven(&self) -> Option<char> {
        match (self.point.0, self.comma.0) {
            (0, 1..) => Some(','),
            (1.., 0) => Some('.'),
            _ => None,
        }
    }

    fn verdict(&self) -> Verdict {
        match self.proven() {
            Some('.') => Verdict::Proven(POINT.into()),
            Some(_) => Verdict::Proven(COMMA.into()),
            None if self.point.0 > 0 && self.comma.0 > 0 => Verdict::Contradicted(vec![
                format!("{} values prove a {POINT}", self.point.0),
                format!("{} prove a {COMMA}", self.comma.0),
            ]),
            None if self.has_undecided() => Verdict::Undecided(vec![POINT.into(), COMMA.into()]),
            None => Verdict::NotNeeded,
        }
    }

    /// The evidence for the decimal mark of `column`, which feeds `field`.
    pub fn evidence(&self, column: &str, field: &str) -> Evidence {
        let claim = Claim::Column(ColumnClaim::DecimalMark, column.to_owned());
        let mut evidence = Evidence::new(claim, self.verdict());
        for (name, mark, (count, example)) in [(POINT, '.', &self.point), (COMMA, ',', &self.comma)] {
            let shown = example.as_ref().or(self.either.1.as_ref()).map(|(_, example)| example);
            let Some(shown) = shown.filter(|_| *count > 0 || evidence.needs_decision()) else { continue };
            let values = if *count == 1 { "value allows" } else { "values allow" };
            evidence.readings.push(Reading {
                name: name.into(),
                supports: *count,
                counted: format!("{values} no other reading"),
                examples: vec![Example { reads: read_with(&shown.value, mark), ..shown.clone() }],
                ..Reading::default()
            });
        }
        if self.either.0 > 0 {
            evidence.readings.push(Reading {
                supports: self.either.0,
                counted: "values could be read either way".into(),
                ..Reading::default()
            });
        }
        if evidence.needs_decision() {
            evidence.settle = vec![
                "[[map]]".into(),
                format!("field = \"{field}\""),
                format!("from  = \"{column}\""),
                "decimal_mark = …   # \".\" or \",\"".into(),
                "thousands_mark = …".into(),
            ];
        } else if let Some(mark) = self.proven() {
            evidence.settle = vec![format!("decimal_mark = \"{mark}\"")];
        }
        evidence
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn marks_prove_what_they_can_and_no_more() {
        for (figures, marks) in [
            ("1204", Marks::None),
            ("1 204", Marks::None),
            ("1,204", Marks::Either),
            ("1.204", Marks::Either),
            ("0,204", Marks::Comma),
            ("12,5", Marks::Comma),
            ("12.5", Marks::Point),
            ("1,204.5", Marks::Point),
            ("1.204,5", Marks::Comma),
            ("1 204,5", Marks::Comma),
            ("1’204.50", Marks::Point),
            ("1,204,300", Marks::Point),
            ("1.204.300", Marks::Comma),
            ("12,04.5", Marks::NoNumber),
            ("1204,567", Marks::Comma),
            ("soon", Marks::NoNumber),
        ] {
            assert_eq!(Marks::strictly(figures), marks, "{figures}");
        }
    }

    #[test]
    fn a_column_proves_its_decimal_mark_or_asks() {
        let evidence = NumberEvidence::of;
        assert_eq!(evidence(&["1,204", "12,5"]).proven(), Some(','));
        assert_eq!(evidence(&["1,204", "12.5"]).proven(), Some('.'));
        assert!(evidence(&["1,204", "7"]).evidence("Honey", "honey").needs_decision());
        assert_eq!(evidence(&["1,5", "12.5"]).proven(), None);
    }

    #[test]
    fn groups_of_three_are_groups_where_there_are_no_decimals() {
        let proven = |values: &[&str]| NumberEvidence::of(values).of_whole_numbers().proven();
        assert_eq!(proven(&["2,418", "7", "1,204"]), Some('.'));
        assert_eq!(proven(&["2.418", "7"]), Some(','));
        assert_eq!(proven(&["2,418", "2.418"]), None, "two marks in question");
        assert_eq!(proven(&["2,418", "2,5"]), Some(','), "there are decimals");
        assert_eq!(proven(&["2,418", "2.5"]), Some('.'));
        assert_eq!(proven(&["7"]), None);
    }
}
