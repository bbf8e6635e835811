//! `dusk inspect`: what a file is, what has happened to it, and what needs a decision.

use serde_json::Value;

use crate::desk::Desk;

fn inspected(desk: &Desk, words: &[&str]) -> Value {
    let ran = desk.run(&[&["inspect", "export.csv", "--format", "json"], words].concat()).ended(0);
    serde_json::from_str(&ran.out).unwrap_or_else(|_| panic!("no result: {ran:?}"))
}

#[test]
fn a_clean_export_needs_no_decision() {
    let desk =
        Desk::empty().with("export.csv", "No,Date,Town\n117,25/03/2026,Öst Quay\n290,03/04/2026,Merrow\n");
    desk.run(&["inspect", "export.csv"]).ended(0).says(&[
        "rows        2 below the header",
        "encoding    utf-8 (proven): 3 lines, every byte of them valid",
        "delimiter   comma (proven): 2 rows of 3 cells, like row 1",
        "header      row 1 (proven): 3 headings",
        "   2  117,25/03/2026,Öst Quay",
        "117 │ 25/03/2026 │ Öst Quay",
        "25 Mar 2026 to 3 Apr 2026",
        "date order of \"Date\": day-month-year (proven): 1 value allows no other order; row 2",
        "Nothing needs a decision.",
    ]);
}

#[test]
fn everything_open_is_asked_with_the_line_that_decides_it() {
    let mut text = String::from("Fen list\n\nNo;Date;Honey;Until\n");
    for (number, day) in
        (1..).zip(["05/03", "08/03", "02/04", "06/04", "09/04", "01/05", "04/05", "03/06", "05/06"])
    {
        text.push_str(&format!("{number};{day}/2026;1,{number}04;x\n"));
    }
    text.push_str("Total;;;\n");
    let desk = Desk::new().with("export.csv", &text);
    let ran = desk.run(&["inspect", "export.csv", "--target", "target.toml"]).ended(0);
    ran.says(&[
        "date order of \"Date\": undecided between day-month-year and month-day-year",
        "9 values fit more than one order",
        "the dates go forward down the file only when read as",
        "order = …   # \"day-month-year\" or \"month-day-year\"",
        "decimal mark of \"Honey\": undecided between decimal point and decimal comma",
        "\"1,104\" = 1104",
        "\"1,104\" = 1.104",
        "decimal_mark = …",
        "closing lines: undecided",
        "closing = [\"Total\"]",
    ]);
}

#[test]
fn years_of_two_digits_are_asked_about_with_where_they_lie() {
    let says = |days: &[&str]| {
        let desk = Desk::new().with("export.csv", &format!("Born\n{}\n", days.join("\n")));
        desk.run(&["inspect", "export.csv"]).ended(0).out
    };
    let two = says(&["25/03/51", "13/04/58", "30/01/21", "28/02/26"]);
    assert!(two.contains("the years lie in 21 to 26 and 51 to 58, and nothing between"), "{two}");
    let one = says(&["25/03/96", "13/04/99", "30/01/04", "28/02/11"]);
    assert!(one.contains("4 values have a year of two digits") && !one.contains("nothing between"), "{one}");
}

#[test]
fn other_columns_and_the_dictionarys_limits_are_suggestions_only() {
    let target = "[target]\nname = \"T\"\n[upload]\n[[field]]\nname = \"visit\"\ntype = \"date\"\nnot_after = \"today\"\n";
    let desk = Desk::empty()
        .with("target.toml", target)
        .with("export.csv", "Visit,Entered\n03/04/2026,25/04/2026\n05/12/2026,26/04/2026\n");
    let ran =
        desk.run(&["inspect", "export.csv", "--target", "target.toml", "--today", "2026-06-01"]).ended(0);
    ran.says(&[
        "a suggestion only: read as day-month-year, 1 would be outside the dictionary's limits",
        "a suggestion only: the column \"Entered\" proves day-month-year",
        "field = \"visit\"",
        "order = …",
    ]);
    let mapping = "target = \"target.toml\"\n[[map]]\nfield = \"visit\"\nfrom = \"Visit\"\n[[map]]\nfield = \"entered\"\nfrom = \"Entered\"\n";
    let desk = desk
        .with("target.toml", &format!("{target}[[field]]\nname = \"entered\"\ntype = \"date\"\n"))
        .with("mapping.toml", mapping);
    desk.run(&["conform", "export.csv", "--today", "2026-06-01"])
        .stops(&["outside the dictionary's limits", "the column \"Entered\" proves day-month-year"]);
}

#[test]
fn damage_is_named_with_the_first_cell_and_what_becomes_of_it() {
    let cells = [
        ("\u{a0}a", "odd-space"),
        ("b ", "edge-space"),
        ("c\u{200b}d", "hidden"),
        ("ChÃ¢teau", "wrong-decoding"),
        ("Ã–st Öst", "decoded-wrongly"),
        ("Ch?teau", "question-mark"),
        ("x\u{fffd}y", "lost-character"),
        ("e\u{301}", "decomposed"),
        ("“so”", "curly-quote"),
        ("\u{421}alm", "mixed-alphabets"),
        ("two\nlines", "line-break"),
        ("bell\u{7}", "control"),
        ("1.2E+11", "power-of-ten"),
        ("12345678901234500", "digits-lost"),
        ("12.0", "stray-decimal"),
        ("'007", "apostrophe"),
        ("5-Mar", "day-month"),
        ("#N/A", "error-cell"),
    ];
    let rows: String =
        cells.iter().enumerate().map(|(number, (cell, _))| format!("r{number},\"{cell}\"\n")).collect();
    let desk = Desk::empty().with("export.csv", &format!("Id,It\n{rows}"));
    let seen = inspected(&desk, &[]);
    let damage = seen["inspection"]["columns"][1]["damage"].as_array().unwrap();
    for ((_, code), row) in cells.iter().zip(2..) {
        let found = damage
            .iter()
            .find(|seen| seen["damage"] == *code)
            .unwrap_or_else(|| panic!("{code}: {damage:?}"));
        assert!(
            found["first"]["place"].as_str().unwrap().starts_with(&format!("row {row}"))
                || *code == "edge-space",
            "{found}"
        );
    }
    desk.run(&["inspect", "export.csv"]).ended(0).says(&[
        "It: 1 cell with decoded wrongly once, first row 5 \"ChÃ¢teau\" \"Château\" read as windows-1252;",
        "\"c‹U+200B›d\"",
        "U+200B",
    ]);
}

#[test]
fn rows_and_pages_are_counted() {
    let desk = Desk::empty()
        .with("export.csv", "No,Town,Hive\n1,a,A1\n2,b\nNo,Town,Hive\n,,\n3,\"open,A2\n4,c,d,e\n5,f,A3\n");
    let ran = desk.run(&["inspect", "export.csv"]).ended(0);
    ran.says(&[
        "rows        7 below the header, 1 of them blank",
        "row 4 repeats the header, and is left out",
        "1 row with fewer than 3 cells; first row 3 \"2,b\" = 2 cells",
        "1 row with a quote that is never closed; first row 6",
        "1 row with more than 3 cells; first row 7",
    ]);
}

#[test]
fn one_column_is_shown_in_depth() {
    let desk = Desk::new().with("export.csv", "No,Queen\n1,white\n2,white\n3,yel.\n4,\n");
    desk.run(&["inspect", "export.csv", "--column", "Queen", "--target", "target.toml"]).ended(0).says(&[
        "3 cells, 1 blank, 2 different values",
        "field       queen, which has the same name",
        "white          2  first row 2",
        "yel.           1  first row 4",
        "a.",
    ]);
    desk.run(&["inspect", "export.csv", "--column", "Quen"])
        .stops(&["no column \"Quen\"", "did you mean \"Queen\"?"]);
    desk.run(&["inspect", "export.csv", "--encoding", "latin-9"]).stops(&["there is no encoding"]);
    desk.run(&["inspect", "none.csv"]).stops(&["the file or folder does not exist"]);
}

#[test]
fn records_across_columns_are_noticed() {
    let desk = Desk::empty().with(
        "export.csv",
        "Apiary No,117,290,463\nDate,2026-03-25,2026-04-03,2026-04-04\nQueen,white,blue,red\n",
    );
    desk.run(&["inspect", "export.csv"])
        .ended(0)
        .says(&["records: undecided between down the rows and across the columns", "records = \"across\""]);
}

#[test]
fn it_reads_standard_input_and_many_different_values_in_little_memory() {
    use std::io::Write as _;
    use std::process::Stdio;
    let desk = Desk::empty();
    let mut command = desk.command(&["inspect", "-", "--format", "json"]);
    let mut child = command.stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().unwrap();
    let rows: String = (0..50_000).map(|number| format!("{number},town {}\n", number % 7)).collect();
    child.stdin.take().unwrap().write_all(format!("Id,Town\n{rows}").as_bytes()).unwrap();
    let output = child.wait_with_output().unwrap();
    let seen: Value = serde_json::from_slice(&output.stdout).unwrap();
    let columns = &seen["inspection"]["columns"];
    let distinct = columns[0]["distinct"].as_u64().unwrap();
    assert!(columns[0]["distinct_estimated"] == true && distinct.abs_diff(50_000) < 2_500, "{distinct}");
    assert_eq!(
        (&columns[1]["distinct"], &columns[1]["filled"], &columns[0]["range"]),
        (&7.into(), &50_000.into(), &"0 to 49999".into())
    );
}
