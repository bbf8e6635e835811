//! Delimited text of any make, opened without a word about how it was written: its table comes back as it was, or
//! it is asked for what is missing. It is never read as another one.

use std::fs;

use crate::desk::Desk;
use dusk_core::mapping;
use dusk_core::sources::{CellKind, Rows, Source};
use proptest::prelude::*;

const HEADER: [&str; 4] = ["Apiary No", "Date", "Queen", "Remarks"];

/// How a program wrote a table.
#[derive(Debug, Clone)]
struct Writing {
    delimiter: u8,
    always_quoted: bool,
    crlf: bool,
    encoding: usize,
    above: usize,
}

const ENCODINGS: [&str; 5] =
    ["utf-8", "utf-8 with a mark", "utf-16le with a mark", "utf-16be without", "windows-1252"];

fn writing() -> impl Strategy<Value = Writing> {
    let delimiter = prop::sample::select(vec![b',', b';', b'\t', b'|']);
    (delimiter, any::<bool>(), any::<bool>(), 0..ENCODINGS.len(), 0..3_usize).prop_map(
        |(delimiter, always_quoted, crlf, encoding, above)| Writing {
            delimiter,
            always_quoted,
            crlf,
            encoding,
            above,
        },
    )
}

impl Writing {
    fn write(&self, rows: &[Vec<String>]) -> Vec<u8> {
        let end = if self.crlf { "\r\n" } else { "\n" };
        let mut bytes = Vec::new();
        for line in 0..self.above {
            bytes.extend_from_slice(format!("Inspections, sheet {line}{end}").as_bytes());
        }
        let mut writer = csv::WriterBuilder::new()
            .delimiter(self.delimiter)
            .quote_style(if self.always_quoted {
                csv::QuoteStyle::Always
            } else {
                csv::QuoteStyle::Necessary
            })
            .terminator(if self.crlf { csv::Terminator::CRLF } else { csv::Terminator::Any(b'\n') })
            .from_writer(bytes);
        writer.write_record(HEADER).unwrap();
        rows.iter().for_each(|row| writer.write_record(row).unwrap());
        let text = String::from_utf8(writer.into_inner().unwrap()).unwrap();
        let units = |order: fn(u16) -> [u8; 2]| text.encode_utf16().flat_map(order).collect::<Vec<u8>>();
        match self.encoding {
            0 => text.into_bytes(),
            1 => [b"\xef\xbb\xbf", text.as_bytes()].concat(),
            2 => [vec![0xff, 0xfe], units(u16::to_le_bytes)].concat(),
            3 => units(u16::to_be_bytes),
            _ => encoding_rs::WINDOWS_1252.encode(&text).0.into_owned(),
        }
    }
}

/// The rows of a source below its header.
fn table(source: &Source) -> Vec<Vec<String>> {
    let (mut blocks, mut text, mut table) = (source.blocks().unwrap(), String::new(), Vec::new());
    while let Some(block) = blocks.next(std::mem::take(&mut text)).unwrap() {
        let mut rows = Rows::new(&block.text, &source.dialect);
        while let Some(row) = rows.next() {
            table.push(row.cells().map(|cell| CellKind::of(cell).1.to_owned()).collect());
        }
        text = block.text;
    }
    table
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(192))]

    #[test]
    fn a_table_is_read_as_it_was_or_asked_about(
        writing in writing(),
        rows in prop::collection::vec(
            ("[0-9]{1,5}", "[0-3][0-9]/0[1-9]/2026", "(white|yellow|blue|)", "[a-zé ,;|\t\"'\n.-]{0,16}"),
            1..24,
        ),
    ) {
        let rows: Vec<Vec<String>> = rows.into_iter().map(|(a, b, c, d)| vec![a, b, c, d]).collect();
        let fields = ["a", "b", "c", "d"].map(|name| format!("[[field]]\nname = \"{name}\"\ntype = \"text\"\n"));
        let maps = ["a", "b", "c", "d"].iter().zip(HEADER);
        let maps: String = maps.map(|(name, from)| format!("[[map]]\nfield = \"{name}\"\nfrom = \"{from}\"\n")).collect();
        let desk = Desk::new()
            .with("target.toml", format!("[target]\nname = \"T\"\n[upload]\n{}", fields.concat()))
            .with("mapping.toml", format!("target = \"target.toml\"\n{maps}"));
        fs::write(desk.path("export.csv"), writing.write(&rows)).unwrap();
        let (mapping, target) = mapping::read(&desk.path("mapping.toml")).unwrap();
        match Source::open(&desk.path("export.csv"), &mapping.source, &mapping.known(&target)) {
            Ok(source) => {
                let read = table(&source);
                // A word that another encoding would write otherwise has to be asked about, never guessed.
                prop_assert_eq!(&read, &rows, "{:?}, in {}", writing, ENCODINGS[writing.encoding]);
            }
            Err(error) => {
                // Only a one-byte encoding leaves several readings of what is not ASCII.
                let says = error.to_string();
                let open = ENCODINGS[writing.encoding] == "windows-1252" && rows.iter().flatten().any(|cell| !cell.is_ascii());
                prop_assert!(open && says.contains("encoding"), "{says}\n{writing:?}");
            }
        }
    }
}
