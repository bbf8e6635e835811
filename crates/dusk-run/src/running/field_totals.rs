//! What the records that are sent come to, field by field: sums, counts, the first and the last day. By these a
//! steward proves later that everything arrived.

use std::collections::BTreeMap;

use hashbrown::HashMap;
use jiff::civil::{Date, DateTime};
use serde::{Deserialize, Serialize};

use dusk_conforming::{Conformer, Plan};
use dusk_description::{CodesLayout, Field, FieldType, Target};
use dusk_evidence::FieldId;
use dusk_values::{Decimal, Value};

/// More different words of a field than these are not counted one by one: which of them were met first depends on the
/// threads.
const MOST_WORDS: usize = 10_000;

/// The number of a word beyond them.
const TOO_MANY: u32 = u32::MAX;

/// What the sent records come to in a field.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct FieldTotal {
    /// The field.
    pub field: String,
    /// In how many records it is filled.
    pub filled: u64,
    /// The sum of its numbers, exactly; nothing once that has too many digits.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sum: Option<String>,
    /// Its smallest number, or first day or time (ISO 8601).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub least: Option<String>,
    /// Its largest number, or last day or time.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub most: Option<String>,
    /// How many records have each code, or each of the words for true and false.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub counts: BTreeMap<String, u64>,
    /// Records with any code, where an open list has too many codes to count them one by one.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub others: u64,
}

fn is_zero(count: &u64) -> bool {
    *count == 0
}

/// What one record adds to the total of a field: sixteen bytes, since there is one for each cell.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum TotalShare {
    Blank,
    /// In units of the field's last decimal.
    Number(i64),
    /// A number of too many digits to be added up.
    Long,
    Day(Date),
    Moment(DateTime),
    /// A word by the number that its worker has given it.
    Word(u32),
    /// A value of a field that has no total.
    Filled,
}

/// The fields that have totals: numbers, days, codes, and what is true or false.
pub fn totalled(target: &Target) -> Vec<FieldId> {
    let has_total = |field: &Field| {
        let is_kind = matches!(
            field.kind,
            FieldType::Number(_)
                | FieldType::Date(_)
                | FieldType::Boolean(_)
                | FieldType::Code(_)
                | FieldType::Codes(_)
        );
        is_kind && field.is_sent() && field.operation.is_none()
    };
    target.fields.with_ids().filter(|(_, field)| has_total(field)).map(|(id, _)| id).collect()
}

/// A field that is counted in the records that are sent.
#[derive(Debug, Clone, Copy)]
pub(crate) struct CountedField {
    id: FieldId,
    /// How many decimals its numbers have.
    decimals: u32,
    /// More than how often it is filled can be said of it.
    has_total: bool,
}

/// All fields that are sent, those that have totals first.
pub(crate) fn counted_fields(plan: &Plan<'_>, target: &Target) -> Vec<CountedField> {
    let totalled = totalled(target);
    let others = target.fields.with_ids().filter(|(id, field)| field.is_sent() && !totalled.contains(id));
    let others: Vec<FieldId> = others.map(|(id, _)| id).collect();
    let counted =
        |has_total| move |id: FieldId| CountedField { id, decimals: decimals_of(plan, id), has_total };
    totalled.into_iter().map(counted(true)).chain(others.into_iter().map(counted(false))).collect()
}

/// Tells what records add to totals, for one worker.
#[derive(Debug, Default)]
pub(crate) struct TotalShares {
    fields: Vec<CountedField>,
    /// For each field, the words met and their numbers.
    words: Vec<HashMap<String, u32>>,
}

/// A word that a worker meets for the first time in a field, which is named by its place among those that have
/// totals. Its number is the next of that field and worker.
pub(crate) type NewWord = (usize, String);

impl TotalShares {
    pub(crate) fn new(fields: &[CountedField]) -> Self {
        Self { fields: fields.to_vec(), words: fields.iter().map(|_| HashMap::new()).collect() }
    }

    /// Appends what the current record adds, a share for each field.
    pub(crate) fn push(
        &mut self,
        conformer: &Conformer<'_>,
        out: &mut Vec<TotalShare>,
        new: &mut Vec<NewWord>,
    ) {
        for ((place, field), words) in self.fields.iter().enumerate().zip(&mut self.words) {
            if !field.has_total {
                let is_blank = conformer.value(field.id).1.is_empty();
                out.push(if is_blank { TotalShare::Blank } else { TotalShare::Filled });
                continue;
            }
            out.push(match conformer.value_alone_of(field.id) {
                Value::Blank => TotalShare::Blank,
                // A time of day has no first and no last: it comes again every day.
                Value::Time(_) => TotalShare::Filled,
                Value::Number(number) => {
                    number.units_of(field.decimals).map_or(TotalShare::Long, TotalShare::Number)
                }
                Value::Date(day) => TotalShare::Day(day),
                Value::DateTime(moment) => TotalShare::Moment(moment),
                Value::Text | Value::Boolean(_) => match conformer.value(field.id) {
                    (_, "") => TotalShare::Blank,
                    (_, text) => TotalShare::Word(words.get(text).copied().unwrap_or_else(|| {
                        // What has too many different words is counted together, and fills no memory.
                        let number = u32::try_from(words.len()).unwrap_or(TOO_MANY);
                        if words.len() >= MOST_WORDS {
                            return TOO_MANY;
                        }
                        words.insert(text.to_owned(), number);
                        new.push((place, text.to_owned()));
                        number
                    })),
                },
            });
        }
    }
}

/// How many decimals the numbers of a field have.
fn decimals_of(plan: &Plan<'_>, field: FieldId) -> u32 {
    match plan.fields.get(field).map(|plan| &plan.field.kind) {
        Some(FieldType::Number(number)) => number.decimals,
        _ => 0,
    }
}

/// Adds up what the sent records come to.
#[derive(Debug, Default)]
pub(crate) struct FieldTotals {
    ids: Vec<FieldId>,
    fields: Vec<Running>,
    /// For each worker and field, where its words are among all words.
    words: Vec<Vec<Vec<usize>>>,
}

/// A field's total on its way.
#[derive(Debug, Default)]
struct Running {
    name: String,
    /// Only how often it is filled is counted.
    only_filled: bool,
    /// How several codes are written in one word.
    layout: Option<CodesLayout>,
    /// Its values are numbers, with so many decimals.
    is_number: bool,
    decimals: u32,
    filled: u64,
    numbers: Numbers,
    days: Option<(Date, Date)>,
    moments: Option<(DateTime, DateTime)>,
    words: Vec<String>,
    places: HashMap<String, usize>,
    counts: Vec<u64>,
    /// How many records have a word, and whether there are too many different ones.
    worded: u64,
    has_too_many: bool,
}

/// Numbers added up, in units of their last decimal.
#[derive(Debug, Default)]
struct Numbers {
    /// More of them than there can be rows do not overflow it.
    sum: i128,
    range: Option<(i64, i64)>,
    /// One had too many digits, so that nothing is said.
    is_long: bool,
}

impl FieldTotals {
    pub(crate) fn new(plan: &Plan<'_>, fields: &[CountedField]) -> Self {
        let running = |counted: &CountedField| {
            let field = plan.fields.get(counted.id)?;
            let layout = match &field.field.kind {
                FieldType::Codes(codes) => Some(codes.layout.clone()),
                _ => None,
            };
            let is_number = matches!(field.field.kind, FieldType::Number(_));
            Some(Running {
                name: field.field.name.clone(),
                only_filled: !counted.has_total,
                layout,
                is_number,
                decimals: counted.decimals,
                ..Running::default()
            })
        };
        let ids = fields.iter().map(|counted| counted.id).collect();
        Self { ids, fields: fields.iter().filter_map(running).collect(), words: Vec::new() }
    }

    /// How many shares each record has.
    pub(crate) fn len(&self) -> usize {
        self.fields.len()
    }

    /// Takes in words that a worker has met.
    pub(crate) fn announce(&mut self, worker: usize, new: impl Iterator<Item = NewWord>) {
        if self.words.len() <= worker {
            self.words.resize_with(worker + 1, Vec::new);
        }
        let Some(words) = self.words.get_mut(worker) else { return };
        words.resize_with(self.fields.len(), Vec::new);
        for (place, word) in new {
            let (Some(field), Some(words)) = (self.fields.get_mut(place), words.get_mut(place)) else {
                continue;
            };
            words.push(field.place_of(word));
        }
    }

    /// Takes in a record that is sent.
    pub(crate) fn take(&mut self, worker: usize, shares: &[TotalShare]) {
        let words = self.words.get(worker);
        for ((place, field), share) in self.fields.iter_mut().enumerate().zip(shares) {
            field.filled += u64::from(*share != TotalShare::Blank);
            match *share {
                TotalShare::Blank | TotalShare::Filled => {}
                TotalShare::Number(number) => {
                    field.numbers.sum += i128::from(number);
                    widen(&mut field.numbers.range, number);
                }
                TotalShare::Long => field.numbers.is_long = true,
                TotalShare::Day(day) => widen(&mut field.days, day),
                TotalShare::Moment(moment) => widen(&mut field.moments, moment),
                TotalShare::Word(number) => {
                    field.worded += 1;
                    let at = words.and_then(|words| words.get(place)?.get(number as usize).copied());
                    match at.and_then(|at| field.counts.get_mut(at)) {
                        Some(count) => *count += 1,
                        None => field.has_too_many = true,
                    }
                }
            }
        }
    }

    /// In how many records each field is filled, in the target's order.
    pub(crate) fn filled(&self) -> Vec<(FieldId, u64)> {
        let mut filled: Vec<(FieldId, u64)> =
            self.ids.iter().zip(&self.fields).map(|(id, field)| (*id, field.filled)).collect();
        filled.sort();
        filled
    }

    /// What everything comes to.
    pub(crate) fn finish(self) -> Vec<FieldTotal> {
        self.fields.into_iter().filter(|field| !field.only_filled).map(Running::finish).collect()
    }
}

impl Running {
    /// Where a word is among all; beyond them where there are too many.
    fn place_of(&mut self, word: String) -> usize {
        if let Some(place) = self.places.get(&word) {
            return *place;
        }
        let place = self.words.len();
        if place >= MOST_WORDS {
            self.has_too_many = true;
            return usize::MAX;
        }
        self.words.push(word.clone());
        self.counts.push(0);
        self.places.insert(word, place);
        place
    }

    fn finish(self) -> FieldTotal {
        let mut counts = BTreeMap::new();
        let counted = self.words.iter().zip(&self.counts).filter(|_| !self.has_too_many);
        for (word, count) in counted.filter(|(_, count)| **count > 0) {
            // Several codes of one record count once each.
            let codes =
                self.layout.as_ref().map_or_else(|| vec![word.as_str()], |layout| layout.codes_of(word));
            for code in codes.into_iter().filter(|code| !code.is_empty()) {
                *counts.entry(code.to_owned()).or_insert(0) += count;
            }
        }
        let number = |units: i128| Decimal::of_units(units, self.decimals).to_string();
        let known = self.numbers.range.filter(|_| !self.numbers.is_long);
        let numbers = known.map(|(least, most)| (number(least.into()), number(most.into())));
        let days = self.days.map(|(first, last)| (first.to_string(), last.to_string()));
        let moments = self.moments.map(|(first, last)| (first.to_string(), last.to_string()));
        let (least, most) = numbers.or(days).or(moments).unzip();
        FieldTotal {
            field: self.name,
            filled: self.filled,
            sum: (self.is_number && !self.numbers.is_long).then(|| number(self.numbers.sum)),
            least,
            most,
            counts,
            others: if self.has_too_many { self.worded } else { 0 },
        }
    }
}

/// Takes a value into a range.
fn widen<T: Copy + Ord>(range: &mut Option<(T, T)>, value: T) {
    let (least, most) = range.unwrap_or((value, value));
    *range = Some((least.min(value), most.max(value)));
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_of_several_workers_are_counted_together_unless_there_are_too_many() {
        let layout = Some(CodesLayout::Joined("|".into()));
        let field = || Running { name: "kit".into(), layout: layout.clone(), ..Running::default() };
        let mut totals = FieldTotals { ids: vec![FieldId::FIRST], fields: vec![field()], words: Vec::new() };
        totals.announce(1, [(0, "A|B".to_owned()), (0, "A".to_owned())].into_iter());
        totals.announce(0, [(0, "A".to_owned())].into_iter());
        for (worker, word) in [(1, 0), (1, 1), (0, 0)] {
            totals.take(worker, &[TotalShare::Word(word)]);
        }
        totals.take(0, &[TotalShare::Blank]);
        assert_eq!(totals.filled(), [(FieldId::FIRST, 3)]);
        let [total] = &totals.finish()[..] else { panic!() };
        assert_eq!((total.filled, total.others), (3, 0));
        assert_eq!(total.counts, BTreeMap::from([("A".to_owned(), 3), ("B".to_owned(), 1)]));

        let mut many = FieldTotals { ids: vec![FieldId::FIRST], fields: vec![field()], words: Vec::new() };
        let words = 0..=u32::try_from(MOST_WORDS).unwrap();
        many.announce(0, words.clone().map(|word| (0, format!("code {word}"))));
        words.for_each(|word| many.take(0, &[TotalShare::Word(word)]));
        let [total] = &many.finish()[..] else { panic!() };
        assert_eq!((total.filled, total.others, total.counts.len()), (10_001, 10_001, 0));
    }

    #[test]
    fn sums_are_exact_and_ranges_are_those_of_days_and_numbers() {
        let fields = vec![Running { is_number: true, decimals: 1, ..Running::default() }, Running::default()];
        let mut totals = FieldTotals { ids: Vec::new(), fields, words: Vec::new() };
        for (number, day) in [(1, 3), (2, 1), (-70, 2)] {
            totals.take(0, &[TotalShare::Number(number), TotalShare::Day(Date::constant(2026, 5, day))]);
        }
        let [number, day] = &totals.finish()[..] else { panic!() };
        let text = |text: &str| Some(text.to_owned());
        assert_eq!((&number.sum, &number.least, &number.most), (&text("-6.7"), &text("-7"), &text("0.2")));
        assert_eq!((&day.sum, &day.least, &day.most), (&None, &text("2026-05-01"), &text("2026-05-03")));
    }

    #[test]
    fn a_number_of_too_many_digits_leaves_the_sum_open() {
        let mut totals = FieldTotals {
            ids: Vec::new(),
            fields: vec![Running { is_number: true, ..Running::default() }],
            words: Vec::new(),
        };
        [TotalShare::Number(1), TotalShare::Long].iter().for_each(|share| totals.take(0, &[*share]));
        let [total] = &totals.finish()[..] else { panic!() };
        assert_eq!((total.filled, &total.sum, &total.most), (2, &None, &None));
        assert_eq!(size_of::<TotalShare>(), 16);
    }
}
