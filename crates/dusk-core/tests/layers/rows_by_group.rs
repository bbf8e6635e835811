//! Rows by group, held against a plain model of them: nothing of a record is lost, doubled or put into another row.

use std::collections::BTreeSet;

use proptest::prelude::*;

use crate::desk::Desk;

const TARGET: &str = "[target]\nname = \"T\"\n[upload]\nfile_name = \"up.csv\"\nline_end = \"lf\"\ngroup_field = \"part\"\ncounter_field = \"no\"\n\
    [[field]]\nname = \"key\"\ntype = \"text\"\nkey = true\nrequired = true\n[[field]]\nname = \"part\"\ntype = \"text\"\n\
    [[field]]\nname = \"no\"\ntype = \"integer\"\n[[field]]\nname = \"plain\"\ntype = \"text\"\n\
    [[field]]\nname = \"x\"\ntype = \"text\"\nin_group = \"a\"\n[[field]]\nname = \"y\"\ntype = \"integer\"\nin_group = \"a\"\n\
    [[field]]\nname = \"z\"\ntype = \"text\"\nin_group = \"b\"\n";

/// The repeats of each group, which the headings end with.
const OF_A: [&str; 3] = ["1", "2", "4"];
const OF_B: [&str; 2] = ["1", "3"];

fn mapping(numbering: &str) -> String {
    let map = |field: &str, from: &str| format!("[[map]]\nfield = \"{field}\"\nfrom = \"{from}\"\n");
    format!(
        "target = \"target.toml\"\n[source]\nencoding = \"utf-8\"\ndelimiter = \",\"\n\
         [repeat]\nnumbers_of = {{ a = [\"1-2\", \"4\"], b = [\"1\", \"3\"] }}\nnumbering = \"{numbering}\"\n{}{}{}{}{}",
        map("key", "Key"),
        map("plain", "Plain"),
        map("x", "X {n}"),
        map("y", "Y {n}"),
        map("z", "Z {n}")
    )
}

/// A record of the export: its plain value, what it has of each repeat of the first group, and of the second.
type Row = (String, Vec<(String, String)>, Vec<String>);

fn row() -> impl Strategy<Value = Row> {
    let text = || prop_oneof![Just(String::new()), "[a-d]{1,2}"];
    let number = prop_oneof![Just(String::new()), "[1-9][0-9]?"];
    (text(), prop::collection::vec((text(), number), 3), prop::collection::vec(text(), 2))
}

/// The lines of the upload that a careful person would write by hand.
fn model(rows: &[Row], in_order: bool) -> Vec<String> {
    let mut lines = Vec::new();
    for (place, (plain, of_a, of_b)) in rows.iter().enumerate() {
        lines.push(format!("k{place},,,{plain},,,"));
        let number =
            |met: usize, label: &str| if in_order { (met + 1).to_string() } else { label.to_owned() };
        let filled = OF_A.iter().zip(of_a).filter(|(_, (x, y))| !x.is_empty() || !y.is_empty());
        for (met, (label, (x, y))) in filled.enumerate() {
            lines.push(format!("k{place},a,{},,{x},{y},", number(met, label)));
        }
        let filled = OF_B.iter().zip(of_b).filter(|(_, z)| !z.is_empty());
        for (met, (label, z)) in filled.enumerate() {
            lines.push(format!("k{place},b,{},,,,{z}", number(met, label)));
        }
    }
    lines
}

fn cells(place: usize, (plain, of_a, of_b): &Row) -> Vec<String> {
    let mut cells = vec![format!("k{place}"), plain.clone()];
    cells.extend(of_a.iter().flat_map(|(x, y)| [x.clone(), y.clone()]));
    cells.extend(of_b.iter().cloned());
    cells
}

const HEADINGS: [&str; 10] = ["Key", "Plain", "X 1", "Y 1", "X 2", "Y 2", "X 4", "Y 4", "Z 1", "Z 3"];

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, failure_persistence: None, ..ProptestConfig::default() })]

    /// Repeats that stand beside one another become the rows that the model has, in its order.
    #[test]
    fn a_wide_export_becomes_what_a_person_would_write(rows in prop::collection::vec(row(), 1..9), in_order in any::<bool>()) {
        let numbering = if in_order { "in-order" } else { "as-named" };
        let table: Vec<Vec<String>> = rows.iter().enumerate().map(|(place, row)| cells(place, row)).collect();
        let desk = Desk::new()
            .with("target.toml", TARGET)
            .with("mapping.toml", mapping(numbering))
            .with_table("export.csv", &HEADINGS, &table);
        let made = desk.conform();
        prop_assert_eq!(made.summary.totals.accepted as usize, rows.len(), "{:?}", made.summary.causes);
        let upload = desk.read("batch/upload/up.csv");
        let written: Vec<&str> = upload.lines().skip(1).collect();
        let expected = model(&rows, in_order);
        prop_assert_eq!(&written, &expected.iter().map(String::as_str).collect::<Vec<_>>());
        prop_assert_eq!(made.summary.records as usize, expected.len());
    }

    /// The same repeats as rows of their own, in any order, become the same rows of the upload.
    #[test]
    fn a_long_export_becomes_the_same_rows(rows in prop::collection::vec(row(), 1..7), seed in any::<u64>()) {
        let mut long: Vec<Vec<String>> = Vec::new();
        for (place, (plain, of_a, _)) in rows.iter().enumerate() {
            let key = format!("k{place}");
            let filled: Vec<_> = OF_A.iter().zip(of_a).filter(|(_, (x, y))| !x.is_empty() || !y.is_empty()).collect();
            for (label, (x, y)) in &filled {
                long.push(vec![key.clone(), plain.clone(), (*label).to_string(), x.clone(), y.clone()]);
            }
            if filled.is_empty() {
                long.push(vec![key, plain.clone(), String::new(), String::new(), String::new()]);
            }
        }
        // Turned by a number, so that the rows of one record do not follow one another.
        let turn = seed as usize % long.len();
        long.rotate_left(turn);
        if seed % 2 == 0 {
            long.reverse();
        }
        let map = |field: &str, from: &str| format!("[[map]]\nfield = \"{field}\"\nfrom = \"{from}\"\n");
        let maps = [("key", "Key"), ("plain", "Plain"), ("no", "No"), ("x", "X"), ("y", "Y")].map(|(field, from)| map(field, from));
        let desk = Desk::new()
            .with("target.toml", TARGET)
            .with("mapping.toml", format!("target = \"target.toml\"\n[source]\nencoding = \"utf-8\"\ndelimiter = \",\"\n{}", maps.concat()))
            .with_table("export.csv", &["Key", "Plain", "No", "X", "Y"], &long);
        let made = desk.conform();
        prop_assert_eq!(made.summary.totals.rejected, 0, "{:?}", made.summary.causes);
        let upload = desk.read("batch/upload/up.csv");
        let written: BTreeSet<&str> = upload.lines().skip(1).collect();
        // Where its plain columns are blank, a row below needs no first one of its own.
        let is_expected = |line: &String| {
            let is_of_b = line.split(',').nth(1) == Some("b");
            let is_blank_first = line.ends_with(",,,,,,");
            !is_of_b && !is_blank_first
        };
        let expected = model(&rows, false);
        let expected: BTreeSet<&str> = expected.iter().filter(|line| is_expected(line)).map(String::as_str).collect();
        let told: BTreeSet<&str> = written.iter().copied().filter(|line| !line.ends_with(",,,,,,")).collect();
        prop_assert_eq!(told, expected);
        prop_assert_eq!(written.len(), upload.lines().count() - 1, "no row is there twice");
    }
}
