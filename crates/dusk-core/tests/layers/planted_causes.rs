//! Faults that one decision would settle are planted, and the causes that are found are held against them.

use dusk_core::evidence::Cause;
use dusk_core::run::{Demands, Settle};

use crate::desk::Desk;

const TARGET: &str = r#"
[target]
name = "T"
[upload]
file_name = "up.csv"
[[field]]
name = "hive"
type = "text"
pattern = "[A-Z][0-9]+"
key = true
[[field]]
name = "day"
type = "date"
[[field]]
name = "colour"
type = "code"
codes = "colour.csv"
[[field]]
name = "region"
type = "code"
codes = "region.csv"
[[field]]
name = "district"
type = "code"
codes = "district.csv"
within = "region"
[[field]]
name = "frames"
type = "integer"
max = "40"
[[field]]
name = "keeper"
type = "text"
required = true
[[field]]
name = "marked"
type = "boolean"
format = "1/0"
[[field]]
name = "brood"
type = "integer"
min = "0"
[[rule]]
name = "brood fits"
must = "brood < frames"
"#;

const COLUMNS: [&str; 9] =
    ["Hive", "Day", "Colour", "Region", "District", "Frames", "Keeper", "Marked", "Brood"];

const MAPPING: &str = r#"
target = "target.toml"
[source]
delimiter = ","
[[map]]
field = "hive"
from = "Hive"
[[map]]
field = "day"
from = "Day"
order = "day-month-year"
[[map]]
field = "colour"
from = "Colour"
[[map]]
field = "region"
from = "Region"
[[map]]
field = "district"
from = "District"
[[map]]
field = "frames"
from = "Frames"
[[map]]
field = "keeper"
from = "Keeper"
[[map]]
field = "marked"
from = "Marked"
[[map]]
field = "brood"
from = "Brood"
"#;

type Row = [String; 9];

/// What is planted: how the rows are spoilt, which lines of the mapping say otherwise, and what each decision is
/// about.
struct Planted {
    name: &'static str,
    spoil: fn(usize, &mut Row),
    mapping: &'static [(&'static str, &'static str)],
    decisions: &'static [&'static str],
}

const PLANTED: [Planted; 11] = [
    Planted {
        name: "values with other names",
        spoil: |place, row| match place % 20 {
            0..4 => row[2] = "yel.".into(),
            4..6 => row[2] = "Weis".into(),
            6..9 => row[3] = "Nth Fen".into(),
            9 => (row[2], row[3]) = ("yel.".into(), "Nth Fen".into()),
            10..15 => row[7] = "done".into(),
            _ => {}
        },
        mapping: &[],
        decisions: &["colour \"yel.\"", "colour \"Weis\"", "region \"Nth Fen\"", "marked \"done\""],
    },
    Planted {
        name: "values that mean another code in each region",
        spoil: |place, row| {
            if place % 3 == 0 {
                row[4] = "the fen".into()
            }
        },
        mapping: &[],
        decisions: &["district \"the fen\" in NF", "district \"the fen\" in SF"],
    },
    Planted {
        name: "halves where whole numbers are wanted",
        spoil: |place, row| row[5] = format!("{}.5", place % 12),
        mapping: &[],
        decisions: &["frames: in the mapping"],
    },
    Planted {
        name: "days with a time",
        spoil: |_, row| row[1].push_str(" 12:30"),
        mapping: &[],
        decisions: &["day: in the mapping"],
    },
    Planted {
        name: "a constant that is missing",
        spoil: |_, row| row[6].clear(),
        mapping: &[],
        decisions: &["keeper: in the mapping"],
    },
    Planted {
        name: "two columns exchanged in the export",
        spoil: |_, row| row.swap(2, 3),
        mapping: &[],
        decisions: &["colour: in the mapping"],
    },
    Planted {
        name: "two columns exchanged in the mapping",
        spoil: |_, _| {},
        mapping: &[("from = \"Day\"", "from = \"Frames\""), ("from = \"Frames\"", "from = \"Day\"")],
        decisions: &["day: in the mapping"],
    },
    Planted {
        name: "two columns exchanged in the mapping, which only a rule tells",
        spoil: |_, _| {},
        mapping: &[("from = \"Brood\"", "from = \"Frames\""), ("from = \"Frames\"", "from = \"Brood\"")],
        decisions: &["brood fits: in the mapping"],
    },
    Planted {
        name: "days whose order nothing proves",
        spoil: |place, row| row[1] = format!("{:02}/0{}/2026", 1 + place % 12, 1 + place % 4),
        mapping: &[("order = \"day-month-year\"", "")],
        decisions: &["day: in the mapping"],
    },
    Planted {
        name: "another column than the one that was meant",
        spoil: |_, _| {},
        mapping: &[("from = \"Colour\"", "from = \"Keeper\"")],
        decisions: &["colour: in the mapping"],
    },
    Planted {
        name: "a column of another system's numbers",
        spoil: |place, row| row[0] = format!("{}/{place}", place % 7),
        mapping: &[],
        decisions: &["hive: 400 of 400"],
    },
];

/// What a decision is about, as the lists above say it.
fn decision(cause: &Cause, settle: &Settle) -> String {
    let within = if cause.within.is_empty() { String::new() } else { format!(" in {}", cause.within) };
    match (settle, &cause.value, cause.of) {
        (Settle::Mapping { .. }, ..) => format!("{}: in the mapping", cause.about),
        (_, Some(value), _) => format!("{} \"{value}\"{within}", cause.about),
        (_, None, Some(of)) => format!("{}: {} of {of}", cause.about, cause.count),
        (_, None, None) => format!("{}: {}", cause.about, cause.kind.title()),
    }
}

#[test]
fn what_one_decision_planted_one_decision_settles() {
    for planted in PLANTED {
        let desk = Desk::new();
        let write = |name: &str, text: &str| desk.write(name, text);
        write("target.toml", TARGET);
        write("colour.csv", "code,label\nW,White\nY,Yellow\nB,Blue\nR,Red\n");
        write("region.csv", "code,label\nNF,North Fen\nSF,South Fen\n");
        write("district.csv", "code,label,within\n1,Fen,NF\n2,Hill,NF\n1,Fen End,SF\n2,Hill Top,SF\n");
        let new_line = |line: &'static str| {
            let new = planted.mapping.iter().find(|(old, _)| *old == line);
            new.map_or(line, |(_, new)| new)
        };
        let mapping: Vec<&str> = MAPPING.lines().map(new_line).collect();
        write("mapping.toml", &mapping.join("\n"));
        let mut export = format!("{}\n", COLUMNS.join(","));
        for place in 0..400_usize {
            let north = place % 2 == 0;
            let mut row: Row = [
                format!("H{place}"),
                format!("{:02}/0{}/2026", 1 + place % 28, 1 + place % 4),
                ["White", "Yellow", "Blue", "red"][place % 4].into(),
                if north { "North Fen" } else { "South Fen" }.into(),
                match (north, place % 3) {
                    (true, 0) => "Fen",
                    (true, _) => "Hill",
                    (false, 0) => "Fen End",
                    (false, _) => "Hill Top",
                }
                .into(),
                (4 + place % 12).to_string(),
                format!("keeper {}", place % 9),
                ["yes", "no"][place % 2].into(),
                (place % 4).to_string(),
            ];
            (planted.spoil)(place, &mut row);
            export.push_str(&format!("{}\n", row.join(",")));
        }
        write("export.csv", &export);
        let given = desk.given();
        let job = given.job();
        let demands = Demands { leave_open: true, ..Demands::default() };
        let ready = job.prepare_as(&demands, &|_, _| {}).unwrap();
        let summary = ready.check(&|_, _| {}).unwrap();
        let rejected = summary.totals.rejected;
        let found: Vec<String> =
            summary.causes.iter().map(|cause| decision(cause, &job.way_to_settle(cause))).collect();
        // How much the causes explain that were planted, when they are the first to be settled.
        let first = found.iter().take_while(|found| planted.decisions.contains(&found.as_str())).count();
        let explained = first.checked_sub(1).map_or(0, |last| summary.explained[last]);
        println!(
            "{}: {} planted, {first} of {} found, {explained} of {rejected} rows explained",
            planted.name,
            planted.decisions.len(),
            found.len()
        );
        assert_eq!(first, planted.decisions.len(), "{}: {found:?}", planted.name);
        assert!(rejected > 0 && explained * 100 >= rejected * 95, "{}: {found:?}", planted.name);
    }
}
