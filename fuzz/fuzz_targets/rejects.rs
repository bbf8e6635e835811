//! Rejected rows that come back: any bytes are rows to be compared, or refused.
#![no_main]

use dusk_core::rejects::read_back;
use dusk_fuzz::let_the_reader_panic;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| {
    let_the_reader_panic();
    let folder = tempfile::tempdir().unwrap();
    for name in ["rejects.csv", "rejects.xlsx"] {
        let path = folder.path().join(name);
        std::fs::write(&path, data).unwrap();
        if let Ok(back) = read_back(&path) {
            assert!(back.rows.iter().all(|row| row.cells.len() == back.columns.len()));
        }
    }
});
