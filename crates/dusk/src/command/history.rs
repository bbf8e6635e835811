//! What was made before: the last batch of the same mapping, or of the same target and headings, and what is new since.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use dusk_core::delivery::{Stage, stage};
use dusk_core::evidence::Cause;
use dusk_core::mapping::{ColumnDrift, Mapping};
use dusk_core::run::{Leftover, Lineage, PastBatch, Ready, Receipt, past_batches, sweep};
use dusk_core::sources::Source;
use dusk_core::values::shown_day;

use crate::loaded::Loaded;
use crate::outcome::{Failure, note};
use crate::report::EarlierBatch;
use crate::show::{mapping_option, shell_word};

/// How many batches before are shown beside a new one.
const MONTHS: usize = 11;

/// The batches beside a mapping.
pub(super) struct History<'l> {
    batches: Vec<PastBatch>,
    lineage: Lineage<'l>,
}

/// Where the batches of a mapping stand.
pub(super) fn batches_beside(mapping: &Path) -> PathBuf {
    mapping.parent().unwrap_or(Path::new("")).join("batches")
}

/// The batches in a folder, once it is in order: what runs left that were ended in the middle is settled, and said.
///
/// # Errors
/// Where rows may be in a table without a batch that says so: nobody knows then what was sent.
pub(super) fn swept_batches(folder: &Path) -> Result<Vec<PastBatch>, Failure> {
    for leftover in sweep(folder)? {
        if matches!(leftover, Leftover::MayBeLoaded(..)) {
            return Err(Failure::Stopped(leftover.says()));
        }
        note(&leftover.says());
    }
    Ok(past_batches(folder)?)
}

impl<'l> History<'l> {
    pub(super) fn of(loaded: &'l Loaded) -> Result<Self, Failure> {
        let mapping = &loaded.mapping.path;
        let batches = swept_batches(&batches_beside(mapping))?;
        let lineage = Lineage { mapping, target: &loaded.target.name, sources: &loaded.sources };
        Ok(Self { batches, lineage })
    }

    /// The last batch, with its receipt.
    pub(super) fn last(&self) -> Option<(&PastBatch, &Receipt)> {
        self.last_before(None)
    }

    /// The last batch before the one that has these sources already.
    pub(super) fn last_before(&self, again: Option<&PastBatch>) -> Option<(&PastBatch, &Receipt)> {
        self.lineage.last_of(&self.batches, again)
    }

    /// The last batches of the same mapping, or of the same target and headings, with how far each has come; not the one
    /// that gives its place to a new one.
    pub(super) fn earlier(&self, replaced: Option<&Path>) -> Vec<EarlierBatch<'_>> {
        let all = self.lineage.all_of(&self.batches);
        let stays =
            |(batch, _): &(&PastBatch, &Receipt)| replaced.is_none_or(|replaced| batch.path != replaced);
        let all: Vec<_> = all.into_iter().filter(stays).collect();
        let last = all.get(all.len().saturating_sub(MONTHS)..).unwrap_or_default();
        // A page is no reason to stop where what was done with an older batch cannot be read.
        let state = |batch: &PastBatch| stage(batch).map_or("state unknown", Stage::words);
        last.iter().map(|(batch, receipt)| EarlierBatch { receipt, stage: state(batch) }).collect()
    }

    /// Says where the list of what the target holds is older than the last batch: what that sent is not in it.
    pub(super) fn note_old_list(&self, loaded: &Loaded) {
        let (Some(day), Some((batch, last))) = (loaded.held_day(), self.last()) else { return };
        if last.today.parse::<jiff::civil::Date>().is_ok_and(|made| day < made) {
            note(&format!(
                "what the target holds is listed as of {}, before batch {} of {}: what that batch sent is not in the list",
                dusk_core::values::shown(day),
                batch.name(),
                shown_day(&last.today)
            ));
        }
    }

    /// The orders that the dates of the last batch proved, by the names of the fields.
    pub(super) fn orders(&self) -> Option<&BTreeMap<String, String>> {
        self.last().map(|(_, last)| &last.proven_date_orders)
    }

    /// Asks the last batch what the records had whose values are rejected now.
    pub(super) fn ask(&self, ready: &Ready<'_>, causes: &mut [Cause]) -> Result<(), Failure> {
        match self.last() {
            Some((batch, receipt)) => Ok(ready.ask_earlier(causes, &batch.path, receipt)?),
            None => Ok(()),
        }
    }

    /// The batch that has one of these sources already.
    pub(super) fn has(&self) -> Result<Option<(&PastBatch, String)>, Failure> {
        Ok(self.lineage.made_before(&self.batches)?)
    }

    /// Whether a batch that has a source already gives its place to the one that is made again.
    pub(super) fn gives_place(&self, batch: &PastBatch) -> bool {
        batch.receipt.as_ref().is_ok_and(|receipt| self.lineage.takes_place_of(receipt))
    }

    /// Stops where a source has a column that was not there before and that the mapping does not speak
    /// of.
    pub(super) fn stop_at_new_columns(&self, mapping: &Mapping, sources: &[Source]) -> Result<(), Failure> {
        let Some((batch, last)) = self.last() else { return Ok(()) };
        let before: Vec<String> = last.sources.iter().flat_map(|source| source.columns.clone()).collect();
        let wanted = mapping.wanted();
        for source in sources {
            let new: Vec<String> = ColumnDrift::between(&before, &source.columns)
                .new
                .into_iter()
                .filter(|column| {
                    !wanted.contains(column)
                        && !mapping.leave_out.contains(column)
                        && !dusk_core::sources::has_no_heading(column)
                })
                .map(|column| format!("\"{column}\""))
                .collect();
            if new.is_empty() {
                continue;
            }
            let path = mapping.path.display().to_string();
            let option = mapping_option(&mapping.path);
            return Err(Failure::Stopped(format!(
                "{}: new since batch {}, and {path} does not speak of it: {}\n  map it, or write it under [leave_out] columns; dusk map {}{option} proposes fields for new columns",
                source.name,
                batch.name(),
                new.join(", "),
                shell_word(&source.name),
            )));
        }
        Ok(())
    }
}
