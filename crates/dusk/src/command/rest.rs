//! The rest of a batch: what it has not sent, and what the target refused and was mended since.

use std::fs::File;
use std::path::PathBuf;

use dusk_core::delivery::{Chain, SourceNow};
use dusk_core::run::{PastBatch, SentBefore};
use dusk_core::sources::SourceIdentity;

use super::history::{batches_beside, swept_batches};
use super::named::named_batch;
use crate::args::{RestArgs, RunArgs};
use crate::loaded::Loaded;
use crate::outcome::{Failure, note};

/// What batches before have sent, where the rest of one is wanted.
pub(super) struct Rest {
    pub(super) before: SentBefore,
    /// The last batch of the chain, which the new one follows.
    pub(super) follows: String,
}

impl Rest {
    /// Reads what was sent; nothing where the rest of no batch is wanted.
    pub(super) fn of(args: &RestArgs, loaded: &Loaded) -> Result<Option<Self>, Failure> {
        let Some(name) = &args.rest else { return Ok(None) };
        let folder = batches_beside(&loaded.mapping.path);
        let batches = swept_batches(&folder)?;
        let batch = named_batch(&batches, name, &folder)?;
        refuse_other_target(batch, loaded)?;
        let retry = loaded.target.answers.iter().flat_map(|answer| &answer.retry).chain(&args.retry);
        let chain = Chain::of(&batches, batch)?.retrying(retry);
        let Some(last) = chain.batches.last() else {
            return Err(Failure::Stopped(format!(
                "batch {} was turned down, so it has sent nothing\n  make it again with dusk conform --again",
                batch.name()
            )));
        };
        let identities: Vec<SourceIdentity> = loaded
            .sources
            .iter()
            .map(|source| {
                let file = File::open(&source.name)?;
                SourceIdentity::of(file)
            })
            .collect::<Result<_, std::io::Error>>()?;
        let sheets: Vec<Option<String>> =
            loaded.sources.iter().map(dusk_core::sources::Source::sheet).collect();
        let sources: Vec<SourceNow<'_>> = identities
            .iter()
            .zip(&sheets)
            .map(|(identity, sheet)| SourceNow { identity, sheet: sheet.as_deref() })
            .collect();
        Ok(Some(Self { before: chain.sent_before(&sources, args.with_unknown)?, follows: last.name() }))
    }
}

fn refuse_other_target(batch: &PastBatch, loaded: &Loaded) -> Result<(), Failure> {
    let receipt = batch.receipt.as_ref().map_err(|wrong| Failure::Stopped(wrong.to_string()))?;
    if receipt.target.name == loaded.target.name {
        return Ok(());
    }
    Err(Failure::Stopped(format!(
        "batch {} is for {}, and {} is for {}\n  name the mapping of that batch with -m",
        batch.name(),
        receipt.target.name,
        loaded.mapping.path.display(),
        loaded.target.name
    )))
}

/// Puts the exports of a batch into a command that names none, and the values that its run was given.
pub(super) fn find_sources(
    args: &RestArgs,
    sources: &mut Vec<PathBuf>,
    run: &mut RunArgs,
) -> Result<(), Failure> {
    let Some(name) = &args.rest else { return Ok(()) };
    let folder = batches_beside(&run.mapping.mapping);
    let batches = swept_batches(&folder)?;
    let batch = named_batch(&batches, name, &folder)?;
    let receipt = batch.receipt.as_ref().map_err(|wrong| Failure::Stopped(wrong.to_string()))?;
    for (name, value) in &receipt.asked {
        if !run.asked.iter().any(|(known, _)| known == name) {
            run.asked.push((name.clone(), value.clone()));
        }
    }
    if !sources.is_empty() {
        return Ok(());
    }
    for source in &receipt.sources {
        let path = PathBuf::from(&source.file);
        if !dusk_core::sources::leads_to_a_file(&path) {
            return Err(Failure::Stopped(format!(
                "{}, of which batch {} was made, is not here\n  put it back, or name the export",
                path.display(),
                batch.name()
            )));
        }
        sources.push(path);
    }
    if let [first, ..] = sources.as_slice() {
        let names: Vec<String> = sources.iter().map(|path| path.display().to_string()).collect();
        let export = if sources.len() == 1 { first.display().to_string() } else { names.join(", ") };
        note(&format!("batch {} was made of {export}", batch.name()));
    }
    Ok(())
}
