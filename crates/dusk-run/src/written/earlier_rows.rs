//! The earlier rows of those whose key is there already, read once more.

use crate::Ready;
use dusk_evidence::{Id as _, Result};
use dusk_rejects::{EarlierPlaces, EarlierRows, RejectLayout, Said};
use dusk_sources::{Progress, Tray, in_order};

/// The rows at these places, as rejected rows are handed out. All threads look for them.
///
/// # Errors
/// Whatever stops reading.
pub(crate) fn earlier_rows(
    ready: &Ready<'_>,
    layout: &RejectLayout,
    wanted: &EarlierPlaces,
    progress: &Progress<'_>,
) -> Result<EarlierRows> {
    let mut found = EarlierRows::new();
    if wanted.is_empty() {
        return Ok(found);
    }
    let sources = ready.job.sources;
    let make_worker = |_| {
        Ok(move |tray: &mut Tray<EarlierRows>| {
            tray.result.clear();
            let place = tray.source;
            // What is wanted in this block or behind it.
            let mut next = wanted.range((place, tray.block.row)..).map(|(_, row)| *row).peekable();
            let Some(source) = sources.get(place.index()).filter(|_| next.peek().is_some()) else { return };
            let mut rows = tray.block.rows(&source.dialect);
            while let Some(row) = rows.next() {
                if next.next_if_eq(&row.row()).is_some() {
                    let handed_out =
                        layout.row((place, source), &row, &[], &|_| (Vec::new(), Said::default()));
                    tray.result.insert((place, row.row()), handed_out);
                }
            }
        })
    };
    in_order(
        sources,
        ready.job.threads,
        |_| (),
        make_worker,
        |tray| {
            found.append(&mut tray.result);
            progress(0, tray.block.bytes_read);
            Ok(())
        },
    )?;
    Ok(found)
}
