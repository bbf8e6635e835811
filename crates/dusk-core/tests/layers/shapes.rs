//! Whatever the shape of the upload, it holds the same table.

use std::fs;

use calamine::Reader as _;
use dusk_core::run::MadeBatch;
use proptest::prelude::*;

use crate::desk::{Desk, table};

const FIELDS: [&str; 3] = ["a", "b", "c"];

/// Conforms rows of text into an upload of this layout; gives the names of the upload files.
fn conform(desk: &Desk, upload: &str, rows: &[Vec<String>]) -> Vec<std::path::PathBuf> {
    let described: String =
        FIELDS.iter().map(|name| format!("[[field]]\nname = \"{name}\"\ntype = \"text\"\n")).collect();
    desk.write("target.toml", format!("[target]\nname = \"T\"\n[upload]\n{upload}\n{described}"));
    let maps: String = FIELDS.iter().map(|name| format!("[[map]]\nfield = \"{name}\"\nfrom = \"{name}\"\nhidden = \"keep\"\nletters = \"keep\"\nspaces = \"keep\"\n")).collect();
    desk.write("mapping.toml", format!("target = \"target.toml\"\n[source]\nencoding = \"utf-8\"\ndelimiter = \",\"\nheader_row = 1\n{maps}"));
    let mut writer = csv::Writer::from_path(desk.path("export.csv")).unwrap();
    writer.write_record(FIELDS).unwrap();
    for row in rows {
        writer.write_record(row).unwrap();
    }
    writer.flush().unwrap();
    let MadeBatch { summary, folder: batch, .. } = desk.conform();
    assert_eq!(summary.totals.accepted, rows.len() as u64, "{:?}", summary.causes);
    let mut files: Vec<_> =
        fs::read_dir(batch.join("upload")).unwrap().map(|entry| entry.unwrap().path()).collect();
    files.sort();
    files
}

/// Cells that a step of cleaning would not change, with all that has to be quoted or escaped. The first
/// of a row is never blank: a blank row is no record.
fn any_rows() -> impl Strategy<Value = Vec<Vec<String>>> {
    let cell = "([A-Za-zéß蜂0-9=+@;,|\"'\\\\<>&{}:¦„-]{1,6}( [a-z\"]{1,3})?)?";
    let row = ("[A-Za-z0-9\"\\\\¦„]{1,5}", cell, cell).prop_map(|(a, b, c)| vec![a, b, c]);
    proptest::collection::vec(row, 1..10)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 30, ..ProptestConfig::default() })]

    #[test]
    fn every_shape_holds_the_same_table(rows in any_rows()) {
        // Delimited, with marks outside ASCII and every value quoted.
        let upload = "delimiter = \"¦\"\nquote = \"„\"\nquoting = \"always\"\nencoding = \"utf-16be\"\nbom = true\nfile_name = \"up.csv\"";
        let delimited = Desk::new();
        let files = conform(&delimited, upload, &rows);
        let bytes = fs::read(&files[0]).unwrap();
        let (text, ..) = encoding_rs::UTF_16BE.decode(&bytes);
        prop_assert_eq!(&table(&text, "¦", "„")[1..], &rows[..]);
        // JSON Lines.
        let json = Desk::new();
        let files = conform(&json, "format = \"json-lines\"\nfile_name = \"up.jsonl\"", &rows);
        let read: Vec<Vec<String>> = fs::read_to_string(&files[0])
            .unwrap()
            .lines()
            .map(|line| {
                let record: serde_json::Map<String, serde_json::Value> = serde_json::from_str(line).unwrap();
                FIELDS.iter().map(|name| record[*name].as_str().unwrap_or_default().to_owned()).collect()
            })
            .collect();
        prop_assert_eq!(&read, &rows);
        // A workbook, and one in parts of two rows.
        let book = Desk::new();
        let files = conform(&book, "format = \"workbook\"\nsheet = \"S\"\nmax_rows = 2\nfile_name = \"{part}.xlsx\"", &rows);
        prop_assert_eq!(files.len(), rows.len().div_ceil(2));
        let mut read = Vec::new();
        let mut numbers: Vec<usize> = files.iter().map(|file| file.file_stem().unwrap().to_str().unwrap().parse().unwrap()).collect();
        numbers.sort_unstable();
        for number in numbers {
            let mut book: calamine::Xlsx<_> = calamine::open_workbook(files[0].with_file_name(format!("{number}.xlsx"))).unwrap();
            let range = book.worksheet_range("S").unwrap();
            for row in 1..range.height() {
                read.push((0..3).map(|column| range.get((row, column)).map(ToString::to_string).unwrap_or_default()).collect::<Vec<_>>());
            }
        }
        prop_assert_eq!(&read, &rows);
        // A table.
        let place = Desk::new();
        let connection = rusqlite::Connection::open(place.path("t.db")).unwrap();
        connection.execute_batch("CREATE TABLE t (a TEXT, b TEXT, c TEXT)").unwrap();
        conform(&place, "format = \"database\"\ndatabase = \"t.db\"\ntable = \"t\"", &rows);
        let read: Vec<Vec<String>> = connection
            .prepare("SELECT a, b, c FROM t ORDER BY rowid")
            .unwrap()
            .query_map([], |row| (0..3).map(|column| row.get::<_, Option<String>>(column).map(Option::unwrap_or_default)).collect())
            .unwrap()
            .map(Result::unwrap)
            .collect();
        prop_assert_eq!(&read, &rows);
        // Split by the first field: every row is in the file of its value, in order.
        let split = Desk::new();
        let files = conform(&split, "split_by = \"b\"\nmax_bytes = 40\nheader = false\nfile_name = \"x{b}-{part}.csv\"", &only_plain(&rows));
        let read: Vec<Vec<String>> = files.iter().flat_map(|file| table(&fs::read_to_string(file).unwrap(), ",", "\"")).collect();
        let (mut read, mut wanted) = (read, only_plain(&rows));
        read.sort();
        wanted.sort();
        prop_assert_eq!(read, wanted);
    }
}

/// The rows with values that make names of files which differ.
fn only_plain(rows: &[Vec<String>]) -> Vec<Vec<String>> {
    let plain = |row: &Vec<String>| {
        let letters: String = row[1].chars().filter(char::is_ascii_lowercase).take(1).collect();
        vec![row[0].clone(), letters, row[2].clone()]
    };
    rows.iter().map(plain).collect()
}
