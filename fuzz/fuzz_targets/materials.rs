//! What a target's owner supplies: any file is a draft or a clear refusal.
#![no_main]

use dusk_core::drafting::{DraftOptions, draft};
use libfuzzer_sys::fuzz_target;

/// A library that reads workbooks may panic in a thread of its own, which the program takes for a damaged file.
fn let_the_reader_panic() {
    static ONCE: std::sync::Once = std::sync::Once::new();
    ONCE.call_once(|| {
        let abort = std::panic::take_hook();
        std::panic::set_hook(Box::new(move |panic| {
            if std::thread::current().name() != Some(dusk_core::sources::READING_THREAD) {
                abort(panic);
            }
        }));
    });
}

fuzz_target!(|data: &[u8]| {
    let_the_reader_panic();
    let folder = tempfile::tempdir().unwrap();
    for name in ["dictionary.csv", "dictionary.xlsx", "metadata.json"] {
        let path = folder.path().join(name);
        std::fs::write(&path, data).unwrap();
        let _ = draft(&[path], &DraftOptions::default());
    }
});
