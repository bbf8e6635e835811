//! `dusk answer`: what the target said of a batch.

use std::path::Path;

use dusk_core::delivery::{
    Answered, Answering, FileToSend, Happened, NumbersKept, SentRecords, draft_answer, events, keep_numbers,
    key_of, last_of_file, numbers_path, take_answer, upload_files,
};
use serde_json::Value;

use super::carrier::with_carrier;
use super::history::{batches_beside, swept_batches};
use super::named::NamedBatch;
use crate::args::{AnswerArgs, Format};
use crate::outcome::{Ended, Failure, Outcome, note, print, print_json};
use crate::show::{AnswerShown, answer_json, counted, mapping_option, shell_word};

pub(super) fn run(args: &AnswerArgs) -> Outcome {
    if args.draft {
        return draft(args);
    }
    let named = NamedBatch::find(&args.batch, &args.of)?;
    let Some(file) = args.file.as_deref() else { return ask(&named, args) };
    let called = file.display().to_string();
    let answering = Answering {
        path: file,
        name: &called,
        layouts: &named.target.answers,
        file: args.upload.as_deref(),
        replaces: args.replace,
        only_looks: args.look,
    };
    let read = read(&named, &answering)?;
    match args.format {
        Format::Text => print(&read.text)?,
        Format::Json => print_json(&read.json)?,
    }
    Ok(ended(read.is_whole))
}

fn ended(is_whole: bool) -> Ended {
    if is_whole { Ended::AllAccepted } else { Ended::SomeRejected }
}

/// An answer that was read, for people and for programs.
pub(super) struct ReadAnswer {
    pub(super) text: String,
    pub(super) json: Value,
    /// Every record that was sent is in, and nothing contradicts that.
    pub(super) is_whole: bool,
}

fn read(named: &NamedBatch, answering: &Answering<'_>) -> Result<ReadAnswer, Failure> {
    let batch = named.batch()?;
    let answered = take_answer(batch, answering, named.doer())?;
    let name = batch.name();
    let shown = AnswerShown {
        batch: &name,
        file: answering.name,
        target: &named.target.name,
        answered: &answered,
        option: &mapping_option(&named.mapping),
        is_kept: !answering.only_looks,
    };
    let mut text = shown.to_string();
    if !answering.only_looks {
        text.insert_str(0, &kept_numbers(named, &answered)?);
    }
    Ok(ReadAnswer { text, json: answer_json(&shown), is_whole: is_whole(&answered) })
}

/// Keeps the numbers that the target gave, and says where.
fn kept_numbers(named: &NamedBatch, answered: &Answered) -> Result<String, Failure> {
    let target = &named.target;
    let fields = target.fields.iter().filter(|field| field.key);
    let keys: Vec<&str> = fields.map(|field| field.name.as_str()).collect();
    let field = target.answers.iter().find_map(|answer| target.fields.get(answer.number_field?));
    let number = field.map_or("number", |field| field.name.as_str());
    let path = numbers_path(&named.mapping);
    let (name, day) = (named.batch()?.name(), named.doer().at);
    let day = day.get(..10).unwrap_or(day);
    let kept = keep_numbers(&path, (&keys, number), (&answered.sent, &answered.told), (&name, day))?;
    let NumbersKept { new, same, other } = kept;
    Ok(match new + same + other {
        0 => String::new(),
        _ if other > 0 => format!(
            "{} that the target gave are kept in {}; {other} of the records had another number before\n",
            counted(new + same + other, "number"),
            path.display()
        ),
        all => {
            let are = if all == 1 { "is" } else { "are" };
            format!("{} that the target gave {are} kept in {}\n", counted(all, "number"), path.display())
        }
    })
}

fn is_whole(answered: &Answered) -> bool {
    let counts = answered.counts;
    let is_open = counts.refused + counts.not_there + counts.not_mentioned > 0;
    !is_open && answered.told.wrong == 0 && answered.differences.is_empty()
}

/// Reads what the target itself has handed over about an upload file.
pub(super) fn take(
    named: &NamedBatch,
    file: &str,
    (name, bytes): (&str, &[u8]),
) -> Result<ReadAnswer, Failure> {
    let begins = bytes.iter().find(|byte| !byte.is_ascii_whitespace());
    let ending = match begins {
        _ if name.rsplit_once('.').is_some_and(|(_, ending)| ending.len() < 5 && !file.ends_with(ending)) => {
            ""
        }
        Some(b'{' | b'[') => ".json",
        _ => ".txt",
    };
    let folder = tempfile::tempdir()?;
    let path = folder.path().join(format!("{name}{ending}"));
    std::fs::write(&path, bytes)?;
    let answering = Answering {
        path: &path,
        name,
        layouts: &named.target.answers,
        file: Some(file),
        replaces: false,
        only_looks: false,
    };
    read(named, &answering)
}

/// Asks the target what became of the files that were handed over.
fn ask(named: &NamedBatch, args: &AnswerArgs) -> Outcome {
    let batch = named.batch()?;
    let name = batch.name();
    let Some(delivery) = &named.target.delivery else {
        return Err(Failure::Stopped(format!(
            "nothing says where the target's answer is\n  dusk answer {} FILE reads it from a file",
            shell_word(&name)
        )));
    };
    let happened = events(&batch.path)?;
    let (mut found, mut is_all_whole) = (0, true);
    for (part, (file, blake3, _)) in (1..).zip(upload_files(batch)) {
        let is_over = last_of_file(&happened, file).is_some_and(|event| event.what != Happened::NotDelivered);
        if !is_over {
            continue;
        }
        let path = batch.path.join("upload").join(file);
        let key = key_of(&named.target.name, &name, file, blake3);
        let bytes = std::fs::metadata(&path).map_or(0, |metadata| metadata.len());
        let sent = FileToSend { path: &path, name: file, blake3, bytes, batch: &name, part, key: &key };
        let answers = with_carrier(delivery, named, |carrier| Ok(carrier.answers(&sent)?))?;
        for (answer, bytes) in &answers {
            let hash = dusk_core::files::hash_of(bytes);
            if happened.iter().any(|event| event.what == Happened::Answered && event.says.contains(&hash)) {
                continue;
            }
            let read = take(named, file, (answer, bytes))?;
            found += 1;
            is_all_whole &= read.is_whole;
            match args.format {
                Format::Text => print(&read.text)?,
                Format::Json => print_json(&read.json)?,
            }
        }
    }
    if found == 0 {
        print(&format!("the target has said nothing new about batch {name} yet\n"))?;
        return Ok(Ended::SomeRejected);
    }
    Ok(ended(is_all_whole))
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
    Ok(ended(drafted.open.is_empty()))
}
