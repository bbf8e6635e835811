//! `dusk answer`: what the target said of a batch.

use std::path::Path;

use dusk_core::delivery::{Answering, SentRecords, draft_answer, take_answer};

use super::history::{batches_beside, swept_batches};
use super::named::NamedBatch;
use crate::args::{AnswerArgs, Format};
use crate::outcome::{Ended, Failure, Outcome, note, print, print_json};
use crate::show::{AnswerShown, answer_json};

pub(super) fn run(args: &AnswerArgs) -> Outcome {
    if args.draft {
        return draft(args);
    }
    let named = NamedBatch::find(&args.batch, &args.of)?;
    let batch = named.batch()?;
    let file = args.file.as_deref().ok_or_else(|| Failure::Stopped("no answer is named".into()))?;
    let answering = Answering {
        path: file,
        layouts: &named.target.answers,
        file: args.upload.as_deref(),
        replaces: args.replace,
        only_looks: args.look,
    };
    let answered = take_answer(batch, &answering, named.doer())?;
    let name = batch.name();
    let shown = AnswerShown {
        batch: &name,
        file,
        target: &named.target.name,
        answered: &answered,
        is_kept: !args.look,
    };
    match args.format {
        Format::Text => print(&shown.to_string())?,
        Format::Json => print_json(&answer_json(&shown))?,
    }
    let counts = answered.counts;
    let is_open = counts.refused + counts.not_there + counts.not_mentioned > 0;
    let is_whole = !is_open && answered.told.wrong == 0 && answered.differences.is_empty();
    Ok(if is_whole { Ended::AllAccepted } else { Ended::SomeRejected })
}

/// Proposes `[answer]`, and tries it before it is shown.
fn draft(args: &AnswerArgs) -> Outcome {
    let last = || {
        let batches = swept_batches(&batches_beside(&args.of.mapping))?;
        let last = batches.last().map(dusk_core::run::PastBatch::name);
        last.ok_or_else(|| Failure::Stopped("no batch was made yet, so no answer can be about one".into()))
    };
    let (batch, file) = match &args.file {
        Some(file) => (args.batch.clone(), file.as_path()),
        None => (last()?, Path::new(&args.batch)),
    };
    let named = NamedBatch::find(&batch, &args.of)?;
    let sent = SentRecords::read(named.batch()?)?;
    let fields = named.target.fields.iter().filter(|field| field.key);
    let keys: Vec<&str> = fields.map(|field| field.name.as_str()).collect();
    let drafted = draft_answer(file, &sent, &keys)?;
    if !named.target.answers.is_empty() {
        note("target.toml has [answer] already: this is another one");
    }
    for open in &drafted.open {
        note(open);
    }
    print(&drafted.text)?;
    Ok(if drafted.open.is_empty() { Ended::AllAccepted } else { Ended::SomeRejected })
}
