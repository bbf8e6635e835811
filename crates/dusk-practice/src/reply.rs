//! The practice target's answer, in the form that `[answer]` describes.

use serde_json::{Map, Value, json};

use crate::{Judged, Verdict};
use dusk_description::{AnswerCount, AnswerLayout, AnswerOutcome, Target};
use dusk_evidence::{Error, Result};

/// An answer, and the ending of a file that holds it.
///
/// # Errors
/// Never in practice: memory can be written to.
pub fn reply(target: &Target, judged: &Judged, mentions_few: bool) -> Result<(Vec<u8>, &'static str)> {
    let usual = usual_layout();
    let layout = target.answers.first().unwrap_or(&usual);
    let is_told = |verdict: &&Verdict| {
        let is_worth = !mentions_few || verdict.outcome != AnswerOutcome::Loaded;
        // A list of what was refused has nothing else in it.
        is_worth && layout.all.is_none_or(|all| all == verdict.outcome)
    };
    let told: Vec<&Verdict> = judged.verdicts.iter().filter(is_told).collect();
    if !layout.says.is_empty() {
        return Ok((in_sentences(layout, judged, &told).into_bytes(), "txt"));
    }
    if layout.records.is_some() || !layout.counts.is_empty() {
        return Ok((as_document(layout, judged, &told)?, "json"));
    }
    let wrong = |error: csv::Error| Error::Invariant(error.to_string());
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(layout.columns()).map_err(wrong)?;
    for verdict in told {
        writer
            .write_record(cells(layout, judged, verdict).into_iter().map(|(_, text)| text))
            .map_err(wrong)?;
    }
    let bytes = writer.into_inner().map_err(|error| Error::Invariant(error.to_string()))?;
    Ok((bytes, "csv"))
}

/// How it answers where nothing is described.
fn usual_layout() -> AnswerLayout {
    AnswerLayout {
        line: Some("line".into()),
        file: Some("file".into()),
        outcome: Some("outcome".into()),
        words: AnswerOutcome::WORDS.map(|(word, outcome)| (word.to_owned(), outcome)).into(),
        number: Some("number".into()),
        reason: vec!["reason".into()],
        ..AnswerLayout::default()
    }
}

/// What stands in each column that a description names.
fn cells(layout: &AnswerLayout, judged: &Judged, verdict: &Verdict) -> Vec<(String, String)> {
    let word = layout.words.iter().find(|(_, outcome)| *outcome == verdict.outcome);
    let word = word.map_or_else(|| verdict.outcome.word().to_owned(), |(word, _)| word.clone());
    let number = (verdict.record + layout.record_from).saturating_sub(1).to_string();
    let single = [
        (&layout.line, verdict.line.to_string()),
        (&layout.record, number),
        (&layout.file, judged.file.clone()),
        (&layout.outcome, word),
        (&layout.number, verdict.number.clone()),
    ];
    let single = single.into_iter().filter_map(|(heading, text)| Some((heading.clone()?, text)));
    let key = match layout.key.as_slice() {
        [only] => vec![(only.clone(), verdict.key.join(" + "))],
        several => several.iter().cloned().zip(verdict.key.iter().cloned()).collect(),
    };
    let reasons = layout.reason.iter().enumerate().map(|(place, heading)| {
        (heading.clone(), if place == 0 { verdict.reason.clone() } else { String::new() })
    });
    single.chain(key).chain(reasons).collect()
}

fn count(judged: &Judged, of: AnswerCount) -> usize {
    let is_it = |verdict: &&Verdict| match of {
        AnswerCount::Sent => true,
        AnswerCount::Loaded => verdict.outcome.is_in(),
        AnswerCount::Warned => verdict.outcome == AnswerOutcome::Warned,
        AnswerCount::Refused => verdict.outcome == AnswerOutcome::Refused,
    };
    judged.verdicts.iter().filter(is_it).count()
}

/// Puts a value where a path leads to.
fn put(object: &mut Map<String, Value>, path: &str, value: Value) {
    match path.split_once('.') {
        None => {
            object.insert(path.to_owned(), value);
        }
        Some((name, rest)) => {
            let inner = object.entry(name.to_owned()).or_insert_with(|| json!({}));
            if let Value::Object(inner) = inner {
                put(inner, rest, value);
            }
        }
    }
}

fn as_document(layout: &AnswerLayout, judged: &Judged, told: &[&Verdict]) -> Result<Vec<u8>> {
    let record = |verdict: &&Verdict| {
        let mut object = Map::new();
        for (heading, text) in cells(layout, judged, verdict) {
            put(&mut object, &heading, Value::String(text));
        }
        Value::Object(object)
    };
    let mut document = Map::new();
    for (of, path) in &layout.counts {
        put(&mut document, path, json!(count(judged, *of)));
    }
    put(&mut document, layout.records.as_deref().unwrap_or("records"), told.iter().map(record).collect());
    serde_json::to_vec_pretty(&document).map_err(|error| Error::Invariant(error.to_string()))
}

fn in_sentences(layout: &AnswerLayout, judged: &Judged, told: &[&Verdict]) -> String {
    let mut text = String::new();
    for verdict in told {
        let line = verdict.line.to_string();
        let record = (verdict.record + layout.record_from).saturating_sub(1).to_string();
        let key = verdict.key.join(" + ");
        let value = |name: &str| {
            Some(match name {
                "line" => line.as_str(),
                "record" => &record,
                "key" => &key,
                "file" => &judged.file,
                "outcome" => verdict.outcome.word(),
                "reason" => &verdict.reason,
                "number" => &verdict.number,
                _ => "",
            })
        };
        let form = layout.says.iter().find(|form| form.outcome == Some(verdict.outcome));
        if let Some(line) = form.and_then(|form| form.template.fill(value)) {
            text.push_str(&line);
            text.push('\n');
        }
    }
    for form in layout.says.iter().filter(|form| ["loaded", "refused"].iter().any(|name| form.names(name))) {
        let counts = AnswerCount::WORDS.map(|(word, of)| (word, count(judged, of).to_string()));
        let value = |name: &str| {
            let count = counts.iter().find(|(word, _)| *word == name);
            Some(count.map_or("", |(_, count)| count.as_str()))
        };
        text.push_str(&form.template.fill(value).unwrap_or_default());
        text.push('\n');
    }
    text
}
