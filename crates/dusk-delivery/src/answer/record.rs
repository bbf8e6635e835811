//! An answer taken into a batch, together with those before it.

use std::path::Path;

use super::counts::{AnswerCounts, Proof, ToldCounts};
use super::kept::{keep, kept_answer};
use super::read::{AnswerRead, read_answer};
use super::told::{LinesOf, Told, ToldRecords, both};
use crate::{BatchEvent, Doer, EventList, Happened, SentRecords, Stage, stage::stage_of};
use dusk_description::AnswerLayout;
use dusk_evidence::{Error, Result};
use dusk_files::OutputFile;
use dusk_run::PastBatch;

/// How an answer is taken.
#[derive(Debug, Clone, Copy)]
pub struct Answering<'a> {
    /// The answer.
    pub path: &'a Path,
    /// What it is called where people read of it.
    pub name: &'a str,
    /// How answers of this target are read.
    pub layouts: &'a [AnswerLayout],
    /// The upload file that it is about, where the answer does not say so.
    pub file: Option<&'a str>,
    /// It takes the place of the answers before it.
    pub replaces: bool,
    /// Nothing is recorded.
    pub only_looks: bool,
}

/// An answer that was read.
#[derive(Debug)]
pub struct Answered {
    /// The records that were sent.
    pub sent: SentRecords,
    /// What is known of them now.
    pub told: ToldRecords,
    /// What the answer is beside its lines.
    pub read: AnswerRead,
    /// How many records are what.
    pub counts: ToldCounts,
    /// What differs between the target's counts and its lines.
    pub differences: Vec<String>,
    /// How many records the target's counts proved, and that they are in.
    pub proven: Option<(u64, bool)>,
    /// How many lines it has that are about a record.
    pub lines: u64,
}

/// Reads what the target says of a batch, and keeps it.
///
/// # Errors
/// [`Error::Request`] where nothing in the answer is about this batch, or it contradicts an answer before it; then
/// nothing is recorded.
pub fn take_answer(batch: &PastBatch, answering: &Answering<'_>, doer: Doer<'_>) -> Result<Answered> {
    let sent = SentRecords::read(batch)?;
    if sent.is_empty() {
        return Err(Error::Request(format!("batch {} has sent no record", batch.name())));
    }
    let mut list = EventList::hold(&batch.path)?;
    if stage_of(batch, list.events()) == Stage::TurnedDown {
        return Err(Error::Request(format!(
            "batch {} was turned down, so the target has nothing of it\n  dusk approve {} takes that back",
            batch.name(),
            batch.name()
        )));
    }
    let answer = OutputFile::of_file(answering.path, "", 0)?;
    let says_of =
        |event: &BatchEvent| event.what == Happened::Answered && event.says.contains(&answer.blake3);
    if !answering.replaces && !answering.only_looks && list.events().iter().any(says_of) {
        return Err(Error::Request(format!(
            "{} was read as an answer about batch {} already\n  dusk batches show {} tells what it said",
            answering.name,
            batch.name(),
            batch.name()
        )));
    }
    let lines = LinesOf::new(&sent, &batch.path, answering.file)?;
    let mut told = ToldRecords::of(sent.len());
    let mut count = 0;
    let read = read_answer(answering.path, answering.layouts, &mut |line| {
        count += 1;
        told.take(&lines, &line);
        Ok(())
    })?;
    refuse_another(batch, answering.name, &told, (count, &read))?;
    if !answering.replaces
        && let Some(before) = kept_answer(&batch.path, &sent)?
    {
        join(&mut told, &before, &sent, answering.name)?;
    }
    let before_proof = told.counts();
    // What a target counts is all of a file, and proves nothing of another one.
    let is_about_all = sent.files().count() == 1;
    let proof = if is_about_all { read.counts.proof(&before_proof) } else { None };
    let proven = proof.map(|proof| (before_proof.not_mentioned, proof == Proof::AllIn));
    proof.into_iter().for_each(|proof| told.prove(proof));
    let counts = told.counts();
    let differences = if is_about_all { read.counts.differences(&counts) } else { Vec::new() };
    if !counts.add_up() {
        return Err(Error::Invariant(format!("the records do not add up: {counts:?}")));
    }
    if !answering.only_looks {
        let kept = keep(list.held(), &batch.path, list.events(), (&sent, &told))?;
        keep_as_it_came(&list, batch, answering.path)?;
        let event = doer.event(Happened::Answered);
        let says = format!("{} (blake3 {}): {}", answering.name, answer.blake3, said(&counts, &read.counts));
        list.add(BatchEvent { file: kept.file, blake3: kept.blake3, says, ..event })?;
    }
    Ok(Answered { sent, told, read, counts, differences, proven, lines: count })
}

/// What an answer comes to, for the list of events.
fn said(counts: &ToldCounts, target: &AnswerCounts) -> String {
    let ToldCounts { sent, loaded, warned, refused, not_there, not_mentioned } = counts;
    let own = format!(
        "{sent} sent = {loaded} loaded + {warned} loaded with a warning + {refused} refused + {not_there} not there + \
         {not_mentioned} not mentioned"
    );
    match serde_json::to_string(target) {
        Ok(target) if target != "{}" => format!("{own}; the target's counts {target}"),
        _ => own,
    }
}

/// Keeps the answer as it came beside the list that was made of it.
fn keep_as_it_came(list: &EventList, batch: &PastBatch, answer: &Path) -> Result<()> {
    let number = 1 + list.events().iter().filter(|event| event.what == Happened::Answered).count();
    let ending =
        answer.extension().map_or_else(String::new, |ending| format!(".{}", ending.to_string_lossy()));
    let path = batch.path.join(format!("answer-{number}-as-it-came{ending}"));
    let bytes = std::fs::read(answer).map_err(Error::reading(answer))?;
    list.held().with(&path)?.write(&bytes)
}

/// An answer of which no line, or hardly one, is about a record of the batch is about another one.
fn refuse_another(
    batch: &PastBatch,
    name: &str,
    told: &ToldRecords,
    (lines, read): (u64, &AnswerRead),
) -> Result<()> {
    if lines == 0 && !read.counts.is_any() {
        let form = match read.first_without.first() {
            Some((line, text)) => {
                format!("line {line} is \"{text}\", and [answer] does not describe a line like it")
            }
            None => "it has no line".to_owned(),
        };
        return Err(Error::Request(format!("{} says nothing of any record: {form}", name)));
    }
    if told.nowhere * 2 < lines {
        return Ok(());
    }
    let first = told
        .findings
        .first()
        .map_or_else(String::new, |finding| format!("\n  line {} {}", finding.at, finding.wrong.says()));
    Err(Error::Request(format!(
        "{} of the {lines} lines of {} are about no record that batch {} has sent; is it the answer about another batch?{first}\n  nothing was recorded",
        told.nowhere,
        name,
        batch.name()
    )))
}

/// Joins an answer with the one before it. What is in does not become refused by a later answer, nor the other way
/// round, unless somebody says so.
fn join(told: &mut ToldRecords, before: &ToldRecords, sent: &SentRecords, name: &str) -> Result<()> {
    let mut contradicted: Vec<usize> = Vec::new();
    for at in 0..sent.len() {
        match (before.get(at), told.get(at)) {
            (Told::Said(known), Told::Said(new)) if known.is_in() != new.is_in() => contradicted.push(at),
            (Told::Said(known), Told::Said(new)) => {
                let reason = both(before.reason(at), told.reason(at));
                let number =
                    if told.number(at).is_empty() { before.number(at) } else { told.number(at) }.to_owned();
                told.set(at, Told::Said(known.max(new)), &reason, &number);
            }
            (known, Told::NotMentioned) => told.set(at, known, before.reason(at), before.number(at)),
            _ => {}
        }
    }
    let Some(first) = contradicted.first() else { return Ok(()) };
    let record = sent.get(*first);
    let named = record.map_or_else(String::new, |record| {
        format!("line {} of {}, {}", record.line, record.file, record.key)
    });
    Err(Error::Request(format!(
        "{} contradicts the answer before it: of {} records one says loaded and the other refused; the first is {named}\n  nothing was recorded; where the new answer is right, add --replace",
        name,
        contradicted.len()
    )))
}
