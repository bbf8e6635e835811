//! Upload files divided by rows, by bytes and by a value: each within its limits, and together all records once.

use std::fs;

use crate::desk::{Desk, names};
use proptest::prelude::*;

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn every_record_is_in_one_file_and_every_file_within_its_limits(
        notes in prop::collection::vec(("[a-z ,\"ü]{0,12}", 0..3_usize), 1..40),
        max_rows in prop::option::of(1..9_u64),
        max_bytes in prop::option::of(24..120_u64),
        by_value in any::<bool>(),
    ) {
        let limit = |key: &str, most: Option<u64>| most.map_or_else(String::new, |most| format!("{key} = {most}\n"));
        let split = if by_value { "split_by = \"place\"\n" } else { "" };
        let name = if by_value { "{place}-{part}.csv" } else { "{part}.csv" };
        let target = format!(
            "[target]\nname = \"T\"\n[upload]\nline_end = \"lf\"\nfile_name = \"{name}\"\n{split}{}{}[[field]]\nname = \"id\"\ntype = \"integer\"\n[[field]]\nname = \"place\"\ntype = \"text\"\n[[field]]\nname = \"note\"\ntype = \"text\"\n",
            limit("max_rows", max_rows),
            limit("max_bytes", max_bytes),
        );
        let maps = ["id", "place", "note"].map(|name| format!("[[map]]\nfield = \"{name}\"\nfrom = \"{name}\"\ntrim = false\n").replace("trim = false\n", if name == "id" { "" } else { "trim = false\n" }));
        let places = ["Vik", "Öst Quay", "a/b"];
        let rows: Vec<[String; 3]> = notes
            .iter()
            .enumerate()
            .map(|(number, (note, place))| [number.to_string(), places[*place].to_owned(), note.clone()])
            .collect();
        let desk = Desk::new()
            .with("target.toml", &target)
            .with("mapping.toml", format!("target = \"target.toml\"\n[source]\nencoding = \"utf-8\"\ndelimiter = \",\"\nheader_row = 1\n{}", maps.concat()))
            .with_table("export.csv", &["id", "place", "note"], &rows);
        let made = desk.conform();
        prop_assert_eq!(made.summary.totals.accepted, rows.len() as u64);

        let head = "id,place,note\n";
        let mut met: Vec<Vec<String>> = Vec::new();
        for file in names(&desk.path("batch/upload")) {
            let bytes = fs::read(desk.path("batch/upload").join(&file)).unwrap();
            let records = desk.records(&format!("batch/upload/{file}"));
            prop_assert!(bytes.starts_with(head.as_bytes()) && !records.is_empty());
            prop_assert!(max_rows.is_none_or(|most| records.len() as u64 <= most), "{} in {}", records.len(), file);
            // A record that is too long alone still has to go somewhere.
            prop_assert!(max_bytes.is_none_or(|most| bytes.len() as u64 <= most || records.len() == 1), "{} in {}", bytes.len(), file);
            if by_value {
                prop_assert!(records.iter().all(|record| record[1] == records[0][1]), "{}", file);
            }
            // In the order of the source.
            let numbers: Vec<u64> = records.iter().map(|record| record[0].parse().unwrap()).collect();
            prop_assert!(numbers.is_sorted());
            met.extend(records.iter().map(|record| record.iter().map(str::to_owned).collect()));
        }
        met.sort_by_key(|record| record[0].parse::<u64>().unwrap());
        prop_assert_eq!(met, rows.iter().map(|row| row.to_vec()).collect::<Vec<_>>());
        // The receipt counts the same.
        let counted: u64 = made.outputs.iter().filter(|output| output.file.starts_with("upload/")).filter_map(|output| output.rows).sum();
        prop_assert_eq!(counted, rows.len() as u64);
    }
}
