//! The life of one row or one cell.

use crate::desk::Desk;

#[test]
fn every_step_of_a_cell_is_told_with_its_evidence() {
    let desk = Desk::new().edited("mapping.toml", "order = \"day-month-year\"\n", "");
    desk.run(&["explain", "export.csv", "2"]).ended(0).says(&[
        "row 2 of export.csv: accepted",
        "No (apiary_id)",
        "digits       \"000117\"  always 6 digits in the dictionary",
        "read as day-month-year, as the column proves: 3 Apr 2026",
        "a label of queen",
        "unit         \"4.53592…\"",
        "upload       \"4.5\"",
    ]);
    let ran = desk.run(&["explain", "export.csv", "2", "honey_kg"]).ended(0);
    let ran = ran.says(&[
        "source       \"10\"",
        "unit         \"4.53592…\"  lb to kg: × 0.45359237",
        "rounded half-up",
        "upload       \"4.5\"",
    ]);
    assert!(!ran.out.contains("apiary_id"), "only the field asked for: {}", ran.out);
}

#[test]
fn what_keeps_a_row_out_is_told_where_it_is() {
    let desk = Desk::new();
    desk.run(&["explain", "export.csv", "3"]).ended(0).says(&[
        "row 3 of export.csv: rejected",
        "reject       is not a code or label of queen\n  nearest      Y Yellow",
        "would be     \"000290\"",
    ]);
    let desk =
        desk.with("export.csv", "No,Date,Queen,Honey\n1,03/04/2026,white,1\n1,03/04/2026,blue,2\n2,x\n,,,\n");
    desk.run(&["explain", "export.csv", "3"])
        .ended(0)
        .says(&["rejected", "apiary_id \"000001\" is the key of row 2 already"]);
    desk.run(&["explain", "export.csv", "4"]).ended(0).says(&[
        "No",
        "\"2\"",
        "has 2 cells, and the header has 4",
    ]);
    desk.run(&["explain", "export.csv", "5"]).ended(0).says(&["left out, because every cell is blank"]);
}

#[test]
fn it_tells_the_same_story_to_programs() {
    let ran = Desk::new().run(&["explain", "export.csv", "3", "--format", "json"]).ended(0);
    let life: serde_json::Value = serde_json::from_str(&ran.out).unwrap();
    assert_eq!((&life["fate"], &life["row"]), (&"rejected".into(), &3.into()));
    assert_eq!(life["records"][0]["fields"][0]["steps"][0]["step"], "digits");
    assert_eq!(life["records"][0]["fields"][2]["upload"], serde_json::Value::Null);
    assert_eq!(life["findings"][0]["finding"], "not-a-code");
    assert_eq!(life["cells"][3], serde_json::json!({"column": "Honey", "value": "4.5", "kind": "text"}));
}

#[test]
fn rows_and_fields_that_are_not_there_are_said() {
    let desk = Desk::new();
    desk.run(&["explain", "export.csv", "1"])
        .stops(&["row 1 of export.csv holds the headings; the first record is in row 2"]);
    desk.run(&["explain", "export.csv", "9"]).stops(&["export.csv has no row 9"]);
    desk.run(&["explain", "export.csv", "2", "honey"])
        .stops(&["no field \"honey\"", "did you mean \"honey_kg\"?"]);
}

#[test]
fn what_hides_in_a_cell_is_made_visible() {
    let desk = Desk::with_field("type = \"text\"", "from = \"It\"", &["a\u{a0}b\u{200b}\u{1b}[31m"]);
    let ran = desk.run(&["explain", "export.csv", "2", "it"]).ended(0).says(&["\"a⍽b‹U+200B›␛[31m\""]);
    assert!(!ran.out.contains('\u{1b}'), "a cell must not act on the terminal");
}

#[test]
fn a_code_whose_parent_is_rejected_is_not_judged() {
    let field = "type = \"code\"\ncodes = \"codes/parts.csv\"\nwithin = \"up\"\n[[field]]\nname = \"up\"\ntype = \"code\"\ncodes = \"codes/queen.csv\"";
    let desk = Desk::with_field(field, "from = \"It\"\n[[map]]\nfield = \"up\"\nfrom = \"Id\"", &[])
        .with("codes/parts.csv", "code,label,within\n01,Wing,W\n")
        .with("export.csv", "Id,It\npink,wing\n");
    desk.run(&["explain", "export.csv", "2", "it"])
        .ended(0)
        .says(&["not judged   the field that it depends on is rejected"]);
    let result = desk.check();
    assert_eq!(result["causes"].as_array().unwrap().len(), 1, "one wrong cell is one finding: {result}");
}
