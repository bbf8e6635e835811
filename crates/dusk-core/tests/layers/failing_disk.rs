//! Whatever a disk refuses, and wherever a run is ended: sources are untouched, outputs are whole or absent, and
//! decisions are kept. Figures are in docs/reliability.md; `DUSK_THOROUGH=1` tries every byte of a full disk.

use std::io::{Error as IoError, ErrorKind, Result as IoResult};
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use dusk_core::Error;
use dusk_core::decisions::{Crosswalk, CrosswalkLine, crosswalk_path};
use dusk_core::files::disk::{Call, Gate, gate};
use dusk_core::run::{NewBatch, Ready, Receipt, Since, past_batches, sweep, write_batch};

use crate::desk::{Desk, Given};

/// What goes wrong at a call.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Fate {
    /// The disk is full: half of what is written goes through, and nothing after it.
    Full,
    /// The call fails once.
    Refused,
    /// The run is ended there: no call after it is made.
    Ended,
}

/// Lets so many calls pass, and then does its worst.
struct Failing {
    passed: AtomicUsize,
    at: usize,
    fate: Fate,
}

impl Gate for Failing {
    fn pass(&self, call: Call<'_>) -> IoResult<usize> {
        let number = self.passed.fetch_add(1, Ordering::SeqCst);
        let wanted = if let Call::Write(_, bytes) = call { bytes } else { 0 };
        let makes_room = matches!(call, Call::Remove(_) | Call::Rename(_) | Call::Sync(_));
        match self.fate {
            Fate::Full if number == self.at && wanted > 1 => Ok(wanted / 2),
            Fate::Full if number >= self.at && !makes_room => Err(ErrorKind::StorageFull.into()),
            Fate::Refused if number == self.at => Err(IoError::other("the drive gave no answer")),
            Fate::Ended if number >= self.at => Err(IoError::other("nobody is there any more")),
            _ => Ok(wanted),
        }
    }
}

/// Lets so many bytes be written.
struct Small {
    left: AtomicUsize,
}

impl Gate for Small {
    fn pass(&self, call: Call<'_>) -> IoResult<usize> {
        let Call::Write(_, wanted) = call else { return Ok(0) };
        let take = |left: usize| Some(left.saturating_sub(wanted));
        let left = self.left.fetch_update(Ordering::SeqCst, Ordering::SeqCst, take).unwrap();
        if left == 0 { Err(ErrorKind::StorageFull.into()) } else { Ok(left.min(wanted)) }
    }
}

fn desk() -> Desk {
    let cells = ["3/4/2026", "25/4/2026", "31/2/2026", "?", "13/4/2026"];
    Desk::with_field("type = \"date\"", "order = \"day-month-year\"", &cells)
}

/// Makes a batch in the place of the one before.
fn conform(desk: &Desk, given: &Given) -> Result<(), Error> {
    let path = desk.path("batches/a");
    let replaces = path.exists().then_some(path.as_path());
    let batch = NewBatch { replaces, ..NewBatch::at(&path) };
    let job = given.job();
    let write = |ready: &Ready<'_>| write_batch(ready, &batch, &|_, _| {});
    job.work(&|_, _| {}, write).map(drop)
}

/// How many batches are in a folder, all of them whole; nothing else is there.
fn whole_batches(folder: &Path) -> usize {
    let batches = past_batches(folder).unwrap();
    for batch in &batches {
        batch.receipt.as_ref().unwrap();
        let outputs = batch.outputs();
        assert!(
            outputs.len() > 3 && outputs.iter().all(|(_, since)| *since == Since::Unchanged),
            "{outputs:?}"
        );
    }
    batches.len()
}

fn names(folder: &Path) -> Vec<String> {
    let mut names: Vec<String> = std::fs::read_dir(folder)
        .into_iter()
        .flatten()
        .map(|entry| entry.unwrap().file_name().into_string().unwrap())
        .collect();
    names.sort();
    names
}

/// Puts one mishap into the making of a batch, and holds the laws after it. False where everything had passed.
fn mishap(at: usize, fate: Fate, again: bool) -> bool {
    let desk = desk();
    let given = desk.given();
    let export = desk.read("export.csv");
    let batches = desk.path("batches");
    if again {
        conform(&desk, &given).unwrap();
    }
    let failing = Arc::new(Failing { passed: AtomicUsize::new(0), at, fate });
    let lifted = gate(&batches, Arc::clone(&failing) as Arc<dyn Gate>);
    let done = conform(&desk, &given);
    drop(lifted);
    let here = format!("{fate:?} at call {at}: {done:?}");
    assert_eq!(desk.read("export.csv"), export, "{here}");
    let made = whole_batches(&batches);
    let aside = whole_batches(&batches.join("replaced"));
    if fate != Fate::Ended {
        let unfinished = names(&batches).into_iter().filter(|name| name.starts_with('.')).count();
        // A folder that cannot be taken away is swept by the next run.
        assert!(unfinished == 0 || done.is_err(), "{here}");
    }
    // The next run puts in order what was left, and nothing is lost then.
    sweep(&batches).unwrap();
    let (made_then, aside_then) = (whole_batches(&batches), whole_batches(&batches.join("replaced")));
    assert!(made_then >= made && aside_then >= aside, "{here}");
    let least = usize::from(again);
    assert!(made_then >= least && made_then + aside_then <= least + 1, "{here}: {made_then}, {aside_then}");
    if done.is_ok() {
        assert_eq!((made_then, aside_then), (1, least), "{here}");
    }
    assert!(
        names(&batches).iter().all(|name| name == "a" || name == "replaced"),
        "{here}: {:?}",
        names(&batches)
    );
    // And the work goes on as if nothing had been.
    conform(&desk, &given).unwrap();
    assert_eq!(whole_batches(&batches), 1, "{here}");
    failing.passed.load(Ordering::SeqCst) > at
}

#[test]
fn a_batch_is_whole_or_absent_whatever_call_fails_or_is_the_last() {
    for fate in [Fate::Full, Fate::Refused, Fate::Ended] {
        for again in [false, true] {
            let tried = (0..).take_while(|at| mishap(*at, fate, again)).count();
            println!("{fate:?}, in the place of another {again}: {tried} calls, each failed once");
            assert!(tried > 30, "{tried}");
        }
    }
}

#[test]
fn a_full_disk_is_said_at_every_byte_and_leaves_nothing() {
    let desk = desk();
    let given = desk.given();
    conform(&desk, &given).unwrap();
    let all: u64 = {
        let receipt = Receipt::read(&desk.path("batches/a")).unwrap();
        receipt.outputs.iter().map(|output| output.bytes).sum()
    };
    let all = usize::try_from(all).unwrap();
    let thorough = std::env::var_os("DUSK_THOROUGH").is_some();
    let (mut tried, mut said) = (0, 0);
    for room in (0..all).step_by(if thorough { 1 } else { all / 60 }) {
        let folder = desk.path(&format!("small-{room}"));
        let batch = folder.join("a");
        let lifted = gate(&folder, Arc::new(Small { left: AtomicUsize::new(room) }));
        let job = given.job();
        let write = |ready: &Ready<'_>| write_batch(ready, &NewBatch::at(&batch), &|_, _| {});
        let done = job.work(&|_, _| {}, write).map(drop);
        drop(lifted);
        let says = done.unwrap_err().to_string();
        let one_sentence = says.contains("disk") && says.contains("space") && says.lines().count() <= 2;
        assert!(one_sentence && !says.contains("os error"), "{room}: {says}");
        assert_eq!(names(&folder), Vec::<String>::new(), "{room}");
        let _ = std::fs::remove_dir_all(&folder);
        (tried, said) = (tried + 1, said + usize::from(one_sentence));
    }
    println!("a disk of {all} bytes, full at each of {tried} places: said in one sentence {said} times");
}

#[test]
fn decisions_are_the_old_ones_or_the_new_ones_whatever_call_fails() {
    for fate in [Fate::Full, Fate::Refused, Fate::Ended] {
        for at in 0..12 {
            let desk = Desk::with_field("type = \"code\"\ncodes = \"colours.csv\"", "", &["blue"]);
            let given = desk.given();
            let field = given.target.fields.iter().find(|field| field.name == "it").unwrap();
            let path = crosswalk_path(&desk.path("mapping.toml"), "it");
            let code = field.kind.codes().unwrap().codes()[0].code.clone();
            let add = |value: &str| -> Result<(), Error> {
                let (held, mut crosswalk) = Crosswalk::hold(&path, field, None)?;
                let line =
                    CrosswalkLine { value: value.into(), code: code.clone(), ..CrosswalkLine::default() };
                crosswalk.set(line, field)?;
                crosswalk.write(&held)
            };
            add("first").unwrap();
            let failing = Arc::new(Failing { passed: AtomicUsize::new(0), at, fate });
            let lifted = gate(path.parent().unwrap(), failing);
            let done = add("second");
            drop(lifted);
            let values = || -> Vec<String> {
                let (_, crosswalk) = Crosswalk::hold(&path, field, None).unwrap();
                crosswalk.lines().iter().map(|line| line.value.clone()).collect()
            };
            let kept = values();
            let whole = kept == ["first"] || kept == ["first", "second"];
            assert!(whole && (done.is_err() || kept.len() == 2), "{fate:?} at {at}: {kept:?}, {done:?}");
            add("third").unwrap();
            assert_eq!(values().len(), kept.len() + 1);
        }
    }
}
