//! The counter-check: a pair is held against every other column and every other field by what the
//! columns hold, whatever their names say.

use super::contents::Sample;
use super::weigh::{PLAIN_NAME, Weighed};
use dusk_description::FieldType;
use dusk_evidence::{ColumnId, FieldId, Grounds};
use dusk_values::Unit;

/// From here on contents speak for a field at all.
const SPEAKS: i32 = 120;

/// So many filled cells without a second value mean that there is none.
const FEW: u64 = 5;

/// Words of headings that say percent.
const PERCENT: [&str; 5] = ["percent", "percentage", "rate", "share", "proportion"];

impl Weighed<'_> {
    /// Why a pair is not sure, whatever its names say.
    pub(super) fn against(&self, field: FieldId, column: ColumnId) -> Option<String> {
        let sample = self.samples.get(column)?;
        let contents = &self.pair(field, column)?.contents;
        if sample.filled == 0 {
            return Some("the column is empty in every row that was looked at".into());
        }
        let heading = self.headings.get(column)?;
        let is_same = self.pair(field, column)?.name >= 980;
        if heading.names_two() && !is_same {
            return Some("its heading names two things".into());
        }
        if let Some(says) = self.pair(field, column)?.hinted.against {
            return Some(says.into());
        }
        if let Some(only) = sample.only_value().filter(|_| sample.filled >= FEW) {
            return Some(format!("every filled row that was looked at holds \"{only}\""));
        }
        if let Some(empty) = self.empty_namesake(field, column) {
            return Some(format!("the column \"{}\" has its name, and is empty", self.heading(empty)));
        }
        // What such a list takes has to be exchanged, and the words may be another field's.
        if matches!(contents.grounds, Grounds::NoneIn(_)) {
            return Some("a person has to say which code each of its values means".into());
        }
        if self.counts_in_units(field, sample) {
            return Some("its values name a unit, and the target names none".into());
        }
        if self.may_be_counts(field, column, sample) {
            return Some("nothing says that these numbers are percent".into());
        }
        let columns = self.columns().filter(|other| *other != column);
        let better = columns
            .filter_map(|other| Some((other, &self.pair(field, other)?.contents)))
            .filter(|(_, others)| others.are_telling() && others.points >= contents.points + SPEAKS);
        let (other, _) = better.max_by_key(|(_, others)| others.points)?;
        Some(format!("what the column \"{}\" holds fits better", self.heading(other)))
    }

    /// A column with the name of a field that holds nothing: somebody wanted another one to feed it, or none.
    fn empty_namesake(&self, field: FieldId, column: ColumnId) -> Option<ColumnId> {
        let is_empty = |other: &ColumnId| self.samples.get(*other).is_some_and(|sample| sample.filled == 0);
        let is_called = |other: &ColumnId| self.pair(field, *other).is_some_and(|pair| pair.name >= PLAIN_NAME);
        self.columns().find(|other| *other != column && is_empty(other) && is_called(other))
    }

    /// True where the contents of a column allow one field only, and those of no other column that field.
    pub(super) fn is_alone(&self, field: FieldId, column: ColumnId) -> bool {
        let mut columns = self.columns().filter(|other| *other != column);
        let mut fields = self.fields().filter(|other| *other != field);
        let speaks = |field, column| {
            self.pair(field, column)
                .is_some_and(|pair| pair.contents.points >= SPEAKS || pair.name >= PLAIN_NAME)
        };
        self.pair(field, column).is_some_and(|pair| pair.contents.are_telling())
            && self.is_no_chance(field, column)
            && !columns.any(|other| speaks(field, other))
            && !fields.any(|other| speaks(other, column))
    }

    /// Whether a column is in a field's list by more than chance. Letters may mean other words in another language.
    fn is_no_chance(&self, field: FieldId, column: ColumnId) -> bool {
        let Some(sample) = self.samples.get(column) else { return false };
        let list = match self.field(field) {
            Some(FieldType::Code(code)) => &code.list,
            Some(FieldType::Codes(codes)) => &codes.list,
            _ => return sample.is_of_words() && sample.different() >= 3,
        };
        sample.is_beyond_chance(list) && (sample.is_of_words() || !self.is_of_two_languages)
    }

    /// Numbers without a sign of it, for a field of percent: a count and a share look alike.
    fn may_be_counts(&self, field: FieldId, column: ColumnId, sample: &Sample) -> bool {
        let is_percent = |unit: &Unit| unit.symbol() == "%";
        matches!(self.field(field), Some(FieldType::Number(number)) if number.unit.is_some_and(is_percent))
            && self.headings.get(column).is_some_and(|heading| {
                heading.unit.is_none() && !heading.words().any(|word| PERCENT.contains(&word))
            })
            && !sample.texts().any(|text| text.contains(['%', ',', '.']))
    }

    /// Numbers with letters behind them, for a field that names no unit.
    fn counts_in_units(&self, field: FieldId, sample: &Sample) -> bool {
        matches!(self.field(field), Some(FieldType::Number(number)) if number.unit.is_none())
            && sample.with_letters().percent() > 50
    }
}
