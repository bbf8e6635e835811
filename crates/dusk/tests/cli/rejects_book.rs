//! The workbook of rejected rows speaks as the steward's sheet does.

use crate::desk::Desk;

/// A part of the workbook that the batch wrote.
fn part(desk: &Desk, name: &str) -> String {
    let text = desk.part_of("batch/rejects.xlsx", name);
    text.replace("&lt;", "<").replace("&amp;", "&").replace("&quot;", "\"")
}

/// The formula of the drop-down in a column, by its letter.
fn drop_down(desk: &Desk, column: &str) -> Option<String> {
    let sheet = part(desk, "xl/worksheets/sheet1.xml");
    let (_, behind) = sheet.split_once(&format!("sqref=\"{column}2\""))?;
    let formula = behind.split("<formula1>").nth(1)?;
    formula.split("</formula1>").next().map(str::to_owned)
}

const TARGET: &str = r#"
[target]
name = "Boatyard"
[upload]
file_name = "up.csv"
[[field]]
name = "hull"
type = "text"
key = true
[[field]]
name = "coast"
type = "code"
codes = "codes/coast.csv"
[[field]]
name = "harbour"
type = "code"
codes = "codes/harbour.csv"
within = "coast"
[[field]]
name = "beam_m"
type = "decimal"
decimals = 2
unit = "m"
min = "0.9"
max = "6"
[[field]]
name = "decked"
type = "boolean"
format = "1/0"
[[field]]
name = "timber"
type = "codes"
codes = "codes/timber.csv"
separator = "|"
[[field]]
name = "berths"
type = "integer"
[[field]]
name = "cabins"
type = "integer"
[[rule]]
name = "berths in cabins"
must = "cabins <= berths"
says = "a cabin has a berth"
"#;

const MAPPING: &str = r#"
target = "target.toml"
[[map]]
field = "hull"
from = "Boat"
[[map]]
field = "coast"
from = "Küste"
[[map]]
field = "harbour"
from = "Hafen"
[[map]]
field = "beam_m"
from = "Breite (ft)"
unit = "ft"
round = "half-up"
[[map]]
field = "decked"
from = "Deck"
words = "ja/nein"
[[map]]
field = "timber"
from = "Holz"
between = "+"
[[map]]
field = "berths"
from = "Kojen"
[[map]]
field = "cabins"
from = "Kajüten"
"#;

fn desk(rows: &[&str]) -> Desk {
    let header = "Boat,Küste,Hafen,Breite (ft),Deck,Holz,Kojen,Kajüten";
    Desk::empty()
        .with("target.toml", TARGET)
        .with("mapping.toml", MAPPING)
        .with("codes/coast.csv", "code,label,also\nE,Ostküste,Osten\nW,Westküste,\n")
        .with("codes/harbour.csv", "code,label,within\n1,Lund,E\n2,Vig,E\n1,Sande,W\n")
        .with("codes/timber.csv", "code,label\nL,Lärche\nO,Eiche\n")
        .with("crosswalks/coast.csv", "value,code\nost,E\n")
        .with("export.csv", &format!("{header}\n{}\n", rows.join("\n")))
}

#[test]
fn reasons_name_headings_own_units_and_names() {
    let desk = desk(&[
        "a,Ostküste,Sande,8,ja,Lärche,2,1",
        "b,Ostküste,Lunt,21,jo,Lärche+Teak,1,2",
        "c,Westküste,Sande,2.5,nein,Eiche,1,1",
    ]);
    desk.conform().ended(1);
    let rejects = desk.read("batch/rejects.csv");
    for says in [
        "Hafen \"\"Sande\"\" is in harbour, but not inside Ostküste (right: it belongs to Westküste)",
        "Hafen \"\"Lunt\"\" is not a code or label of harbour (right: nearest: Lund)",
        "Breite (ft) \"\"21\"\" is 21 ft, above the largest allowed (right: 19.68 ft or less)",
        "Breite (ft) \"\"2.5\"\" is 2.5 ft, below the smallest allowed (right: 2.953 ft or more)",
        "one of Lärche, Eiche",
        "a cabin has a berth (right: Kajüten <= Kojen)",
    ] {
        assert!(rejects.contains(says), "{says}: {rejects}");
    }
    assert!(
        !["beam_m", "harbour \"", "cabins <=", " m or"].iter().any(|word| rejects.contains(word)),
        "{rejects}"
    );
}

#[test]
fn every_coded_column_has_a_list_and_that_of_a_parent_follows_its_cell() {
    let desk = desk(&["a,Ostküste,Lunt,8,ja,Lärche,2,1"]);
    desk.conform().ended(1);
    assert_eq!(drop_down(&desk, "F").as_deref(), Some("Choices!$A$1:$A$2"), "coasts");
    assert_eq!(
        drop_down(&desk, "G").as_deref(),
        Some("INDIRECT(IFERROR(VLOOKUP(TRIM($F2),Choices!$E$1:$F$6,2,FALSE),\"in_G_All\"))"),
        "harbours follow the coast, however it is written"
    );
    let names = part(&desk, "xl/workbook.xml");
    for name in [
        "name=\"in_G_All\">Choices!$B$1:$B$3<",
        "name=\"in_G_Ostk_ste\">Choices!$C$1:$C$2<",
        "name=\"in_G_Westk_ste\">Choices!$D$1:$D$1<",
    ] {
        assert!(names.contains(name), "{name}: {names}");
    }
    for (column, is_one) in [("H", false), ("I", true), ("J", true), ("K", false)] {
        assert_eq!(drop_down(&desk, column).is_some(), is_one, "{column}");
    }
    let lists = part(&desk, "xl/worksheets/sheet2.xml");
    let strings = part(&desk, "xl/sharedStrings.xml");
    assert!(lists.contains("<sheetData>"));
    for value in ["Osten", "ost", "Westküste", "ja", "nein", "Eiche"] {
        assert!(strings.contains(&format!("<t>{value}</t>")), "{value}: {strings}");
    }
}

#[test]
fn the_earlier_row_of_a_double_is_shown_and_long_cells_have_room() {
    let long = "Eiche, an der Wasserlinie ausgebessert, mit Kupfer beschlagen und zweimal neu kalfatert";
    let desk = desk(&[
        "a,Ostküste,Lund,8,ja,Lärche,2,1",
        "b,Ostküste,Lund,8,ja,Lärche,2,1",
        "a,Ostküste,Vig,8,ja,Lärche,3,1",
        "b,Ostküste,Lund,8,ja,Lärche,2,1",
        &format!("c,Ostküste,Lund,8,ja,\"{long}\",2,1"),
    ]);
    desk.conform().ended(1);
    let notes = part(&desk, "xl/comments1.xml");
    let says = "is the key of row 2 already (right: one record for each key; the first one stays)\nRow 2 differs in\nHafen: \"Lund\" there, \"Vig\" here\nKojen: \"2\" there, \"3\" here";
    assert!(notes.contains(says), "{notes}");
    assert!(notes.contains("Row 3 is the same in every cell."), "{notes}");
    let sheet = part(&desk, "xl/worksheets/sheet1.xml");
    let heights: Vec<u32> = (2..=4)
        .map(|row| {
            let (_, behind) = sheet.split_once(&format!("<row r=\"{row}\"")).unwrap();
            let tag = behind.split('>').next().unwrap();
            tag.split("ht=\"").nth(1).map_or(15, |height| height.split('"').next().unwrap().parse().unwrap())
        })
        .collect();
    assert!(heights[2] > heights[0] && heights[2] <= 120, "{heights:?}");
}
