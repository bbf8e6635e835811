//! Batches: what is in the folder, and that it is there whole or not at all.

use std::fs;
use std::time::{Duration, Instant};

use serde_json::Value;

use crate::desk::{Desk, Ran};

#[test]
fn a_batch_holds_everything_that_the_receipt_names() {
    let desk = Desk::new();
    desk.conform().ended(1).says(&["batch/", "upload/up-1.csv", "2 rows read = 1 accepted + 1 rejected"]);
    assert_eq!(
        desk.names("batch"),
        [
            "changes.csv",
            "findings.csv",
            "memory.json",
            "receipt.json",
            "records.bin",
            "rejects.csv",
            "rejects.xlsx",
            "report.html",
            "rows.csv",
            "upload"
        ]
    );
    assert_eq!(
        desk.read("batch/upload/up-1.csv"),
        "apiary_id;visit_date;queen;honey_kg\n000117;2026-04-03;W;4.5\n"
    );
    assert_eq!(
        desk.read("batch/rejects.csv"),
        "reasons,source,row,line,print,No,Date,Queen,Honey,beyond the header\n\
         \"Queen \"\"yel.\"\" is not a code or label of queen (right: nearest: Yellow)\",export.csv,3,3,\
         4f2678877f3cb5d2 batch,290,25/04/2026,yel.,4.5,\n"
    );
    assert_eq!(
        desk.read("batch/findings.csv"),
        "source,row,line,severity,finding,about,value,wrong,right\n\
         export.csv,3,3,reject,not-a-code,queen,yel.,is not a code or label of queen,nearest: Y Yellow\n"
    );
    let receipt: Value = serde_json::from_str(&desk.read("batch/receipt.json")).unwrap();
    assert_eq!(
        receipt["totals"],
        serde_json::json!({"read": 2, "accepted": 1, "rejected": 1, "merged": 0, "left_out": 0})
    );
    assert_eq!((&receipt["today"], &receipt["changed_cells"]), (&"2026-04-30".into(), &4.into()));
    assert_eq!(receipt["findings"], serde_json::json!({"not-a-code": 1}));
    assert_eq!(receipt["settings"].as_array().unwrap().len(), 3);
    let files = receipt["outputs"]
        .as_array()
        .unwrap()
        .iter()
        .map(|output| ("batch/".to_owned() + output["file"].as_str().unwrap(), output));
    let source = [("export.csv".to_owned(), &receipt["sources"][0])];
    for (file, print) in files.chain(source) {
        let bytes = desk.read_bytes(&file);
        assert_eq!(print["bytes"], bytes.len(), "{file}");
        assert_eq!(print["blake3"], blake3::hash(&bytes).to_hex().as_str(), "{file}");
    }
}

#[test]
fn the_same_inputs_make_the_same_bytes() {
    let (one, two) = (Desk::new(), Desk::new());
    for desk in [&one, &two] {
        desk.conform().ended(1);
    }
    for file in ["receipt.json", "rejects.csv", "findings.csv", "changes.csv", "upload/up-1.csv"] {
        assert_eq!(one.read(&format!("batch/{file}")), two.read(&format!("batch/{file}")), "{file}");
    }
}

#[test]
fn batches_of_a_day_are_lettered_and_none_is_overwritten() {
    let mut desk = Desk::new();
    for more in ["", "291,25/04/2026,white,1\n"] {
        let export = desk.read("export.csv") + more;
        desk = desk.with("export.csv", &export);
        desk.run(&["conform", "export.csv", "--today", "2026-04-30"]).ended(1);
    }
    assert_eq!(desk.names("batches"), ["2026-04-30-a", "2026-04-30-b"]);
    let desk = Desk::new().with("batch/mine.txt", "mine");
    desk.conform().stops(&["batch exists already and is not overwritten"]);
    assert_eq!(desk.names("batch"), ["mine.txt"]);
}

#[test]
fn a_source_is_never_written_to() {
    let desk = Desk::new();
    let before =
        (desk.read("export.csv"), fs::metadata(desk.path("export.csv")).unwrap().modified().unwrap());
    desk.conform().ended(1);
    assert_eq!(
        before,
        (desk.read("export.csv"), fs::metadata(desk.path("export.csv")).unwrap().modified().unwrap())
    );
}

#[test]
fn a_run_that_stops_half_way_leaves_no_folder() {
    // That the dates were half converted is certain when everything before has been written.
    let rows: String = (1..60_000).map(|number| format!("{number},25/04/2026,white,1\n")).collect();
    let desk = Desk::new().with("export.csv", &format!("No,Date,Queen,Honey\n{rows}9,2026-03-04,white,1\n"));
    desk.conform().stops(&["half converted"]);
    assert_eq!(desk.names("."), ["codes", "export.csv", "mapping.toml", "target.toml"]);
}

#[test]
fn a_run_that_is_killed_half_way_leaves_no_batch_and_the_next_one_clears_up() {
    let rows: String =
        (0..400_000).map(|number| format!("{},03/04/2026,white,1\n", number % 999_999)).collect();
    let desk = Desk::new().with("export.csv", &format!("No,Date,Queen,Honey\n{rows}"));
    let mut child = desk.command(&["conform", "export.csv", "-o", "batches/one", "--quiet"]).spawn().unwrap();
    let began = Instant::now();
    let unfinished = |desk: &Desk| {
        let mut names = desk.names("batches").into_iter();
        names.any(|name| name.starts_with(".unfinished-") && desk.exists(&format!("batches/{name}/lock")))
    };
    while !unfinished(&desk) && began.elapsed() < Duration::from_secs(20) {
        std::thread::sleep(Duration::from_millis(1));
    }
    child.kill().unwrap();
    child.wait().unwrap();
    assert!(!desk.exists("batches/one"), "{:?}", desk.names("batches"));
    let small = desk.with("export.csv", "No,Date,Queen,Honey\n1,03/04/2026,white,1\n");
    small.run(&["conform", "export.csv", "-o", "batches/two"]).ended(0);
    assert_eq!(small.names("batches"), ["two"]);
}

#[test]
fn a_folder_that_cannot_be_written_to_is_said() {
    let desk = Desk::new().with("file", "");
    desk.run(&["conform", "export.csv", "-o", "file/batch"]).stops(&["file", "cannot be written"]);
    if cfg!(target_os = "linux") {
        // No user, not even root, may make a folder there.
        desk.run(&["conform", "export.csv", "-o", "/proc/batch"]).stops(&["/proc", "cannot be written"]);
    }
}

#[test]
#[cfg(unix)]
fn a_disk_that_fills_up_is_said_and_leaves_nothing() {
    let rows: String = (1..40_000).map(|number| format!("{number},03/04/2026,white,1\n")).collect();
    let desk = Desk::new().with("export.csv", &format!("No,Date,Queen,Honey\n{rows}"));
    // A limit on the size of files fails as a full disk does, without filling one.
    let mut command = std::process::Command::new("sh");
    let script = format!(
        "trap '' XFSZ; ulimit -f 200; exec {} conform export.csv -o batch",
        env!("CARGO_BIN_EXE_dusk")
    );
    command.args(["-c", &script]).current_dir(desk.path("."));
    Ran::of(command).stops(&["csv: cannot be written", "free some space"]);
    assert!(!desk.names(".").iter().any(|name| name.contains("batch")), "{:?}", desk.names("."));
}

#[test]
fn check_writes_nothing() {
    let desk = Desk::new();
    let before = desk.names(".");
    desk.run(&["check", "export.csv"]).ended(1);
    assert_eq!(desk.names("."), before);
}

#[test]
fn a_million_different_wrong_values_do_not_fill_the_causes() {
    let rows: String = (0..30_000).map(|number| format!("{number},03/04/2026,pink{number},1\n")).collect();
    // So many right ones that the column as a whole is not to blame.
    let rest: String = (40_000..42_000).map(|number| format!("{number},03/04/2026,white,1\n")).collect();
    let desk = Desk::new().with("export.csv", &format!("No,Date,Queen,Honey\n{rows}{rest}"));
    let result = desk.check();
    let causes = result["causes"].as_array().unwrap();
    let total: u64 = causes.iter().map(|cause| cause["count"].as_u64().unwrap()).sum();
    assert_eq!((causes.len(), total), (20_001, 30_000));
    assert_eq!((&causes[0]["count"], &causes[0]["value"]), (&10_000.into(), &Value::Null));
}

#[test]
fn changes_are_counted_as_often_as_they_were_made_and_only_in_accepted_rows() {
    // More different values than are remembered and than are counted in memory at once, and a
    // rejected row at the end.
    let rows: String =
        (0..120_000).map(|number| format!("{},03/04/2026,white,{}\n", number, number % 60_000)).collect();
    let desk = Desk::new().with("export.csv", &format!("No,Date,Queen,Honey\n{rows}7,03/04/2026,white,9\n"));
    desk.conform().ended(1).says(&["120,001 rows read = 120,000 accepted + 1 rejected"]);
    let changes = desk.read("batch/changes.csv");
    let mut list = csv::Reader::from_reader(changes.as_bytes());
    let mut rows_of: std::collections::BTreeMap<String, (u64, u64)> = Default::default();
    for record in list.records().map(Result::unwrap) {
        let (count, rows) = rows_of.entry(record[0].to_owned()).or_default();
        *count += 1;
        *rows += record[5].parse::<u64>().unwrap();
    }
    assert_eq!(rows_of["honey_kg"], (60_000, 120_000));
    assert_eq!(rows_of["visit_date"], (1, 120_000));
    assert_eq!(rows_of["queen"], (1, 120_000));
    assert_eq!(rows_of["apiary_id"].1, 100_000, "the shorter numbers lost their zeros");
    let receipt: Value = serde_json::from_str(&desk.read("batch/receipt.json")).unwrap();
    assert_eq!(receipt["changed_cells"], 460_000);
}

#[test]
fn the_same_source_twice_is_refused_and_replaced_on_purpose() {
    let desk = Desk::new();
    let conform = ["conform", "export.csv", "--today", "2026-04-30", "--by", "A. Clerk"];
    desk.run(&conform).ended(1);
    let first = desk.read("batches/2026-04-30-a/receipt.json");
    assert!(first.contains("\"by\": \"A. Clerk\""), "{first}");
    desk.run(&conform).stops(&["export.csv was in batch 2026-04-30-a of 30 Apr 2026 already", "--again"]);
    assert_eq!(desk.names("batches"), ["2026-04-30-a"]);
    desk.run(&["crosswalk", "add", "queen", "yel.", "Y"]).ended(0);
    desk.run(&[&conform[..], &["--again"]].concat()).ended(0).says(&["2 accepted"]);
    assert_eq!(desk.names("batches"), ["2026-04-30-a", "replaced"]);
    assert_eq!(desk.read("batches/replaced/2026-04-30-a-1/receipt.json"), first, "the old one is kept");
    // A copy of the mapping makes one beside it, when that is said.
    let other = desk.read("mapping.toml");
    let desk = desk.with("other.toml", &other);
    let by_other = ["conform", "export.csv", "-m", "other.toml", "--today", "2026-04-30"];
    desk.run(&by_other).stops(&["byte for byte, by mapping.toml", "that one stays where it is"]);
    desk.run(&[&by_other[..], &["--again"]].concat()).ended(0);
    assert_eq!(desk.names("batches"), ["2026-04-30-a", "2026-04-30-b", "replaced"]);
}

#[test]
fn the_same_source_is_known_wherever_its_batch_was_put_and_however_the_mapping_is_called() {
    let desk = Desk::new();
    desk.conform().ended(1);
    let next = ["conform", "export.csv", "--today", "2026-05-31"];
    desk.run(&next)
        .stops(&["export.csv was in batch batch of 30 Apr 2026 already", "the old one is kept in replaced"]);
    fs::rename(desk.path("mapping.toml"), desk.path("hives.toml")).unwrap();
    let renamed = ["conform", "export.csv", "-m", "hives.toml", "--today", "2026-05-31"];
    desk.run(&renamed).stops(&["export.csv was in batch batch of 30 Apr 2026 already"]);
    desk.run(&[&renamed[..], &["-o", "there/may", "--again"]].concat()).ended(1);
    assert_eq!(desk.names("replaced"), ["batch-1"], "the old one was put aside");
    assert!(!desk.exists("batch"));
    desk.run(&renamed).stops(&["export.csv was in batch there/may of 31 May 2026 already"]);
    desk.run(&["batches", "-m", "hives.toml"]).ended(0).says(&["there/may", "31 May 2026"]);
    // What is new next month is told by the renamed mapping as well.
    let rows: String = (0..40).map(|row| format!("{},25/05/2026,pink,{row}00\n", 300 + row)).collect();
    let june = desk.with("june.csv", &format!("No,Date,Queen,Honey\n{rows}"));
    june.run(&["check", "june.csv", "-m", "hives.toml"]).says(&["since batch may"]);
}

#[test]
fn a_batch_that_cannot_be_noted_is_made_all_the_same_and_that_is_said() {
    let desk = Desk::new().with("batches/elsewhere.txt/taken", "");
    let ran = desk.run(&["conform", "export.csv", "-o", "there", "--today", "2026-04-30"]).ended(1);
    assert!(ran.err.contains("the next run will not know batch there, since"), "{}", ran.err);
    assert!(desk.exists("there/receipt.json"));
}

#[test]
fn a_batch_in_which_nothing_was_accepted_stands_in_nobodys_way() {
    let desk = Desk::new().with("export.csv", "No,Date,Queen,Honey\n290,25/04/2026,yel.,4.5\n");
    desk.run(&["conform", "export.csv", "--today", "2026-04-30"]).ended(1).says(&["0 accepted"]);
    desk.run(&["crosswalk", "add", "queen", "yel.", "Y"]).ended(0);
    desk.run(&["conform", "export.csv", "--today", "2026-04-30"]).ended(0).says(&["1 accepted"]);
    assert_eq!(desk.names("batches"), ["2026-04-30-a", "2026-04-30-b"]);
}

#[test]
fn batches_are_listed_and_an_edited_file_is_noticed() {
    let desk = Desk::new();
    desk.run(&["batches"]).ended(0).says(&["no batch was made yet in batches"]);
    desk.run(&["conform", "export.csv", "--today", "2026-04-30"]).ended(1);
    desk.run(&["batches"]).ended(0).says(&[
        "in batches:",
        "2026-04-30-a",
        "clerk",
        "export.csv",
        "as written",
    ]);
    desk.run(&["batches", "show", "batches/2026-04-30-a"]).ended(0).says(&[
        "made        30 Apr 2026 by clerk",
        "2 read = 1 accepted + 1 rejected",
        "  as written\n",
    ]);
    desk.run(&["batches", "show", "2026-04-30-b"]).stops(&["there is no batch 2026-04-30-b", "2026-04-30-a"]);
    let edited = desk.edited("batches/2026-04-30-a/upload/up-1.csv", "000117", "000118");
    std::fs::remove_file(edited.path("batches/2026-04-30-a/changes.csv")).unwrap();
    edited.run(&["batches"]).ended(1).says(&["upload/up-1.csv", "edited, changes.csv", "gone"]);
    edited
        .run(&["batches", "show", "2026-04-30-a"])
        .ended(1)
        .says(&["edited since; make the batch again instead"]);
    edited.run(&["conform", "export.csv"]).stops(&["2 of its files are not as they were written"]);
    let broken = edited.with("batches/2026-05-01-a/receipt.json", "{}");
    broken.run(&["batches"]).ended(1).says(&["2026-05-01-a", "no receipt"]);
    let ran = broken.run(&["batches", "--format", "json"]).ended(1);
    let json: serde_json::Value = serde_json::from_str(&ran.out).unwrap();
    assert_eq!(json["batches"][1]["receipt"]["totals"]["accepted"], 1);
}

#[test]
fn what_is_new_since_the_last_batch_is_said_first() {
    let rows = |queen: &str| -> String {
        (0..40).map(|number| format!("{number},25/04/2026,{queen},1\n")).collect()
    };
    let desk = Desk::new().with("export.csv", &format!("No,Date,Queen,Honey\n{}", rows("white")));
    desk.run(&["check", "export.csv"]).ended(0);
    desk.run(&["conform", "export.csv", "--today", "2026-04-30"]).ended(0);
    let same = desk.run(&["check", "export.csv"]).ended(0);
    assert!(!same.out.contains("new since"), "{}", same.out);
    let desk = desk.with(
        "may.csv",
        "Date,No,Queen,Honey\n25/04/2026,77,violet,\n2026-05-25,78,WHITE,\n25/05/2026,79,,2\n",
    );
    let ran = desk.run(&["check", "may.csv"]).ended(1).says(&[
        "new since batch 2026-04-30-a: ",
        "the columns are in another order",
        "queen: values never seen before: \"violet\"\n",
        "visit_date: values of a shape never seen before, like \"9999-99-99\"",
        "honey_kg: 2 of 3 cells are blank, and 0 of 40 were",
        "1 of 3 rows are rejected, and 0 of 40 were",
    ]);
    assert!(ran.out.starts_with("new since batch"), "{}", ran.out);
    let desk = desk.with("june.csv", "No,Date,Queen,Honey,Scale\n80,25/06/2026,white,1,20\n");
    for command in ["check", "conform"] {
        desk.run(&[command, "june.csv"]).stops(&[
            "new since batch 2026-04-30-a",
            "\"Scale\"",
            "dusk map june.csv",
        ]);
    }
    let desk = desk.with("july.csv", "No,Date,Queen colour,Honey\n80,25/06/2026,white,1\n");
    desk.run(&["check", "july.csv"])
        .stops(&["has no column \"Queen\"", "may be called \"Queen colour\" now"]);
    let desk = desk.edited("mapping.toml", "from = \"Queen\"", "from = \"Queen colour\"");
    desk.run(&["check", "july.csv"])
        .ended(0)
        .says(&["queen: is from \"Queen colour\" now, and was from \"Queen\""]);
}
