//! A mapping that is refreshed: whatever stands in it stays as it is, and a second refresh changes nothing.

use crate::desk::{Desk, TODAY};
use dusk_core::drafting::stated_limits;
use dusk_core::evidence::FieldId;
use dusk_core::mapping;
use dusk_core::proposing::{Proposing, propose, write_mapping};
use dusk_core::sources::{Source, Threads};
use proptest::prelude::*;

const TARGET: &str = "[target]\nname = \"T\"\n[upload]\n[[field]]\nname = \"apiary_id\"\ntype = \"text\"\ndigits = 6\n[[field]]\nname = \"hive\"\ntype = \"text\"\n[[field]]\nname = \"queen\"\ntype = \"code\"\ncodes = \"colours.csv\"\n[[field]]\nname = \"honey_kg\"\ntype = \"decimal\"\ndecimals = 1\nunit = \"kg\"\n";

/// What a steward may have written about each field, and about nothing.
const WRITTEN: [&str; 6] = [
    "[[map]]\nfield = \"apiary_id\"\nfrom  = \"Apiary Id\"   # as last year\n",
    "# hives have marks of two signs\n[[map]]\nfield = \"hive\"\nfrom = \"Hive\"\n",
    "[[map]]\nfield    = \"queen\"\nconstant = \"W\"\n",
    "[[map]]\nfield = \"honey_kg\"\nfrom = \"Honey (lb)\"\nunit = \"lb\"\nround = \"down\"\n",
    "[leave_out]\ncolumns = [ \"Other\" ]\n",
    "# a word at the end\n",
];

/// The text of the mapping after a refresh.
fn refreshed(desk: &Desk, text: &str) -> String {
    std::fs::write(desk.path("mapping.toml"), text).unwrap();
    let (mapping, target) = mapping::read_incomplete(&desk.path("mapping.toml")).unwrap();
    let known = mapping.known(&target);
    let source = Source::look(&desk.path("export.csv"), &mapping.source, &known).unwrap();
    let proposals = propose(
        &source,
        &target,
        &Proposing { mapping: Some(&mapping), ..Proposing::new(TODAY, Threads::default(), stated_limits) },
        &|_, _| {},
    )
    .unwrap();
    write_mapping(&proposals, &source, &target, ("target.toml", &[]), Some((text, &mapping))).unwrap().text
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn nothing_that_stands_in_a_mapping_is_changed(
        written in prop::sample::subsequence(WRITTEN.to_vec(), 0..=6),
        colour in prop::sample::select(vec!["white", "lilac"]),
        blank in any::<bool>(),
    ) {
        let rows = (1..8).map(|number| {
            let honey = if blank { String::new() } else { format!("{number}.5") };
            [number.to_string(), format!("A{number}"), colour.to_owned(), honey, "x".to_owned()]
        });
        let desk = Desk::new()
            .with("target.toml", TARGET)
            .with("colours.csv", crate::desk::COLOURS)
            .with_table("export.csv", &["Apiary Id", "Hive", "Queen", "Honey (lb)", "Other"], rows);
        let text = format!("# our mapping\ntarget = \"target.toml\"\n\n{}", written.join("\n"));
        let once = refreshed(&desk, &text);
        // Every line that stood there stands there still, in its order.
        let mut lines = once.lines();
        for line in text.lines().filter(|line| !line.trim().is_empty()) {
            prop_assert!(lines.any(|kept| kept == line), "{:?} is gone from:\n{}", line, once);
        }
        // What was added feeds fields that nothing fed, from columns that nothing used.
        std::fs::write(desk.path("mapping.toml"), &once).unwrap();
        let (mapping, _) = mapping::read_incomplete(&desk.path("mapping.toml")).unwrap();
        let mut fields: Vec<FieldId> = mapping.maps.iter().map(|map| map.field).collect();
        fields.sort_unstable();
        fields.dedup();
        prop_assert_eq!(fields.len(), mapping.maps.len());
        prop_assert_eq!(refreshed(&desk, &once), once);
    }
}
