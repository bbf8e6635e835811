//! Whether a rule holds for a record.

use std::borrow::Cow;
use std::cmp::Ordering;

use jiff::civil::Date;

use super::tree::{Comparison, Condition, Over, Part, Term};
use crate::fold;
use dusk_evidence::FieldId;
use dusk_values::{Decimal, Value};

/// What a rule is evaluated with.
pub(super) struct Scene<'s, 'v> {
    /// The value of a field and its text, by its place.
    pub(super) value: &'s dyn Fn(FieldId) -> (Value, &'v str),
    /// What is reckoned over many records.
    pub(super) over: &'s dyn Fn(Over, &[FieldId]) -> Option<Value>,
    /// The day of the run.
    pub(super) today: Date,
    /// Case and blanks do not count when texts are compared.
    pub(super) loosely: bool,
}

/// A value and the text beside it.
type Worth<'v> = (Value, Cow<'v, str>);

impl Scene<'_, '_> {
    /// Whether a condition holds; nothing when a blank leaves it undecided.
    pub(super) fn holds(&self, condition: &Condition) -> Option<bool> {
        // The side that settles the matter: one false for `and`, one true for `or`.
        let join = |parts: &[Condition], settles: bool| {
            let mut undecided = false;
            for part in parts {
                match self.holds(part) {
                    Some(holds) if holds == settles => return Some(settles),
                    Some(_) => {}
                    None => undecided = true,
                }
            }
            (!undecided).then_some(!settles)
        };
        match condition {
            Condition::All(parts) => join(parts, false),
            Condition::Any(parts) => join(parts, true),
            Condition::Not(inner) => self.holds(inner).map(|holds| !holds),
            Condition::Compare(left, comparison, right) => {
                Some(comparison.accepts(self.order(&self.worth(left)?, &self.worth(right)?)?))
            }
            Condition::Between(term, least, most) => {
                let term = self.worth(term)?;
                let (least, most) =
                    (self.order(&term, &self.worth(least)?)?, self.order(&term, &self.worth(most)?)?);
                Some(least.is_ge() && most.is_le())
            }
            Condition::Blank(term, negated) => Some(self.worth(term).is_none() != *negated),
            Condition::Among(term, list, negated) => {
                let term = self.worth(term)?;
                let mut undecided = false;
                for value in list {
                    match self.worth(value).and_then(|value| self.order(&term, &value)) {
                        Some(Ordering::Equal) => return Some(!negated),
                        Some(_) => {}
                        None => undecided = true,
                    }
                }
                (!undecided).then_some(*negated)
            }
            Condition::Matches(term, form, negated) => {
                Some(form.regex.is_match(&self.worth(term)?.1) != *negated)
            }
            Condition::Holds(term) => match self.worth(term)?.0 {
                Value::Boolean(holds) => Some(holds),
                _ => None,
            },
        }
    }

    fn order(&self, left: &Worth<'_>, right: &Worth<'_>) -> Option<Ordering> {
        if self.loosely && (left.0, right.0) == (Value::Text, Value::Text) {
            return Some(fold(&left.1).cmp(&fold(&right.1)));
        }
        left.0.compare(right.0, (&left.1, &right.1))
    }

    /// The value of a term; nothing for a blank and for what is too large to be reckoned exactly.
    pub(super) fn worth<'w>(&'w self, term: &'w Term) -> Option<Worth<'w>> {
        let plain = |value: Value| Some((value, Cow::Borrowed("")));
        let number = |term: &Term| match self.worth(term)?.0 {
            Value::Number(number) => Some(number),
            _ => None,
        };
        match term {
            Term::Field(place, _) => {
                let (value, text) = (self.value)(*place);
                (value != Value::Blank).then_some((value, Cow::Borrowed(text)))
            }
            Term::Number(number) => plain(Value::Number(*number)),
            Term::Text(text) => Some((Value::Text, Cow::Borrowed(text))),
            Term::Date(day) => plain(Value::Date(*day)),
            Term::Time(time) => plain(Value::Time(*time)),
            Term::True(value) => plain(Value::Boolean(*value)),
            Term::Today => plain(Value::Date(self.today)),
            Term::Minus(inner) => plain(Value::Number(Decimal::ZERO.minus(number(inner)?)?)),
            Term::Product(left, right) => plain(Value::Number(number(left)?.times(number(right)?)?)),
            Term::Sum(left, right) => plain(sum(self.worth(left)?.0, self.worth(right)?.0)?),
            Term::Difference(left, right) => plain(difference(self.worth(left)?.0, self.worth(right)?.0)?),
            Term::DaysBetween(first, last) => plain(difference(self.worth(last)?.0, self.worth(first)?.0)?),
            Term::Part(part, inner) => plain(part_of(*part, &self.worth(inner)?)?),
            Term::Over(over, fields) => {
                let places: Vec<FieldId> = fields.iter().map(|(place, _)| *place).collect();
                plain((self.over)(*over, &places)?)
            }
        }
    }
}

fn sum(left: Value, right: Value) -> Option<Value> {
    match (left, right) {
        (Value::Number(left), Value::Number(right)) => left.plus(right).map(Value::Number),
        (Value::Date(day), Value::Number(days)) | (Value::Number(days), Value::Date(day)) => later(day, days),
        _ => None,
    }
}

fn difference(left: Value, right: Value) -> Option<Value> {
    match (left, right) {
        (Value::Number(left), Value::Number(right)) => left.minus(right).map(Value::Number),
        (Value::Date(day), Value::Number(days)) => later(day, Decimal::ZERO.minus(days)?),
        (Value::Date(last), Value::Date(first)) => {
            Some(Value::Number(Decimal::whole(i64::from((last - first).get_days()))))
        }
        _ => None,
    }
}

/// So many days later. Only whole days are added.
fn later(day: Date, days: Decimal) -> Option<Value> {
    let days: i64 = days.to_string().parse().ok()?;
    day.checked_add(jiff::Span::new().try_days(days).ok()?).ok().map(Value::Date)
}

fn part_of(part: Part, (value, text): &Worth<'_>) -> Option<Value> {
    let day = match value {
        Value::Date(day) => Some(*day),
        Value::DateTime(moment) => Some(moment.date()),
        _ => None,
    };
    let whole = |number: i64| Some(Value::Number(Decimal::whole(number)));
    match part {
        Part::Length => whole(i64::try_from(text.chars().count()).ok()?),
        Part::Year => whole(i64::from(day?.year())),
        Part::Month => whole(i64::from(day?.month())),
        Part::Day => whole(i64::from(day?.day())),
        // ISO 8601: Monday is 1.
        Part::Weekday => whole(i64::from(day?.weekday().to_monday_one_offset())),
        Part::Date => day.map(Value::Date),
        Part::Time => match value {
            Value::DateTime(moment) => Some(Value::Time(moment.time())),
            _ => None,
        },
    }
}

impl Comparison {
    fn accepts(self, order: Ordering) -> bool {
        match self {
            Self::Equal => order.is_eq(),
            Self::NotEqual => order.is_ne(),
            Self::Less => order.is_lt(),
            Self::LessOrEqual => order.is_le(),
            Self::Greater => order.is_gt(),
            Self::GreaterOrEqual => order.is_ge(),
        }
    }
}
