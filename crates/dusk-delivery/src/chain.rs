//! What became of the records of all batches that follow one another.

use hashbrown::HashSet;
use serde::Serialize;

use crate::stage::stage_of;
use crate::{SentRecords, Stage, Told, events, kept_answer};
use dusk_description::AnswerOutcome;
use dusk_evidence::{Error, Id as _, Result, SourceId};
use dusk_run::{PastBatch, SentBefore, SentFate, SentRecord};
use dusk_sources::SourceIdentity;

/// A batch and those that send its rest, in the order in which they were made.
#[derive(Debug)]
pub struct Chain<'b> {
    /// The batches, but for those that were turned down.
    pub batches: Vec<&'b PastBatch>,
    /// What the target says of records that go again as they are.
    retry: Vec<String>,
}

/// A source of the run whose records may have been sent before.
#[derive(Debug, Clone, Copy)]
pub struct SourceNow<'s> {
    /// What identifies it.
    pub identity: &'s SourceIdentity,
    /// Its sheet, where it is a workbook.
    pub sheet: Option<&'s str>,
}

/// How many records of a chain are what.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize)]
pub struct ChainCounts {
    /// Records that were sent, each counted once.
    pub sent: u64,
    /// Those that are in the target.
    pub loaded: u64,
    /// Those that it refused, or does not have.
    pub not_loaded: u64,
    /// Those of which nobody knows.
    pub unknown: u64,
}

impl<'b> Chain<'b> {
    /// The chain of a batch, among all of its folder.
    ///
    /// # Errors
    /// Whatever stops reading the events of one.
    pub fn of(batches: &'b [PastBatch], of: &PastBatch) -> Result<Self> {
        let root = root_of(batches, &of.name());
        let mut chain = Vec::new();
        for batch in batches.iter().filter(|batch| root_of(batches, &batch.name()) == root) {
            if stage_of(batch, &events(&batch.path)?) != Stage::TurnedDown {
                chain.push(batch);
            }
        }
        Ok(Self { batches: chain, retry: Vec::new() })
    }

    /// The same chain, where records that were refused with one of these reasons, or with words around it, go again as
    /// they are: the reason is not their own.
    #[must_use]
    pub fn retrying<'r>(self, reasons: impl IntoIterator<Item = &'r String>) -> Self {
        let reasons = reasons.into_iter().map(|reason| dusk_values::fold(reason));
        Self { retry: reasons.filter(|reason| !reason.is_empty()).collect(), ..self }
    }

    /// What is known of a record that was refused.
    fn refused(&self, reason: &str) -> SentFate {
        let folded = dusk_values::fold(reason);
        if self.retry.iter().any(|retry| folded.contains(retry.as_str())) {
            SentFate::NotThere
        } else {
            SentFate::Refused(reason.to_owned())
        }
    }

    /// What became of every record that the chain has sent, where a source of this run is the one that they are from.
    /// `sends_unknown` says that records of which nobody knows go once more.
    ///
    /// # Errors
    /// [`Error::Request`] where records cannot be found again; whatever stops reading a batch.
    pub fn sent_before(&self, sources: &[SourceNow<'_>], sends_unknown: bool) -> Result<SentBefore> {
        let mut before = SentBefore::new(sends_unknown);
        self.each(&mut |batch, sent, at, fate| {
            // What is removed is no record of the export.
            let Some(record) = sent.get(at).filter(|record| !record.is_removal) else { return Ok(()) };
            let receipt = batch.receipt.as_ref().ok();
            let then = receipt.and_then(|receipt| receipt.sources.iter().find(|then| then.file == record.source));
            let is_it = |now: &SourceNow<'_>| {
                then.is_some_and(|then| then.blake3 == now.identity.blake3 && then.sheet.as_deref() == now.sheet)
            };
            let place = sources.iter().position(is_it).map(|index| (SourceId::new(index), record.row));
            if place.is_none() && record.key.is_empty() {
                return Err(Error::Request(format!(
                    "the target has no key, so records are known again by their rows alone, and {} is not as it was when batch {} was made\n  give the export of that batch, unchanged; mend its rows with dusk correct",
                    record.source,
                    batch.name()
                )));
            }
            before.take(SentRecord {
                batch: batch.name(),
                key: record.key.to_owned(),
                place,
                content: record.content,
                fate,
            });
            Ok(())
        })?;
        Ok(before)
    }

    /// Hands on every record that was sent, batch by batch, with what became of it.
    fn each(
        &self,
        visit: &mut dyn FnMut(&PastBatch, &SentRecords, usize, SentFate) -> Result<()>,
    ) -> Result<()> {
        for batch in &self.batches {
            let sent = SentRecords::read(batch)?;
            let is_complete = stage_of(batch, &events(&batch.path)?) == Stage::Complete;
            let told = kept_answer(&batch.path, &sent)?;
            for at in 0..sent.len() {
                let fate = match told.as_ref().map(|told| (told.get(at), told.reason(at))) {
                    Some((Told::Said(AnswerOutcome::Refused), reason)) => self.refused(reason),
                    Some((Told::Said(_), _)) => SentFate::Loaded,
                    Some((Told::NotThere, _)) => SentFate::NotThere,
                    // The counts of a complete batch have shown that everything else is there.
                    _ if is_complete => SentFate::Loaded,
                    _ => SentFate::Unknown,
                };
                visit(batch, &sent, at, fate)?;
            }
        }
        Ok(())
    }

    /// The keys of records that other batches of the chain have sent and that were loaded.
    ///
    /// # Errors
    /// Whatever stops reading a batch.
    pub fn loaded_by_others(&self, batch: &PastBatch) -> Result<HashSet<String>> {
        let mut keys = HashSet::new();
        self.each(&mut |of, sent, at, fate| {
            if of.path != batch.path && fate == SentFate::Loaded {
                let record = sent.get(at).filter(|record| !record.is_removal);
                keys.extend(record.map(|record| record.key.to_owned()));
            }
            Ok(())
        })?;
        Ok(keys)
    }

    /// How many records of the chain are what.
    ///
    /// # Errors
    /// Whatever stops reading a batch.
    pub fn counts(&self) -> Result<ChainCounts> {
        let mut counts = ChainCounts::default();
        for record in self.sent_before_by_rows()?.records() {
            counts.sent += 1;
            match record.fate {
                SentFate::Loaded => counts.loaded += 1,
                SentFate::Refused(_) | SentFate::NotThere => counts.not_loaded += 1,
                SentFate::Unknown => counts.unknown += 1,
            }
        }
        Ok(counts)
    }

    /// The same records, by the rows of the sources as they were.
    fn sent_before_by_rows(&self) -> Result<SentBefore> {
        let mut before = SentBefore::new(false);
        let mut sources: Vec<String> = Vec::new();
        self.each(&mut |batch, sent, at, fate| {
            let Some(record) = sent.get(at).filter(|record| !record.is_removal) else { return Ok(()) };
            let index = sources.iter().position(|known| known == record.source).unwrap_or_else(|| {
                sources.push(record.source.to_owned());
                sources.len() - 1
            });
            before.take(SentRecord {
                batch: batch.name(),
                key: record.key.to_owned(),
                place: Some((SourceId::new(index), record.row)),
                content: record.content,
                fate,
            });
            Ok(())
        })?;
        Ok(before)
    }
}

/// The batch with which the chain of a batch begins.
fn root_of(batches: &[PastBatch], name: &str) -> String {
    let follows = |name: &str| {
        let batch = batches.iter().find(|batch| batch.name() == name)?;
        batch.receipt.as_ref().ok()?.follows.clone()
    };
    let mut root = name.to_owned();
    // A chain has no more links than there are batches.
    for _ in 0..batches.len() {
        match follows(&root) {
            Some(before) => root = before,
            None => break,
        }
    }
    root
}
