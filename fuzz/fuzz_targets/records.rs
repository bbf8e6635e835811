//! Record files and fixed-width text: any bytes are rows in order or a clear refusal, and never a panic.
#![no_main]

use std::io::Write as _;

use dusk_core::sources::{Known, Position, RecordChoice, Source, SourceSettings};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| {
    // The first byte says how the rest is read.
    let Some((how, bytes)) = data.split_first() else { return };
    let mut file = tempfile::NamedTempFile::new().unwrap();
    file.write_all(bytes).unwrap();
    let each = (how & 1 == 1).then(|| "a.b".to_owned());
    let positions = if how & 2 == 2 { Position::read("1-3 No").into_iter().collect() } else { Vec::new() };
    let records = RecordChoice { each, ..RecordChoice::default() };
    let settings = SourceSettings { records, positions, ..SourceSettings::default() };
    let Ok(source) = Source::look(file.path(), &settings, &Known::default()) else { return };
    let mut last = 0;
    let mut walk = source.walk().unwrap();
    let is_whole = loop {
        let Ok(next) = walk.more() else { break false };
        let Some(mut rows) = next else { break true };
        while let Some(row) = rows.next() {
            assert!(row.row().0 > last);
            last = row.row().0;
        }
    };
    // What is written back is the record of its row.
    if let Some(mut records) = source.record_bytes().filter(|_| is_whole && source.holds_whole_records()) {
        let mut count = source.last_header_row();
        last = last.max(count);
        while let Ok(Some(_)) = records.next_record() {
            count += 1;
        }
        assert_eq!(count, last);
    }
});
