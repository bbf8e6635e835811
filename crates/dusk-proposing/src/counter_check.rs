//! The counter-check: a pair is held against every other column and every other field by what the
//! columns hold, whatever their names say.

use super::contents::number_of;
use super::hints::Hints;
use super::pair::PLAIN_NAME;
use super::sample::Sample;
use super::weigh::Weighed;
use dusk_description::FieldType;
use dusk_evidence::{ColumnId, FieldId, Grounds, Id as _};
use dusk_values::{Decimal, Unit};

/// From here on contents speak for a field at all.
const SPEAKS: i32 = 120;

/// So many filled cells without a second value mean that there is none.
const FEW: u64 = 5;

/// Words that turn a flag into its opposite.
const DENIES: [&str; 6] = ["not", "without", "no", "exempt", "free", "waived"];

/// Words of headings that say percent.
const PERCENT: [&str; 5] = ["percent", "percentage", "rate", "share", "proportion"];

impl Weighed<'_> {
    /// Why a pair is not sure, whatever its names say.
    pub(super) fn against(
        &self,
        (field, column): (FieldId, ColumnId),
        assigned: &[Option<usize>],
    ) -> Option<String> {
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
        if let Some(says) = self.other_currency(field) {
            return Some(says);
        }
        // Each word of a flag counts: the permit is required, and it is held.
        let is_flag = matches!(self.field(field), Some(FieldType::Boolean(_)));
        if is_flag && (self.pair(field, column)?.says_more || heading.means(&DENIES)) {
            return Some("its heading may say something else, or the opposite".into());
        }
        if let Some(other) = self.only_column_for_another(field, column) {
            let name = self.target_field(other).map_or("", |field| field.name.as_str());
            return Some(format!("no other column holds what {name} takes"));
        }
        if self.may_mean_other_words(field, sample) {
            return Some("its letters may mean other words in the language of the export".into());
        }
        if self.hints(field).is_some_and(|hints| !hints.may_be_people()) && self.is_of_people(column) {
            return Some("its values look like people's names".into());
        }
        if let Some(other) = self.is_of_people_for(field, column) {
            let name = self.target_field(other).map_or("", |field| field.name.as_str());
            return Some(format!("it holds what looks like people's names, and {name} is for such"));
        }
        if let Some(other) = self.more_like_persons(field, column) {
            return Some(format!(
                "what the column \"{}\" holds looks more like people's names",
                self.heading(other)
            ));
        }
        if let Some(other) = self.other_of_its_words((field, column), assigned) {
            return Some(format!("the column \"{}\" has the same words in its heading", self.heading(other)));
        }
        let columns = self.columns().filter(|other| *other != column);
        let better = columns
            .filter_map(|other| Some((other, &self.pair(field, other)?.contents)))
            .filter(|(_, others)| others.are_telling() && others.points >= contents.points + SPEAKS);
        let (other, _) = better.max_by_key(|(_, others)| others.points)?;
        Some(format!("what the column \"{}\" holds fits better", self.heading(other)))
    }

    /// Letters and figures of a code list, where the export is in another language than the dictionary.
    fn may_mean_other_words(&self, field: FieldId, sample: &Sample) -> bool {
        let is_code = matches!(self.field(field), Some(FieldType::Code(_) | FieldType::Codes(_)));
        is_code && self.is_of_two_languages && !sample.is_of_words()
    }

    /// Numbers whose unit neither the heading says nor the limits of the field.
    pub(super) fn has_unsaid_unit(&self, field: FieldId, column: ColumnId) -> bool {
        let Some(FieldType::Number(number)) = self.field(field) else { return false };
        let Some(wanted) = number.unit.filter(|unit| unit.symbol() != "%" && !unit.is_currency()) else {
            return false;
        };
        let is_said = self.headings.get(column).is_some_and(|heading| {
            heading.unit_for(Some(wanted)).is_some()
                || heading.words().any(|word| heading.is_unit(word, wanted))
        });
        let is_shown =
            self.pair(field, column).is_some_and(|pair| pair.hinted.fills_limits || pair.proof.is_some());
        !number.exports_in_unit && !is_said && !is_shown
    }

    /// True where nearly all values are written as people's names are, and their given names and family names come
    /// again beside others, here or in another such column.
    fn is_of_people(&self, column: ColumnId) -> bool {
        let looks = |column: &ColumnId| {
            self.samples
                .get(*column)
                .is_some_and(|sample| sample.filled > 0 && sample.of_persons().percent() >= 95)
        };
        if !looks(&column) {
            return false;
        }
        let ends = |column: ColumnId| self.samples.get(column).into_iter().flat_map(Sample::ends);
        let all: Vec<(&str, &str)> = self.columns().filter(looks).flat_map(ends).collect();
        let mut mine = ends(column);
        let mut again = ends(column);
        mine.any(|(given, family)| all.iter().any(|(other, beside)| *other == given && *beside != family))
            && again
                .any(|(given, family)| all.iter().any(|(beside, other)| *other == family && *beside != given))
    }

    /// The field for people's names that no other column than this one is like, where this field is for others.
    fn is_of_people_for(&self, field: FieldId, column: ColumnId) -> Option<FieldId> {
        /// So many of a hundred are names of people.
        const NEARLY_ALL: u64 = 95;
        let looks = |column: ColumnId| {
            self.samples
                .get(column)
                .is_some_and(|sample| sample.filled > 0 && sample.of_persons().percent() >= NEARLY_ALL)
        };
        let wants = |field: FieldId| self.hints(field).is_some_and(Hints::is_of_persons);
        let is_text = matches!(self.field(field), Some(FieldType::Text(_)));
        if !is_text || wants(field) || !looks(column) {
            return None;
        }
        // One that another column of such names is called after has its own.
        let has_own = |person: FieldId| {
            self.columns().any(|other| {
                other != column
                    && looks(other)
                    && self.pair(person, other).is_some_and(|pair| pair.name >= 480)
            })
        };
        self.open_fields().find(|person| wants(*person) && !has_own(*person))
    }

    /// For a text or a number, which take much: another field that takes what this column holds, and that no other column
    /// holds.
    fn only_column_for_another(&self, field: FieldId, column: ColumnId) -> Option<FieldId> {
        /// From here on the contents are of that type.
        const OF_TYPE: i32 = 150;
        // Words for yes and no in other languages say less, and are no text either.
        let least = |field: FieldId| match self.field(field) {
            Some(FieldType::Boolean(_)) => OF_TYPE / 3,
            _ => OF_TYPE,
        };
        let fits = |field: FieldId, column: ColumnId| {
            self.pair(field, column).is_some_and(|pair| pair.contents.points >= least(field))
        };
        let takes_much = match self.field(field)? {
            FieldType::Text(text) => text.digits.is_none() && text.pattern.is_none(),
            FieldType::Number(_) => true,
            _ => false,
        };
        let is_narrow = |other: FieldId| match self.field(other) {
            Some(FieldType::Text(_) | FieldType::Number(_)) | None => false,
            Some(_) => true,
        };
        let is_other = |other: &FieldId| {
            is_narrow(*other)
                && fits(*other, column)
                && !self.columns().any(|rival| rival != column && fits(*other, rival))
        };
        takes_much.then(|| self.open_fields().filter(|other| *other != field).find(is_other))?
    }

    /// For somebody's name, a column that looks much more like people's names.
    fn more_like_persons(&self, field: FieldId, column: ColumnId) -> Option<ColumnId> {
        /// By how much more of a hundred.
        const MUCH: u64 = 30;
        let share =
            |column: ColumnId| self.samples.get(column).map_or(0, |sample| sample.of_persons().percent());
        let mine = share(column);
        if !self.hints(field)?.is_of_persons() {
            return None;
        }
        self.columns().find(|other| *other != column && share(*other) >= (mine + MUCH).max(90))
    }

    /// Another column whose heading has the field's words as well, and that no other field wants more.
    fn other_of_its_words(
        &self,
        (field, column): (FieldId, ColumnId),
        assigned: &[Option<usize>],
    ) -> Option<ColumnId> {
        /// Names that are the same leave no doubt; others do where one is nearly as like.
        const LIKE: u32 = 400;
        /// So much more must another field want a column, that it does not come into question.
        const MORE: i32 = 60;
        let mine = self.pair(field, column)?;
        if mine.name >= 980 || mine.proof.is_some() {
            return None;
        }
        let has_own_field = |other: ColumnId, here: i32| {
            let holder = assigned.iter().position(|assigned| *assigned == Some(other.index()));
            holder.is_some_and(|holder| {
                let pair = self.pair(FieldId::new(holder), other);
                FieldId::new(holder) != field && pair.is_some_and(|pair| pair.worth >= here + MORE)
            })
        };
        self.columns().find(|other| {
            *other != column
                && self.pair(field, *other).is_some_and(|pair| {
                    pair.name >= LIKE
                        && pair.name + 250 >= mine.name
                        && pair.worth > 0
                        && pair.contents.points + 50 >= mine.contents.points
                        && !has_own_field(*other, pair.worth)
                })
        })
    }

    /// A column with the name of a field that holds nothing: somebody wanted another one to feed it, or none.
    fn empty_namesake(&self, field: FieldId, column: ColumnId) -> Option<ColumnId> {
        let is_empty = |other: &ColumnId| self.samples.get(*other).is_some_and(|sample| sample.filled == 0);
        let is_called =
            |other: &ColumnId| self.pair(field, *other).is_some_and(|pair| pair.name >= PLAIN_NAME);
        self.columns().find(|other| *other != column && is_empty(other) && is_called(other))
    }

    /// True where the contents of a column allow one field only, and those of no other column that field.
    pub(super) fn is_alone(&self, field: FieldId, column: ColumnId) -> bool {
        let mut columns = self.columns().filter(|other| *other != column);
        let mut fields = self.fields().filter(|other| *other != field);
        /// Contents that speak so much less for something else do not speak for it.
        const MUCH: i32 = 150;
        let mine = self.pair(field, column).map_or(0, |pair| pair.contents.points);
        let speaks = |field, column| {
            self.pair(field, column).is_some_and(|pair| {
                pair.contents.points >= SPEAKS.max(mine - MUCH + 1) || pair.name >= PLAIN_NAME
            })
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
            || self.may_be_shares(field, sample)
    }

    /// Numbers for a field of percent that are all between 0 and 1: 0.25 may be a quarter.
    fn may_be_shares(&self, field: FieldId, sample: &Sample) -> bool {
        let is_percent = |unit: &Unit| unit.symbol() == "%";
        matches!(self.field(field), Some(FieldType::Number(number)) if number.unit.is_some_and(is_percent))
            && sample
                .texts()
                .filter_map(number_of)
                .all(|number| (Decimal::whole(0)..=Decimal::whole(1)).contains(&number))
    }

    /// That the export names another currency than the dictionary for a field of money.
    fn other_currency(&self, field: FieldId) -> Option<String> {
        let currency = |text: &str| Unit::find(text).filter(|unit| unit.is_currency());
        let FieldType::Number(number) = self.field(field)? else { return None };
        let said =
            self.description(field).into_iter().flat_map(|text| text.split(|c: char| !c.is_alphabetic()));
        let wanted =
            number.unit.filter(|unit| unit.is_currency()).or_else(|| said.into_iter().find_map(currency))?;
        self.columns().find_map(|other| {
            let sample = self.samples.get(other)?;
            let is_other = |text: &str| currency(text).is_some_and(|unit| unit != wanted);
            let first = sample.texts().find(|text| is_other(text))?;
            (sample.share(|_, text| currency(text).is_some()).percent() >= 90).then(|| {
                format!(
                    "the column \"{}\" says {first}, and the target wants {}",
                    self.heading(other),
                    wanted.symbol()
                )
            })
        })
    }

    /// Numbers with letters behind them, for a field that names no unit.
    fn counts_in_units(&self, field: FieldId, sample: &Sample) -> bool {
        matches!(self.field(field), Some(FieldType::Number(number)) if number.unit.is_none())
            && sample.with_letters().percent() > 50
    }
}
