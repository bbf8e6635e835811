//! Rows of one key: rejected, or merged where they say the same, as a plain reckoning has it.

use std::collections::BTreeMap;

use crate::desk::Desk;
use dusk_core::run::Totals;
use proptest::prelude::*;

const TARGET: &str = "[target]\nname = \"T\"\n[upload]\nline_end = \"lf\"\nfile_name = \"up.csv\"\n[[field]]\nname = \"hive\"\ntype = \"text\"\nkey = true\n[[field]]\nname = \"frames\"\ntype = \"integer\"\n";

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn every_row_of_a_key_is_accounted_for(
        rows in prop::collection::vec((prop::sample::select(vec!["A", "B", "C", ""]), prop::sample::select(vec!["1", "01", "2", "many", ""])), 1..24),
        merge in any::<bool>(),
    ) {
        let same_key = if merge { "[rows]\nsame_key = \"merge\"\n" } else { "" };
        let maps = "[[map]]\nfield = \"hive\"\nfrom = \"Hive\"\n[[map]]\nfield = \"frames\"\nfrom = \"Frames\"\n";
        let desk = Desk::new()
            .with("target.toml", TARGET)
            .with("mapping.toml", format!("target = \"target.toml\"\n[source]\ndelimiter = \",\"\nheader_row = 1\n{same_key}{maps}"))
            .with_table("export.csv", &["Hive", "Frames", "Weather"], rows.iter().map(|(hive, frames)| [*hive, *frames, "fine"]));
        let made = desk.conform();
        // The first row of a key has it, whether it fits or not; a later one is merged into it if it says the same.
        let mut first: BTreeMap<&str, Option<i32>> = BTreeMap::new();
        let mut expected = Totals::default();
        let mut upload = String::from("hive,frames\n");
        for (hive, frames) in &rows {
            expected.read += 1;
            let number = if frames.is_empty() { Some(-1) } else { frames.parse().ok() };
            let content = if *frames == "01" { Some(1) } else { number };
            let known = first.get(hive).copied();
            match (hive.is_empty(), known, content) {
                // Without a key there is nothing to compare.
                (true, _, Some(_)) | (false, None, Some(_)) => {
                    expected.accepted += 1;
                    let frames = frames.trim_start_matches('0');
                    upload.push_str(&format!("{hive},{frames}\n"));
                }
                (_, _, None) => expected.rejected += 1,
                (false, Some(Some(had)), Some(content)) if merge && had == content => expected.merged += 1,
                (false, Some(_), Some(_)) => expected.rejected += 1,
            }
            if !hive.is_empty() {
                first.entry(hive).or_insert(content);
            }
        }
        prop_assert_eq!(made.summary.totals, expected, "{:?}", rows);
        prop_assert_eq!(desk.read("batch/upload/up.csv"), upload);
        prop_assert_eq!(desk.records("batch/rejects.csv").len() as u64, expected.rejected);
    }
}
