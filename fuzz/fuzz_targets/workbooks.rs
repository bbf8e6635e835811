//! Workbooks of every kind: any bytes are rows of a sheet or a clear refusal, in bounded memory.
#![no_main]

use std::io::Write as _;

use dusk_core::sources::{Known, SheetChoice, Source, SourceSettings};
use dusk_fuzz::let_the_reader_panic;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| {
    let_the_reader_panic();
    let mut file = tempfile::NamedTempFile::new().unwrap();
    file.write_all(data).unwrap();
    let settings = SourceSettings {
        sheet: Some(SheetChoice::Number(1)),
        header_row: Some(1),
        ..SourceSettings::default()
    };
    let Ok(source) = Source::look(file.path(), &settings, &Known::default()) else { return };
    let mut last = 0;
    let mut walk = source.walk().unwrap();
    while let Ok(Some(mut rows)) = walk.more() {
        while let Some(row) = rows.next() {
            assert!(row.row().0 > last && row.row().0 <= 1_048_576);
            last = row.row().0;
        }
    }
    drop(walk);
    let _ = source.formulas();
});
