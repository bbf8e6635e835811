//! Rules over many records: what each record adds, and what the sums come to at the end.

use std::cmp::Ordering;

use hashbrown::{HashMap, HashSet};
use jiff::civil::Date;

use super::Rule;
use super::evaluate::Scene;
use super::tree::{Over, Term};
use dusk_evidence::FieldId;
use dusk_values::{Decimal, Value};

/// What one record adds to a rule's tally.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RecordShare {
    /// The values of the fields that divide the records into groups.
    group: Vec<(Value, String)>,
    /// The value for each thing that is reckoned.
    values: Vec<(Value, String)>,
}

impl RecordShare {
    /// The texts of the fields that divide the records into groups.
    pub fn group(&self) -> Vec<String> {
        self.group.iter().map(|(_, text)| text.clone()).collect()
    }
}

/// The tally of one rule over many records. It grows with the groups, and with the different values
/// where these are counted.
#[derive(Debug, Clone)]
pub struct Tally {
    wanted: Vec<(Over, Vec<FieldId>)>,
    groups: HashMap<Vec<String>, Group>,
    order: Vec<Vec<String>>,
}

#[derive(Debug, Clone)]
struct Group {
    key: Vec<(Value, String)>,
    counts: Vec<Count>,
}

#[derive(Debug, Clone)]
enum Count {
    Records(u64),
    /// Nothing once the sum has grown too long to be exact.
    Sum(Option<Decimal>),
    Smallest(Value),
    Largest(Value),
    Different(HashSet<u128>),
}

/// A group of records, and what was reckoned of it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Reckoned {
    /// The group's values of the fields in `for_each`, with their names; empty for the whole batch.
    pub group: Vec<String>,
    /// What was reckoned, in words.
    pub reckoned: Vec<String>,
    /// The rule does not hold for it.
    pub is_broken: bool,
}

impl Rule {
    fn wanted(&self) -> Vec<(Over, Vec<FieldId>)> {
        let mut wanted = Vec::new();
        self.must.each_term(&mut |term| {
            if let Term::Over(over, fields) = term {
                let one = (*over, fields.iter().map(|(place, _)| *place).collect());
                if !wanted.contains(&one) {
                    wanted.push(one);
                }
            }
        });
        wanted
    }

    /// What a record adds; nothing for a record that `when` leaves aside.
    pub fn share<'v>(&self, today: Date, value: &dyn Fn(FieldId) -> (Value, &'v str)) -> Option<RecordShare> {
        let scene = Scene { value, over: &|_, _| None, today, loosely: false };
        if !self.applies_in(&scene) {
            return None;
        }
        let owned = |place: FieldId| {
            let (value, text) = value(place);
            (value, text.to_owned())
        };
        let group = self.for_each.iter().map(|place| owned(*place)).collect();
        let of = |(_, fields): (Over, Vec<FieldId>)| match fields.as_slice() {
            [] => (Value::Blank, String::new()),
            [only] => owned(*only),
            several => (product(several, value), String::new()),
        };
        let values = self.wanted().into_iter().map(of).collect();
        Some(RecordShare { group, values })
    }

    /// An empty tally. A rule over the whole batch has one group from the start: the batch may have no
    /// record at all.
    pub fn tally(&self) -> Tally {
        let mut tally = Tally { wanted: self.wanted(), groups: HashMap::new(), order: Vec::new() };
        if self.for_each.is_empty() {
            tally.group(Vec::new());
        }
        tally
    }

    /// The groups for which the rule does not hold, in the order in which they were met.
    pub fn broken(&self, tally: &Tally, today: Date, name: &dyn Fn(FieldId) -> String) -> Vec<Reckoned> {
        self.reckoned(tally, today, name).into_iter().filter(|group| group.is_broken).collect()
    }

    /// The groups for which the rule does not hold, by the texts of the fields that divide the records.
    pub fn broken_groups(&self, tally: &Tally, today: Date) -> Vec<Vec<String>> {
        let is_broken = |key: &&Vec<String>| {
            let group = tally.groups.get(*key);
            group.is_some_and(|group| self.reckoned_of(group, (tally, today), &|_| String::new()).is_broken)
        };
        tally.order.iter().filter(is_broken).cloned().collect()
    }

    /// All groups and what was reckoned for each, in the order in which they were met.
    pub fn reckoned(&self, tally: &Tally, today: Date, name: &dyn Fn(FieldId) -> String) -> Vec<Reckoned> {
        let groups = tally.order.iter().filter_map(|key| tally.groups.get(key));
        groups.map(|group| self.reckoned_of(group, (tally, today), name)).collect()
    }

    fn reckoned_of(
        &self,
        group: &Group,
        (tally, today): (&Tally, Date),
        name: &dyn Fn(FieldId) -> String,
    ) -> Reckoned {
        let value = |place: FieldId| {
            let found =
                self.for_each.iter().position(|known| *known == place).and_then(|at| group.key.get(at));
            found.map_or((Value::Blank, ""), |(value, text)| (*value, text.as_str()))
        };
        let over = |over: Over, fields: &[FieldId]| {
            let at = tally.wanted.iter().position(|(known, of)| *known == over && of == fields)?;
            group.counts.get(at)?.value()
        };
        let scene = Scene { value: &value, over: &over, today, loosely: false };
        let reckoned = tally.wanted.iter().zip(&group.counts).map(|((over, fields), count)| {
            let words = Over::WORDS.iter().find(|(_, known)| known == over).map_or("", |(words, _)| words);
            let fields: Vec<String> = fields.iter().map(|place| name(*place)).collect();
            let between = if fields.is_empty() { "" } else { " " };
            format!("{words}{between}{} {}", fields.join(" * "), count.shown())
        });
        let key = self.for_each.iter().zip(&group.key);
        Reckoned {
            reckoned: reckoned.collect(),
            group: key.map(|(place, (_, text))| format!("{} {text}", name(*place))).collect(),
            is_broken: scene.holds(&self.must) == Some(false),
        }
    }
}

/// The product of numbers; blank where one of them is, and text where it has too many digits.
fn product<'v>(fields: &[FieldId], value: &dyn Fn(FieldId) -> (Value, &'v str)) -> Value {
    let mut product = Decimal::whole(1);
    for field in fields {
        let (Value::Number(number), _) = value(*field) else { return Value::Blank };
        let Some(next) = product.times(number) else { return Value::Text };
        product = next;
    }
    Value::Number(product)
}

impl Tally {
    /// Takes a record in.
    pub fn take(&mut self, share: &RecordShare) {
        let group = self.group(share.group.clone());
        for (count, (value, text)) in group.counts.iter_mut().zip(&share.values) {
            count.take(*value, text);
        }
    }

    fn group(&mut self, key: Vec<(Value, String)>) -> &mut Group {
        let texts: Vec<String> = key.iter().map(|(_, text)| text.clone()).collect();
        if !self.groups.contains_key(&texts) {
            self.order.push(texts.clone());
        }
        let wanted = &self.wanted;
        self.groups.entry(texts).or_insert_with(|| Group {
            key,
            counts: wanted.iter().map(|(over, _)| Count::new(*over)).collect(),
        })
    }
}

impl Count {
    fn new(over: Over) -> Self {
        match over {
            Over::Records => Self::Records(0),
            Over::Sum => Self::Sum(Some(Decimal::ZERO)),
            Over::Smallest => Self::Smallest(Value::Blank),
            Over::Largest => Self::Largest(Value::Blank),
            Over::Different => Self::Different(HashSet::new()),
        }
    }

    /// Blanks add nothing but records.
    fn take(&mut self, value: Value, text: &str) {
        match (self, value) {
            (Self::Records(count), _) => *count += 1,
            (_, Value::Blank) => {}
            // A product of too many digits.
            (Self::Sum(sum), Value::Text) => *sum = None,
            (Self::Sum(sum), Value::Number(number)) => *sum = sum.and_then(|sum| sum.plus(number)),
            (Self::Smallest(end), value) if value.compare(*end, ("", "")).is_none_or(Ordering::is_lt) => {
                *end = value
            }
            (Self::Largest(end), value) if value.compare(*end, ("", "")).is_none_or(Ordering::is_gt) => {
                *end = value
            }
            (Self::Different(seen), _) => {
                seen.insert(xxhash_rust::xxh3::xxh3_128(text.as_bytes()));
            }
            _ => {}
        }
    }

    fn value(&self) -> Option<Value> {
        let whole = |count: u64| i64::try_from(count).ok().map(|count| Value::Number(Decimal::whole(count)));
        match self {
            Self::Records(count) => whole(*count),
            Self::Sum(sum) => sum.map(Value::Number),
            Self::Smallest(end) | Self::Largest(end) => Some(*end).filter(|end| *end != Value::Blank),
            Self::Different(seen) => whole(seen.len() as u64),
        }
    }

    fn shown(&self) -> String {
        match self.value() {
            Some(Value::Number(number)) => number.to_string(),
            Some(Value::Date(day)) => dusk_values::shown(day),
            Some(Value::DateTime(moment)) => moment.to_string(),
            Some(Value::Time(time)) => time.to_string(),
            _ => "(none)".to_owned(),
        }
    }
}
