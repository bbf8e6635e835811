//! How long the whole job takes on the demo's export, as a ratio against the same file merely decoded, parsed and
//! rewritten by the `csv` crate on one thread, in the same run. Nearly all of its values repeat.
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
mod measure;

use std::fs::{self, File};
use std::io::{BufWriter, Write};

const FILES: [(&str, &str); 6] = [
    ("target.toml", include_str!("../src/demo/data/target.toml")),
    ("mapping.toml", include_str!("../src/demo/data/mapping.toml")),
    ("codes/region.csv", include_str!("../src/demo/data/codes/region.csv")),
    ("codes/district.csv", include_str!("../src/demo/data/codes/district.csv")),
    ("codes/queen-colour.csv", include_str!("../src/demo/data/codes/queen-colour.csv")),
    ("codes/treatment.csv", include_str!("../src/demo/data/codes/treatment.csv")),
];

fn main() {
    let (rows, pairs) = measure::wanted(1_000_000, 5);
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
    measure::compare(folder, pairs, &["--today", "2026-04-30", "--set", "loaded_by=Bench"]);
}
