//! `rows.csv` and the totals of a batch, held against the upload files themselves.

use std::collections::BTreeMap;

use crate::desk::Desk;
use dusk_core::run::{Job, PastBatch, Receipt};
use dusk_core::sources::Threads;
use proptest::prelude::*;

const TARGET: &str = "[target]\nname = \"Wells\"\n[upload]\nfile_name = \"up-{part}.csv\"\nmax_rows = 3\n{upload}\n\
[[field]]\nname = \"well\"\ntype = \"text\"\nkey = true\n[[field]]\nname = \"depth\"\ntype = \"decimal\"\ndecimals = 1\n\
[[field]]\nname = \"note\"\ntype = \"text\"\nmax_length = 9\n";

const MAPPING: &str = "target = \"target.toml\"\n[rows]\nsame_key = \"merge\"\n[[map]]\nfield = \"well\"\nfrom = \"Well\"\n\
[[map]]\nfield = \"depth\"\nfrom = \"Depth\"\ndecimal_mark = \".\"\n[[map]]\nfield = \"note\"\nfrom = \"Note\"\n";

fn row() -> impl Strategy<Value = [String; 3]> {
    let note = prop_oneof!["[ab,\"]{0,4}", "[ab]\n[ab]\n[c\u{a0a}]", "far too long a note"];
    ("[=A-D][1-4]", "[0-9]{1,2}[.][0-9]|x?", note).prop_map(|(well, depth, note)| [well, depth, note])
}

/// The records of an upload file by their first lines; the line ends as the file has them.
fn records(bytes: &[u8], encoding: &str, line_end: &str) -> BTreeMap<u64, Vec<String>> {
    let (text, ..) = encoding_rs::Encoding::for_label(encoding.as_bytes()).unwrap().decode(bytes);
    let mut reader = csv::ReaderBuilder::new().from_reader(text.as_bytes());
    let mut found = BTreeMap::new();
    let start = |at: u64| 1 + text[..at as usize].matches(&line_end[line_end.len() - 1..]).count() as u64;
    reader.headers().unwrap();
    let mut at = reader.position().byte();
    let mut record = csv::StringRecord::new();
    while reader.read_record(&mut record).unwrap() {
        // A record begins behind the end of the line before it.
        let begins = at + text[at as usize..].len() as u64
            - text[at as usize..].trim_start_matches(['\r', '\n']).len() as u64;
        found.insert(start(begins), record.iter().map(str::to_owned).collect());
        at = reader.position().byte();
    }
    found
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn every_row_is_listed_once_and_what_was_sent_stands_where_it_says(
        rows in prop::collection::vec(row(), 1..24),
        (encoding, line_end) in (prop::sample::select(vec!["utf-8", "utf-16le"]), prop::sample::select(vec!["lf", "crlf"])),
        threads in 1..4_usize,
    ) {
        let upload = format!("encoding = \"{encoding}\"\nline_end = \"{line_end}\"");
        let desk = Desk::new().with("target.toml", TARGET.replace("{upload}", &upload)).with("mapping.toml", MAPPING);
        let desk = desk.with_table("export.csv", &["Well", "Depth", "Note"], rows.clone());
        let given = desk.given();
        let job = Job { threads: Threads::of(threads), ..given.job() };
        let made = desk.batch_of(&job).unwrap();
        let batch = PastBatch { receipt: Receipt::read(&made.folder), path: made.folder.clone() };
        let listed: Vec<_> = batch.listed_rows().unwrap().unwrap().map(Result::unwrap).collect();
        prop_assert_eq!(listed.iter().map(|row| row.row).collect::<Vec<_>>(), (2..2 + rows.len() as u64).collect::<Vec<_>>());
        let count = |outcome: &str| listed.iter().filter(|row| row.outcome == outcome).count() as u64;
        let totals = made.summary.totals;
        prop_assert_eq!((count("sent"), count("rejected")), (totals.accepted, totals.rejected));
        prop_assert_eq!((count("merged"), count("left out")), (totals.merged, totals.left_out));

        let end = if line_end == "lf" { "\n" } else { "\r\n" };
        let (mut sum, mut filled) = (0, 0);
        for row in listed.iter().filter(|row| row.outcome == "sent") {
            let bytes = std::fs::read(made.folder.join("upload").join(&row.file)).unwrap();
            let found = records(&bytes, encoding, end);
            let line = row.line.unwrap();
            let record = found.get(&line).unwrap_or_else(|| panic!("{row:?} is not in {found:?}"));
            prop_assert_eq!(&record[0], &row.key);
            prop_assert_eq!(found.range(..=line).count() as u64, row.record.unwrap());
            // Any line of a record leads back to it.
            let inside = line + u64::from(record[2].contains('\n'));
            let led_back = batch.row_at(&row.file, inside).unwrap();
            prop_assert_eq!(led_back.as_ref(), Some(row));
            if !record[1].is_empty() {
                filled += 1;
                sum += (record[1].parse::<f64>().unwrap() * 10.0).round() as i64;
            }
        }
        let depth = made.summary.field_totals.iter().find(|total| total.field == "depth").unwrap();
        prop_assert_eq!(depth.filled, filled);
        let told = depth.sum.as_ref().unwrap().parse::<f64>().unwrap();
        prop_assert_eq!((told * 10.0).round() as i64, sum);
    }
}
