//! Cells put together and taken apart again, and codes found by whatever people make of their names.

use crate::desk::Desk;
use proptest::prelude::*;

fn fields(names: &[&str]) -> String {
    names.iter().map(|name| format!("[[field]]\nname = \"{name}\"\ntype = \"text\"\n")).collect()
}

fn target(names: &[&str]) -> String {
    format!("[target]\nname = \"T\"\n[upload]\nline_end = \"lf\"\nfile_name = \"up.csv\"\n{}", fields(names))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// What one mapping joins another takes apart, wherever the parts leave one way to do it.
    #[test]
    fn what_is_joined_is_taken_apart_again(
        rows in prop::collection::vec(("[A-Z][a-zü]{1,6}( [A-Z][a-z]{1,5})?", "[A-Z][a-z]{1,8}", "[0-9]{4}"), 1..12),
    ) {
        let rows: Vec<[String; 3]> = rows.into_iter().map(|(town, region, code)| [town, region, code]).collect();
        let joined = Desk::new()
            .with("target.toml", target(&["place"]))
            .with("mapping.toml", "target = \"target.toml\"\n[source]\nencoding = \"utf-8\"\ndelimiter = \",\"\n[[map]]\nfield = \"place\"\njoin = \"{Town}, {Region} {Code}\"\n")
            .with_table("export.csv", &["Town", "Region", "Code"], &rows);
        prop_assert_eq!(joined.conform().summary.totals.accepted, rows.len() as u64);
        let form = "part = \"{town}, {region:word} {code:digits}\"";
        let maps: String = ["town", "region", "code"]
            .iter()
            .map(|name| format!("[[map]]\nfield = \"{name}\"\nfrom = \"place\"\n{form}\ntake = \"{name}\"\n"))
            .collect();
        let apart = Desk::new()
            .with("target.toml", target(&["town", "region", "code"]))
            .with("mapping.toml", format!("target = \"target.toml\"\n[source]\nencoding = \"utf-8\"\ndelimiter = \",\"\n{maps}"))
            .with("export.csv", joined.read("batch/upload/up.csv"));
        let made = apart.conform();
        prop_assert_eq!(made.summary.totals.accepted, rows.len() as u64, "{:?}", made.summary.causes);
        let read: Vec<[String; 3]> =
            apart.records("batch/upload/up.csv").iter().map(|row| [row[0].to_owned(), row[1].to_owned(), row[2].to_owned()]).collect();
        prop_assert_eq!(read, rows);
    }

    /// Case and white space never matter; anything else does.
    #[test]
    fn a_code_is_found_by_its_names_however_they_are_spaced(
        picks in prop::collection::vec((0..4_usize, any::<bool>(), " {0,2}", 0..3_usize), 1..16),
    ) {
        const NAMES: [(&str, &str); 4] = [("White", "W"), ("sky blue", "B"), ("Yellow", "Y"), ("B", "B")];
        let cells: Vec<String> = picks
            .iter()
            .map(|(name, upper, space, spoilt)| {
                let name = NAMES[*name].0;
                let name = if *upper { name.to_uppercase() } else { name.to_lowercase() };
                let name = format!("{space}{}\u{a0}", name.replace(' ', "  "));
                if *spoilt == 0 { name.trim().to_owned() + "-" } else { name }
            })
            .collect();
        let given: Vec<&str> = cells.iter().map(String::as_str).collect();
        let outcomes = Desk::with_field("type = \"code\"\ncodes = \"colours.csv\"", "", &given).outcomes(given.len());
        for ((name, .., spoilt), (cell, outcome)) in picks.iter().zip(cells.iter().zip(&outcomes)) {
            let expected = if *spoilt == 0 { "!not-a-code" } else { NAMES[*name].1 };
            prop_assert_eq!(outcome, expected, "{:?}", cell);
        }
    }
}
