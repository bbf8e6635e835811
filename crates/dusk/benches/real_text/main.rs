//! How long the whole job takes on real text, where nearly every value of half of the columns is new, as a ratio
//! against the same file merely decoded, parsed and rewritten by the `csv` crate on one thread, in the same run.
//!
//! ```text
//! cargo bench -p dusk-button --bench real_text               a million rows, five pairs of runs
//! cargo bench -p dusk-button --bench real_text -- 10000000 1 so many rows, so many pairs
//! cargo bench -p dusk-button --bench real_text -- 100000 0 to FOLDER   only makes the files
//! ```

#![allow(
    clippy::print_stdout,
    clippy::float_arithmetic,
    clippy::unwrap_used,
    clippy::indexing_slicing,
    missing_docs
)]

mod archive;
#[path = "../measure/mod.rs"]
mod measure;

use std::fs;
use std::path::PathBuf;

const FILES: [(&str, &str); 4] = [
    ("target.toml", include_str!("target.toml")),
    ("mapping.toml", include_str!("mapping.toml")),
    ("codes/kind.csv", include_str!("kind.csv")),
    ("codes/language.csv", include_str!("language.csv")),
];

fn main() {
    let (rows, pairs) = measure::wanted(1_000_000, 5);
    let temporary = tempfile::tempdir().unwrap();
    let folder = match std::env::args().skip_while(|word| word != "to").nth(1) {
        Some(folder) => PathBuf::from(folder),
        None => temporary.path().to_path_buf(),
    };
    fs::create_dir_all(folder.join("codes")).unwrap();
    for (name, text) in FILES {
        fs::write(folder.join(name), text).unwrap();
    }
    let source = folder.join("export.csv");
    archive::write(&source, rows);
    let size = fs::metadata(&source).unwrap().len();
    println!("{rows} rows by 16 columns, {} MB, Windows-1252, 2 % of the rows faulty", size / 1_000_000);
    if pairs > 0 {
        measure::compare(&folder, pairs, &["--today", "2026-04-30"]);
    }
}
