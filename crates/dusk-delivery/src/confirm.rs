//! The proof that everything arrived: the target's own counts and sums, or its list, held against what was sent.

use std::collections::{BTreeMap, BTreeSet};

use jiff::civil::Date;
use serde::Serialize;

use crate::answer::kept::keep;
use crate::stage::stage_of;
use crate::{
    AnswerCounts, BatchEvent, Chain, Doer, EventList, Happened, SentOne, SentRecords, Stage, Told,
    ToldCounts, ToldRecords, kept_answer,
};
use dusk_description::{AnswerOutcome, Target};
use dusk_evidence::{Error, Result, Row, SourceId};
use dusk_held::HeldRecords;
use dusk_run::{ComparedKind, FieldTotal, PastBatch, Uploaded};
use dusk_sources::{Progress, Threads};
use dusk_values::Decimal;

/// How many records of a difference are named.
const FEW: usize = 5;

/// What the target says of what it has.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Claims {
    /// How many records it loaded, and how many it refused.
    pub counts: AnswerCounts,
    /// What its numbers come to: a field, and its sum.
    pub sums: Vec<(String, String)>,
}

/// What a batch is held against.
pub struct Against<'a> {
    /// The target as it is described now.
    pub target: &'a Target,
    /// What it says.
    pub claims: &'a Claims,
    /// All batches of the folder: one that follows may have sent what was refused.
    pub batches: &'a [PastBatch],
    /// What it holds by now, and the day that its list is from.
    pub held: Option<(&'a HeldRecords, Option<Date>)>,
    /// The day of the run.
    pub today: Date,
    /// How many threads share the work.
    pub threads: Threads,
}

/// What a batch comes to beside what the target says.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Confirmed {
    /// How many records are what now.
    pub counts: ToldCounts,
    /// What agrees, in sentences.
    pub agrees: Vec<String>,
    /// What differs, in sentences.
    pub differs: Vec<String>,
    /// Everything that was sent is accounted for, and the target says the same.
    pub is_complete: bool,
}

impl Confirmed {
    fn compare(&mut self, what: &str, target: &str, own: &str, is_same: bool) {
        if is_same {
            self.agrees.push(format!("{what}: {target}, as the batch has it"));
        } else {
            self.differs.push(format!("{what}: the target says {target}, and the batch comes to {own}"));
        }
    }
}

/// Holds a batch against what the target says, and records what came of it.
///
/// # Errors
/// [`Error::Request`] where there is nothing to hold it against; whatever stops reading.
pub fn confirm(
    batch: &PastBatch,
    against: &Against<'_>,
    doer: Doer<'_>,
    progress: &Progress<'_>,
) -> Result<Confirmed> {
    let sent = SentRecords::read(batch)?;
    let mut list = EventList::hold(&batch.path)?;
    if stage_of(batch, list.events()) == Stage::TurnedDown {
        return Err(Error::Request(format!(
            "batch {} was turned down, so the target has nothing of it",
            batch.name()
        )));
    }
    let has_claims = *against.claims != Claims::default();
    if !has_claims && against.held.is_none() {
        return Err(Error::Request(format!(
            "there is nothing to hold batch {0} against\n  say what the target counts, as dusk batches confirm {0} --loaded 1180 --sum honey_kg=812.5; or name an export of what it holds under [holds] in target.toml",
            batch.name()
        )));
    }
    let kept = kept_answer(&batch.path, &sent)?;
    let mut told = kept.unwrap_or_else(|| ToldRecords::of(sent.len()));
    let mut done =
        Confirmed { counts: told.counts(), agrees: Vec::new(), differs: Vec::new(), is_complete: false };
    let before = told.counts();
    if let Some((held, day)) = against.held.filter(|_| !has_claims) {
        refuse_old_list(batch, list.events(), day)?;
        against_list(batch, against, held, (&sent, &mut told, &mut done), progress)?;
    }
    let proof = against.claims.counts.proof(&told.counts());
    proof.into_iter().for_each(|proof| told.prove(proof));
    done.counts = told.counts();
    let counts = &done.counts.clone();
    against_counts(against.claims.counts, counts, &mut done);
    if !against.claims.sums.is_empty() {
        let totals = totals_of_loaded(batch, against, (&sent, &told), progress)?;
        against_sums(&against.claims.sums, &totals, &mut done)?;
    }
    done.is_complete = done.differs.is_empty() && done.counts.not_mentioned == 0;
    if done.counts != before {
        let kept = keep(list.held(), &batch.path, list.events(), (&sent, &told))?;
        let says = "what the target's own counts or its list prove".to_owned();
        list.add(BatchEvent {
            file: kept.file,
            blake3: kept.blake3,
            says,
            ..doer.event(Happened::Answered)
        })?;
    }
    let what = if done.is_complete { Happened::Complete } else { Happened::Differs };
    let unknown =
        (done.counts.not_mentioned > 0).then(|| format!("{} not mentioned", done.counts.not_mentioned));
    let says: Vec<String> = done.differs.iter().cloned().chain(unknown).chain(done.agrees.clone()).collect();
    list.add(BatchEvent { says: says.join("; "), ..doer.event(what) })?;
    Ok(done)
}

/// A list from before the delivery proves nothing.
fn refuse_old_list(batch: &PastBatch, events: &[BatchEvent], day: Option<Date>) -> Result<()> {
    let made = batch.receipt.as_ref().ok().and_then(|receipt| receipt.today.parse::<Date>().ok());
    let delivered =
        events.iter().rfind(|event| matches!(event.what, Happened::Delivered | Happened::Answered));
    let delivered = delivered.and_then(|event| event.at.get(..10)?.parse::<Date>().ok());
    match (day, delivered.or(made)) {
        (Some(day), Some(delivered)) if day < delivered => Err(Error::Request(format!(
            "the list of what the target holds is of {}, and batch {} was delivered on {}: it cannot have its records\n  export the list anew",
            dusk_values::shown(day),
            batch.name(),
            dusk_values::shown(delivered)
        ))),
        _ => Ok(()),
    }
}

/// Holds every record that was sent against the target's list.
fn against_list(
    batch: &PastBatch,
    against: &Against<'_>,
    held: &HeldRecords,
    (sent, told, done): (&SentRecords, &mut ToldRecords, &mut Confirmed),
    progress: &Progress<'_>,
) -> Result<()> {
    let files: Vec<String> = sent.files().map(str::to_owned).collect();
    let elsewhere = Chain::of(against.batches, batch)?.loaded_by_others(batch)?;
    let (mut there, mut altered, mut missing, mut returned) = (0_u64, Vec::new(), Vec::new(), Vec::new());
    for file in &files {
        let path = batch.path.join("upload").join(file);
        let uploaded = Uploaded::open(&path, against.target, against.today, against.threads)?;
        for record in uploaded.beside(held, progress)? {
            let number = uploaded.record_in(record.row);
            let Some(at) = number.and_then(|number| sent.numbered(file, number)) else { continue };
            let Some(one) = sent.get(at) else { continue };
            if one.is_removal {
                // It is to be gone: that it is not in the list is what was wanted.
                let is_gone = matches!(record.is, ComparedKind::New | ComparedKind::Gone);
                match (told.get(at), is_gone) {
                    (Told::NotMentioned, true) => told.set(at, Told::Said(AnswerOutcome::Loaded), "", ""),
                    (Told::NotMentioned, false) => told.set(at, Told::NotThere, "", ""),
                    (Told::Said(outcome), false) if outcome.is_in() => returned.push(named(&one)),
                    _ => {}
                }
                continue;
            }
            let known = told.get(at);
            // What was refused and mended since is what a later batch has sent.
            if known == Told::Said(AnswerOutcome::Refused) && elsewhere.contains(one.key) {
                continue;
            }
            match record.is {
                ComparedKind::Same => there += 1,
                ComparedKind::Changed => {
                    let fields: Vec<String> = record
                        .fields
                        .iter()
                        .map(|field| {
                            let text = |text: &Option<String>| text.clone().unwrap_or_default();
                            format!(
                                "{}: sent \"{}\", there \"{}\"",
                                field.field,
                                text(&field.new),
                                text(&field.old)
                            )
                        })
                        .collect();
                    altered.push(format!("{} ({})", named(&one), fields.join("; ")));
                }
                ComparedKind::New | ComparedKind::Gone => {}
            }
            let is_there = matches!(record.is, ComparedKind::Same | ComparedKind::Changed);
            match (known, is_there) {
                (Told::NotMentioned | Told::NotThere, true) => {
                    told.set(at, Told::Said(AnswerOutcome::Loaded), "", "")
                }
                (Told::NotMentioned, false) => told.set(at, Told::NotThere, "", ""),
                (Told::Said(AnswerOutcome::Refused), true) => returned.push(named(&one)),
                (Told::Said(outcome), false) if outcome.is_in() => missing.push(named(&one)),
                _ => {}
            }
        }
    }
    if there > 0 {
        done.agrees.push(format!("{there} records are in the target's list as they were sent"));
    }
    let mut say = |what: &str, records: &[String]| {
        if !records.is_empty() {
            let more = records.len().saturating_sub(FEW);
            let more = if more > 0 { format!(" and {more} more") } else { String::new() };
            let first: Vec<&str> = records.iter().take(FEW).map(String::as_str).collect();
            done.differs.push(format!("{} {what}: {}{more}", records.len(), first.join(", ")));
        }
    };
    say("were said to be loaded, and are not in the target's list", &missing);
    say("are in the target's list, although they were said to be refused or removed", &returned);
    say("are in the target's list with other values", &altered);
    Ok(())
}

/// A record as people name it.
fn named(record: &SentOne<'_>) -> String {
    let key = if record.key.is_empty() { String::new() } else { format!(" {}", record.key) };
    format!("row {} of {}{key}", record.row, record.source)
}

fn against_counts(claims: AnswerCounts, counts: &ToldCounts, done: &mut Confirmed) {
    let own = counts.loaded + counts.warned;
    if let Some(loaded) = claims.loaded {
        let target = claims.all_in(counts.sent).unwrap_or(loaded);
        done.compare("records loaded", &target.to_string(), &own.to_string(), target == own);
    }
    if let Some(refused) = claims.refused {
        let own = counts.refused + counts.not_there;
        done.compare("records refused", &refused.to_string(), &own.to_string(), refused == own);
    }
}

/// What the records that are in come to, field by field.
fn totals_of_loaded(
    batch: &PastBatch,
    against: &Against<'_>,
    (sent, told): (&SentRecords, &ToldRecords),
    progress: &Progress<'_>,
) -> Result<Vec<FieldTotal>> {
    let is_in = |at: usize| matches!(told.get(at), Told::Said(outcome) if outcome.is_in());
    if (0..sent.len()).all(is_in) {
        let receipt = batch.receipt.as_ref().map_err(|wrong| Error::Request(wrong.to_string()))?;
        return Ok(receipt.sent_totals.clone());
    }
    let mut all: BTreeMap<String, FieldTotal> = BTreeMap::new();
    for file in sent.files() {
        let path = batch.path.join("upload").join(file);
        let uploaded = Uploaded::open(&path, against.target, against.today, against.threads)?;
        let rows: BTreeSet<(SourceId, Row)> = sent
            .iter()
            .enumerate()
            .filter(|(at, record)| record.file == file && is_in(*at))
            .map(|(_, record)| (SourceId::FIRST, uploaded.row_of(record.record)))
            .collect();
        for total in uploaded.totals(&rows, progress)? {
            let sum = total.sum.as_deref().and_then(Decimal::parse);
            match all.get_mut(&total.field) {
                None => {
                    all.insert(total.field.clone(), total);
                }
                Some(known) => {
                    let known_sum = known.sum.as_deref().and_then(Decimal::parse);
                    known.sum = known_sum
                        .zip(sum)
                        .and_then(|(one, other)| one.plus(other))
                        .map(|sum| sum.to_string());
                }
            }
        }
    }
    Ok(all.into_values().collect())
}

fn against_sums(sums: &[(String, String)], totals: &[FieldTotal], done: &mut Confirmed) -> Result<()> {
    for (field, said) in sums {
        let known: Vec<&str> =
            totals.iter().filter(|total| total.sum.is_some()).map(|total| total.field.as_str()).collect();
        let total = totals.iter().find(|total| total.field == *field && total.sum.is_some());
        let Some(own) = total.and_then(|total| total.sum.as_deref()) else {
            let hint = match dusk_values::nearest(field, known.iter().copied()) {
                Some(near) => format!("did you mean \"{near}\"?"),
                None => format!("fields of numbers have one: {}", known.join(", ")),
            };
            return Err(Error::Request(format!("--sum: no field \"{field}\" has a sum\n  {hint}")));
        };
        let Some(target) = Decimal::parse(said) else {
            return Err(Error::Request(format!(
                "--sum {field}: \"{said}\" is not a number\n  write it with digits and a point, as {field}={own}"
            )));
        };
        done.compare(
            &format!("sum of {field}"),
            &target.to_string(),
            own,
            Decimal::parse(own) == Some(target),
        );
    }
    Ok(())
}
