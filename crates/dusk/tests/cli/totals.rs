//! What the sent records come to, and limits of a batch beside it.

use serde_json::{Value, json};

use crate::desk::Desk;

const TARGET: &str = "[target]\nname = \"Claims\"\n[upload]\nfile_name = \"up.csv\"\n[[field]]\nname = \"no\"\ntype = \"integer\"\nkey = true\n\
[[field]]\nname = \"price\"\ntype = \"decimal\"\ndecimals = 2\n[[field]]\nname = \"copies\"\ntype = \"integer\"\n\
[[field]]\nname = \"day\"\ntype = \"date\"\n[[field]]\nname = \"kinds\"\ntype = \"codes\"\ncodes = \"kinds.csv\"\nseparator = \";\"\n\
[[rule]]\nname = \"worth\"\nmust = \"sum of price * copies <= 100\"\nsays = \"a batch is worth a hundred at most\"\n";

const MAPPING: &str = "target = \"target.toml\"\n[[map]]\nfield = \"no\"\nfrom = \"No\"\n[[map]]\nfield = \"price\"\nfrom = \"Price\"\n\
[[map]]\nfield = \"copies\"\nfrom = \"Copies\"\n[[map]]\nfield = \"day\"\nfrom = \"Day\"\n[[map]]\nfield = \"kinds\"\nfrom = \"Kinds\"\nbetween = \"+\"\n";

const EXPORT: &str = "No,Price,Copies,Day,Kinds\n1,10.10,3,2026-05-04,map+plan\n2,0.45,20,2026-03-01,plan\n2,99,99,2026-01-01,map\n3,x,1,2026-12-01,map\n4,,2,2026-04-02,\n";

fn desk() -> Desk {
    let kinds = "code,label\nM,map\nP,plan\n";
    Desk::empty()
        .with("target.toml", TARGET)
        .with("mapping.toml", MAPPING)
        .with("kinds.csv", kinds)
        .with("export.csv", EXPORT)
}

#[test]
fn sent_records_are_added_up_and_shown_beside_the_limit() {
    let desk = desk();
    let asked = ["--total", "price", "--total", "day", "--total", "kinds"];
    desk.run(&[&["check", "export.csv"], &asked[..]].concat()).ended(1).says(&[
        "worth: sum of price * copies 39.3; must be sum of price * copies <= 100",
        "price  sum 10.55, in 2 records, from 0.45 to 10.1",
        "day    in 3 records, from 1 Mar 2026 to 4 May 2026",
        "kinds  in 2 records, P 2, M 1",
    ]);
    desk.run(&["check", "export.csv", "--total", "prise"])
        .stops(&["no field \"prise\" has a total", "did you mean \"price\"?"]);
    desk.run(&["conform", "export.csv", "-o", "batch", "--total", "nothing"])
        .stops(&["fields of numbers, days"]);
    assert!(!desk.exists("batch"));
    desk.run(&["conform", "export.csv", "--today", "2026-06-01"]).ended(1);
    let receipt: Value = serde_json::from_str(&desk.read("batches/2026-06-01-a/receipt.json")).unwrap();
    assert_eq!(
        receipt["sent_totals"][1],
        json!({"field": "price", "filled": 2, "sum": "10.55", "least": "0.45", "most": "10.1"})
    );
    assert_eq!(receipt["sent_totals"][4], json!({"field": "kinds", "filled": 2, "counts": {"M": 1, "P": 2}}));
    desk.run(&["batches", "show", "2026-06-01-a"])
        .ended(0)
        .says(&["copies  sum 25, in 3 records, from 2 to 20", "worth: sum of"]);
    let page = desk.read("batches/2026-06-01-a/report.html");
    assert!(page.contains("sum 10.55, in 2 records") && page.contains("Limits of the batch"), "{page}");
    desk.run(&["conform", "export.csv", "--again", "--no-values", "--today", "2026-06-01"]).ended(1);
    assert!(!desk.read("batches/2026-06-01-a/report.html").contains("10.55"));
}

#[test]
fn a_product_that_passes_the_limit_keeps_the_batch_from_being_written() {
    let desk = desk().with("export.csv", &EXPORT.replace("0.45,20", "4.5,20"));
    desk.run(&["conform", "export.csv", "-o", "batch"]).stops(&["sum of price * copies 120.3"]);
    assert!(!desk.exists("batch"));
}

/// A time of day is a value like any other: it is counted where it is filled, and has no first and no last.
#[test]
fn times_of_day_are_counted_and_so_is_every_field_that_is_sent() {
    let desk = Desk::with_field(
        "type = \"time\"",
        "from = \"It\"",
        &["09:15", "17:30", "", "half past nine", "12:00"],
    );
    desk.run(&["conform", "export.csv", "-o", "batch", "--today", "2026-04-30", "--total", "it"])
        .ended(1)
        .says(&["it  in 3 records"]);
    let receipt: Value = serde_json::from_str(&desk.read("batch/receipt.json")).unwrap();
    assert_eq!(receipt["sent_totals"], json!([{"field": "it", "filled": 3}]));
    // Of a text nothing more is said than how often it is filled, and that only on the page.
    let page = desk.read("batch/report.html");
    for bar in ["in how many of the 4 records", "75 %", "100 %"] {
        assert!(page.contains(bar), "{bar}");
    }
}
