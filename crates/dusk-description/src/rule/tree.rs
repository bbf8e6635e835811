//! A rule as it is understood, and how it is written again.

use std::fmt;

use jiff::civil::{Date, Time};
use regex::Regex;

use dusk_evidence::FieldId;
use dusk_values::Decimal;

/// Words of the language, which name a field only in braces.
pub(super) const RESERVED: [&str; 31] = [
    "and",
    "or",
    "not",
    "is",
    "blank",
    "in",
    "between",
    "matches",
    "does",
    "match",
    "true",
    "false",
    "today",
    "of",
    "days",
    "number",
    "records",
    "different",
    "sum",
    "smallest",
    "largest",
    "length",
    "year",
    "month",
    "day",
    "weekday",
    "date",
    "time",
    "the",
    "a",
    "an",
];

/// How comparisons are written, the longer signs first, so that "<=" is not taken for "<".
pub(super) const SIGNS: [(&str, Comparison); 8] = [
    ("<=", Comparison::LessOrEqual),
    (">=", Comparison::GreaterOrEqual),
    ("!=", Comparison::NotEqual),
    ("≤", Comparison::LessOrEqual),
    ("≥", Comparison::GreaterOrEqual),
    ("<", Comparison::Less),
    (">", Comparison::Greater),
    ("=", Comparison::Equal),
];

/// Something that holds or does not, or that a blank leaves undecided.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Condition {
    All(Vec<Condition>),
    Any(Vec<Condition>),
    Not(Box<Condition>),
    Compare(Term, Comparison, Term),
    Between(Term, Term, Term),
    Blank(Term, bool),
    Among(Term, Vec<Term>, bool),
    Matches(Term, Form, bool),
    /// A field that is true or false by itself.
    Holds(Term),
}

/// Something that has a value.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Term {
    Field(FieldId, String),
    Number(Decimal),
    Text(String),
    Date(Date),
    Time(Time),
    True(bool),
    Today,
    Minus(Box<Term>),
    Sum(Box<Term>, Box<Term>),
    Difference(Box<Term>, Box<Term>),
    Product(Box<Term>, Box<Term>),
    Part(Part, Box<Term>),
    DaysBetween(Box<Term>, Box<Term>),
    /// Over many records: of a field, of the product of several, or of the records themselves.
    Over(Over, Vec<(FieldId, String)>),
}

/// A part of a value.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Part {
    Length,
    Year,
    Month,
    Day,
    Weekday,
    Date,
    Time,
}

impl Part {
    pub(super) const WORDS: [(&'static str, Self); 7] = [
        ("length", Self::Length),
        ("year", Self::Year),
        ("month", Self::Month),
        ("day", Self::Day),
        ("weekday", Self::Weekday),
        ("date", Self::Date),
        ("time", Self::Time),
    ];
}

/// What is reckoned over many records.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Over {
    /// How many records there are.
    Records,
    Sum,
    Smallest,
    Largest,
    /// How many different values there are.
    Different,
}

impl Over {
    pub(super) const WORDS: [(&'static str, Self); 5] = [
        ("number of records", Self::Records),
        ("sum of", Self::Sum),
        ("smallest", Self::Smallest),
        ("largest", Self::Largest),
        ("number of different", Self::Different),
    ];
}

/// How two values are compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Comparison {
    Equal,
    NotEqual,
    Less,
    LessOrEqual,
    Greater,
    GreaterOrEqual,
}

/// A regular expression for a whole text, and as it was written.
#[derive(Debug, Clone)]
pub(super) struct Form {
    pub(super) regex: Regex,
    pub(super) written: String,
}

impl PartialEq for Form {
    fn eq(&self, other: &Self) -> bool {
        self.written == other.written
    }
}

impl Eq for Form {}

impl Condition {
    /// Calls `visit` with every term in it.
    pub(super) fn each_term<'c>(&'c self, visit: &mut dyn FnMut(&'c Term)) {
        match self {
            Self::All(parts) | Self::Any(parts) => parts.iter().for_each(|part| part.each_term(visit)),
            Self::Not(inner) => inner.each_term(visit),
            Self::Compare(left, _, right) => [left, right].into_iter().for_each(|term| term.each(visit)),
            Self::Between(term, least, most) => {
                [term, least, most].into_iter().for_each(|term| term.each(visit))
            }
            Self::Blank(term, _) | Self::Matches(term, ..) | Self::Holds(term) => term.each(visit),
            Self::Among(term, list, _) => std::iter::once(term).chain(list).for_each(|term| term.each(visit)),
        }
    }
}

impl Term {
    pub(super) fn each<'c>(&'c self, visit: &mut dyn FnMut(&'c Term)) {
        visit(self);
        match self {
            Self::Minus(inner) | Self::Part(_, inner) => inner.each(visit),
            Self::Sum(left, right)
            | Self::Difference(left, right)
            | Self::Product(left, right)
            | Self::DaysBetween(left, right) => {
                left.each(visit);
                right.each(visit);
            }
            _ => {}
        }
    }
}

fn joined<T: fmt::Display>(f: &mut fmt::Formatter<'_>, parts: &[T], between: &str) -> fmt::Result {
    for (place, part) in parts.iter().enumerate() {
        if place > 0 {
            f.write_str(between)?;
        }
        write!(f, "{part}")?;
    }
    Ok(())
}

/// A condition inside another one, in brackets where it could be read otherwise without.
struct Inner<'c>(&'c Condition, bool);

impl fmt::Display for Inner<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let open = matches!(self.0, Condition::Any(_)) || self.1 && matches!(self.0, Condition::All(_));
        if open { write!(f, "({})", self.0) } else { write!(f, "{}", self.0) }
    }
}

impl fmt::Display for Condition {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let not = |negated: &bool| if *negated { "not " } else { "" };
        match self {
            Self::Any(parts) => {
                joined(f, &parts.iter().map(|part| Inner(part, false)).collect::<Vec<_>>(), " or ")
            }
            Self::All(parts) => {
                joined(f, &parts.iter().map(|part| Inner(part, true)).collect::<Vec<_>>(), " and ")
            }
            Self::Not(inner) => write!(f, "not {}", Inner(inner, true)),
            Self::Compare(left, comparison, right) => {
                let sign = SIGNS.iter().find(|(_, known)| known == comparison).map_or("=", |(sign, _)| sign);
                write!(f, "{left} {sign} {right}")
            }
            Self::Between(term, least, most) => write!(f, "{term} between {least} and {most}"),
            Self::Blank(term, negated) => write!(f, "{term} is {}blank", not(negated)),
            Self::Among(term, list, negated) => {
                write!(f, "{term} {}in (", not(negated))?;
                joined(f, list, ", ")?;
                f.write_str(")")
            }
            Self::Matches(term, form, negated) => {
                let verb = if *negated { "does not match" } else { "matches" };
                write!(f, "{term} {verb} \"{}\"", form.written.replace('"', "\"\""))
            }
            Self::Holds(term) => write!(f, "{term}"),
        }
    }
}

impl Term {
    /// How tightly it holds together: sums, products, signs, single words.
    fn level(&self) -> u8 {
        match self {
            Self::Sum(..) | Self::Difference(..) => 0,
            Self::Product(..) => 1,
            Self::Minus(_) => 2,
            _ => 3,
        }
    }
}

/// A term where only one of at least this level needs no brackets.
struct AtLeast<'t>(u8, &'t Term);

impl fmt::Display for AtLeast<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.1.level() < self.0 { write!(f, "({})", self.1) } else { write!(f, "{}", self.1) }
    }
}

impl fmt::Display for Term {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Field(_, name) => f.write_str(&field_word(name)),
            Self::Number(number) => write!(f, "{number}"),
            Self::Text(text) => write!(f, "\"{}\"", text.replace('"', "\"\"")),
            Self::Date(day) => write!(f, "{day}"),
            Self::Time(time) if time.second() == 0 => write!(f, "{:02}:{:02}", time.hour(), time.minute()),
            Self::Time(time) => write!(f, "{:02}:{:02}:{:02}", time.hour(), time.minute(), time.second()),
            Self::True(value) => write!(f, "{value}"),
            Self::Today => f.write_str("today"),
            Self::Minus(inner) => write!(f, "-{}", AtLeast(2, inner)),
            Self::Sum(left, right) => write!(f, "{} + {}", AtLeast(0, left), AtLeast(1, right)),
            Self::Difference(left, right) => write!(f, "{} - {}", AtLeast(0, left), AtLeast(1, right)),
            Self::Product(left, right) => write!(f, "{} * {}", AtLeast(1, left), AtLeast(2, right)),
            Self::Part(part, inner) => {
                let word = Part::WORDS.iter().find(|(_, known)| known == part).map_or("", |(word, _)| word);
                write!(f, "{word} of {}", AtLeast(3, inner))
            }
            Self::DaysBetween(first, last) => write!(f, "days between {first} and {last}"),
            Self::Over(over, fields) => {
                let words =
                    Over::WORDS.iter().find(|(_, known)| known == over).map_or("", |(words, _)| words);
                f.write_str(words)?;
                for (place, (_, name)) in fields.iter().enumerate() {
                    write!(f, "{} {}", if place > 0 { " *" } else { "" }, field_word(name))?;
                }
                Ok(())
            }
        }
    }
}

/// A field's name as a rule writes it: in braces where it is no plain word or is a word of the language.
fn field_word(name: &str) -> String {
    let plain = name.chars().next().is_some_and(|c| c.is_alphabetic() || c == '_')
        && name.chars().all(|c| c.is_alphanumeric() || c == '_');
    if plain && !RESERVED.contains(&name) { name.to_owned() } else { format!("{{{name}}}") }
}
