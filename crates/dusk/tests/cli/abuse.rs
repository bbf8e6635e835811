//! The program is killed, raced and fed with mangled files, again and again: nothing is lost, nothing panics, and
//! nothing takes more than its share. `DUSK_TRIES=500` says how often; docs/reliability.md has the figures.

use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use dusk_core::run::{Since, past_batches};

use crate::desk::{Desk, MAPPING, QUEEN, TARGET};
use crate::workbooks::{ods, ods_row};

/// How often something is tried: `usual` in every test run, more where that is asked for.
pub(crate) fn tries(usual: usize) -> usize {
    let asked = std::env::var("DUSK_TRIES").ok().and_then(|tries| tries.parse::<usize>().ok());
    asked.unwrap_or(usual)
}

/// Numbers that look thrown and are the same in every run.
struct Thrown(u64);

impl Thrown {
    fn below(&mut self, most: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        usize::try_from(self.0 >> 33).unwrap() % most.max(1)
    }

    fn one_of<'t, T>(&mut self, all: &'t [T]) -> &'t T {
        &all[self.below(all.len())]
    }
}

/// How many batches are in a folder; all of them are whole.
fn whole_batches(folder: &Path) -> usize {
    let batches = past_batches(folder).unwrap();
    for batch in &batches {
        batch.receipt.as_ref().unwrap();
        assert!(batch.outputs().iter().all(|(_, since)| *since == Since::Unchanged), "{:?}", batch.path);
    }
    batches.len()
}

#[test]
fn a_run_that_is_killed_leaves_whole_batches_and_a_clear_place() {
    let rows: String =
        (0..400).map(|number| format!("{},{}/04/2026,white,4.5\n", 100 + number, 1 + number % 32)).collect();
    let desk = Desk::new().with("export.csv", &format!("No,Date,Queen,Honey\n{rows}"));
    let batches = desk.path("batches");
    let export = desk.read("export.csv");
    let (mut thrown, mut killed) = (Thrown(7), 0);
    let begun = Instant::now();
    let words = ["conform", "export.csv", "--again", "--today", "2026-04-30"];
    desk.run(&words).ended(1);
    let whole = begun.elapsed();
    let tries = tries(20);
    for _ in 0..tries {
        let mut child = desk.command(&words).stdout(Stdio::null()).stderr(Stdio::null()).spawn().unwrap();
        let share = u32::try_from(thrown.below(130)).unwrap();
        std::thread::sleep(whole * share / 100);
        child.kill().unwrap();
        killed += usize::from(child.wait().unwrap().code().is_none());
        assert_eq!(desk.read("export.csv"), export);
        let made = whole_batches(&batches);
        let aside = whole_batches(&batches.join("replaced"));
        assert_eq!(made, 1, "there is a batch at every moment");
        // What was left is swept, and no batch with it.
        desk.run(&["batches"]).ended(0);
        assert_eq!(whole_batches(&batches), 1);
        assert!(whole_batches(&batches.join("replaced")) >= aside);
        let left: Vec<String> =
            desk.names("batches").into_iter().filter(|name| name.starts_with('.')).collect();
        assert!(left.iter().all(|name| desk.names(&format!("batches/{name}")).is_empty()), "{left:?}");
    }
    println!("{tries} runs, {killed} of them killed: a whole batch after each");
}

#[test]
fn two_writers_at_the_same_moment_lose_nothing() {
    let desk = Desk::new();
    let pairs = tries(10);
    for pair in 0..pairs {
        let values = [format!("left-{pair}"), format!("right-{pair}")];
        let spawn = |value: &String| {
            let mut command = desk.command(&["crosswalk", "add", "queen", value, "Y"]);
            command.stdout(Stdio::null()).stderr(Stdio::piped()).spawn().unwrap()
        };
        for child in values.each_ref().map(spawn) {
            let done = child.wait_with_output().unwrap();
            assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
        }
    }
    let kept = desk.read("crosswalks/queen.csv");
    assert_eq!(kept.lines().count(), 1 + 2 * pairs);
    println!("{pairs} pairs of writers: {} of {} lines are there", kept.lines().count() - 1, 2 * pairs);
}

/// Bytes with something done to them.
fn mangled(bytes: &[u8], thrown: &mut Thrown) -> Vec<u8> {
    let mut bytes = bytes.to_vec();
    for _ in 0..*thrown.one_of(&[1, 1, 2, 6]) {
        if bytes.is_empty() {
            break;
        }
        let at = thrown.below(bytes.len());
        let until = (at + *thrown.one_of(&[1, 4, 40, 400])).min(bytes.len());
        match thrown.below(7) {
            0 => bytes[at] = u8::try_from(thrown.below(256)).unwrap(),
            1 => bytes[at] ^= 1 << thrown.below(8),
            2 => bytes[at..until].fill(*thrown.one_of(&[0, 0x20, 0x22, 0x7f, 0xff])),
            3 => drop(bytes.drain(at..until)),
            4 => {
                let copy = bytes[at..until].to_vec();
                let to = thrown.below(bytes.len());
                bytes.splice(to..to, copy);
            }
            5 => bytes.truncate(at),
            _ => {
                let what: &[&[u8]] =
                    &[b"\"", b"\r\n", b"[", b"99999999999999999999", b"\xef\xbb\xbf", b"= \"", b"\0", b"../"];
                let text = *thrown.one_of(what);
                bytes.splice(at..at, text.iter().copied());
            }
        }
    }
    bytes
}

/// A packed workbook with something done to one of its parts.
fn mangled_part(book: &[u8], thrown: &mut Thrown) -> Vec<u8> {
    let mut archive = zip::ZipArchive::new(std::io::Cursor::new(book)).unwrap();
    let chosen = thrown.below(archive.len());
    let mut parts = Vec::new();
    for place in 0..archive.len() {
        let mut part = archive.by_index(place).unwrap();
        let (name, mut bytes) = (part.name().unwrap().into_owned(), Vec::new());
        std::io::copy(&mut part, &mut bytes).unwrap();
        if place == chosen {
            bytes = mangled(&bytes, thrown);
        }
        parts.push((name, bytes));
    }
    let parts: Vec<(&str, &[u8])> =
        parts.iter().map(|(name, bytes)| (name.as_str(), bytes.as_slice())).collect();
    crate::workbooks::packed(&parts)
}

/// Runs a command with half a gigabyte of memory at the most, which is what no file may take.
fn within_limits(desk: &Desk, words: &[&str]) -> std::process::Output {
    let program = env!("CARGO_BIN_EXE_dusk");
    let mut command = Command::new("/bin/sh");
    let script = "ulimit -d 524288; exec \"$0\" \"$@\"";
    command.args(["-c", script, program]).args(words).current_dir(desk.path("."));
    command.stdin(Stdio::null()).output().unwrap()
}

#[test]
#[cfg(target_os = "linux")]
fn mangled_files_of_every_kind_are_read_or_refused() {
    let rows = [
        ods_row(&["No", "Date", "Queen", "Honey"]),
        ods_row(&["117", "date=2026-04-13", "white", "number=10.5"]),
    ];
    let desk = Desk::new()
        .with_bytes("visits.xls", include_bytes!("visits.xls"))
        .with_bytes("visits.xlsb", &crate::workbooks::xlsb())
        .with_bytes("visits.ods", &ods(&rows.concat()));
    desk.run(&["conform", "export.csv", "-o", "batches/a", "--today", "2026-04-30"]).ended(1);
    desk.run(&["crosswalk", "add", "queen", "yel.", "Y"]).ended(0);
    desk.run(&["correct", "export.csv", "2", "Honey", "7"]).ended(0);
    let rejects = desk.read_bytes("batches/a/rejects.xlsx");
    let desk = desk.with_bytes("rejects.xlsx", &rejects).with_bytes("visits.xlsx", &rejects);
    let list = desk.read("batches/a/rejects.csv");
    let desk = desk
        .with("rejects.csv", &list)
        .with("dictionary.csv", "Field,Type,Codes\nqueen,code,\"W = White, Y = Yellow\"\n");
    let kinds: &[(&str, &[&str])] = &[
        ("export.csv", &["check", "export.csv"]),
        ("export.csv", &["inspect", "export.csv"]),
        ("visits.xls", &["check", "visits.xls"]),
        ("visits.xlsb", &["inspect", "visits.xlsb"]),
        ("visits.xlsx", &["inspect", "visits.xlsx", "--sheet", "1"]),
        ("visits.ods", &["check", "visits.ods"]),
        ("rejects.xlsx", &["correct", "rejects.xlsx"]),
        ("rejects.csv", &["correct", "rejects.csv"]),
        ("mapping.toml", &["check", "export.csv"]),
        ("target.toml", &["target", "check"]),
        ("codes/queen.csv", &["target", "show", "queen"]),
        ("crosswalks/queen.csv", &["crosswalk", "list"]),
        ("corrections/export.csv", &["correct", "export.csv"]),
        ("batches/a/receipt.json", &["batches"]),
        ("batches/a/memory.json", &["check", "export.csv"]),
        ("batches/a/records.bin", &["check", "export.csv"]),
        ("dictionary.csv", &["target", "draft", "dictionary.csv", "-o", "draft/target.toml"]),
        ("rejects.xlsx", &["target", "draft", "rejects.xlsx", "-o", "draft/target.toml"]),
    ];
    let tries = 4 * tries(30);
    let (mut thrown, mut refused, mut longest) = (Thrown(11), 0, Duration::ZERO);
    for number in 0..tries {
        let (name, words) = kinds[number % kinds.len()];
        let whole = desk.read_bytes(name);
        let is_packed = whole.starts_with(b"PK") && thrown.below(4) > 0;
        let bytes = if is_packed { mangled_part(&whole, &mut thrown) } else { mangled(&whole, &mut thrown) };
        std::fs::write(desk.path(name), &bytes).unwrap();
        let begun = Instant::now();
        let done = within_limits(&desk, words);
        let (took, says) = (begun.elapsed(), String::from_utf8_lossy(&done.stderr).into_owned());
        std::fs::write(desk.path(name), &whole).unwrap();
        let harmless =
            done.status.code().is_some_and(|code| (0..=2).contains(&code)) && !says.contains("panicked");
        if !harmless || took > Duration::from_secs(20) {
            let kept = std::env::temp_dir().join(format!("mangled-{number}"));
            std::fs::write(&kept, &bytes).unwrap();
            panic!("{words:?}, {name} kept as {}: {took:?}, {}\n{says}", kept.display(), done.status);
        }
        refused += usize::from(done.status.code() == Some(2));
        longest = longest.max(took);
        let _ = std::fs::remove_dir_all(desk.path("draft"));
    }
    assert_eq!(desk.read("target.toml"), TARGET);
    assert_eq!(
        (desk.read("mapping.toml"), desk.read("codes/queen.csv")),
        (MAPPING.to_owned(), QUEEN.to_owned())
    );
    println!("{tries} mangled files: {refused} refused, the others read; {longest:?} at the longest");
}
