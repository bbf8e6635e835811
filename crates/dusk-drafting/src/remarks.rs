//! What remarks beside a field say that no key of a field can hold: rules between two fields, lists that are kept
//! elsewhere, values that come once only, values that stand for "not known". Each is asked with the sentence, and with the
//! rule that says it where there is one.

use super::claim::{Drafted, Place};
use super::conditions::{in_rule, is_rule, named_field, sentences};
use super::vocabulary::{Words, meaning, named};

/// Asks about what stands beside each field.
pub(super) fn ask(beside: &[(String, Vec<(String, Place)>)], drafted: &mut Drafted) {
    for (field, texts) in beside {
        let is_coded =
            drafted.fields.iter().any(|known| known.name == *field && known.claims.get("codes").is_some());
        for (text, from) in texts {
            for sentence in sentences(text) {
                let sentence = sentence.as_str();
                let asked = between_fields(field, sentence, drafted)
                    .or_else(|| once(field, sentence, drafted))
                    .or_else(|| if is_coded { None } else { elsewhere(sentence) })
                    .or_else(|| not_known(sentence));
                if let Some(says) = asked {
                    drafted.ask(field.clone(), says, from);
                }
            }
        }
    }
}

/// A sentence in one line, between quotes.
fn quoted(sentence: &str) -> String {
    format!("\"{}\"", sentence.split_whitespace().collect::<Vec<_>>().join(" "))
}

/// A rule between the field and another one: "later than SampledOn", "never deeper than depth".
fn between_fields(field: &str, sentence: &str, drafted: &Drafted) -> Option<String> {
    let lower = sentence.to_lowercase();
    if lower.len() != sentence.len() {
        return None;
    }
    let (at, word) = named(Words::Compare, &lower).next()?;
    let sign = meaning(Words::Compare, word)?;
    // "never deeper" and "not later" are known as a whole; another word in front turns the sign round.
    let is_turned = super::mark_words::is_denied(&lower, at);
    let sign = match (sign, is_turned) {
        (">", true) => "<=",
        ("<", true) => ">=",
        (">=", true) | ("<=", true) => return None,
        (sign, _) => sign,
    };
    let rest = sentence.get(at + word.len()..)?;
    let (other, _) = named_field(rest, field, &drafted.fields)?;
    let ordered = |name: &str| {
        let field = drafted.fields.iter().find(|known| known.name == name);
        let kind = field.and_then(|field| field.claims.text("type"));
        matches!(kind, Some("integer" | "decimal" | "date" | "datetime" | "time"))
    };
    if !ordered(field) || !ordered(&other.name) {
        return None;
    }
    let must = format!("{} {sign} {}", in_rule(field), in_rule(&other.name));
    let rule = if is_rule(None, &must, drafted) {
        format!("this may say it: [[rule]] must = '{must}'")
    } else {
        "a [[rule]] may say it".into()
    };
    Some(format!("{} is a rule between two fields; {rule}", quoted(sentence)))
}

/// A value that may come once only.
fn once(field: &str, sentence: &str, drafted: &Drafted) -> Option<String> {
    let lower = sentence.to_lowercase();
    named(Words::Once, &lower).next()?;
    let is_key = drafted.fields.iter().any(|known| known.name == field && known.claims.get("key").is_some());
    (!is_key).then(|| {
        format!(
            "{} says that no value comes twice; key = true says so where it tells the records apart, and otherwise [[rule]] for_each = [\"{field}\"], must = 'number of records = 1'",
            quoted(sentence)
        )
    })
}

/// A list that is not among the materials.
fn elsewhere(sentence: &str) -> Option<String> {
    let lower = sentence.to_lowercase();
    // "Orgelverzeichnis" is a Verzeichnis.
    let is_compound = |word: &str| {
        let known = super::vocabulary::leads(Words::Lists).iter().filter(|known| known.chars().count() > 6);
        known.filter(|known| !known.contains(' ')).any(|known| word.ends_with(known.as_str()))
    };
    let mut words = lower.split(|c: char| !c.is_alphanumeric());
    if named(Words::Lists, &lower).next().is_none() && !words.any(is_compound) {
        return None;
    }
    Some(format!(
        "{} speaks of a list that is not among the materials; its values are not checked against one",
        quoted(sentence)
    ))
}

/// A value that stands for what is not known.
fn not_known(sentence: &str) -> Option<String> {
    let lower = sentence.to_lowercase();
    let (at, _) = named(Words::Unknown, &lower).next()?;
    let clause = lower.get(..at)?.rsplit([';', ',']).next()?;
    let has_value = clause.split_whitespace().any(|word| {
        word.chars().count() > 1 && word.bytes().all(|byte| byte.is_ascii_digit())
            || word.starts_with(['"', '“', '\''])
    });
    has_value.then(|| {
        format!(
            "{} names a value that stands for what is not known; is it to be written where the source is blank (if_blank)?",
            quoted(sentence)
        )
    })
}
