//! `dusk compare`, and what is sent for what the target holds.

use rust_xlsxwriter::Workbook;
use serde_json::Value;

use crate::desk::{Desk, Ran};

const TARGET: &str = r#"
[target]
name = "Moorings"
[holds]
file = "held.csv"
as_of = "2026-05-31"
[upload]
line_end = "lf"
file_name = "up.csv"
[[field]]
name = "berth_no"
type = "text"
given_by_target = true
[[field]]
name = "boat"
label = "Boat"
type = "text"
key = true
required = true
[[field]]
name = "metres"
label = "Length"
type = "decimal"
decimals = 1
required = true
[[field]]
name = "state"
type = "code"
codes = "codes/state.csv"
[[field]]
name = "note"
type = "text"
"#;

const MAPPING: &str = "target = \"target.toml\"\n[[map]]\nfield = \"boat\"\nfrom = \"Boat\"\n[[map]]\nfield = \"metres\"\nfrom = \"Metres\"\n[[map]]\nfield = \"state\"\nfrom = \"State\"\n[[map]]\nfield = \"note\"\nfrom = \"Note\"\n";

const HELD: &str = "berth_no,Boat,Length,state,note\nB1,Wren,7.0,O,old ropes\nB2,Heron,9.5,O,\nB3,Coot,4,C,\nB4,Teal,5.5,O,x\n";

const EXPORT: &str =
    "Boat,Metres,State,Note\nwren,7,closed,\nHeron,9.5,open,\nGrebe,6.2,open,new here\nTeal,5.8,open,x\n";

fn desk() -> Desk {
    Desk::empty()
        .with("target.toml", TARGET)
        .with("mapping.toml", MAPPING)
        .with("codes/state.csv", "code,label\nO,open\nC,closed\n")
        .with("held.csv", HELD)
        .with("export.csv", EXPORT)
}

fn compare(desk: &Desk, more: &[&str]) -> Ran {
    desk.run(&[&["compare", "export.csv", "--today", "2026-06-01"], more].concat())
}

fn json(ran: &Ran) -> Value {
    serde_json::from_str(&ran.out).unwrap_or_else(|_| panic!("{ran:?}"))
}

fn sent(desk: &Desk) -> String {
    desk.read("batch/upload/up.csv")
}

#[test]
fn a_screenful_says_what_is_new_changes_and_is_gone() {
    let desk = desk();
    let ran = compare(&desk, &[]).ended(1).says(&[
        "held.csv holds 4 records, as of 31 May 2026",
        "+ new             1",
        "~ changed         2",
        "= same            1",
        "- gone            1",
        "Length (metres)",
        "state O open → C closed",
        "~ Teal  row 5    Length (metres) 5.5 → 5.8",
        "4 accepted = 1 new + 2 changed + 1 the same; 4 sent + 0 not sent",
        "to send it: dusk conform export.csv",
    ]);
    // Those that are gone are counted, and listed only where that is asked.
    ran.says_nothing_of(&["Coot"]);
    compare(&desk, &["--gone"]).ended(1).says(&["- Coot", "row 4 of held.csv"]);
    let found = json(&compare(&desk, &["--format", "json", "--field", "state"]).ended(1));
    assert_eq!(found["counts"], serde_json::json!({"new": 1, "changed": 2, "same": 1, "gone": 1}));
    let records = found["records"].as_array().unwrap();
    assert_eq!((records.len(), &records[0]["key"]), (1, &"Wren".into()));
    assert_eq!(records[0]["fields"], serde_json::json!({"state": {"old": "O", "new": "C"}}));
    let new = json(&compare(&desk, &["--format", "json", "--new"]).ended(1));
    assert_eq!(new["records"][0]["fields"]["note"], serde_json::json!({"old": null, "new": "new here"}));
    compare(&desk, &["--field", "stat"]).stops(&["has no field \"stat\"; did you mean state?"]);
    desk.with("export.csv", "Boat,Metres,State,Note\nHeron,9.50,O,\n")
        .with("held.csv", "Boat,Length,state\nHERON,9.5,Open\n")
        .run(&["compare", "export.csv", "--today", "2026-06-01"])
        .ended(0)
        .says(&["= same            1"]);
}

#[test]
fn a_blank_leaves_alone_what_is_held_unless_it_is_to_clear() {
    let desk = desk();
    desk.conform().ended(0).says(&["warn: row 2: boat \"wren\" is written \"Wren\" by the target"]);
    // The key as the target writes it, the identifier that it has given, the note that it keeps.
    let lines = ["B1,Wren,7,C,old ropes", "B2,Heron,9.5,O,", ",Grebe,6.2,O,new here", "B4,Teal,5.8,O,x"];
    assert_eq!(sent(&desk).lines().skip(1).collect::<Vec<_>>(), lines);
    let changes = desk.read("batch/changes.csv");
    assert!(
        changes.contains("note,,old ropes,held,\"the source is blank, so the target keeps what it holds\""),
        "{changes}"
    );
    desk.run(&["explain", "export.csv", "2", "note"]).ended(0).says(&[
        "the target holds it otherwise, row 2 of held.csv; it is sent",
        "held         \"old ropes\"  the source is blank, so the target keeps what it holds",
    ]);
    desk.run(&["target", "show", "berth_no"]).ended(0).says(&["the target alone hands it out"]);
    // A required field that the export does not feed is what the target holds; a new record has none.
    let partly = self::desk()
        .edited("mapping.toml", "[[map]]\nfield = \"metres\"\nfrom = \"Metres\"\n", "")
        .edited("target.toml", "file = \"held.csv\"", "file = \"held.csv\"\nsend = \"changed\"");
    partly.conform().ended(1).says(&["3 accepted + 1 rejected", "1 sent + 2 not sent"]);
    assert_eq!(sent(&partly).lines().nth(1), Some("B1,Wren,7.0,C,old ropes"));
    let leaves = self::desk().edited(
        "target.toml",
        "line_end = \"lf\"",
        "line_end = \"lf\"\nblank = \"leaves\"\nclearing = \"NULL\"",
    );
    leaves.conform().ended(0);
    assert_eq!(sent(&leaves).lines().nth(1), Some("B1,Wren,7,C,"));
    let clears = leaves.edited("mapping.toml", "from = \"Note\"", "from = \"Note\"\nblank_clears = true");
    let found = json(&compare(&clears, &["--format", "json"]));
    let cleared = found["fields"].as_array().unwrap().iter().map(|field| field["cleared"].as_u64().unwrap());
    assert_eq!(cleared.sum::<u64>(), 1);
    clears.run(&["conform", "export.csv", "-o", "again", "--again", "--today", "2026-06-01"]).ended(0);
    assert_eq!(clears.read("again/upload/up.csv").lines().nth(1), Some("B1,Wren,7,C,NULL"));
    clears
        .edited("target.toml", "\nclearing = \"NULL\"", "")
        .run(&["check", "export.csv"])
        .stops(&["[upload] clearing in target.toml says by what it is cleared"]);
}

#[test]
fn records_are_removed_only_as_far_as_somebody_said() {
    let operation = "[[field]]\nname = \"op\"\ntype = \"text\"\noperation = { new = \"I\", changed = \"U\", same = \"S\", gone = \"D\" }\n";
    let desk = desk().edited("target.toml", "[[field]]", &format!("{operation}[[field]]")).edited(
        "target.toml",
        "[holds]",
        "[holds]\nremove_gone = true\nremove_at_most = \"20 %\"",
    );
    desk.conform()
        .stops(&["1 of the 4 records that the target holds are not in this export", "add --remove 1"]);
    assert!(!desk.exists("batch"));
    let yes = ["conform", "export.csv", "-o", "batch", "--today", "2026-04-30", "--remove"];
    desk.run(&[&yes[..], &["2"]].concat()).stops(&["--remove says 2"]);
    desk.run(&[&yes[..], &["1"]].concat()).ended(0).says(&["1 record that the target is told to remove"]);
    assert_eq!(
        sent(&desk).lines().skip(1).collect::<Vec<_>>(),
        [
            "U,B1,Wren,7,C,old ropes",
            "S,B2,Heron,9.5,O,",
            "I,,Grebe,6.2,O,new here",
            "U,B4,Teal,5.8,O,x",
            "D,B3,Coot,4,C,"
        ]
    );
    let receipt: Value = serde_json::from_str(&desk.read("batch/receipt.json")).unwrap();
    assert_eq!(
        (&receipt["held"]["as_of"], &receipt["held"]["counts"]["removed"]),
        (&"2026-05-31".into(), &1.into())
    );
    assert_eq!(receipt["held"]["lists"][0]["blake3"].as_str().map(str::len), Some(64));
    // A row without a key may be any record, so nothing seems gone for certain.
    let unclear = desk.with("export.csv", &format!("{EXPORT},3.0,open,\n"));
    unclear
        .run(&["conform", "export.csv", "-o", "other", "--today", "2026-06-01", "--remove", "1"])
        .stops(&["1 of the rejected rows have no key that can be read"]);
    // Neither is a record gone that somebody keeps out, nor one whose row is rejected.
    let kept = unclear.with("export.csv", &EXPORT.replace("Teal,5.8", "Teal,long"));
    kept.run(&["correct", "export.csv", "3", "--keep-out", "--note", "not ours"]).ended(0);
    let counts = json(&compare(&kept, &["--format", "json"]))["counts"].clone();
    assert_eq!(counts, serde_json::json!({"new": 1, "changed": 1, "same": 0, "gone": 1}));
    let without = desk_without_word();
    without.run(&["target", "check"]).ended(1).says(&["remove_gone cannot be written into the upload"]);
}

fn desk_without_word() -> Desk {
    desk().edited("target.toml", "[holds]", "[holds]\nremove_gone = true\nremove_at_most = \"20 %\"")
}

#[test]
fn what_somebody_does_not_agree_to_is_kept_out() {
    let desk = desk();
    compare(&desk, &["--sign-off", "agree.xlsx"]).ended(1).says(&["agree.xlsx: 4 records to be agreed to"]);
    compare(&desk, &["--sign-off", "agree.xlsx"]).stops(&["agree.xlsx is there already"]);
    let answered = |answers: &[&str], name: &str| {
        let mut book = Workbook::new();
        let sheet = book.add_worksheet();
        let text = desk.run(&["inspect", "agree.xlsx", "--format", "json"]).out;
        assert!(text.contains("go in"), "{text}");
        let shared = rows_of(&desk, "agree.xlsx");
        for (row, cells) in (0..).zip(&shared) {
            for (column, cell) in (0..).zip(cells) {
                let answer = (row > 0 && column == 0).then(|| answers[row as usize - 1]);
                sheet.write_string(row, column, answer.unwrap_or(cell)).unwrap();
            }
        }
        std::fs::write(desk.path(name), book.save_to_buffer().unwrap()).unwrap();
    };
    answered(&["yes", "no", "yes", ""], "signed.xlsx");
    desk.run(&["correct", "signed.xlsx", "--yes", "--by", "B. Chief"]).ended(0).says(&[
        "2 agreed to, 1 not",
        "row 4  (row)",
        "(keep out)",
    ]);
    desk.conform().ended(0).says(&["3 accepted + 0 rejected + 0 merged + 1 left out"]);
    assert!(!sent(&desk).contains("Grebe"));
    answered(&["perhaps", "", "", ""], "odd.xlsx");
    desk.run(&["correct", "odd.xlsx", "--yes"])
        .stops(&["row 2 of odd.xlsx: \"perhaps\" is neither yes nor no"]);
    answered(&["", "", "", "no"], "gone.xlsx");
    desk.run(&["correct", "gone.xlsx", "--yes"]).stops(&["a record that is gone is not in the export"]);
    let desk = desk.with("export.csv", &EXPORT.replace("6.2", "6.3"));
    desk.run(&["correct", "signed.xlsx", "--yes"])
        .stops(&["is not the export that this workbook was made from"]);
}

/// The cells of the first sheet of a workbook.
fn rows_of(desk: &Desk, book: &str) -> Vec<Vec<String>> {
    use calamine::{Reader as _, Xlsx, open_workbook};
    let mut book: Xlsx<_> = open_workbook(desk.path(book)).unwrap();
    let range = book.worksheet_range_at(0).unwrap().unwrap();
    range.rows().map(|row| row.iter().map(ToString::to_string).collect()).collect()
}

#[test]
fn a_list_may_have_a_mapping_of_its_own_and_be_in_parts() {
    let own = "target = \"target.toml\"\n[[map]]\nfield = \"boat\"\nfrom = \"Craft\"\n[[map]]\nfield = \"metres\"\nfrom = \"Feet\"\nunit = \"ft\"\nround = \"half-up\"\n";
    let desk = desk()
        .edited(
            "target.toml",
            "file = \"held.csv\"",
            "file = [\"held.csv\", \"more.csv\"]\nmapping = \"held.toml\"",
        )
        .edited("target.toml", "decimals = 1", "decimals = 1\nunit = \"m\"")
        .edited("mapping.toml", "from = \"Metres\"", "from = \"Metres\"\nunit = \"m\"")
        .with("held.toml", own)
        .with("held.csv", "Craft;Feet\nHeron;31.2\n")
        .with("more.csv", "Craft;Feet\nTeal;19.1\nTeal II;18\n");
    let found = json(&compare(&desk, &["--format", "json", "--changed"]).ended(1));
    assert_eq!(found["counts"], serde_json::json!({"new": 2, "changed": 0, "same": 2, "gone": 1}));
    assert_eq!(found["lists"].as_array().unwrap().len(), 2);
    // Of whatever the lists do not have nothing is known, so nothing of it is a change.
    let twice = desk.with("more.csv", "Craft;Feet\nHeron;31.2\n");
    compare(&twice, &[]).ended(1).says(&["1 rejected"]);
    twice
        .run(&["check", "export.csv"])
        .ended(1)
        .says(&["is the key of 2 records that the target holds; the first is row 2 of"]);
    let gone = twice.edited("held.toml", "from = \"Craft\"", "from = \"Vessel\"");
    compare(&gone, &[]).stops(&["held.csv", "Vessel"]);
}

#[test]
fn an_old_list_is_said_and_what_the_last_batch_sent_is_not_taken_for_held() {
    let desk = desk();
    desk.run(&["conform", "export.csv", "--today", "2026-06-30"]).ended(0);
    let next = desk.with("export.csv", &EXPORT.replace("5.8", "5.9"));
    let ran = next.run(&["compare", "export.csv", "--new", "--today", "2026-07-31"]).ended(1);
    assert!(ran.err.contains("listed as of 31 May 2026, before batch 2026-06-30-a"), "{}", ran.err);
    ran.says(&["+ Grebe", "in batch 2026-06-30-a already, which is not known to be loaded"]);
    next.run(&["check", "export.csv", "--today", "2026-07-31"])
        .ended(0)
        .says(&["1 of the new ones was in batch 2026-06-30-a already"]);
}

#[test]
fn only_new_records_go_where_the_target_takes_no_others() {
    let desk = desk().edited("target.toml", "[holds]", "[holds]\nsend = \"new\"");
    desk.conform().ended(0).says(&["1 sent + 3 not sent"]);
    assert_eq!(sent(&desk).lines().count(), 2);
    let rejects =
        self::desk().edited("target.toml", "[holds]", "[holds]\nsend = \"new\"\nknown = \"reject\"");
    rejects
        .conform()
        .ended(1)
        .says(&["1 accepted + 3 rejected", "is held by the target already, row 2 of held.csv"]);
    let wrong = rejects.edited("target.toml", "send = \"new\"", "send = \"all\"");
    wrong.run(&["target", "check"]).ended(1).says(&["known goes with send = \"new\""]);
}

#[test]
fn a_template_is_filled_with_what_the_target_holds_edited_and_compared() {
    let desk = desk();
    desk.run(&["target", "blank", "-o", "edit.csv", "--rows"]).ended(0).says(&["filled with 4 rows"]);
    let edited =
        desk.read("edit.csv").replace("9.5", "9.9").replace("B3,Coot,4,C,\n", "") + ",Dunlin,3.5,O,\n";
    let desk = desk.with("edit.csv", &edited);
    desk.run(&["map", "edit.csv", "-t", "target.toml", "-m", "edit.toml"]).ended(0);
    let ran = desk.run(&[
        "compare",
        "edit.csv",
        "-m",
        "edit.toml",
        "--format",
        "json",
        "--changed",
        "--new",
        "--gone",
    ]);
    let found = json(&ran);
    assert_eq!(found["counts"], serde_json::json!({"new": 1, "changed": 1, "same": 2, "gone": 1}), "{found}");
    let said: Vec<&str> =
        found["records"].as_array().unwrap().iter().map(|record| record["key"].as_str().unwrap()).collect();
    assert_eq!(said, ["Heron", "Dunlin", "Coot"]);
    // An identifier that was typed or copied is none that the target has given.
    let typed = desk.with("edit.csv", &edited.replace("\n,Dunlin", "\nB9,Dunlin").replace("B4,", "B2,"));
    typed.run(&["check", "edit.csv", "-m", "edit.toml"]).ended(1).says(&[
        "berth_no  \"B9\"  is not an identifier that the target has handed out",
        "berth_no  \"B2\"  is the identifier of another record; the other fields are those of \"B4\"",
    ]);
}

#[test]
fn a_held_value_that_the_upload_cannot_hold_rejects_its_row_alone() {
    let desk = desk()
        .edited("target.toml", "line_end = \"lf\"", "line_end = \"lf\"\nencoding = \"windows-1252\"")
        .with("held.csv", &HELD.replace("old ropes", "old \u{2603} ropes"));
    desk.run(&["conform", "export.csv", "--today", "2026-06-01", "-o", "batch", "--all-causes"])
        .ended(1)
        .says(&[
            "note  \"old \u{2603} ropes\"  is what the target holds here, which must be sent as it is",
            "which windows-1252 does not have",
        ]);
    let sent = desk.read("batch/upload/up.csv");
    let widths: Vec<usize> = sent.lines().map(|line| line.matches(',').count()).collect();
    assert!(widths.len() > 1 && widths.iter().all(|width| *width == widths[0]), "{sent}");
}
