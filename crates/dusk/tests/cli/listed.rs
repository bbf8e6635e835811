//! From a line of the upload, or a key, back to its row.

use serde_json::Value;

use crate::desk::Desk;

const TARGET: &str = "[target]\nname = \"Wells\"\n[upload]\nline_end = \"crlf\"\nmax_rows = 2\nfile_name = \"wells-{part}.csv\"\n\
[[field]]\nname = \"parish\"\ntype = \"text\"\nkey = true\n[[field]]\nname = \"well\"\ntype = \"integer\"\nkey = true\n\
[[field]]\nname = \"note\"\ntype = \"text\"\nmax_length = 30\n";

const MAPPING: &str = "target = \"target.toml\"\n[rows]\nsame_key = \"merge\"\n[[map]]\nfield = \"parish\"\nfrom = \"Parish\"\n\
[[map]]\nfield = \"well\"\nfrom = \"Well\"\n[[map]]\nfield = \"note\"\nfrom = \"Note\"\n";

const EXPORT: &str =
    "Parish,Well,Note\nEel,1,\"two\nlines\"\nEel,x,bad\n=Fen,2,\"a, b\"\n=Fen,2,\"a, b\"\n,,\nOx,3,last\n";

fn desk() -> Desk {
    Desk::empty().with("target.toml", TARGET).with("mapping.toml", MAPPING).with("export.csv", EXPORT)
}

const ROWS: &str = "\
export.csv,2,sent,Eel + 1,wells-1.csv,2,1,\n\
export.csv,3,rejected,Eel + ,,,,\n\
export.csv,4,sent,'=Fen + 2,wells-1.csv,4,2,\n\
export.csv,5,merged,'=Fen + 2,,,,row 4\n\
export.csv,6,left out,,,,,\n\
export.csv,7,sent,Ox + 3,wells-2.csv,2,1,\n";

#[test]
fn every_row_is_listed_with_what_became_of_it() {
    let desk = desk();
    desk.run(&["conform", "export.csv", "-o", "batch"]).ended(1);
    // What a record says is known again by a short hash, which is there for what is sent alone.
    let rows = desk.read("batch/rows.csv");
    let without_hash = |line: &str| {
        let (rest, hash) = line.rsplit_once(',').unwrap();
        assert_eq!(hash.parse::<u32>().is_ok(), line.contains(",sent,"), "{line}");
        format!("{rest}\n")
    };
    let (head, lines) = rows.split_once('\n').unwrap();
    assert_eq!(head, "source,row,outcome,key,file,line,record,into,content");
    assert_eq!(lines.lines().map(without_hash).collect::<String>(), ROWS);
}

#[test]
fn a_line_of_the_upload_leads_back_to_its_row() {
    let desk = desk();
    desk.run(&["conform", "export.csv", "--today", "2026-05-02"]).ended(1);
    // The record of row 2 has two lines.
    for line in ["2", "3"] {
        let said = format!("line {line} of wells-1.csv is row 2 of export.csv in batch 2026-05-02-a");
        desk.run(&["explain", &format!("wells-1.csv:{line}")]).ended(0).notes(&[&said]).says(&["Eel"]);
    }
    let of_batch = "batches/2026-05-02-a/upload/wells-2.csv:2";
    desk.run(&["explain", of_batch, "note"]).ended(0).notes(&["row 7 of export.csv"]).says(&["last"]);
    desk.run(&["explain", "wells-1.csv:1"]).stops(&["line 1 of wells-1.csv is above its first record"]);
    desk.run(&["explain", "wells-2.csv:9"]).stops(&["wells-2.csv has no line 9; its last record, of row 7"]);
    desk.run(&["explain", "wells-9.csv:2"]).stops(&["no batch in batches has an upload file wells-9.csv"]);
    let changed = desk.with("export.csv", &EXPORT.replace("last", "other"));
    changed.run(&["explain", "wells-2.csv:2"]).ended(0).notes(&[
        "export.csv has changed since batch 2026-05-02-a was made: its row 7 may be another one now",
    ]);
    std::fs::remove_file(changed.path("export.csv")).unwrap();
    changed
        .run(&["explain", "wells-2.csv:2"])
        .stops(&["export.csv is not here any more", "--key \"Ox + 3\""]);
    std::fs::remove_file(changed.path("batches/2026-05-02-a/rows.csv")).unwrap();
    changed.run(&["explain", "wells-2.csv:2"]).stops(&["made before batches listed their rows"]);
}

#[test]
fn a_key_leads_to_its_row_and_to_the_batches_that_had_it() {
    let desk = desk();
    desk.run(&["explain", "export.csv", "ox + 3"]).ended(0).says(&["row 7"]);
    desk.run(&["explain", "export.csv", "--key", "3", "note"]).ended(0).says(&["last"]);
    desk.run(&["explain", "export.csv", "=fen+2"])
        .stops(&["2 rows of export.csv have the key", "row 5: =Fen + 2"]);
    desk.run(&["explain", "export.csv", "Ox + 4"]).stops(&["no row of export.csv has the key \"Ox + 4\""]);
    desk.run(&["explain", "export.csv"]).stops(&["nothing says which row of export.csv is meant"]);
    desk.run(&["batches", "--key", "Ox + 3"]).ended(1).says(&["no batch in batches has a record"]);
    desk.run(&["conform", "export.csv", "--today", "2026-05-02"]).ended(1);
    let next = desk.with("june.csv", "Parish,Well,Note\nOx,3,deeper\n");
    next.run(&["conform", "june.csv", "--today", "2026-06-02"]).ended(0);
    next.run(&["batches", "--key", "ox + 3"]).ended(0).says(&[
        "2026-05-02-a  sent  Ox + 3\n  row 7 of export.csv  wells-2.csv:2",
        "2026-06-02-a  sent  Ox + 3\n  row 2 of june.csv  wells-1.csv:2",
    ]);
    next.run(&["batches", "--key", "=Fen + 2"])
        .ended(0)
        .says(&["merged  =Fen + 2\n  row 5 of export.csv, into row 4"]);
    let found: Value =
        serde_json::from_str(&next.run(&["batches", "--key", "eel", "--format", "json"]).out).unwrap();
    let outcomes: Vec<&str> = found["found"]
        .as_array()
        .unwrap()
        .iter()
        .map(|one| one["row"]["outcome"].as_str().unwrap())
        .collect();
    assert_eq!(outcomes, ["sent", "rejected"]);
    // A list that lacks its end would say of a record that it was never sent.
    let whole = next.read("batches/2026-05-02-a/rows.csv");
    let (short, _) = whole.trim_end().rsplit_once('\n').unwrap();
    let torn = next.with("batches/2026-05-02-a/rows.csv", &format!("{short}\n"));
    torn.run(&["batches", "--key", "Ox + 3"]).stops(&["rows.csv: is not as it was written"]);
    let torn = torn.with("batches/2026-05-02-a/rows.csv", "");
    torn.run(&["batches", "--key", "Ox"]).stops(&["rows.csv: is not as it was written"]);
}
