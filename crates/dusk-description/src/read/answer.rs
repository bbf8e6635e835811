//! The `[answer]` table, or several of them.

use super::OpenField;
use crate::{AnswerCount, AnswerLayout, AnswerOutcome, LineForm};
use dusk_evidence::{ById, FieldId, Problems};
use dusk_files::{At, Settings};

/// `[answer]` as it was written, before the fields are known by their places.
pub(super) struct AnswerDraft {
    layout: AnswerLayout,
    number_field: Option<At<String>>,
}

/// Reads one `[answer]`.
pub(super) fn read_answer(answer: &mut Settings<'_>) -> AnswerDraft {
    let text = |answer: &mut Settings<'_>, key| answer.text(key).map(|text| text.value);
    let mut layout = AnswerLayout {
        at: Some(answer.line()),
        line: text(answer, "line"),
        record: text(answer, "record"),
        record_from: answer.whole("record_from", 0).map_or(1, |from| from.value),
        key: answer.text_or_texts("key").into_iter().map(|column| column.value).collect(),
        file: text(answer, "file"),
        outcome: text(answer, "outcome"),
        all: answer.choice("all", &AnswerOutcome::WORDS),
        reason: answer.text_or_texts("reason").into_iter().map(|column| column.value).collect(),
        retry: answer.text_or_texts("retry").into_iter().map(|says| says.value).collect(),
        number: text(answer, "number"),
        records: text(answer, "records"),
        ..AnswerLayout::default()
    };
    for (key, outcome) in AnswerOutcome::WORDS {
        for word in answer.text_or_texts(key) {
            match layout.outcome_of(&word.value) {
                Some(other) if other != outcome => {
                    let says = format!("[answer] \"{}\" means {} and {key}", word.value, other.word());
                    answer.problem(word.line, says, |problem| problem.hint("let each word mean one thing"));
                }
                _ => layout.words.push((word.value, outcome)),
            }
        }
    }
    for (name, path) in answer.pairs("counts") {
        match AnswerCount::WORDS.iter().find(|(word, _)| *word == name.value) {
            Some((_, count)) => layout.counts.push((*count, path.value)),
            None => answer.problem(
                name.line,
                format!("[answer] counts does not know \"{}\"", name.value),
                |problem| {
                    problem.suggest(&name.value, AnswerCount::WORDS.iter().map(|(word, _)| *word));
                },
            ),
        }
    }
    layout.says = answer.tables("says", read_form).into_iter().flatten().collect();
    let number_field = answer.text("number_field");
    refuse_half(answer, &layout);
    AnswerDraft { layout, number_field }
}

fn read_form(says: &mut Settings<'_>) -> Option<LineForm> {
    let outcome = says.choice("outcome", &AnswerOutcome::WORDS);
    let line = says.required_text("line")?;
    LineForm::parse(&line.value, outcome)
        .map_err(|wrong| says.problem(line.line, format!("[[answer.says]] line: {wrong}"), |_| {}))
        .ok()
}

/// Says what a description leaves open.
fn refuse_half(answer: &Settings<'_>, layout: &AnswerLayout) {
    let missing = |says: &str, hint: &str| {
        answer.problem(answer.line(), format!("[answer] {says}"), |problem| problem.hint(hint));
    };
    if layout.says.is_empty() {
        if layout.line.is_none() && layout.record.is_none() && layout.key.is_empty() {
            missing(
                "does not say how a line of the answer names its record",
                "write line, record or key with the column of the answer that has it",
            );
        }
        match (&layout.outcome, layout.all) {
            (None, None) => missing(
                "does not say how it went for a record",
                "write outcome with the column that says so, or all = \"refused\" for a list of what was refused",
            ),
            (Some(_), None) if layout.words.is_empty() => missing(
                "does not say what the words of the target mean",
                "write for example loaded = [\"OK\"], refused = [\"ERROR\"]",
            ),
            (Some(_), Some(_)) => missing("has outcome and all", "keep one of them"),
            _ => {}
        }
    } else if let Some(column) = layout.columns().first() {
        missing(
            &format!("has forms of plain lines and a column, \"{column}\""),
            "keep one of them, or write two tables, each headed [[answer]]",
        );
    }
    if layout.line.is_some() && layout.record.is_some() {
        missing("has line and record", "keep one of them");
    }
}

/// Joins an answer with the fields.
pub(super) fn settle_answer(
    draft: AnswerDraft,
    fields: &ById<FieldId, OpenField>,
    file: &str,
    problems: &mut Problems,
) -> AnswerLayout {
    let AnswerDraft { mut layout, number_field } = draft;
    let keys = fields.iter().filter(|open| open.field.key).count();
    if layout.key.len() > 1 && layout.key.len() != keys {
        let says =
            format!("[answer] key has {} columns, and {keys} fields are part of the key", layout.key.len());
        problems.at(file, layout.at, says).hint("name a column for each of them, in the order of the fields");
    }
    let Some(name) = number_field else { return layout };
    layout.number_field = fields.find(|open| open.field.name == name.value);
    if layout.number_field.is_none() {
        problems
            .at(file, Some(name.line), format!("[answer] number_field names no field \"{}\"", name.value))
            .suggest(&name.value, fields.iter().map(|open| open.field.name.as_str()));
    }
    layout
}
