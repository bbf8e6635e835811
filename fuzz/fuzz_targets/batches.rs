//! What a batch keeps for later: its receipt, what it remembers, and by what it knows its records.
#![no_main]

use dusk_core::run::past_batches;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| {
    let folder = tempfile::tempdir().unwrap();
    let batch = folder.path().join("a");
    std::fs::create_dir(&batch).unwrap();
    for name in ["receipt.json", "memory.json", "records.bin"] {
        std::fs::write(batch.join(name), data).unwrap();
    }
    for batch in past_batches(folder.path()).unwrap() {
        let _ = (batch.outputs(), batch.known_records());
    }
});
