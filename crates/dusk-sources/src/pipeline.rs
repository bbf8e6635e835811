//! Blocks of rows, read by one thread, worked on by several, handed on in order.
//!
//! A fixed number of trays goes round: the reader fills one with a block, a worker adds its
//! results, the ordered end empties it and gives it back. So memory stays the same however long
//! the source is, and buffers are used again and again.

use std::collections::BTreeMap;
use std::num::NonZero;

use crossbeam_channel::{Receiver, Sender, bounded};

use crate::{Block, Source, SourceIdentity};
use dusk_evidence::{Error, Id as _, Line, Result, Row, SourceId};

/// How far a run has come.
pub type Progress<'a> = dyn Fn(u64, u64) + 'a;

/// How many threads share the work on blocks. What comes out is the same for any number.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Threads(NonZero<usize>);

impl Threads {
    /// More than this are of no use, since one thread reads and one ends.
    const MOST: usize = 8;

    /// So many, but at least one and at most eight.
    pub fn of(count: usize) -> Self {
        Self(NonZero::new(count.min(Self::MOST)).unwrap_or(NonZero::<usize>::MIN))
    }

    /// How many blocks may be on their way at once.
    fn trays(self) -> usize {
        self.0.get() * 2 + 4
    }
}

impl Default for Threads {
    /// Two.
    fn default() -> Self {
        Self::of(2)
    }
}

/// A block on its way through the pipeline, with whatever a worker adds.
#[derive(Debug)]
pub struct Tray<T> {
    /// Which source the block is from.
    pub source: SourceId,
    /// The rows.
    pub block: Block,
    /// What the worker makes of them.
    pub result: T,
}

/// Sends every block of every source through a worker, and every tray in order to `end`.
///
/// `begin` sees every tray in order before a worker does; `make_worker` makes what a thread needs of
/// its own. Gives back what identifies each source.
///
/// # Errors
/// The first error of reading, of making a worker or of the end, in the order of the rows.
pub fn in_order<T, W>(
    sources: &[Source],
    threads: Threads,
    begin: impl FnMut(&mut Tray<T>) + Send,
    make_worker: impl Fn(usize) -> Result<W> + Sync,
    mut end: impl FnMut(&mut Tray<T>) -> Result<()>,
) -> Result<Vec<SourceIdentity>>
where
    T: Default + Send,
    W: FnMut(&mut Tray<T>) + Send,
{
    let trays = threads.trays();
    let (empty_in, empty_out) = bounded::<Tray<T>>(trays);
    let (full_in, full_out) = bounded::<(u64, Tray<T>)>(trays);
    let (done_in, done_out) = bounded::<(u64, Tray<T>)>(trays);
    for _ in 0..trays {
        let block = Block { text: String::new(), row: Row(1), line: Line::FIRST, bytes_read: 0 };
        let _ = empty_in.send(Tray { source: SourceId::FIRST, block, result: T::default() });
    }
    let workers: Vec<W> = (0..threads.0.get()).map(&make_worker).collect::<Result<_>>()?;
    std::thread::scope(|scope| {
        let reader = scope.spawn(move || read(sources, begin, &empty_out, &full_in));
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
    mut begin: impl FnMut(&mut Tray<T>),
    empty: &Receiver<Tray<T>>,
    full: &Sender<(u64, Tray<T>)>,
) -> Result<Vec<SourceIdentity>> {
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
            tray.source = SourceId::new(place);
            tray.block = block;
            begin(&mut tray);
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

#[cfg(test)]
mod tests {
    use std::io::Write as _;
    use std::sync::atomic::{AtomicUsize, Ordering};

    use super::*;
    use crate::{Known, SourceSettings};

    fn sources(files: &[usize]) -> (Vec<tempfile::NamedTempFile>, Vec<Source>) {
        let write = |rows: &usize| {
            let mut file = tempfile::NamedTempFile::new().unwrap();
            writeln!(file, "Id,Text").unwrap();
            for number in 0..*rows {
                writeln!(file, "{number},{}", "x".repeat(number % 90)).unwrap();
            }
            file
        };
        let files: Vec<_> = files.iter().map(write).collect();
        let open = |file: &tempfile::NamedTempFile| {
            Source::open(file.path(), &SourceSettings::default(), &Known::headings(&["Id"])).unwrap()
        };
        let sources = files.iter().map(open).collect();
        (files, sources)
    }

    #[test]
    fn blocks_end_in_order_whichever_worker_is_fastest() {
        let (_files, sources) = sources(&[30_000, 1, 20_000]);
        let turn = AtomicUsize::new(0);
        let mut seen: Vec<(usize, u64)> = Vec::new();
        let prints = in_order(
            &sources,
            Threads::default(),
            |_| {},
            |_| {
                Ok(|tray: &mut Tray<Vec<u64>>| {
                    // Every third block takes its time, so that others overtake it.
                    if turn.fetch_add(1, Ordering::Relaxed).is_multiple_of(3) {
                        std::thread::sleep(std::time::Duration::from_millis(5));
                    }
                    tray.result.clear();
                    let dialect = &sources.get(tray.source.index()).unwrap().dialect;
                    let mut rows = tray.block.rows(dialect);
                    while let Some(row) = rows.next() {
                        tray.result.push(row.row().0);
                    }
                })
            },
            |tray| {
                seen.extend(tray.result.iter().map(|row| (tray.source.index(), *row)));
                Ok(())
            },
        )
        .unwrap();
        let expected =
            (2..=30_001).map(|row| (0, row)).chain([(1, 2)]).chain((2..=20_001).map(|row| (2, row)));
        assert!(seen.into_iter().eq(expected));
        assert_eq!(prints.len(), 3);
    }

    #[test]
    fn memory_is_flat_since_few_blocks_are_on_their_way_however_long_the_source() {
        let (_files, sources) = sources(&[200_000]);
        for threads in [Threads::of(1), Threads::of(3)] {
            let (on_the_way, most, blocks) = (AtomicUsize::new(0), AtomicUsize::new(0), AtomicUsize::new(0));
            in_order(
                &sources,
                threads,
                |_| {
                    let now = on_the_way.fetch_add(1, Ordering::SeqCst) + 1;
                    most.fetch_max(now, Ordering::SeqCst);
                },
                |_| Ok(|_: &mut Tray<()>| {}),
                |_| {
                    // A slow end, so that everybody else runs ahead as far as they may.
                    std::thread::sleep(std::time::Duration::from_millis(2));
                    blocks.fetch_add(1, Ordering::SeqCst);
                    on_the_way.fetch_sub(1, Ordering::SeqCst);
                    Ok(())
                },
            )
            .unwrap();
            let (most, blocks) = (most.into_inner(), blocks.into_inner());
            assert!(most <= threads.trays() && blocks > 3 * threads.trays(), "{most} of {blocks} blocks");
        }
    }

    #[test]
    fn an_error_at_the_end_stops_the_readers_and_is_the_one_that_is_said() {
        let (_files, sources) = sources(&[60_000, 60_000]);
        let worked = AtomicUsize::new(0);
        let mut ended = 0;
        let result = in_order(
            &sources,
            Threads::default(),
            |_| {},
            |_| {
                Ok(|_: &mut Tray<()>| {
                    worked.fetch_add(1, Ordering::Relaxed);
                })
            },
            |_| {
                ended += 1;
                if ended == 3 { Err(Error::Request("stop".into())) } else { Ok(()) }
            },
        );
        assert_eq!(result.unwrap_err().to_string(), "stop");
        assert_eq!(ended, 3);
        assert!(worked.load(Ordering::Relaxed) < 30, "the blocks still on their way, and no more");
        let refused = in_order(
            &sources,
            Threads::default(),
            |_| {},
            |_| Err::<fn(&mut Tray<()>), _>(Error::Request("no worker".into())),
            |_| Ok(()),
        );
        assert_eq!(refused.unwrap_err().to_string(), "no worker");
    }
}
