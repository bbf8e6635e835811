//! Blocks of rows, read by one thread, worked on by several, handed on in order.
//!
//! A fixed number of trays goes round: the reader fills one with a block, a worker adds its
//! results, the ordered end empties it and gives it back. So memory stays the same however long
//! the source is, and buffers are used again and again.

use std::collections::BTreeMap;

use crossbeam_channel::{Receiver, Sender, bounded};

use crate::source::{Block, Line, Row, Source, SourcePrint};
use crate::{Error, Result};

/// How far a run has come.
pub type Progress<'a> = dyn Fn(u64, u64) + 'a;

/// A block on its way through the pipeline, with whatever a worker adds.
#[derive(Debug)]
pub(crate) struct Tray<T> {
    /// Which source the block is from, from 0.
    pub(crate) source: usize,
    /// The rows.
    pub(crate) block: Block,
    /// What the worker makes of them.
    pub(crate) result: T,
}

/// Sends every block of every source through a worker, and every tray in order to `end`.
///
/// `make_worker` makes what a thread needs of its own. Gives back what identifies each source.
///
/// # Errors
/// The first error of reading, of making a worker or of the end, in the order of the rows.
pub(crate) fn in_order<T, W>(
    sources: &[Source],
    make_worker: impl Fn(usize) -> Result<W> + Sync,
    mut end: impl FnMut(&mut Tray<T>) -> Result<()>,
) -> Result<Vec<SourcePrint>>
where
    T: Default + Send,
    W: FnMut(&mut Tray<T>) + Send,
{
    let threads = std::thread::available_parallelism().map_or(2, std::num::NonZero::get).min(8);
    let trays = threads * 2 + 4;
    let (empty_in, empty_out) = bounded::<Tray<T>>(trays);
    let (full_in, full_out) = bounded::<(u64, Tray<T>)>(trays);
    let (done_in, done_out) = bounded::<(u64, Tray<T>)>(trays);
    for _ in 0..trays {
        let block = Block { text: String::new(), row: Row(1), line: Line::FIRST, bytes_read: 0 };
        let _ = empty_in.send(Tray { source: 0, block, result: T::default() });
    }
    let workers: Vec<W> = (0..threads).map(&make_worker).collect::<Result<_>>()?;
    std::thread::scope(|scope| {
        let reader = scope.spawn(move || read(sources, &empty_out, &full_in));
        for mut worker in workers {
            let (full_out, done_in) = (full_out.clone(), done_in.clone());
            scope.spawn(move || {
                for (number, mut tray) in full_out {
                    worker(&mut tray);
                    if done_in.send((number, tray)).is_err() {
                        break;
                    }
                }
            });
        }
        drop((full_out, done_in));
        let mut waiting = BTreeMap::new();
        let mut next = 0;
        let mut result = Ok(());
        'end: for (number, tray) in &done_out {
            waiting.insert(number, tray);
            while let Some(mut tray) = waiting.remove(&next) {
                result = end(&mut tray);
                if result.is_err() {
                    break 'end;
                }
                next += 1;
                // The reader may be done already.
                let _ = empty_in.send(tray);
            }
        }
        // Everyone who still waits for a tray, or to hand one on, stops now.
        drop((done_out, empty_in));
        let prints = reader.join().map_err(|_| Error::Invariant("the reading thread stopped".into()))?;
        result.and(prints)
    })
}

fn read<T>(
    sources: &[Source],
    empty: &Receiver<Tray<T>>,
    full: &Sender<(u64, Tray<T>)>,
) -> Result<Vec<SourcePrint>> {
    let mut prints = Vec::new();
    let mut number = 0;
    let mut bytes_before = 0;
    for (place, source) in sources.iter().enumerate() {
        let mut blocks = source.blocks()?;
        loop {
            let Ok(mut tray) = empty.recv() else { return Ok(prints) };
            let Some(mut block) = blocks.next(std::mem::take(&mut tray.block.text))? else {
                // Nobody waits for this tray, so a later source may have it.
                drop(tray);
                break;
            };
            block.bytes_read += bytes_before;
            tray.source = place;
            tray.block = block;
            if full.send((number, tray)).is_err() {
                return Ok(prints);
            }
            number += 1;
        }
        let print = blocks.print();
        bytes_before += print.bytes;
        prints.push(print);
    }
    Ok(prints)
}
