//! Sizes and limits: "max 60 characters", "1-5", ">= 0", "not before 2020-01-01".

use super::date_words::day;
use super::facts::FieldFact;
use dusk_values::Decimal;

pub(super) fn bound(
    text: &str,
    number: fn(String) -> FieldFact,
    on_day: fn(String) -> FieldFact,
) -> Option<Vec<FieldFact>> {
    if Decimal::parse(text).is_some() {
        return Some(vec![number(text.to_owned())]);
    }
    day(text).map(|day| vec![on_day(day)])
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
    let [size] = *sizes(text).as_slice() else { return None };
    let words: String = folded.chars().filter(|c| !c.is_ascii_digit()).collect();
    let most =
        ["max", "maximum", "upto", "atmost", "nomorethan"].iter().find_map(|lead| words.strip_prefix(lead));
    let (bare, limit) = most.map_or((words.as_str(), false), |rest| (rest, true));
    let bare = bare.trim_start_matches("length").trim_start_matches("exactly").trim_start_matches("always");
    match bare {
        "digits" | "digit" | "figures" if !limit => Some(vec![FieldFact::Digits(size)]),
        "characters" | "chars" | "char" | "letters" | "character" | "charactersmax" | "charsmax" => {
            Some(vec![FieldFact::Length(size)])
        }
        "decimals" | "decimal" | "decimalplaces" | "decimalplace" | "dp" => {
            Some(vec![FieldFact::Decimals(size)])
        }
        "" if words.contains("length") => Some(vec![FieldFact::Length(size)]),
        _ => None,
    }
}

/// What the least value follows.
const LEAST: [&str; 10] = [
    ">=",
    "≥",
    "min.",
    "minimum",
    "min",
    "at least",
    "from",
    "not before",
    "not earlier than",
    "on or after",
];

/// What the greatest value follows.
const MOST: [&str; 10] =
    ["<=", "≤", "max.", "maximum", "max", "at most", "up to", "not after", "not later than", "on or before"];

/// "1-5", "0 to 100", "min 3", ">= 0", "between 1 and 40", "not before 2020-01-01".
pub(super) fn limits(text: &str) -> Option<Vec<FieldFact>> {
    let plain =
        text.trim().trim_start_matches("range").trim_start_matches("Range").trim_start_matches([':', ' ']);
    let lower = plain.to_lowercase();
    let number = |text: &str| Decimal::parse(text.trim()).map(|number| number.to_string());
    let both = lower.strip_prefix("between ").and_then(|rest| rest.split_once(" and ")).or_else(|| {
        [" to ", "..", "–", "—", " - ", "-"].iter().find_map(|between| {
            // The minus of a negative number is no dash between two.
            let at = lower.get(1..)?.find(between)? + 1;
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
    let after = |leads: &[&str]| {
        let rest = leads.iter().find_map(|lead| lower.strip_prefix(lead));
        rest.map(|rest| rest.trim_matches([' ', ':']).to_owned())
    };
    if let Some(rest) = after(&LEAST) {
        let least = number(&rest).map(FieldFact::Min);
        return least.or_else(|| day(&rest).map(FieldFact::NotBefore)).map(|fact| vec![fact]);
    }
    if let Some(rest) = after(&MOST) {
        let most = number(&rest).map(FieldFact::Max);
        return most.or_else(|| day(&rest).map(FieldFact::NotAfter)).map(|fact| vec![fact]);
    }
    for (sign, words) in
        [(">", ["more than", "greater than", "above"]), ("<", ["less than", "smaller than", "below"])]
    {
        if let Some(rest) = after(&[sign]).or_else(|| after(&words))
            && let Some(limit) = number(&rest)
        {
            return Some(vec![FieldFact::Rule(format!("_ {sign} {limit}"))]);
        }
    }
    None
}
