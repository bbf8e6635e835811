//! How long the whole job takes, as a ratio against the same file merely decoded, parsed and
//! rewritten by the `csv` crate on one thread, in the same run.
//!
//! ```text
//! cargo bench -p dusk-button --bench whole_job              a million rows, five pairs of runs
//! cargo bench -p dusk-button --bench whole_job -- 100000 3  so many rows, so many pairs
//! ```

#![allow(
    clippy::print_stdout,
    clippy::float_arithmetic,
    clippy::unwrap_used,
    clippy::indexing_slicing,
    missing_docs
)]

#[path = "../src/demo/export.rs"]
mod export;

use std::fs::{self, File};
use std::io::{BufWriter, Read, Write};
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use encoding_rs::{Decoder, WINDOWS_1252};

const FILES: [(&str, &str); 6] = [
    ("target.toml", include_str!("../src/demo/data/target.toml")),
    ("mapping.toml", include_str!("../src/demo/data/mapping.toml")),
    ("codes/region.csv", include_str!("../src/demo/data/codes/region.csv")),
    ("codes/district.csv", include_str!("../src/demo/data/codes/district.csv")),
    ("codes/queen-colour.csv", include_str!("../src/demo/data/codes/queen-colour.csv")),
    ("codes/treatment.csv", include_str!("../src/demo/data/codes/treatment.csv")),
];

/// Decodes Windows-1252 as it is read.
struct Decoded<R> {
    inner: R,
    decoder: Decoder,
    raw: Vec<u8>,
    at: usize,
    end: usize,
}

impl<R: Read> Read for Decoded<R> {
    fn read(&mut self, out: &mut [u8]) -> std::io::Result<usize> {
        loop {
            if self.at == self.end {
                self.end = self.inner.read(&mut self.raw)?;
                self.at = 0;
                if self.end == 0 {
                    return Ok(0);
                }
            }
            let (_, read, written, _) = self.decoder.decode_to_utf8(&self.raw[self.at..self.end], out, false);
            self.at += read;
            if written > 0 {
                return Ok(written);
            }
        }
    }
}

fn merely_rewrite(source: &Path, copy: &Path) -> Duration {
    let began = Instant::now();
    let decoded = Decoded {
        inner: File::open(source).unwrap(),
        decoder: WINDOWS_1252.new_decoder(),
        raw: vec![0; 64 * 1024],
        at: 0,
        end: 0,
    };
    let mut reader = csv::ReaderBuilder::new()
        .has_headers(false)
        .flexible(true)
        .buffer_capacity(256 * 1024)
        .from_reader(decoded);
    let mut writer = csv::WriterBuilder::new()
        .flexible(true)
        .buffer_capacity(256 * 1024)
        .from_writer(File::create(copy).unwrap());
    let mut record = csv::ByteRecord::new();
    while reader.read_byte_record(&mut record).unwrap() {
        writer.write_byte_record(&record).unwrap();
    }
    writer.flush().unwrap();
    let elapsed = began.elapsed();
    // What it left in the disk's cache must not be written back at the next one's expense.
    writer.into_inner().unwrap().sync_all().unwrap();
    elapsed
}

/// Runs the built program; gives its wall time and the most memory it had, in kilobytes.
fn whole_job(folder: &Path, words: &[&str]) -> (Duration, u64) {
    let given = ["--quiet", "--today", "2026-04-30", "--set", "loaded_by=Bench"];
    run(folder, &[words, &given].concat())
}

fn run(folder: &Path, words: &[&str]) -> (Duration, u64) {
    let began = Instant::now();
    let mut child = Command::new(env!("CARGO_BIN_EXE_dusk"))
        .args(words)
        .current_dir(folder)
        .stdout(Stdio::null())
        .spawn()
        .unwrap();
    let status = format!("/proc/{}/status", child.id());
    let mut peak = 0;
    loop {
        if let Ok(text) = fs::read_to_string(&status) {
            let line = text.lines().find_map(|line| line.strip_prefix("VmHWM:"));
            peak = line.and_then(|line| line.trim().trim_end_matches(" kB").parse().ok()).unwrap_or(peak);
        }
        if let Some(exit) = child.try_wait().unwrap() {
            assert!(exit.code().is_some_and(|code| code < 2), "the program failed");
            return (began.elapsed(), peak);
        }
        std::thread::sleep(Duration::from_millis(5));
    }
}

fn median(mut values: Vec<f64>) -> f64 {
    values.sort_by(f64::total_cmp);
    values[values.len() / 2]
}

fn main() {
    let numbers: Vec<u64> = std::env::args().filter_map(|word| word.parse().ok()).collect();
    let rows = numbers.first().copied().unwrap_or(1_000_000);
    let pairs = numbers.get(1).copied().unwrap_or(5);
    let folder = tempfile::tempdir().unwrap();
    let folder = folder.path();
    fs::create_dir(folder.join("codes")).unwrap();
    for (name, text) in FILES {
        // The order is named, as it is in every month but the first.
        let text =
            text.replace("field = \"visit_date\"", "order = \"day-month-year\"\nfield = \"visit_date\"");
        fs::write(folder.join(name), text.replace("max_rows  = 500\n", "max_rows  = 5_000_000\n")).unwrap();
    }
    let source = folder.join("export.csv");
    let mut file = BufWriter::new(File::create(&source).unwrap());
    export::Export { rows, faulty: 20, habits: false, seed: 7, summer: false }.write(&mut file).unwrap();
    file.flush().unwrap();
    drop(file);
    let size = fs::metadata(&source).unwrap().len();
    println!("{rows} rows by 16 columns, {} MB, Windows-1252, 2 % of the rows faulty", size / 1_000_000);
    let (mut job_ratios, mut check_ratios, mut look_ratios) = (Vec::new(), Vec::new(), Vec::new());
    let (mut map_ratios, mut trial_ratios) = (Vec::new(), Vec::new());
    let (mut peaks, mut look_peaks) = (Vec::new(), Vec::new());
    for pair in 0..=pairs {
        let copy = merely_rewrite(&source, &folder.join("copy.csv"));
        let (job, peak) = whole_job(folder, &["conform", "export.csv", "-o", "batch"]);
        let (check, _) = whole_job(folder, &["check", "export.csv"]);
        let (look, look_peak) = run(folder, &["inspect", "export.csv", "-m", "mapping.toml", "--quiet"]);
        let (map, _) = run(folder, &["map", "export.csv", "-m", "new.toml", "--quiet"]);
        let (trial, _) = whole_job(folder, &["trial", "export.csv"]);
        fs::remove_dir_all(folder.join("batch")).unwrap();
        fs::remove_file(folder.join("new.toml")).unwrap();
        if pair == 0 {
            continue; // The first round only warms the caches.
        }
        let ratio = job.as_secs_f64() / copy.as_secs_f64();
        println!(
            "  csv crate {copy:>6.2?}   conform {job:>6.2?} = {ratio:.2}   check {check:>6.2?}   peak {} MB   inspect {look:>6.2?}   peak {} MB   map {map:>6.2?}   trial {trial:>6.2?}",
            peak / 1000,
            look_peak / 1000
        );
        look_ratios.push(look.as_secs_f64() / check.as_secs_f64());
        map_ratios.push(map.as_secs_f64() / check.as_secs_f64());
        trial_ratios.push(trial.as_secs_f64() / check.as_secs_f64());
        look_peaks.push(look_peak as f64 / 1000.0);
        job_ratios.push(ratio);
        check_ratios.push(check.as_secs_f64() / copy.as_secs_f64());
        peaks.push(peak as f64 / 1000.0);
    }
    println!(
        "median: conform {:.2}, check {:.2} times the csv crate; peak memory {:.0} MB",
        median(job_ratios),
        median(check_ratios),
        median(peaks)
    );
    println!(
        "median: inspect {:.2} (peak memory {:.0} MB), map {:.2}, trial {:.2} times check",
        median(look_ratios),
        median(look_peaks),
        median(map_ratios),
        median(trial_ratios)
    );
}
