//! Whether the disk has room for a batch, before a long run begins.

use std::io::ErrorKind;
use std::path::Path;

use crate::Ready;
use dusk_conforming::Bound;
use dusk_evidence::{Error, Result, room_on_disk};
use dusk_sources::Source;

/// Batches that take less are simply begun, in bytes.
const SMALL: u64 = 4 << 20;

/// How many rows are looked at to tell what a record takes.
const LOOKED_AT: usize = 500;

/// What the page, the receipt and the workbook of a small batch take, in bytes.
const ALWAYS: u64 = 200_000;

/// What a batch keeps of each row beside what is uploaded, in bytes: `records.bin`, its line of `rows.csv`, its
/// share of other lists and pages.
const BESIDE: u64 = 64;

/// Stops where the disk that a batch goes to has surely not the room that it takes.
///
/// # Errors
/// [`Error::NoRoom`] then; whatever stops reading.
pub(super) fn refuse_too_little_room(ready: &Ready<'_>, batch: &Path) -> Result<()> {
    let Some(room) = room_on_disk(batch) else { return Ok(()) };
    let all: u64 = ready.job.sources.iter().map(|source| source.bytes).sum();
    // What is uploaded can be longer than what it is made of, but hardly twice as long.
    if room > all.saturating_mul(2).saturating_add(SMALL) {
        return Ok(());
    }
    let needed = needed(ready)?;
    if needed <= SMALL || room >= needed {
        return Ok(());
    }
    Err(Error::NoRoom { place: batch.to_path_buf(), needed, room })
}

/// Of a disk that was full in the middle of a batch: what the whole of it takes.
pub(super) fn with_what_is_needed(error: Error, ready: &Ready<'_>, batch: &Path) -> Error {
    let parent = batch.parent().unwrap_or(Path::new(""));
    let is_of_batch = |path: &Path| path.starts_with(parent);
    match &error {
        Error::File { path, cause, .. } if cause.kind() == ErrorKind::StorageFull && is_of_batch(path) => {
            match (needed(ready), room_on_disk(batch)) {
                (Ok(needed), Some(room)) if room < needed => {
                    Error::NoRoom { place: batch.to_path_buf(), needed, room }
                }
                _ => error,
            }
        }
        _ => error,
    }
}

/// About how many bytes a batch takes.
fn needed(ready: &Ready<'_>) -> Result<u64> {
    let mut needed = ALWAYS;
    for source in ready.job.sources {
        needed = needed.saturating_add(taken_of(source, &ready.plan.bind(source)?)?);
    }
    Ok(needed)
}

/// How many bytes of a source's rows go into records, and are kept beside them.
fn taken_of(source: &Source, columns: &[Bound]) -> Result<u64> {
    let mut walk = source.walk()?;
    let Some(mut rows) = walk.more()? else { return Ok(0) };
    let (mut all, mut taken) = (0_u64, 0_u64);
    for _ in 0..LOOKED_AT {
        let Some(row) = rows.next() else { break };
        all += row.written().len() as u64 + 1;
        let of_record =
            |bound: &Bound| bound.iter().map(|place| row.cell(*place).len() as u64 + 1).sum::<u64>();
        taken += columns.iter().map(of_record).sum::<u64>() + BESIDE;
    }
    let share = u128::from(source.bytes) * u128::from(taken) / u128::from(all.max(1));
    Ok(u64::try_from(share).unwrap_or(u64::MAX))
}
