//! How long a workbook takes to be inspected and checked, as a ratio against merely reading every
//! cell of the same sheet with `calamine` on one thread, in the same run.
//!
//! ```text
//! cargo bench -p dusk-button --bench workbook              a hundred thousand rows, five pairs of runs
//! cargo bench -p dusk-button --bench workbook -- 20000 3   so many rows, so many pairs
//! ```

#![allow(
    clippy::print_stdout,
    clippy::float_arithmetic,
    clippy::unwrap_used,
    clippy::indexing_slicing,
    missing_docs
)]

use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use calamine::{Data, Reader, Xlsx, open_workbook};
use rust_xlsxwriter::{ExcelDateTime, Format, Workbook};

const TARGET: &str = "[target]\nname = \"T\"\n[upload]\nfile_name = \"up.csv\"\n[[field]]\nname = \"id\"\ntype = \"integer\"\n[[field]]\nname = \"day\"\ntype = \"date\"\n[[field]]\nname = \"town\"\ntype = \"text\"\n[[field]]\nname = \"weight\"\ntype = \"decimal\"\ndecimals = 2\n";
const MAPPING: &str = "target = \"target.toml\"\n[[map]]\nfield = \"id\"\nfrom = \"Column 0\"\n[[map]]\nfield = \"day\"\nfrom = \"Column 1\"\n[[map]]\nfield = \"town\"\nfrom = \"Column 2\"\n[[map]]\nfield = \"weight\"\nfrom = \"Column 3\"\n";

fn make(path: &Path, rows: u32) {
    let mut book = Workbook::new();
    let sheet = book.add_worksheet();
    let days = Format::new().set_num_format("yyyy-mm-dd");
    for column in 0..12 {
        sheet.write(0, column, format!("Column {column}")).unwrap();
    }
    for row in 1..=rows {
        for column in 0..12 {
            match column % 4 {
                0 => sheet.write(row, column, row).unwrap(),
                1 => {
                    let day = ExcelDateTime::from_serial_datetime(f64::from(45_000 + row % 900)).unwrap();
                    sheet.write_datetime_with_format(row, column, &day, &days).unwrap()
                }
                2 => sheet.write(row, column, ["Merrow", "Öst Quay", "Larkmoor"][row as usize % 3]).unwrap(),
                _ => sheet.write(row, column, f64::from(row % 5_000) / 100.0).unwrap(),
            };
        }
    }
    book.save(path).unwrap();
}

fn merely_read(path: &Path) -> Duration {
    let began = Instant::now();
    let mut book: Xlsx<_> = open_workbook(path).unwrap();
    let name = book.sheet_names()[0].clone();
    let range = book.worksheet_range(&name).unwrap();
    let filled = range.used_cells().filter(|(_, _, value)| **value != Data::Empty).count();
    assert!(filled > 0);
    began.elapsed()
}

fn program(folder: &Path, words: &[&str]) -> Duration {
    let began = Instant::now();
    let status = Command::new(env!("CARGO_BIN_EXE_dusk"))
        .args(words)
        .current_dir(folder)
        .stdout(Stdio::null())
        .status()
        .unwrap();
    assert!(status.code().is_some_and(|code| code < 2), "the program failed");
    began.elapsed()
}

fn median(mut values: Vec<f64>) -> f64 {
    values.sort_by(f64::total_cmp);
    values[values.len() / 2]
}

fn main() {
    let numbers: Vec<u32> = std::env::args().filter_map(|word| word.parse().ok()).collect();
    let rows = numbers.first().copied().unwrap_or(100_000);
    let pairs = numbers.get(1).copied().unwrap_or(5);
    let folder = tempfile::tempdir().unwrap();
    let folder = folder.path();
    std::fs::write(folder.join("target.toml"), TARGET).unwrap();
    std::fs::write(folder.join("mapping.toml"), MAPPING).unwrap();
    let book = folder.join("book.xlsx");
    make(&book, rows);
    println!("{rows} rows by 12 columns, {} MB", std::fs::metadata(&book).unwrap().len() / 1_000_000);
    let (mut looks, mut checks) = (Vec::new(), Vec::new());
    for pair in 0..=pairs {
        let read = merely_read(&book);
        let look = program(folder, &["inspect", "book.xlsx", "--quiet"]);
        let check = program(folder, &["check", "book.xlsx", "--quiet"]);
        if pair == 0 {
            continue; // The first round only warms the caches.
        }
        println!("  calamine {read:>6.2?}   inspect {look:>6.2?}   check {check:>6.2?}");
        looks.push(look.as_secs_f64() / read.as_secs_f64());
        checks.push(check.as_secs_f64() / read.as_secs_f64());
    }
    println!(
        "median: inspect {:.2}, check {:.2} times calamine reading every cell",
        median(looks),
        median(checks)
    );
}
