//! A file is handed over once, wherever the run that does it is ended and whatever the disk refuses.

use std::io::{Error as IoError, Result as IoResult};
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use dusk_core::delivery::{
    Delivering, Doer, DropCarrier, EventList, Handed, Stage, approve, deliver, stage, turn_down,
};
use dusk_core::description::DropFolder;
use dusk_core::files::Template;
use dusk_core::files::disk::{Call, Gate, gate};
use dusk_core::run::{PastBatch, past_batches};

use crate::desk::Desk;

const DOER: Doer<'_> = Doer { by: "clerk", at: "2026-04-30" };

/// Lets so many calls pass; then one fails, or all do, as where the run is ended.
struct Failing {
    passed: AtomicUsize,
    at: usize,
    ends: bool,
}

impl Gate for Failing {
    fn pass(&self, call: Call<'_>) -> IoResult<usize> {
        let number = self.passed.fetch_add(1, Ordering::SeqCst);
        let wanted = if let Call::Write(_, bytes) = call { bytes } else { 0 };
        if number == self.at || self.ends && number > self.at {
            return Err(IoError::other("nobody is there any more"));
        }
        Ok(wanted)
    }
}

fn desk() -> Desk {
    let desk = Desk::with_field("type = \"text\"", "", &["x", "y", "z"]);
    let given = desk.given();
    let job = given.job();
    desk.batch_of(&job).unwrap();
    std::fs::create_dir(desk.path("drop")).unwrap();
    std::fs::create_dir(desk.path("elsewhere")).unwrap();
    desk
}

fn batch(desk: &Desk) -> PastBatch {
    past_batches(&desk.path("")).unwrap().pop().unwrap()
}

fn hand_over(desk: &Desk) -> dusk_core::Result<Handed> {
    let described = DropFolder {
        folder: "drop".into(),
        name: Template::parse("{batch}-{file}").unwrap(),
        ready: None,
        answers: None,
    };
    let carrier = DropCarrier { described: &described, folder: desk.path("drop"), answers: None };
    let delivering = Delivering {
        carrier: &carrier,
        needs_approval: false,
        known: &[],
        progress: &|_, _| {},
        pause: &|_| {},
    };
    deliver(&batch(desk), &delivering, DOER).map(|mut done| done.remove(0).handed)
}

/// The target takes what is there under a name of its own, at once.
fn target_takes(desk: &Desk, to: &Path) -> usize {
    let mut taken = 0;
    for entry in std::fs::read_dir(desk.path("drop")).unwrap() {
        let path = entry.unwrap().path();
        let name = path.file_name().unwrap().to_string_lossy().into_owned();
        if path.is_file() && !name.starts_with('.') {
            let number = std::fs::read_dir(to).unwrap().count();
            std::fs::rename(&path, to.join(format!("{number}-{name}"))).unwrap();
            taken += 1;
        }
    }
    taken
}

#[test]
fn a_file_is_handed_over_once_wherever_the_run_is_ended() {
    for ends in [false, true] {
        for inside in [false, true] {
            for at in 0.. {
                let desk = desk();
                let to = if inside { desk.path("drop/taken") } else { desk.path("elsewhere") };
                std::fs::create_dir_all(&to).unwrap();
                let failing = Arc::new(Failing { passed: AtomicUsize::new(0), at, ends });
                let lifted = gate(&desk.path(""), failing.clone());
                let first = hand_over(&desk);
                drop(lifted);
                let is_past_all = failing.passed.load(Ordering::SeqCst) <= at;
                let mut taken = target_takes(&desk, &to);
                let second = hand_over(&desk).unwrap();
                taken += target_takes(&desk, &to);
                let third = hand_over(&desk).unwrap();
                taken += target_takes(&desk, &to);
                assert!(taken <= 1, "call {at}: it came there {taken} times: {first:?}, {second:?}");
                match (&second, &third) {
                    (Handed::Over { .. }, Handed::Over { .. }) => {
                        assert_eq!(taken, 1, "call {at}: {first:?}")
                    }
                    // Where the target took it before the run could say so, nobody knows; that is said each time.
                    (Handed::Unknown { .. }, Handed::Unknown { .. }) => {
                        assert!(!inside && stage(&batch(&desk)).unwrap() == Stage::Unknown, "call {at}");
                    }
                    other => panic!("call {at}: {other:?}"),
                }
                if is_past_all {
                    assert!(matches!(first, Ok(Handed::Over { .. })) && at > 5, "{at} calls: {first:?}");
                    break;
                }
            }
        }
    }
}

#[test]
fn what_happened_to_a_batch_is_only_ever_added_to() {
    let desk = desk();
    approve(&batch(&desk), DOER, "=read, over").unwrap();
    turn_down(&batch(&desk), DOER, "two\nlines").unwrap();
    approve(&batch(&desk), DOER, "").unwrap();
    assert!(approve(&batch(&desk), DOER, "").is_err(), "it is approved already");
    assert_eq!(stage(&batch(&desk)).unwrap(), Stage::Approved);
    let events = EventList::hold(&batch(&desk).path).unwrap();
    let says: Vec<&str> = events.events().iter().map(|event| event.says.as_str()).collect();
    assert_eq!(says, ["=read, over", "two\nlines", ""]);
    drop(events);
    // Two runs at once lose nothing.
    std::thread::scope(|scope| {
        for _ in 0..8 {
            scope.spawn(|| {
                let mut list = EventList::hold(&batch(&desk).path).unwrap();
                let event = list.events()[0].clone();
                list.add(event).unwrap();
            });
        }
    });
    assert_eq!(EventList::hold(&batch(&desk).path).unwrap().events().len(), 11);
}
