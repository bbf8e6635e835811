//! What the benches share: the mere copy that everything is compared with, a run of the built program, and the
//! table of ratios.

use std::fs::{self, File};
use std::io::Read;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use encoding_rs::{Decoder, WINDOWS_1252};

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

/// Decodes, parses and rewrites a file with the `csv` crate on one thread.
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

/// What a run of the program took.
struct Took {
    wall: Duration,
    /// Processor time of all threads, as the system counts it.
    processor: Duration,
    /// The most memory that it had, in kilobytes.
    peak: u64,
}

/// Runs the built program in a folder.
fn run(folder: &Path, words: &[&str]) -> Took {
    let began = Instant::now();
    let mut child = Command::new(env!("CARGO_BIN_EXE_dusk"))
        .args(words)
        .current_dir(folder)
        .stdout(Stdio::null())
        .spawn()
        .unwrap();
    let about = format!("/proc/{}", child.id());
    let (mut peak, mut ticks) = (0, 0);
    loop {
        if let Ok(text) = fs::read_to_string(format!("{about}/status")) {
            let line = text.lines().find_map(|line| line.strip_prefix("VmHWM:"));
            peak = line.and_then(|line| line.trim().trim_end_matches(" kB").parse().ok()).unwrap_or(peak);
        }
        if let Ok(text) = fs::read_to_string(format!("{about}/stat")) {
            let behind_name = text.rsplit(") ").next().unwrap_or_default();
            ticks = behind_name.split(' ').skip(11).take(2).filter_map(|word| word.parse::<u64>().ok()).sum();
        }
        if let Some(exit) = child.try_wait().unwrap() {
            assert!(exit.code().is_some_and(|code| code < 2), "failed: dusk {}", words.join(" "));
            // A tick is a hundredth of a second wherever /proc is.
            return Took { wall: began.elapsed(), processor: Duration::from_millis(ticks * 10), peak };
        }
        std::thread::sleep(Duration::from_millis(15));
    }
}

/// The median, the least and the most.
fn spread(mut values: Vec<f64>) -> (f64, f64, f64) {
    values.sort_by(f64::total_cmp);
    (values[values.len() / 2], values[0], values[values.len() - 1])
}

/// Rows and pairs of runs, as given on the command line or as usual.
pub(crate) fn wanted(rows: u64, pairs: u64) -> (u64, u64) {
    let numbers: Vec<u64> = std::env::args().filter_map(|word| word.parse().ok()).collect();
    (numbers.first().copied().unwrap_or(rows), numbers.get(1).copied().unwrap_or(pairs))
}

/// Runs the whole job, and its commands one by one, as many times as there are pairs, and prints each as a ratio
/// to the mere copy. `export.csv` and `mapping.toml` are in the folder; `given` goes to the commands that run the
/// job.
pub(crate) fn compare(folder: &Path, pairs: u64, given: &[&str]) {
    let source = folder.join("export.csv");
    let commands: [(&str, Vec<&str>); 5] = [
        (
            "conform",
            [&["conform", "export.csv", "-o", "batch", "-m", "mapping.toml", "--quiet"], given].concat(),
        ),
        ("check", [&["check", "export.csv", "-m", "mapping.toml", "--quiet"], given].concat()),
        ("inspect", vec!["inspect", "export.csv", "-m", "mapping.toml", "--quiet"]),
        ("map", vec!["map", "export.csv", "-m", "new.toml", "--quiet"]),
        ("trial", [&["trial", "export.csv", "-m", "mapping.toml", "--quiet"], given].concat()),
    ];
    let mut ratios: Vec<Vec<(f64, f64, u64)>> = vec![Vec::new(); commands.len()];
    for pair in 0..=pairs {
        let copy = merely_rewrite(&source, &folder.join("copy.csv"));
        let took: Vec<Took> = commands
            .iter()
            .map(|(_, words)| {
                let took = run(folder, words);
                // Each begins as in the first month: what an earlier batch has to say is not measured here.
                ["batch", "batches"].iter().for_each(|made| drop(fs::remove_dir_all(folder.join(made))));
                took
            })
            .collect();
        fs::remove_file(folder.join("new.toml")).unwrap();
        if pair == 0 {
            continue; // The first round only warms the caches.
        }
        print!("  csv crate {copy:.2?}");
        for (((name, _), took), ratios) in commands.iter().zip(&took).zip(&mut ratios) {
            print!("   {name} {:.2?}", took.wall);
            let to_copy = |time: Duration| time.as_secs_f64() / copy.as_secs_f64();
            ratios.push((to_copy(took.wall), to_copy(took.processor), took.peak));
        }
        println!();
    }
    println!("times the csv crate: median (least to most), processor time, peak memory");
    for ((name, _), ratios) in commands.iter().zip(ratios) {
        let (median, least, most) = spread(ratios.iter().map(|(wall, ..)| *wall).collect());
        let (processor, ..) = spread(ratios.iter().map(|(_, processor, _)| *processor).collect());
        let peak = ratios.iter().map(|(.., peak)| peak / 1000).max().unwrap_or(0);
        println!("  {name:8} {median:.2} ({least:.2} to {most:.2})   {processor:.2}   {peak} MB");
    }
}
