//! Records that the last batch had are told by their keys, whatever their order, their spelling and what the mapping
//! puts into every record.

use std::collections::BTreeMap;

use crate::desk::Desk;
use dusk_core::memory::KnownRecords;
use dusk_core::run::{AgainCounts, Job};
use dusk_core::sources::Threads;
use proptest::prelude::*;

const TARGET: &str = "[target]\nname = \"Moorings\"\n[upload]\nfile_name = \"up.csv\"\n\
[[field]]\nname = \"pier\"\ntype = \"text\"\nkey = true\n[[field]]\nname = \"berth\"\ntype = \"integer\"\nkey = true\n\
[[field]]\nname = \"depth\"\ntype = \"decimal\"\ndecimals = 1\nunit = \"m\"\n[[field]]\nname = \"note\"\ntype = \"text\"\n\
[[field]]\nname = \"month\"\ntype = \"text\"\n";

fn mapping(month: &str) -> String {
    format!(
        "target = \"target.toml\"\n[[map]]\nfield = \"pier\"\nfrom = \"Pier\"\n[[map]]\nfield = \"berth\"\nfrom = \"Berth\"\n\
         [[map]]\nfield = \"depth\"\nfrom = \"Depth\"\nunit = \"m\"\n[[map]]\nfield = \"note\"\nfrom = \"Note\"\n\
         [[map]]\nfield = \"month\"\nconstant = \"{month}\"\n"
    )
}

/// Records by their keys: pier and berth; and what they say: depth and note.
type Month = BTreeMap<(u8, u8), (u8, u8)>;

/// One of them.
type Record<'m> = (&'m (u8, u8), &'m (u8, u8));

fn month() -> impl Strategy<Value = Month> {
    prop::collection::btree_map((0..3_u8, 0..9_u8), (0..2_u8, 0..2_u8), 1..20)
}

/// A row as it is exported; `spelt` writes the same otherwise.
fn row(((pier, berth), (depth, note)): Record<'_>, spelt: bool) -> [String; 4] {
    let pier = ["North", "South", "=East"][usize::from(*pier)];
    let note = ["", "holds, \"well\""][usize::from(*note)];
    match spelt {
        false => [pier.to_owned(), berth.to_string(), format!("{depth}.5"), note.to_owned()],
        true => [format!(" {pier}\u{a0}"), format!("0{berth}"), format!("{depth}.50"), format!("{note} ")],
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn what_is_there_again_is_counted_and_listed(
        before in month(),
        now in month(),
        turned in any::<bool>(),
        threads in 1..4_usize,
    ) {
        const HEADER: [&str; 4] = ["Pier", "Berth", "Depth", "Note"];
        let desk = Desk::new().with("target.toml", TARGET).with("mapping.toml", mapping("May"));
        let desk = desk.with_table("export.csv", &HEADER, before.iter().map(|record| row(record, false)));
        desk.conform();
        let known = KnownRecords::read(&std::fs::read(desk.path("batch/records.bin")).unwrap()).unwrap();

        let mut records: Vec<Record<'_>> = now.iter().collect();
        if turned {
            records.reverse();
        }
        desk.write("mapping.toml", mapping("June"));
        let spelt = |(place, record): (usize, &Record<'_>)| row(*record, place % 2 == 1);
        let desk = desk.with_table("export.csv", &HEADER, records.iter().enumerate().map(spelt));
        let given = desk.given();
        let job = Job { known_records: Some(&known), threads: Threads::of(threads), ..given.job() };
        let made = desk.batch_of(&job).unwrap();

        let expected: Vec<(String, &str)> = records
            .iter()
            .zip(2..)
            .filter_map(|((key, facts), row)| {
                let had = before.get(*key)?;
                Some((format!("{row}"), if had == *facts { "the same" } else { "other facts" }))
            })
            .collect();
        let count = |word: &str| expected.iter().filter(|(_, is)| *is == word).count() as u64;
        let counts = AgainCounts { same: count("the same"), other: count("other facts") };
        prop_assert_eq!(made.summary.again, Some(counts));
        let listed: Vec<(String, String)> = match expected.is_empty() {
            true => Vec::new(),
            false => desk
                .records("batch/records-again.csv")
                .iter()
                .map(|line| (line[1].to_owned(), line[3].to_owned()))
                .collect(),
        };
        let expected: Vec<(String, String)> = expected.into_iter().map(|(row, is)| (row, is.to_owned())).collect();
        prop_assert_eq!(listed, expected);
    }
}
