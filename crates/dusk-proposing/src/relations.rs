//! What a dictionary says of several fields together, and columns of which that is true row by row: the charge is
//! the pieces times the price, the tare is never more than the gross weight.

use super::row_values::RowValues;
use super::rows::Rows;
use super::weigh::Weighed;
use super::words::without_marks;
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
    fn of(self, first: f64, second: f64) -> f64 {
        match self {
            Self::Product => first * second,
            Self::Difference => first - second,
            Self::Sum => first + second,
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
    let mut found: Option<(ColumnId, ColumnId, ColumnId)> = None;
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
                    if found.is_some() {
                        return Vec::new();
                    }
                    found = Some((*made, *first, *second));
                }
            }
        }
    }
    let Some((made, first, second)) = found else { return Vec::new() };
    let mut pairs = vec![(triple.made, made)];
    let [one, other] = triple.from;
    let worth = |field: FieldId, column: ColumnId| {
        weighed.pair(field, column).map_or(0, |pair| {
            i32::try_from(pair.name).unwrap_or(0) + pair.contents.points + pair.hinted.points
        })
    };
    let straight = worth(one, first) + worth(other, second);
    let crossed = worth(one, second) + worth(other, first);
    /// By how much one way must be better than the other.
    const CLEARLY: i32 = 100;
    if is_ordered || straight >= crossed + CLEARLY {
        pairs.extend([(one, first), (other, second)]);
    } else if crossed >= straight + CLEARLY {
        pairs.extend([(one, second), (other, first)]);
    }
    pairs
}

/// What the description of a field says that it comes of: two other fields by their names.
fn told(weighed: &Weighed<'_>, field: FieldId, numbers: &[FieldId]) -> Option<Triple> {
    let text = weighed.text_of(field)?;
    let plain = without_marks(&weighed.description(field)?.to_lowercase());
    let words: Vec<&str> =
        plain.split(|c: char| !c.is_alphanumeric() && c != '×').filter(|word| !word.is_empty()).collect();
    let has = |wanted: &[&str]| words.iter().any(|word| wanted.contains(word));
    let reckoned = match () {
        () if has(&TIMES) => Reckoned::Product,
        () if has(&LESS) => Reckoned::Difference,
        () if has(&PLUS) => Reckoned::Sum,
        () => return None,
    };
    // A field is named by a word that no other has.
    let named_at = |other: &FieldId| {
        let own = |word: &str| {
            !numbers.iter().any(|third| {
                third != other
                    && weighed.names_of(*third).iter().any(|name| name.words().any(|theirs| theirs == word))
            })
        };
        let names = weighed.names_of(*other).iter();
        names
            .flat_map(|name| name.words())
            .filter(|word| own(word))
            .filter_map(|word| text.place_of(word))
            .min()
    };
    let others = numbers.iter().filter(|other| **other != field);
    let mut named: Vec<(usize, FieldId)> =
        others.filter_map(|other| Some((named_at(other)?, *other))).collect();
    named.sort_unstable();
    match named.as_slice() {
        [(_, first), (_, second)] => Some(Triple { made: field, from: [*first, *second], reckoned }),
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
                let rest = |name: &super::names::Name, words: &[&str]| -> Vec<String> {
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
            !known.is_empty() && known.iter().all(|word| clause.contains(*word))
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
