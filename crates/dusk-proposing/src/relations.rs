//! What a dictionary says of several fields together, and columns of which that is true row by row: the charge is
//! the pieces times the price, the tare is never more than the gross weight.

use super::names::Name;
use super::row_values::{MILLION, RowValues};
use super::rows::Rows;
use super::spelling::{stem, without_marks};
use super::weigh::Weighed;
use super::words::verb_root;
use dusk_description::FieldType;
use dusk_evidence::{ColumnId, FieldId};
use dusk_values::ValueType;

/// Words that lead from two fields to a third.
const TIMES: [&str; 8] = ["times", "multiplied", "mal", "fois", "multiplie", "por", "x", "×"];
const LESS: [&str; 8] = ["less", "minus", "abzuglich", "weniger", "moins", "menos", "deducted", "without"];
const PLUS: [&str; 11] = [
    "plus",
    "together",
    "sum",
    "zusammen",
    "summe",
    "ensemble",
    "somme",
    "suma",
    "added",
    "zuzuglich",
    "mas",
];

/// Words between two fields that are named together.
const AND: [&str; 5] = ["and", "und", "et", "y", "mit"];

/// Words for what is reckoned from a price and a number of things.
const AMOUNTS: [&str; 3] = ["amount", "total", "sum"];
const PRICES: [&str; 2] = ["price", "rate"];
const COUNTS: [&str; 4] = ["quantity", "count", "piece", "hour"];

/// Words of which the first kind is never after the second.
const BEFORE: [(&[&str], &[&str]); 8] = [
    (&["start", "begin", "from", "first"], &["end", "finish", "stop", "to", "until", "last"]),
    (&["minimum", "least"], &["maximum", "most"]),
    (&["opening"], &["closing"]),
    (&["birth", "born"], &["death", "died"]),
    (&["arrival", "arrived"], &["departure", "departed"]),
    (&["net"], &["gross"]),
    (&["old"], &["new"]),
    (&["before"], &["after"]),
];

/// How a field comes of two others.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Reckoned {
    Product,
    Difference,
    Sum,
}

impl Reckoned {
    /// In millionths, as the two are; nothing where that is too large.
    fn of(self, first: i128, second: i128) -> Option<i128> {
        match self {
            Self::Product => first.checked_mul(second).map(|product| product / MILLION),
            Self::Difference => first.checked_sub(second),
            Self::Sum => first.checked_add(second),
        }
    }
}

/// A field that comes of two others.
struct Triple {
    made: FieldId,
    from: [FieldId; 2],
    reckoned: Reckoned,
}

/// More columns of numbers than this are not held against one another.
const MOST_COLUMNS: usize = 40;

/// Pairs that numbers prove: of a field that is reckoned from two others, and of those two where it is clear which
/// is which.
pub(super) fn reckoned(weighed: &Weighed<'_>, rows: &Rows) -> Vec<(FieldId, ColumnId)> {
    let numbers: Vec<FieldId> = weighed
        .fields()
        .filter(|field| matches!(weighed.field(*field), Some(FieldType::Number(_))))
        .collect();
    let mut triples: Vec<Triple> =
        numbers.iter().filter_map(|field| told(weighed, *field, &numbers)).collect();
    if triples.is_empty() {
        triples.extend(of_price(weighed, &numbers));
    }
    if triples.is_empty() {
        return Vec::new();
    }
    let columns: Vec<(ColumnId, RowValues)> = weighed
        .columns()
        .filter_map(|column| Some((column, RowValues::numbers(rows, column)?)))
        .take(MOST_COLUMNS)
        .collect();
    triples.iter().flat_map(|triple| proven(weighed, triple, &columns)).collect()
}

/// The one way in which three columns are what a field is said to be.
fn proven(
    weighed: &Weighed<'_>,
    triple: &Triple,
    columns: &[(ColumnId, RowValues)],
) -> Vec<(FieldId, ColumnId)> {
    let mut found: Vec<(ColumnId, ColumnId, ColumnId)> = Vec::new();
    let is_ordered = triple.reckoned == Reckoned::Difference;
    let may_be = |field: FieldId, column: ColumnId| {
        weighed
            .pair(field, column)
            .is_some_and(|pair| pair.hinted.points > -200 && !pair.contents.contradict())
    };
    for (place, (first, first_values)) in columns.iter().enumerate() {
        for (second, second_values) in columns.iter().skip(if is_ordered { 0 } else { place + 1 }) {
            for (made, made_values) in columns {
                let is_whole =
                    made != first && made != second && first != second && may_be(triple.made, *made);
                let of = |first, second| triple.reckoned.of(first, second);
                if is_whole && made_values.is_made_of([first_values, second_values], of) {
                    found.push((*made, *first, *second));
                }
            }
        }
    }
    /// By how much one way must be better than the other.
    const CLEARLY: i32 = 100;
    let worth = |field: FieldId, column: ColumnId| {
        weighed.pair(field, column).map_or(0, |pair| {
            i32::try_from(pair.name).unwrap_or(0) + pair.contents.points + pair.hinted.points
        })
    };
    let [one, other] = triple.from;
    match found.as_slice() {
        [(made, first, second)] if !is_ordered => {
            let straight = worth(one, *first) + worth(other, *second);
            let crossed = worth(one, *second) + worth(other, *first);
            let mut pairs = vec![(triple.made, *made)];
            if straight >= crossed + CLEARLY {
                pairs.extend([(one, *first), (other, *second)]);
            } else if crossed >= straight + CLEARLY {
                pairs.extend([(one, *second), (other, *first)]);
            }
            pairs
        }
        // What is left and what was taken away can always be exchanged: names have to say which is which.
        [(made, first, second), (second_made, same, second_second)]
            if is_ordered && first == same && made == second_second && second == second_made =>
        {
            let straight = worth(triple.made, *made) + worth(other, *second);
            let crossed = worth(triple.made, *second) + worth(other, *made);
            let mut pairs = vec![(one, *first)];
            if straight >= crossed + CLEARLY {
                pairs.extend([(triple.made, *made), (other, *second)]);
            } else if crossed >= straight + CLEARLY {
                pairs.extend([(triple.made, *second), (other, *made)]);
            }
            pairs
        }
        _ => Vec::new(),
    }
}

/// What the description of a field says that it comes of: two other fields by their names, before and behind the
/// word that says how.
fn told(weighed: &Weighed<'_>, field: FieldId, numbers: &[FieldId]) -> Option<Triple> {
    let plain = without_marks(&weighed.description(field)?.to_lowercase());
    let clause = plain.split(['.', ';', ':']).next().unwrap_or_default();
    let words: Vec<&str> =
        clause.split(|c: char| !c.is_alphanumeric() && c != '×').filter(|word| !word.is_empty()).collect();
    let found =
        [(&TIMES[..], Reckoned::Product), (&LESS[..], Reckoned::Difference), (&PLUS[..], Reckoned::Sum)]
            .into_iter()
            .find_map(|(leads, reckoned)| {
                Some((words.iter().position(|word| leads.contains(word))?, reckoned))
            });
    let (at, reckoned) = found?;
    // "Free and combined chlorine together": both stand before it.
    let is_behind = at + 1 >= words.len();
    let middle = if is_behind { words.iter().position(|word| AND.contains(word))? } else { at };
    let end = if is_behind { at } else { words.len() };
    let (before, behind) = (words.get(..middle)?, words.get(middle + 1..end)?);
    let others: Vec<FieldId> = numbers.iter().filter(|other| **other != field).copied().collect();
    let first = named(weighed, before, &others)?;
    let rest: Vec<FieldId> = others.into_iter().filter(|other| *other != first).collect();
    let second = named(weighed, behind, &rest)?;
    Some(Triple { made: field, from: [first, second], reckoned })
}

/// The one field that a few words name best: by most words of a name of it that says no more, or by a word that no
/// other field has.
fn named(weighed: &Weighed<'_>, words: &[&str], fields: &[FieldId]) -> Option<FieldId> {
    let has = |word: &str| words.iter().any(|theirs| stem(theirs) == word || *theirs == word);
    let worth = |field: FieldId| {
        let of_name = |name: &Name| {
            let there = name.words().filter(|word| has(word)).count();
            let is_whole = there == name.words().count();
            let is_own = |word: &str| {
                !fields.iter().any(|other| {
                    *other != field
                        && weighed
                            .names_of(*other)
                            .iter()
                            .any(|name| name.words().any(|theirs| theirs == word))
                })
            };
            let own = name.words().filter(|word| has(word) && is_own(word)).count();
            if is_whole || own > 0 { there * 2 + own + usize::from(is_whole) } else { 0 }
        };
        weighed.names_of(field).iter().map(of_name).max().unwrap_or(0)
    };
    let mut worths: Vec<(usize, FieldId)> = fields.iter().map(|field| (worth(*field), *field)).collect();
    worths.sort_by_key(|(worth, _)| std::cmp::Reverse(*worth));
    match worths.as_slice() {
        [(best, field), rest @ ..] if *best > 0 && rest.first().is_none_or(|(next, _)| next < best) => {
            Some(*field)
        }
        _ => None,
    }
}

/// The one amount of a target that has one price and one number of things.
fn of_price(weighed: &Weighed<'_>, numbers: &[FieldId]) -> Option<Triple> {
    let only = |words: &[&str]| {
        let mut named = numbers
            .iter()
            .filter(|field| weighed.names_of(**field).iter().any(|name| name.last_word_means(words)));
        named.next().filter(|_| named.next().is_none()).copied()
    };
    let (made, price, count) = (only(&AMOUNTS)?, only(&PRICES)?, only(&COUNTS)?);
    let differ = made != price && price != count && made != count;
    differ.then_some(Triple { made, from: [count, price], reckoned: Reckoned::Product })
}

/// Two fields of which the first is never after the second, nor more.
pub(super) type Ordered = (FieldId, FieldId);

/// The fields that a dictionary puts in order, by their names and by what it says of them.
pub(super) fn ordered(weighed: &Weighed<'_>) -> Vec<Ordered> {
    let fields: Vec<FieldId> = weighed.fields().filter(|field| kind(weighed, *field).is_some()).collect();
    let mut ordered = Vec::new();
    for first in &fields {
        for second in fields.iter().filter(|second| *second != first) {
            let is_alike = kind(weighed, *first) == kind(weighed, *second);
            if is_alike && (is_before_by_name(weighed, *first, *second) || is_said(weighed, *first, *second))
            {
                ordered.push((*first, *second));
            }
        }
    }
    ordered
}

/// The only two columns of days for the only two fields of days, where the dictionary puts these in order, the rows
/// show it, and the headings say nothing else.
pub(super) fn in_order(weighed: &Weighed<'_>, rows: &Rows) -> Vec<(FieldId, ColumnId)> {
    let is_of_days = |field: &FieldId| kind(weighed, *field) == Some(Kind::Days);
    let fields: Vec<FieldId> = weighed.fields().filter(is_of_days).collect();
    let [one, other] = *fields.as_slice() else { return Vec::new() };
    let (first, second) = match ordered(weighed)
        .iter()
        .find(|pair| [pair.0, pair.1].iter().all(|field| fields.contains(field)))
    {
        Some((first, second)) => (*first, *second),
        None => return Vec::new(),
    };
    let holds_days = |column: &ColumnId| {
        let tells = |field| weighed.pair(field, *column).is_some_and(|pair| pair.contents.points >= 150);
        tells(one) || tells(other)
    };
    let columns: Vec<ColumnId> = weighed.columns().filter(holds_days).collect();
    let [left, right] = *columns.as_slice() else { return Vec::new() };
    let says_nothing_else = |column: ColumnId| {
        let heading = weighed.headings.get(column);
        heading.is_some_and(|heading| heading.says_little() || heading.says_only_date())
    };
    if !says_nothing_else(left) || !says_nothing_else(right) {
        return Vec::new();
    }
    let both = RowValues::days(rows, left).zip(RowValues::days(rows, right));
    let Some((left_days, right_days)) = both else { return Vec::new() };
    let (at_most, less) = left_days.at_most(&right_days);
    match (at_most.percent(), less.percent(), at_most.of) {
        (98.., 50.., 10..) => vec![(first, left), (second, right)],
        (..=50, ..=2, 10..) => vec![(first, right), (second, left)],
        _ => Vec::new(),
    }
}

/// What can be put in order.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Kind {
    Numbers,
    Days,
}

fn kind(weighed: &Weighed<'_>, field: FieldId) -> Option<Kind> {
    match weighed.field(field)? {
        FieldType::Number(_) => Some(Kind::Numbers),
        FieldType::Date(date) if date.holds != ValueType::Time => Some(Kind::Days),
        _ => None,
    }
}

/// The figures of a column, as they are for a field.
pub(super) fn values(
    weighed: &Weighed<'_>,
    rows: &Rows,
    (field, column): (FieldId, ColumnId),
) -> Option<RowValues> {
    match kind(weighed, field)? {
        Kind::Numbers => RowValues::numbers(rows, column),
        Kind::Days => RowValues::days(rows, column),
    }
}

/// "Begins" and "ends" of the same thing.
fn is_before_by_name(weighed: &Weighed<'_>, first: FieldId, second: FieldId) -> bool {
    weighed.names_of(first).iter().any(|one| {
        weighed.names_of(second).iter().any(|other| {
            BEFORE.iter().any(|(before, after)| {
                let rest = |name: &Name, words: &[&str]| -> Vec<String> {
                    name.words().filter(|word| !name.word_means(word, words)).map(str::to_owned).collect()
                };
                one.means(before)
                    && other.means(after)
                    && !one.means(after)
                    && !other.means(before)
                    && rest(one, before) == rest(other, after)
            })
        })
    })
}

/// "Never more than the gross weight", "After the service".
fn is_said(weighed: &Weighed<'_>, first: FieldId, second: FieldId) -> bool {
    let names = |text_of: FieldId, other: FieldId, leads: &[&str]| {
        let Some(text) = weighed.description(text_of) else { return false };
        let plain = without_marks(&text.to_lowercase());
        let said = leads.iter().find_map(|lead| plain.split_once(lead));
        // "Never more than" is not "more than".
        let turns = |before: &str| ["never ", "not "].iter().any(|word| before.ends_with(word));
        let Some((_, behind)) = said.filter(|(before, _)| !turns(before)) else { return false };
        let clause = behind.split(['.', ',', ';']).next().unwrap_or_default();
        weighed.names_of(other).iter().any(|name| {
            let known: Vec<&str> =
                name.words().filter(|word| !matches!(*word, "on" | "at" | "date")).collect();
            !known.is_empty() && known.iter().all(|word| clause.contains(verb_root(word)))
        })
    };
    let kind = kind(weighed, first);
    match kind {
        Some(Kind::Numbers) => {
            names(
                first,
                second,
                &["never more than", "less than", "at most", "never above", "never deeper than", "hochstens"],
            ) || names(second, first, &["never less than", "more than", "at least", "mindestens"])
        }
        Some(Kind::Days) => {
            names(first, second, &["before", "vor ", "avant", "antes"])
                || names(second, first, &["after", "later than", "nach ", "apres", "despues"])
        }
        None => false,
    }
}
