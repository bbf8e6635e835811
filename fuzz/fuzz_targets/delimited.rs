//! The delimited reader: any text in any dialect is read to its end, every byte of it in one row,
//! and any bytes at all are a source or a clear refusal.
#![no_main]

use std::io::Write as _;

use dusk_core::sources::{Dialect, Known, Rows, Source, SourceSettings};
use libfuzzer_sys::fuzz_target;

const DIALECTS: [(&str, &str, &str); 6] = [
    (",", "\"", ""),
    (";", "'", "\\"),
    ("<>", "^^", "^"),
    ("¦", "«", ""),
    ("a", "", ""),
    ("\u{1f}", "\u{1e}", ""),
];

fuzz_target!(|data: &[u8]| {
    let text = String::from_utf8_lossy(data);
    for (delimiter, quote, escape) in DIALECTS {
        let dialect = Dialect::new(delimiter, quote).escaped_by(escape);
        let mut rows = Rows::new(&text, &dialect);
        let (mut end, mut number) = (0, 0);
        while let Some(row) = rows.next() {
            number += 1;
            assert_eq!(row.row().0, number);
            let range = row.range();
            assert!(range.start >= end && range.end >= range.start && range.end <= text.len());
            assert!(
                text[end..range.start].chars().all(|c| matches!(c, '\r' | '\n')),
                "text between two rows"
            );
            assert!(row.cells().map(str::len).sum::<usize>() <= range.len());
            end = range.end;
        }
        assert!(text[end..].chars().all(|c| matches!(c, '\r' | '\n')), "text after the last row");
    }
    let mut file = tempfile::NamedTempFile::new().unwrap();
    file.write_all(data).unwrap();
    if let Ok(source) = Source::look(file.path(), &SourceSettings::default(), &Known::default()) {
        let _ =
            dusk_core::inspecting::inspect(&source, None, dusk_core::sources::Threads::default(), &|_, _| {});
    }
});
