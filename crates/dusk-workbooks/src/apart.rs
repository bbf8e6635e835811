//! Workbooks read in a process of its own: the program itself, started again, with as much memory and time as a
//! workbook needs. What a file that is made to hurt does there ends that process and nothing else.
//!
//! The workbook is the process's standard input, as an open file; the rows go to its standard output, which is a file
//! as well; what it found, or why it refuses, comes from standard error as one line of JSON.

use std::fs::File;
use std::io::{self, Read as _, Write as _};
use std::process::{Command, ExitStatus, Stdio};
use std::sync::{Arc, OnceLock};

use serde::{Deserialize, Serialize};

use super::container::Container;
use super::formulas::{self, Formulas};
use super::{SheetChoice, WorkbookFacts, damaged, in_thread, limits, reader};
use dusk_evidence::{Refusal, plain_reason};

/// The memory that any workbook is given, in bytes.
const MEMORY: u64 = 384 << 20;

/// How many bytes of memory there are more for each of its file: texts are packed to a tenth.
const MEMORY_A_BYTE: u64 = 16;

/// How long any workbook may take, in seconds of work.
const SECONDS: u64 = 15;

/// How many bytes of a workbook's file are worth another second. Slow machines read ten times as many.
const BYTES_A_SECOND: u64 = 40_000;

/// The most that is taken as an answer, in bytes.
const LONGEST_ANSWER: u64 = 64 << 20;

/// Makes the command that starts the program again as one that answers [`serve`].
pub type Program = fn() -> io::Result<Command>;

static PROGRAM: OnceLock<Program> = OnceLock::new();

/// Has workbooks read in a process of its own from now on.
pub fn read_apart(program: Program) {
    // Whoever said so first is right.
    let _ = PROGRAM.set(program);
}

pub(super) fn program() -> Option<Program> {
    PROGRAM.get().copied()
}

/// What a process that reads a workbook may take.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Limits {
    /// Memory, in bytes.
    pub memory: u64,
    /// Time of work, in seconds.
    pub seconds: u64,
}

impl Limits {
    /// Those for a workbook.
    fn of(workbook: &File) -> Self {
        let bytes = workbook.metadata().map_or(0, |metadata| metadata.len());
        let memory = MEMORY.saturating_add(bytes.saturating_mul(MEMORY_A_BYTE));
        Self { memory, seconds: SECONDS + bytes / BYTES_A_SECOND }
    }
}

/// What is wanted of a workbook.
#[derive(Debug, Serialize, Deserialize)]
enum Wanted {
    Rows(Container, Option<SheetChoice>),
    Formulas(Container, String),
}

/// What came of it.
#[derive(Debug, Serialize, Deserialize)]
enum Answer {
    Rows(WorkbookFacts),
    Formulas(Vec<(u64, usize)>),
    Refused(String, String),
}

impl From<Refusal> for Answer {
    fn from(refusal: Refusal) -> Self {
        Self::Refused(refusal.says, refusal.hint)
    }
}

/// The rows of a sheet, written to `out`.
pub(super) fn rows(
    program: Program,
    file: &Arc<File>,
    out: &File,
    container: Container,
    sheet: Option<&SheetChoice>,
) -> Result<WorkbookFacts, Refusal> {
    match ask(program, file, Some(out), &Wanted::Rows(container, sheet.cloned()))? {
        Answer::Rows(facts) => Ok(facts),
        Answer::Refused(says, hint) => Err(Refusal::new(says, hint)),
        Answer::Formulas(_) => Err(damaged("its cells contradict one another")),
    }
}

/// Where formulas stand in a sheet.
pub(super) fn formulas(program: Program, file: &Arc<File>, container: Container, sheet: &str) -> Formulas {
    match ask(program, file, None, &Wanted::Formulas(container, sheet.to_owned())) {
        Ok(Answer::Formulas(places)) => places.into_iter().collect(),
        _ => Formulas::new(),
    }
}

fn ask(program: Program, file: &Arc<File>, out: Option<&File>, wanted: &Wanted) -> Result<Answer, Refusal> {
    let not_begun = |error: io::Error| {
        let says = format!("cannot be read, since the program cannot start itself: {}", plain_reason(&error));
        Refusal::new(says, "see that dusk is where it was when it was started, and run it again")
    };
    let run = || {
        let wanted = serde_json::to_string(wanted).map_err(io::Error::from)?;
        let out = out.map_or_else(|| Ok(Stdio::null()), |out| out.try_clone().map(Stdio::from))?;
        let mut command = program()?;
        command.arg(wanted).stdin(file.try_clone()?).stdout(out).stderr(Stdio::piped());
        let mut child = command.spawn()?;
        let mut answer = Vec::new();
        if let Some(said) = child.stderr.take() {
            said.take(LONGEST_ANSWER).read_to_end(&mut answer)?;
        }
        Ok((child.wait()?, answer))
    };
    let (status, answer) = run().map_err(not_begun)?;
    if !status.success() {
        return Err(why_ended(status, Limits::of(file)));
    }
    serde_json::from_slice(&answer).map_err(|_| damaged("its cells contradict one another"))
}

/// Why a process did not come to its end.
fn why_ended(status: ExitStatus, limits: Limits) -> Refusal {
    #[cfg(unix)]
    {
        // As POSIX numbers them wherever this runs.
        const ABORTED: i32 = 6;
        const KILLED: i32 = 9;
        const OUT_OF_TIME: i32 = 24;
        match std::os::unix::process::ExitStatusExt::signal(&status) {
            // A program that gets no memory ends itself.
            Some(ABORTED) => return limits::too_much_memory(),
            Some(OUT_OF_TIME | KILLED) => return limits::too_slow(limits.seconds),
            _ => {}
        }
    }
    let _ = (status, limits);
    damaged("reading it ends in the middle")
}

/// Answers what [`read_apart`] asks, in the process that was started for it: `wanted` is its last argument. `restrict`
/// holds the process to its limits before anything is read.
///
/// # Errors
/// What the system says; a file that cannot be read is an answer and no error.
pub fn serve(
    wanted: &str,
    (workbook, out): (File, File),
    restrict: impl FnOnce(Limits) -> io::Result<()>,
) -> io::Result<()> {
    let wanted: Wanted = serde_json::from_str(wanted).map_err(io::Error::from)?;
    restrict(Limits::of(&workbook))?;
    let workbook = Arc::new(workbook);
    let answer = match wanted {
        Wanted::Rows(container, sheet) => {
            let read = in_thread(|| reader::read(&workbook, &out, container, sheet.as_ref()));
            read.and_then(|read| read).map_or_else(Answer::from, Answer::Rows)
        }
        Wanted::Formulas(container, sheet) => {
            let found = in_thread(|| formulas::found(&workbook, container, &sheet));
            found.map_or_else(Answer::from, |found| Answer::Formulas(sorted(found)))
        }
    };
    let answer = serde_json::to_vec(&answer).map_err(io::Error::from)?;
    io::stderr().lock().write_all(&answer)
}

fn sorted(found: Formulas) -> Vec<(u64, usize)> {
    let mut places: Vec<_> = found.into_iter().collect();
    places.sort_unstable();
    places
}

#[cfg(test)]
mod tests {
    use std::io::Seek as _;

    use super::*;

    fn file_of(bytes: &[u8]) -> File {
        let mut file = tempfile::tempfile().unwrap();
        file.write_all(bytes).unwrap();
        file.rewind().unwrap();
        file
    }

    #[test]
    fn small_workbooks_have_little_time_and_large_ones_as_much_as_they_need() {
        let small = Limits::of(&file_of(b"PK"));
        assert_eq!(small, Limits { memory: MEMORY + 2 * MEMORY_A_BYTE, seconds: SECONDS });
        let large = file_of(b"");
        large.set_len(400_000_000).unwrap();
        assert_eq!(Limits::of(&large).seconds, SECONDS + 10_000);
    }

    #[test]
    fn nothing_is_read_before_the_process_is_held_to_its_limits() {
        let wanted = serde_json::to_string(&Wanted::Rows(Container::Xlsx, None)).unwrap();
        let refused = serve(&wanted, (file_of(b"PK"), file_of(b"")), |limits| {
            assert!(limits.memory >= MEMORY);
            Err(io::ErrorKind::Unsupported.into())
        });
        assert_eq!(refused.unwrap_err().kind(), io::ErrorKind::Unsupported);
        let nonsense = serve("{", (file_of(b""), file_of(b"")), |_| panic!("there is nothing to be held"));
        assert!(nonsense.is_err());
    }

    #[test]
    fn what_is_asked_and_answered_comes_through_as_it_was() {
        let sheet = SheetChoice::Name("Visits \"2026\"".into());
        for wanted in [
            Wanted::Rows(Container::Ods, Some(sheet)),
            Wanted::Rows(Container::Xls, Some(SheetChoice::Number(3))),
            Wanted::Formulas(Container::Xlsb, "S".into()),
        ] {
            let text = serde_json::to_string(&wanted).unwrap();
            let back: Wanted = serde_json::from_str(&text).unwrap();
            assert_eq!(format!("{back:?}"), format!("{wanted:?}"));
        }
        let facts = WorkbookFacts {
            format: "ods".into(),
            sheets: vec![("S".into(), true)],
            kinds: vec![("typed date".into(), 7)],
            hidden_rows: vec![(2, 3)],
            ..WorkbookFacts::default()
        };
        let text = serde_json::to_string(&Answer::Rows(facts.clone())).unwrap();
        let Answer::Rows(back) = serde_json::from_str(&text).unwrap() else { panic!("{text}") };
        assert_eq!(back, facts);
    }

    #[test]
    #[cfg(unix)]
    fn why_a_process_ended_is_told_by_its_signal() {
        use std::os::unix::process::ExitStatusExt as _;
        let limits = Limits { memory: 1, seconds: 15 };
        let says = |raw: i32| why_ended(ExitStatus::from_raw(raw), limits).says;
        assert!(says(6).contains("more memory"));
        assert!(says(24).contains("after 15 seconds") && says(9).contains("after 15 seconds"));
        assert!(says(1 << 8).contains("damaged") && says(11).contains("damaged"));
    }
}
