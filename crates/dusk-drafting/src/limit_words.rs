//! Sizes and limits: "max 60 characters", "1-5", ">= 0", "not before 2020-01-01".

use super::clauses::clauses;
use super::date_words::day;
use super::facts::{FieldFact, fold};
use super::vocabulary::{Words, leads, meaning, named, without_lead};
use dusk_values::Decimal;

pub(super) fn bound(
    text: &str,
    number: fn(String) -> FieldFact,
    on_day: fn(String) -> FieldFact,
) -> Option<Vec<FieldFact>> {
    if let Some(bound) = self::number(text) {
        return Some(vec![number(bound.to_string())]);
    }
    day(text).map(|day| vec![on_day(day)])
}

/// A number, with a point or a comma before its decimals; "1,234" may be either and is none.
fn number(text: &str) -> Option<Decimal> {
    let text = text.trim();
    let may_be_grouped = || text.split_once(',').is_some_and(|(_, behind)| behind.len() == 3);
    Decimal::parse(text).or_else(|| {
        (!text.contains('.') && !may_be_grouped()).then(|| Decimal::parse(&text.replacen(',', ".", 1)))?
    })
}

/// The numbers in a text, in order.
pub(super) fn sizes(text: &str) -> Vec<u64> {
    text.split(|c: char| !c.is_ascii_digit())
        .filter(|digits| !digits.is_empty())
        .filter_map(|digits| digits.parse().ok())
        .collect()
}

/// "6 digits", "max 60 characters", "up to 2 decimals".
pub(super) fn sized(text: &str, folded: &str) -> Option<Vec<FieldFact>> {
    let in_figures;
    let (text, folded) = if folded.bytes().any(|byte| byte.is_ascii_digit()) {
        (text, folded)
    } else {
        // "exactly eight letters", "one place behind the point".
        let words = text.split(' ').map(|word| meaning(Words::Number, word).unwrap_or(word));
        in_figures = words.collect::<Vec<_>>().join(" ");
        (in_figures.as_str(), &*fold(&in_figures))
    };
    let [size] = *sizes(text).as_slice() else { return None };
    let words: String = folded.chars().filter(|c| !c.is_ascii_digit()).collect();
    let most = without_lead(Words::Size, "most", &words);
    let (bare, limit) = most.map_or((words.as_str(), false), |rest| (rest, true));
    let bare = bare.trim_start_matches("length").trim_start_matches("exactly");
    let always = [
        "always", "all", "immer", "stets", "toujours", "siempre", "sempre", "altijd", "alltid", "altid",
        "aina", "zawsze", "vždy",
    ];
    let bare = always.iter().find_map(|word| bare.strip_prefix(word)).unwrap_or(bare);
    let bare = ["mit", "with", "avec", "con", "com", "met", "med"]
        .iter()
        .find_map(|word| bare.strip_prefix(word))
        .unwrap_or(bare);
    match meaning(Words::Size, bare) {
        Some("digits") if !limit => Some(vec![FieldFact::Digits(size)]),
        // At most so many figures are at most so many characters.
        Some("digits") => Some(vec![FieldFact::Length(size)]),
        Some("characters") => Some(vec![FieldFact::Length(size)]),
        // "always two decimals": 7.00.
        Some("decimals") if is_always(text) => Some(vec![FieldFact::Decimals(size), FieldFact::AllDecimals]),
        Some("decimals") => Some(vec![FieldFact::Decimals(size)]),
        _ if bare.is_empty() && words.contains("length") => Some(vec![FieldFact::Length(size)]),
        _ => None,
    }
}

/// Whether a text says that something is always so.
fn is_always(text: &str) -> bool {
    named(Words::File, &text.to_lowercase()).any(|(_, word)| meaning(Words::File, word) == Some("all"))
}

/// The least and the greatest number that a text about a field states: "Of the whole beans, 25 to 75".
pub fn stated_limits(text: &str) -> (Option<Decimal>, Option<Decimal>) {
    let (mut least, mut most) = (None, None);
    for fact in clauses(text).filter_map(limits).flatten() {
        match fact {
            FieldFact::Min(limit) => least = least.or_else(|| Decimal::parse(&limit)),
            FieldFact::Max(limit) => most = most.or_else(|| Decimal::parse(&limit)),
            _ => {}
        }
    }
    if least.is_none() && most.is_none() { range_within(text).unwrap_or((None, None)) } else { (least, most) }
}

/// Two numbers with a word for "to" between them, inside a longer text: "150 to 2500 in steps of five".
fn range_within(text: &str) -> Option<(Option<Decimal>, Option<Decimal>)> {
    const TO: [&str; 11] = ["to", "and", "bis", "und", "à", "a", "au", "et", "y", "-", "–"];
    let words: Vec<&str> =
        text.split_whitespace().map(|word| word.trim_end_matches([',', ';', ':'])).collect();
    words.windows(3).find_map(|three| {
        let [least, between, most] = three else { return None };
        let (least, most) = (number(least)?, number(most.trim_end_matches('.'))?);
        (TO.contains(between) && least < most).then_some((Some(least), Some(most)))
    })
}

/// "1-5", "0 to 100", "min 3", ">= 0", "between 1 and 40", "not before 2020-01-01".
pub(super) fn limits(text: &str) -> Option<Vec<FieldFact>> {
    let plain =
        text.trim().trim_start_matches("range").trim_start_matches("Range").trim_start_matches([':', ' ']);
    let lower = plain.to_lowercase();
    let of_range = |lead: &String| lower.strip_prefix(lead.as_str())?.strip_prefix(' ').map(str::to_owned);
    let range = leads(Words::From).iter().find_map(of_range).unwrap_or_else(|| lower.clone());
    let number = |text: &str| number(text).map(|number| number.to_string());
    let both = lower.strip_prefix("between ").and_then(|rest| rest.split_once(" and ")).or_else(|| {
        let words = leads(Words::Between).iter().map(|word| format!(" {word} "));
        let marks = ["..", "–", "—", " - ", "-"].map(str::to_owned);
        words.chain(marks).find_map(|between| {
            // The minus of a negative number is no dash between two.
            let lower = &range;
            let at = lower.find(between.as_str()).filter(|at| *at > 0).or_else(|| {
                let behind = lower.char_indices().nth(1)?.0;
                Some(lower.get(behind..)?.find(between.as_str())? + behind)
            })?;
            Some((lower.get(..at)?, lower.get(at + between.len()..)?))
        })
    });
    if let Some((least, most)) = both {
        if let (Some(least), Some(most)) = (number(least), number(most)) {
            return Some(vec![FieldFact::Min(least), FieldFact::Max(most)]);
        }
        if let (Some(first), Some(last)) = (day(least), day(most)) {
            return Some(vec![FieldFact::NotBefore(first), FieldFact::NotAfter(last)]);
        }
    }
    if named(Words::Zero, &lower).next().is_some_and(|(_, word)| word.len() == lower.len()) {
        return Some(vec![FieldFact::Min("0".into())]);
    }
    for (wanted, of_number, of_day) in [
        ("least", FieldFact::Min as fn(String) -> FieldFact, FieldFact::NotBefore as fn(String) -> FieldFact),
        ("most", FieldFact::Max, FieldFact::NotAfter),
    ] {
        let before = |word: &String| lower.strip_suffix(word.as_str())?.strip_suffix(' ').map(str::to_owned);
        let words = leads(Words::Behind).iter().filter(|word| meaning(Words::Behind, word) == Some(wanted));
        if let Some(limit) = words.filter_map(before).next() {
            let of_number = number(&limit).map(of_number);
            return of_number.or_else(|| day(&limit).map(of_day)).map(|fact| vec![fact]);
        }
    }
    let behind = |lead: &str| Some(lower.strip_prefix(lead)?.trim_matches([' ', ':']).to_owned());
    let after = |words: Words| leads(words).iter().find_map(|lead| behind(lead));
    if let Some(rest) = after(Words::Least) {
        let least = number(&rest).map(FieldFact::Min);
        return least.or_else(|| day(&rest).map(FieldFact::NotBefore)).map(|fact| vec![fact]);
    }
    if let Some(rest) = after(Words::Most) {
        let most = number(&rest).map(FieldFact::Max);
        return most.or_else(|| day(&rest).map(FieldFact::NotAfter)).map(|fact| vec![fact]);
    }
    for (sign, words) in [(">", Words::Above), ("<", Words::Below)] {
        if let Some(rest) = after(words)
            && let Some(limit) = number(&rest)
        {
            return Some(vec![FieldFact::Rule(format!("_ {sign} {limit}"))]);
        }
    }
    None
}
