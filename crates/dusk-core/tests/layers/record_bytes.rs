//! Bibliographic records as they stand, beside the rows that they make.

use std::io::Write as _;

use dusk_core::sources::{Known, Source, SourceSettings};
use proptest::prelude::*;

/// How many rows a file makes, and how many records are found in it when they are written back; nothing where it is no
/// file of records.
fn rows_and_records(bytes: &[u8]) -> Option<(u64, u64)> {
    let mut file = tempfile::NamedTempFile::new().unwrap();
    file.write_all(bytes).unwrap();
    let source = Source::look(file.path(), &SourceSettings::default(), &Known::default()).ok()?;
    if !source.holds_whole_records() {
        return None;
    }
    let mut last = source.last_header_row();
    let mut walk = source.walk().unwrap();
    while let Some(mut rows) = walk.more().unwrap() {
        while let Some(row) = rows.next() {
            last = row.row().0;
        }
    }
    let mut records = source.record_bytes().unwrap();
    let mut count = source.last_header_row();
    while records.next_record().unwrap().is_some() {
        count += 1;
    }
    Some((last, count))
}

/// A record in binary form, with a title.
fn binary(number: usize, title: &str) -> Vec<u8> {
    let fields = [("001", number.to_string()), ("245", format!("10\u{1f}a{title}"))];
    let (mut directory, mut data) = (String::new(), Vec::new());
    for (tag, text) in &fields {
        directory.push_str(&format!("{tag}{:04}{:05}", text.len() + 1, data.len()));
        data.extend_from_slice(text.as_bytes());
        data.push(0x1e);
    }
    let base = 25 + directory.len();
    let mut all =
        format!("{:05}nam a22{base:05} a 4500{directory}\u{1e}", base + data.len() + 1).into_bytes();
    all.append(&mut data);
    all.push(0x1d);
    all
}

fn lines(number: usize, title: &str, gap: usize) -> Vec<u8> {
    format!("=LDR  00000nam a2200000 a 4500\n=001  {number}\n=245  10$a{title}\n{}", "\n".repeat(gap))
        .into_bytes()
}

#[test]
fn damage_blank_lines_and_line_ends_between_records_move_none() {
    let mut damaged = binary(2, "Wasps");
    damaged[30] = b'x';
    let file = [binary(1, "Bees"), b"\r\n".to_vec(), damaged, binary(3, "Hornets")].concat();
    assert_eq!(rows_and_records(&file), Some((3, 3)));
    let cut = &file[..file.len() - 5];
    assert_eq!(rows_and_records(cut), Some((3, 3)), "the last one is damaged, and a row all the same");
    // What is wrong far down does not make another kind of file of it.
    let many: Vec<u8> = (0..20).flat_map(|number| lines(number, "Bees", 2)).collect();
    let text = [&many[..], b" \n", &lines(21, "Wasps", 1), b"what is this\n\n", &lines(22, "x", 0)].concat();
    assert_eq!(rows_and_records(&text), Some((23, 23)));
    let indented = [&many[..], b"  =001  7\n\n", &lines(22, "x", 1)].concat();
    assert_eq!(rows_and_records(&indented), Some((22, 22)));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 192, failure_persistence: None, ..ProptestConfig::default() })]

    /// Whatever happened to a file, each row is the record that stands at its place.
    #[test]
    fn each_row_is_the_record_at_its_place(
        titles in prop::collection::vec("[a-zÖ ]{0,8}", 1..6),
        in_lines in any::<bool>(),
        gap in 1..3_usize,
        edits in prop::collection::vec((any::<prop::sample::Index>(), prop::sample::select(b"\n\r \x1d\x1e\x1f=$a0\\".to_vec())), 0..6),
    ) {
        let records = titles.iter().enumerate();
        let mut bytes: Vec<u8> = match in_lines {
            true => records.flat_map(|(number, title)| lines(number, title, gap)).collect(),
            false => records.flat_map(|(number, title)| binary(number, title)).collect(),
        };
        let whole = rows_and_records(&bytes);
        prop_assert_eq!(whole, Some((titles.len() as u64, titles.len() as u64)));
        for (at, byte) in edits {
            let at = at.index(bytes.len());
            bytes[at] = byte;
        }
        if let Some((rows, records)) = rows_and_records(&bytes) {
            prop_assert_eq!(rows, records, "{:?}", String::from_utf8_lossy(&bytes));
        }
    }
}
