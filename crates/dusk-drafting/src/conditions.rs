//! Fields that must be filled on a condition: what is said of it, and the rule that says it.

use super::claim::{Drafted, DraftedField, Place};
use super::dictionary::Described;
use super::facts::FieldFact;
use super::listed::yes_or_no;
use super::mark_words::is_denied;
use super::vocabulary::{Words, meaning, named};
use super::write::value_type;
use dusk_description::{Rule, RuleText};
use dusk_evidence::{FieldId, Id as _};

/// A condition on which a field must be filled, in the words of its owner.
#[derive(Debug)]
pub(super) struct Condition {
    field: String,
    words: String,
    from: Place,
}

/// A condition of so few letters is a sign for one that is said elsewhere.
const A_SIGN: usize = 4;

/// The condition that is said of a field: by its cell for what must be filled, or by the words beside it.
pub(super) fn of(name: &str, one: &Described) -> Option<Condition> {
    let in_cell = one.facts.iter().find_map(|(fact, place)| match fact {
        FieldFact::Conditional(words) => Some((words.clone(), place.clone())),
        _ => None,
    });
    let plain = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
    let in_words = one.description.iter().find_map(|(text, place)| {
        let sentence = sentences(text).find(|sentence| says_condition(sentence))?;
        Some((plain(&sentence), place.clone()))
    });
    let tells = |(words, _): &(String, Place)| named(Words::When, &words.to_lowercase()).next().is_some();
    let (words, from) = in_cell.clone().filter(tells).or(in_words).or(in_cell)?;
    Some(Condition { field: name.to_owned(), words: plain(&words), from })
}

/// The sentences of a text. A line that goes on in small letters was broken to fit its cell.
pub(super) fn sentences(text: &str) -> impl Iterator<Item = String> {
    let mut lines: Vec<String> = Vec::new();
    for line in text.lines().map(str::trim).filter(|line| !line.is_empty()) {
        match lines.last_mut() {
            Some(last) if line.starts_with(char::is_lowercase) => {
                last.push(' ');
                last.push_str(line);
            }
            _ => lines.push(line.to_owned()),
        }
    }
    let parted = |line: String| {
        let parts = line.split(';').flat_map(|part| part.split(". "));
        parts.map(|part| part.trim().trim_end_matches('.').to_owned()).collect::<Vec<_>>()
    };
    lines.into_iter().flat_map(parted).filter(|sentence| !sentence.is_empty())
}

/// Whether a sentence says that something must be filled on a condition.
fn says_condition(sentence: &str) -> bool {
    let lower = sentence.to_lowercase();
    let when = named(Words::When, &lower).next().map(|(at, _)| at);
    let need = named(Words::Need, &lower).find(|(at, _)| !is_denied(&lower, *at)).map(|(at, _)| at);
    when.zip(need).is_some_and(|(when, need)| when == 0 || need < when)
}

/// Asks about conditions; the rule that says one is written out where it can be told, and was tried.
pub(super) fn ask(conditions: Vec<Condition>, drafted: &mut Drafted) {
    for condition in conditions {
        let is_required = drafted
            .fields
            .iter()
            .any(|field| field.name == condition.field && field.claims.get("required").is_some());
        let so = if is_required { "is required by one place, and " } else { "" };
        let kept = if is_required { "required was written" } else { "required was left out" };
        let is_sign = meaning(Words::Must, &condition.words) == Some("sometimes");
        let says = if is_sign || condition.words.chars().count() <= A_SIGN {
            format!("{so}must be filled on a condition that is not said; {kept}")
        } else {
            let rule = rules(&condition, drafted)
                .map_or_else(|| "a [[rule]] can say it".to_owned(), |rules| format!("this says it: {rules}"));
            format!("{so}must be filled on a condition, \"{}\"; {kept}; {rule}", condition.words)
        };
        drafted.ask(condition.field, says, &condition.from);
    }
}

/// The rules that say a condition, as lines of a description; nothing where they cannot be told.
fn rules(condition: &Condition, drafted: &Drafted) -> Option<String> {
    let words = without_brackets(&condition.words.replace('`', ""));
    let lower = words.to_lowercase();
    if lower.len() != words.len() {
        return None;
    }
    let (at, word) = named(Words::When, &lower).next()?;
    let is_unless = meaning(Words::When, word) == Some("unless");
    let rest = words.get(at + word.len()..)?;
    let (rest, other) = match named(Words::Else, &rest.to_lowercase()).next() {
        Some((at, word)) => (rest.get(..at)?, rest.get(at + word.len()..)?),
        None => (rest, ""),
    };
    // Two conditions are more than one rule of this form can say.
    if named(Words::When, &rest.to_lowercase()).next().is_some() {
        return None;
    }
    let holds = one_of(rest, &condition.field, drafted)?;
    let (holds, fails) =
        if is_unless { (format!("not ({holds})"), holds) } else { (holds.clone(), format!("not ({holds})")) };
    let field = in_rule(&condition.field);
    let mut lines = vec![(holds, format!("{field} is not blank"))];
    let other = other.to_lowercase();
    let (_, word) = named(Words::Blank, &other).next().unzip();
    if word.is_some_and(|word| meaning(Words::Blank, word) == Some("empty")) {
        lines.push((fails, format!("{field} is blank")));
    }
    let is_one = |(when, must): &(String, String)| is_rule(Some(when), must, drafted);
    let line = |(when, must): &(String, String)| format!("[[rule]] when = '{when}', must = '{must}'");
    lines.iter().all(is_one).then(|| lines.iter().map(line).collect::<Vec<_>>().join(" and "))
}

/// Whether the language of rules reads it, with the fields of the draft.
pub(super) fn is_rule(when: Option<&String>, must: &str, drafted: &Drafted) -> bool {
    let types: Vec<_> =
        drafted.fields.iter().map(|field| (field.name.as_str(), value_type(&field.claims))).collect();
    let known = |name: &str| {
        let place = types.iter().position(|(known, _)| *known == name)?;
        types.get(place).map(|(_, kind)| (FieldId::new(place), *kind))
    };
    let text = RuleText { when: when.cloned(), ..RuleText::must(must) };
    Rule::parse(text, &known).is_ok()
}

/// A text without what stands in brackets.
fn without_brackets(text: &str) -> String {
    let mut depth = 0_u32;
    let outside = |c: &char| {
        match c {
            '(' => depth += 1,
            ')' => {
                depth = depth.saturating_sub(1);
                return false;
            }
            _ => {}
        }
        depth == 0
    };
    text.chars().filter(outside).collect()
}

/// What a condition says of a field, or of several of which one is enough: "if Colonies or Legionella is filled".
fn one_of(text: &str, but: &str, drafted: &Drafted) -> Option<String> {
    let (mut fields, mut behind) = (Vec::new(), text);
    while let Some((field, rest)) = named_field(behind, but, &drafted.fields) {
        let before = behind.get(..behind.len() - rest.len())?;
        if !fields.is_empty() && !named(Words::Either, &before.to_lowercase()).any(|_| true) {
            return None;
        }
        fields.push(field);
        behind = rest;
    }
    let all: Option<Vec<String>> = fields.iter().map(|field| holds(field, behind, drafted)).collect();
    let all = all?;
    (!all.is_empty()).then(|| all.join(" or "))
}

/// A field's name as rules write it.
pub(super) fn in_rule(name: &str) -> String {
    let plain =
        name.chars().all(|c| c.is_alphanumeric() || c == '_') && !name.starts_with(|c: char| c.is_numeric());
    if plain { name.to_owned() } else { format!("{{{name}}}") }
}

/// The field that a condition names first, by its name, heading or label, and what stands behind it.
pub(super) fn named_field<'d, 't>(
    text: &'t str,
    but: &str,
    fields: &'d [DraftedField],
) -> Option<(&'d DraftedField, &'t str)> {
    let lower = text.to_lowercase();
    let is_open = |c: char| !(c.is_alphanumeric() || c == '_');
    let place = |called: &str| {
        let called = called.to_lowercase();
        let found = lower.match_indices(called.as_str()).map(|(at, _)| (at, at + called.len()));
        let mut whole = found.filter(|(at, ends)| {
            lower.get(..*at).is_some_and(|before| before.chars().next_back().is_none_or(is_open))
                && lower.get(*ends..).is_some_and(|behind| behind.chars().next().is_none_or(is_open))
        });
        whole.next().filter(|_| called.chars().count() > 1)
    };
    let others = fields.iter().filter(|field| field.name != but);
    let met = others.filter_map(|field| {
        let called = [Some(field.name.as_str()), field.claims.text("heading"), field.claims.text("label")];
        let (at, ends) = called.into_iter().flatten().filter_map(place).max_by_key(|(at, ends)| ends - at)?;
        Some((at, std::cmp::Reverse(ends), field))
    });
    let (_, std::cmp::Reverse(ends), field) = met.min_by_key(|(at, ends, _)| (*at, *ends))?;
    Some((field, text.get(ends..)?))
}

/// What is said of the field, in the language of rules.
fn holds(field: &DraftedField, said: &str, drafted: &Drafted) -> Option<String> {
    let (name, lower) = (in_rule(&field.name), said.to_lowercase());
    let blank = named(Words::Blank, &lower).next();
    let (before, behind) = blank.map_or((said, ""), |(at, word)| {
        (said.get(..at).unwrap_or_default(), said.get(at + word.len()..).unwrap_or_default())
    });
    let parted =
        |c: char| c.is_whitespace() || matches!(c, ',' | ';' | '"' | '“' | '”' | '\'' | '(' | ')' | '=');
    let words: Vec<&str> = [before, behind]
        .into_iter()
        .flat_map(|part| part.split(parted))
        .map(|word| word.trim_end_matches(['.', ':']))
        .filter(|word| !word.is_empty())
        .collect();
    if !words.iter().all(|word| is_understood(word, field, drafted)) {
        return None;
    }
    if let Some((at, word)) = blank {
        let is_filled = (meaning(Words::Blank, word) == Some("filled")) != is_denied(&lower, at);
        return Some(format!("{name} is {}blank", if is_filled { "not " } else { "" }));
    }
    let is_not = words.iter().any(|word| meaning(Words::Without, word).is_some());
    match field.claims.text("type")? {
        "boolean" => {
            let (yes, no) = field.claims.text("format").unwrap_or("true/false").split_once('/')?;
            let says = |word: &&str| match *word {
                word if word.eq_ignore_ascii_case(yes) => Some(true),
                word if word.eq_ignore_ascii_case(no) => Some(false),
                word => yes_or_no(word),
            };
            let yes = words.iter().find_map(says).or_else(|| words.is_empty().then_some(true))?;
            Some(if yes != is_not { name } else { format!("not {name}") })
        }
        "code" => {
            let file = field.claims.text("codes")?;
            let list = drafted.lists.iter().find(|list| file == format!("codes/{}.csv", list.name))?;
            let place = |word: &&str| list.codes.iter().position(|code| code.code == **word);
            let named_so: Vec<usize> = words.iter().filter_map(place).collect();
            let ranged = words.iter().any(|word| meaning(Words::Between, word).is_some());
            let chosen: Vec<usize> = match *named_so.as_slice() {
                [first, last] if ranged && first < last => (first..=last).collect(),
                _ if ranged => return None,
                _ => named_so,
            };
            let codes: Vec<String> = chosen
                .into_iter()
                .filter_map(|place| list.codes.get(place))
                .map(|code| format!("\"{}\"", code.code.replace('"', "\"\"")))
                .collect();
            let not = if is_not { "not " } else { "" };
            match codes.as_slice() {
                [] => None,
                [only] => Some(format!("{name} is {not}{only}")),
                several => Some(format!("{name} {not}in ({})", several.join(", "))),
            }
        }
        "integer" | "decimal" => {
            let limits = super::limit_words::limits(&words.join(" "));
            let number = words.iter().find_map(|word| dusk_values::Decimal::parse(word));
            match limits.as_deref() {
                Some([FieldFact::Rule(rule)]) => Some(rule.replacen('_', &name, 1)),
                Some([FieldFact::Min(least)]) => Some(format!("{name} >= {least}")),
                Some([FieldFact::Max(most)]) => Some(format!("{name} <= {most}")),
                Some(_) => None,
                None => number.filter(|_| !is_not).map(|number| format!("{name} = {number}")),
            }
        }
        _ => None,
    }
}

/// Whether a word behind a field is a code of it, a yes or no, a number, or one that says nothing by itself.
fn is_understood(word: &str, field: &DraftedField, drafted: &Drafted) -> bool {
    let file = field.claims.text("codes").unwrap_or_default();
    let list = drafted.lists.iter().find(|list| file == format!("codes/{}.csv", list.name));
    list.is_some_and(|list| list.codes.iter().any(|code| code.code == word))
        || field.claims.text("format").is_some_and(|words| words.split('/').any(|own| own == word))
        || yes_or_no(word).is_some()
        || dusk_values::Decimal::parse(word).is_some()
        || [Words::Filler, Words::Without, Words::Between, Words::Either]
            .into_iter()
            .any(|group| meaning(group, word).is_some())
}
