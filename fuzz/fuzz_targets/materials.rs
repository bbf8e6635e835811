//! What a target's owner supplies: any file is a draft or a clear refusal.
#![no_main]

use dusk_core::drafting::{DraftOptions, draft};
use dusk_fuzz::let_the_reader_panic;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| {
    let_the_reader_panic();
    let folder = tempfile::tempdir().unwrap();
    for name in ["dictionary.csv", "dictionary.xlsx", "metadata.json"] {
        let path = folder.path().join(name);
        std::fs::write(&path, data).unwrap();
        let _ = draft(&[path], &DraftOptions::default());
    }
});
