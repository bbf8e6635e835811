//! Uploads in which a record has several rows: its plain fields in the first, then a row for each repeat of a group.

use crate::desk::Desk;

const TARGET: &str = r#"
[target]
name = "Orchard register"

[upload]
line_end = "lf"
file_name = "up.csv"
group_field = "part"
counter_field = "part_no"

[[field]]
name = "tree"
type = "text"
key = true
required = true

[[field]]
name = "part"
type = "text"

[[field]]
name = "part_no"
type = "integer"

[[field]]
name = "variety"
type = "text"
required = true

[[field]]
name = "picked_on"
type = "date"
required = true
in_group = "harvest"

[[field]]
name = "kg"
type = "decimal"
decimals = 1
in_group = "harvest"

[[field]]
name = "spray"
type = "code"
codes = "codes/spray.csv"
in_group = "treatment"

[[rule]]
must = "kg > 0"
"#;

/// The repeats stand beside one another, of one group more often than of the other.
const WIDE: &str = r#"
target = "target.toml"
[repeat]
numbers_of = { harvest = ["1-3"], treatment = ["1-2"] }
[[map]]
field = "tree"
from = "Tree"
[[map]]
field = "variety"
from = "Variety"
[[map]]
field = "picked_on"
from = "Picked {n}"
order = "day-month-year"
[[map]]
field = "kg"
from = "Kg {n}"
[[map]]
field = "spray"
from = "Spray {n}"
"#;

/// Each row of the export holds a repeat.
const LONG: &str = r#"
target = "target.toml"
[[map]]
field = "tree"
from = "Tree"
[[map]]
field = "variety"
from = "Variety"
[[map]]
field = "part_no"
from = "No"
[[map]]
field = "picked_on"
from = "Picked"
order = "day-month-year"
[[map]]
field = "kg"
from = "Kg"
"#;

const HEADINGS: &str = "tree,part,part_no,variety,picked_on,kg,spray\n";

fn desk(mapping: &str, rows: &str) -> Desk {
    let headings = match mapping.contains("{n}") {
        true => "Tree,Variety,Picked 1,Kg 1,Picked 2,Kg 2,Picked 3,Kg 3,Spray 1,Spray 2\n",
        false => "Tree,Variety,No,Picked,Kg\n",
    };
    Desk::empty()
        .with("target.toml", TARGET)
        .with("codes/spray.csv", "code,label\nCU,Copper\nSU,Sulphur\n")
        .with("mapping.toml", mapping)
        .with("export.csv", &format!("{headings}{rows}"))
}

fn upload(desk: &Desk) -> String {
    desk.read("batch/upload/up.csv")
}

#[test]
fn repeats_beside_one_another_become_rows_below_the_record() {
    let desk = desk(
        WIDE,
        "T1,Gravenstein,1/9/2025,4.5,,,20/9/2025,3,copper,\nT2,Holst,,,,,,,,Sulphur\nT5,Aroma,,,,,,,,\n",
    );
    desk.conform().ended(0).says(&["the accepted rows make 7 records"]);
    assert_eq!(
        upload(&desk),
        format!(
            "{HEADINGS}T1,,,Gravenstein,,,\nT1,harvest,1,,2025-09-01,4.5,\nT1,harvest,3,,2025-09-20,3,\n\
             T1,treatment,1,,,,CU\nT2,,,Holst,,,\nT2,treatment,2,,,,SU\nT5,,,Aroma,,,\n"
        )
    );
    // What is listed of each row, and told of it, names the rows of the upload.
    let rows = desk.read("batch/rows.csv");
    let of_t1 = rows.lines().filter(|line| line.contains("sent,T1")).count();
    assert_eq!(of_t1, 4, "{rows}");
    assert!(rows.contains("T1 + harvest + 3"), "{rows}");
    desk.run(&["explain", "export.csv", "2", "picked_on"]).ended(0).says(&[
        "harvest 1",
        "harvest 3",
        "2025-09-20",
    ]);
    let all = desk.run(&["explain", "export.csv", "2"]).ended(0);
    assert_eq!(
        all.out.matches("\nvariety\n").count(),
        1,
        "the variety belongs to the first row alone:\n{}",
        all.out
    );
    assert!(all.out.contains("first row"), "{}", all.out);
    desk.run(&["trial", "export.csv"]).ended(0).says(&["first row", "harvest 3", "treatment 2"]);
    desk.run(&["trial", "export.csv", "--as-file"]).ended(0).says(&["T1,harvest,3,,2025-09-20,3,"]);
}

#[test]
fn repeats_may_be_counted_as_they_are_met_in_each_group() {
    let in_order = WIDE.replace("[repeat]", "[repeat]\nnumbering = \"in-order\"");
    let desk = desk(&in_order, "T1,Gravenstein,1/9/2025,4.5,,,20/9/2025,3,,copper\n");
    desk.conform().ended(0);
    assert_eq!(
        upload(&desk),
        format!(
            "{HEADINGS}T1,,,Gravenstein,,,\nT1,harvest,1,,2025-09-01,4.5,\nT1,harvest,2,,2025-09-20,3,\n\
             T1,treatment,1,,,,CU\n"
        )
    );
}

#[test]
fn rows_that_each_hold_a_repeat_share_one_first_row() {
    let desk = desk(
        LONG,
        "T1,Gravenstein,1,1/9/2025,4.5\nT2,Holst,1,2/9/2025,2\nT1,Gravenstein,2,11/9/2025,3\nT1,,3,21/9/2025,1\n\
         T9,Discovery,,,\n",
    );
    desk.conform().ended(0);
    assert_eq!(
        upload(&desk),
        format!(
            "{HEADINGS}T1,,,Gravenstein,,,\nT1,harvest,1,,2025-09-01,4.5,\nT2,,,Holst,,,\n\
             T2,harvest,1,,2025-09-02,2,\nT1,harvest,2,,2025-09-11,3,\nT1,harvest,3,,2025-09-21,1,\nT9,,,Discovery,,,\n"
        )
    );
    // The same rows in another order are the same rows of the upload.
    let backwards = "T9,Discovery,,,\nT1,Gravenstein,2,11/9/2025,3\nT1,,3,21/9/2025,1\nT2,Holst,1,2/9/2025,2\n\
                     T1,Gravenstein,1,1/9/2025,4.5\n";
    let other = self::desk(LONG, backwards);
    other.conform().ended(0);
    let sorted = |text: String| {
        let mut lines: Vec<String> = text.lines().map(str::to_owned).collect();
        lines.sort();
        lines
    };
    assert_eq!(sorted(upload(&other)), sorted(upload(&desk)));
}

#[test]
fn a_row_whose_record_contradicts_itself_is_rejected_as_a_whole() {
    let desk = desk(
        LONG,
        "T2,Holst,1,2/9/2025,2\nT2,Ingrid,2,3/9/2025,2\nT2,Holst,1,2/9/2025,2\nT2,Holst,1,2/9/2025,7\nT3,Aroma,,4/9/2025,1\n",
    );
    desk.conform().ended(1).says(&[
        "5 rows read = 1 accepted + 3 rejected + 1 merged + 0 left out",
        "tree + part + part_no",
        "keys of which another row says something else",
    ]);
    assert_eq!(upload(&desk), format!("{HEADINGS}T2,,,Holst,,,\nT2,harvest,1,,2025-09-02,2,\n"));
    let findings = desk.read("batch/findings.csv");
    for key in ["T2,", "T2 + harvest + 1,"] {
        assert!(findings.contains(&format!(",{key}")), "{key} is not in\n{findings}");
    }
    // A repeat without a number would stand beside all others of its record.
    assert!(
        findings.lines().any(|line| line.contains("part_no") && line.contains("must be filled")),
        "{findings}"
    );
}

#[test]
fn what_is_wrong_in_a_repeat_is_told_of_its_own_column_and_corrected_there() {
    let desk = desk(
        WIDE,
        "T1,Gravenstein,1/9/2025,4.5,,3,,,,\nT2,,1/9/2025,1,,,,,,\nT3,Holst,1/9/2025,0,,,,,,zinc\n",
    );
    desk.conform().ended(1).says(&["3 rows read = 0 accepted + 3 rejected"]);
    let findings = desk.read("batch/findings.csv");
    for (row, about, value) in
        [(2, "picked_on", ""), (3, "variety", ""), (4, "kg > 0", "kg 0"), (4, "spray", "zinc")]
    {
        let found = findings.lines().any(|line| {
            line.starts_with(&format!("export.csv,{row},")) && line.contains(about) && line.contains(value)
        });
        assert!(found, "row {row}, {about} is not in\n{findings}");
    }
    // A rule over the fields of a group says nothing of rows in which they stay blank.
    assert_eq!(findings.matches("rule-broken").count(), 1, "{findings}");
    for (row, column, value) in [
        ("2", "Picked 2", "5/9/2025"),
        ("3", "Variety", "Aroma"),
        ("4", "Kg 1", "2"),
        ("4", "Spray 2", "Copper"),
    ] {
        desk.run(&["correct", "export.csv", row, column, value]).ended(0);
    }
    desk.run(&["conform", "export.csv", "-o", "mended", "--today", "2026-04-30"]).ended(0);
    assert_eq!(
        desk.read("mended/upload/up.csv"),
        format!(
            "{HEADINGS}T1,,,Gravenstein,,,\nT1,harvest,1,,2025-09-01,4.5,\nT1,harvest,2,,2025-09-05,3,\n\
             T2,,,Aroma,,,\nT2,harvest,1,,2025-09-01,1,\nT3,,,Holst,,,\nT3,harvest,1,,2025-09-01,2,\nT3,treatment,2,,,,CU\n"
        )
    );
}

#[test]
fn a_description_says_both_fields_and_keeps_together_what_belongs_together() {
    let wrong = |old: &str, new: &str, says: &[&str]| {
        let desk = desk(WIDE, "").edited("target.toml", old, new);
        desk.run(&["target", "check"]).ended(1).says(says);
    };
    wrong("counter_field = \"part_no\"\n", "", &["needs both group_field and counter_field"]);
    wrong(
        "group_field = \"part\"\ncounter_field = \"part_no\"\n",
        "",
        &["picked_on is in_group", "group_field = \"…\""],
    );
    wrong(
        "counter_field = \"part_no\"",
        "counter_field = \"part_number\"",
        &["counter_field names no field \"part_number\""],
    );
    wrong(
        "name = \"part_no\"\ntype = \"integer\"",
        "name = \"part_no\"\ntype = \"date\"",
        &["counter_field: part_no is of a type"],
    );
    wrong(
        "name = \"part\"\ntype = \"text\"",
        "name = \"part\"\ntype = \"text\"\nrequired = true",
        &["stays blank in the first row"],
    );
    wrong("key = true\nrequired = true", "required = true", &["rows by group need a key"]);
    wrong("must = \"kg > 0\"", "must = \"kg > 0 or variety = \\\"x\\\"\"", &["never in the same row"]);
    wrong(
        "name = \"variety\"\ntype = \"text\"",
        "name = \"variety\"\ntype = \"text\"\nmade_of = \"{kg}\"",
        &["variety needs kg, which stays blank in its rows"],
    );
    wrong(
        "file_name = \"up.csv\"",
        "split_by = \"variety\"\nfile_name = \"{variety}.csv\"",
        &["split_by: variety stays blank"],
    );
    wrong("[upload]", "[holds]\nfile = \"held.csv\"\n[upload]", &["[holds] does not go with rows by group"]);
    let all = ["harvest", "treatment"]
        .iter()
        .fold(TARGET.to_owned(), |target, group| target.replace(&format!("in_group = \"{group}\"\n"), ""));
    desk(WIDE, "")
        .with("target.toml", &all)
        .run(&["target", "check"])
        .ended(1)
        .says(&["no field is in a group"]);
}

#[test]
fn a_mapping_says_how_the_repeats_are_counted() {
    let wrong = |mapping: &str, says: &[&str]| {
        desk(mapping, "T1,Holst,1,1/9/2025,1\n").run(&["check", "export.csv"]).stops(says);
    };
    let counter = "[[map]]\nfield = \"part_no\"\nfrom = \"No\"\n";
    wrong(&LONG.replace(counter, ""), &["nothing says which number goes into part_no", "[repeat]"]);
    wrong(
        &format!("{LONG}[[map]]\nfield = \"part\"\nconstant = \"harvest\"\n"),
        &["part takes the name of each row's group"],
    );
    wrong(&format!("{LONG}[rows]\nsame_key = \"last\"\n"), &["several rows for one record"]);
    wrong(
        &WIDE.replace("harvest = [\"1-3\"]", "harvests = [\"1-3\"]"),
        &["has no group \"harvests\"", "harvest"],
    );
    wrong(&WIDE.replace(", treatment = [\"1-2\"]", ""), &["does not say how often \"Spray {n}\" comes"]);
    // One list for all groups is enough where they repeat alike.
    let alike =
        WIDE.replace("numbers_of = { harvest = [\"1-3\"], treatment = [\"1-2\"] }", "numbers = [\"1-2\"]");
    let desk = desk(&alike, "T1,Holst,1/9/2025,1,,,,,,SU\n");
    desk.conform().ended(0);
    assert_eq!(
        upload(&desk),
        format!("{HEADINGS}T1,,,Holst,,,\nT1,harvest,1,,2025-09-01,1,\nT1,treatment,2,,,,SU\n")
    );
}

#[test]
fn rows_by_group_go_into_every_format_that_has_rows() {
    for (format, expected) in [
        (
            "format = \"json-lines\"",
            "{\"tree\":\"T2\",\"part\":\"treatment\",\"part_no\":2,\"variety\":null,\"picked_on\":null,\"kg\":null,\"spray\":\"SU\"}",
        ),
        ("quoting = \"always\"", "\"T2\",\"treatment\",\"2\",\"\",\"\",\"\",\"SU\""),
        ("format = \"xml\"", "<part>treatment</part>"),
    ] {
        let desk = desk(WIDE, "T2,Holst,,,,,,,,Sulphur\n").edited("target.toml", "line_end = \"lf\"", format);
        desk.conform().ended(0);
        assert!(upload(&desk).contains(expected), "{}", upload(&desk));
    }
}
