//! Nothing is lost: two runs at once, runs that are ended in the middle, readers that go away.

use std::path::Path;
use std::process::Stdio;
use std::time::Duration;

use crate::abuse::tries;
use crate::desk::Desk;

/// What starts at the same moment, and how each ended.
fn at_once(desk: &Desk, commands: &[Vec<String>]) {
    let start = |words: &Vec<String>| {
        let words: Vec<&str> = words.iter().map(String::as_str).collect();
        desk.command(&words).stdout(Stdio::null()).stderr(Stdio::piped()).spawn().unwrap()
    };
    let running: Vec<_> = commands.iter().map(start).collect();
    for child in running {
        let done = child.wait_with_output().unwrap();
        assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    }
}

fn words(text: &str) -> Vec<String> {
    text.split(' ').map(str::to_owned).collect()
}

#[test]
fn decisions_that_are_recorded_at_the_same_moment_are_all_kept() {
    let desk = Desk::new();
    let adds: Vec<Vec<String>> =
        (0..12).map(|number| words(&format!("crosswalk add queen shade-{number} Y"))).collect();
    at_once(&desk, &adds);
    let kept = desk.read("crosswalks/queen.csv");
    assert_eq!(kept.lines().count(), 13, "{kept}");
    let rows = desk.read("export.csv").lines().count() - 1;
    let corrections: Vec<Vec<String>> = (0..8)
        .map(|number| words(&format!("correct export.csv {} Honey {number}.25", 2 + number % rows)))
        .collect();
    at_once(&desk, &corrections);
    let kept = desk.read("corrections/export.csv");
    assert_eq!(kept.lines().count(), 1 + rows.min(8), "{kept}");
    // Nothing but the files themselves is left in the folders.
    assert_eq!(desk.names("crosswalks"), ["queen.csv"]);
    assert_eq!(desk.names("corrections"), ["export.csv"]);
}

#[test]
fn a_batch_that_was_whole_when_its_run_was_ended_is_completed() {
    let desk = Desk::new();
    let conform =
        |words: &[&str]| desk.run(&[&["conform", "export.csv", "--today", "2026-04-30"], words].concat());
    conform(&[]).ended(1);
    let at = |name: &str| desk.path(&format!("batches/{name}"));
    // Ended before it had its name.
    std::fs::rename(at("2026-04-30-a"), at(".unfinished-2026-04-30-a-77")).unwrap();
    conform(&[]).stops(&["export.csv was in batch 2026-04-30-a of 30 Apr 2026 already", "it has it now"]);
    // Ended between taking the place of another and putting that aside.
    conform(&["--again"]).ended(1);
    std::fs::rename(at("replaced/2026-04-30-a-1"), at(".unfinished-2026-04-30-a-78")).unwrap();
    let said = desk.run(&["batches"]).ended(0).err;
    assert!(said.contains("had taken the place of the one before"), "{said}");
    assert_eq!(desk.names("batches"), ["2026-04-30-a", "replaced"]);
    assert_eq!(desk.names("batches/replaced"), ["2026-04-30-a-1"]);
}

#[test]
fn a_receipt_that_cannot_be_read_stops_the_next_run_instead_of_letting_it_pass() {
    for damage in [None, Some(""), Some("{\"form\": 1, \"batch\": \"april\"")] {
        let desk = Desk::new();
        let conform = || desk.run(&["conform", "export.csv", "--today", "2026-04-30"]);
        conform().ended(1);
        let receipt = desk.path("batches/2026-04-30-a/receipt.json");
        match damage {
            None => std::fs::remove_file(receipt).unwrap(),
            Some(text) => std::fs::write(receipt, text).unwrap(),
        }
        conform().stops(&[
            "so the content of batch 2026-04-30-a is not known",
            "put its receipt back from a copy",
        ]);
        desk.run(&["batches"]).ended(1);
        std::fs::create_dir(desk.path("batches/replaced")).unwrap();
        std::fs::rename(desk.path("batches/2026-04-30-a"), desk.path("batches/replaced/april")).unwrap();
        conform().ended(1);
    }
    // A folder of the steward's own is no batch.
    let desk = Desk::new().with("batches/notes/letter.txt", "x");
    desk.run(&["conform", "export.csv", "--today", "2026-04-30"]).ended(1);
}

#[test]
fn the_exit_status_tells_how_it_ended_though_nobody_reads_to_the_end() {
    let desk = Desk::new();
    let mut child =
        desk.command(&["conform", "export.csv", "-o", "batch"]).stdout(Stdio::piped()).spawn().unwrap();
    drop(child.stdout.take());
    assert_eq!(child.wait().unwrap().code(), Some(1));
    assert!(desk.exists("batch/receipt.json"));
}

const REJECTED: &str =
    "No,Date,Queen,Honey\n117,31/02/2026,yel.,10\n290,25/04/2026,wht,about 5\n300,26/04/2026,white,-3\n";

#[test]
fn a_file_of_rejects_that_is_cut_off_anywhere_clears_no_cell() {
    let desk = Desk::new().with("export.csv", REJECTED);
    desk.conform().ended(1);
    let whole = desk.read("batch/rejects.csv");
    let ends: Vec<usize> = whole.match_indices('\n').map(|(at, _)| at + 1).collect();
    let mut refused = 0;
    for cut in (1..whole.len()).step_by(7).chain(ends.iter().flat_map(|end| [end - 1, *end])) {
        desk.with_again("rejects.csv", whole.get(..cut).unwrap());
        let ran = desk.run(&["correct", "rejects.csv", "--yes"]);
        assert!(!desk.exists("corrections"), "cut after {cut} bytes: {ran:?}");
        refused += usize::from(ran.status == 2);
    }
    assert!(refused > 40, "{refused}");
}

#[test]
fn cells_that_have_moved_and_rows_of_another_length_are_refused_and_cleared_ones_shown() {
    let desk = Desk::new().with("export.csv", REJECTED);
    desk.conform().ended(1);
    let whole = desk.read("batch/rejects.csv");
    let back = |from: &str, to: &str| {
        assert!(whole.contains(from), "{whole}");
        desk.with_again("rejects.csv", &whole.replace(from, to));
        desk.run(&["correct", "rejects.csv", "--yes"])
    };
    back("290,25/04/2026,wht,about 5", "290,25/04/2026,wht")
        .stops(&["has fewer cells than there are headings"]);
    back("290,25/04/2026,wht,about 5", "290,25/04/2026,wht,about 5,,,6").stops(&["cells, and there are"]);
    // A cell was taken out, and the ones behind it have followed.
    back("290,25/04/2026,wht,about 5", "25/04/2026,wht,about 5,").stops(&["from No on its cells have moved"]);
    back("290,25/04/2026,wht,about 5", ",290,25/04/2026,wht").stops(&["its cells have moved"]);
    assert!(!desk.exists("corrections"));
    back("wht,about 5", "wht,").ended(0).says(&["\"about 5\"", "(cleared)"]);
}

#[test]
fn a_source_that_changes_while_it_is_read_makes_no_batch() {
    let rows: String = (0..60_000).map(|number| format!("{},2026-04-03,W,4.5\n", 100_000 + number)).collect();
    let whole = format!("No,Date,Queen,Honey\n{rows}");
    let changes: [fn(&Path, &str); 3] = [
        |path, _| std::fs::OpenOptions::new().write(true).open(path).unwrap().set_len(40_010).unwrap(),
        |path, whole| std::fs::write(path, whole.replacen("4.5", "9.9", 1)).unwrap(),
        |path, whole| {
            std::fs::write(path.with_extension("new"), format!("{whole}999999,2026-04-03,W,1\n")).unwrap();
            std::fs::rename(path.with_extension("new"), path).unwrap();
        },
    ];
    let hash = |text: &[u8]| blake3::hash(text).to_hex().to_string();
    let (mut stopped, tries) = (0, tries(40) / 5);
    for (number, change) in changes.into_iter().cycle().take(tries).enumerate() {
        let desk = Desk::new().with("export.csv", &whole);
        let mut command = desk.command(&["conform", "export.csv", "-o", "batch"]);
        let child = command.stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
        std::thread::sleep(Duration::from_millis(10 + 13 * (number as u64 % 20)));
        change(&desk.path("export.csv"), &whole);
        let ended = child.wait_with_output().unwrap();
        let says = String::from_utf8(ended.stderr).unwrap();
        if ended.status.code() == Some(2) {
            assert!(says.contains("has changed while it was read"), "{says}");
            assert!(!desk.exists("batch"));
            stopped += 1;
        } else {
            // It was read to its end before the change, or opened after it: a batch is of one file that was there.
            let receipt: serde_json::Value = serde_json::from_str(&desk.read("batch/receipt.json")).unwrap();
            let read = receipt["sources"][0]["blake3"].as_str().unwrap();
            assert!(
                read == hash(whole.as_bytes()) || read == hash(&desk.read_bytes("export.csv")),
                "{receipt}"
            );
        }
    }
    println!("{tries} changes of a source: {stopped} stopped the run, the others came before it or after it");
    assert!(stopped > 0);
}

#[test]
fn of_two_runs_at_once_one_makes_the_batch_and_the_other_sends_nothing() {
    for _ in 0..tries(8) / 4 {
        let target = crate::desk::TARGET.replace(
            "delimiter = \";\"\nline_end = \"lf\"\n",
            "format = \"database\"\ndatabase = \"register.db\"\ntable = \"visits\"\n",
        );
        let desk = Desk::new().with("target.toml", &target.replace("file_name = \"up-{part}.csv\"\n", ""));
        let register = rusqlite::Connection::open(desk.path("register.db")).unwrap();
        let columns = "apiary_id TEXT, visit_date TEXT, queen TEXT, honey_kg TEXT";
        register.execute_batch(&format!("CREATE TABLE visits ({columns})")).unwrap();
        let words = ["conform", "export.csv", "--today", "2026-04-30"];
        let start = || desk.command(&words).stdout(Stdio::null()).stderr(Stdio::piped()).spawn().unwrap();
        let ended = [start(), start()].map(|child| child.wait_with_output().unwrap());
        let mut statuses = ended.each_ref().map(|done| done.status.code().unwrap());
        statuses.sort_unstable();
        let says: Vec<String> =
            ended.iter().map(|done| String::from_utf8_lossy(&done.stderr).into_owned()).collect();
        assert_eq!(statuses, [1, 2], "{says:?}");
        let rows: i64 = register.query_row("SELECT count(*) FROM visits", [], |row| row.get(0)).unwrap();
        assert_eq!((rows, desk.names("batches")), (1, vec!["2026-04-30-a".to_owned()]), "{says:?}");
    }
}

#[test]
fn rows_that_may_be_in_a_table_stop_the_next_run() {
    let desk = Desk::new();
    desk.run(&["conform", "export.csv", "--today", "2026-04-30"]).ended(1);
    let unfinished = desk.path("batches/.unfinished-2026-04-30-a-99");
    std::fs::rename(desk.path("batches/2026-04-30-a"), &unfinished).unwrap();
    std::fs::write(unfinished.join("loading"), "the table visits of register.db").unwrap();
    let conform = || desk.run(&["conform", "export.csv", "--today", "2026-04-30"]);
    conform().stops(&["its rows went into the table visits of register.db", "if so, rename"]);
    // They are there, so it is a batch.
    std::fs::rename(&unfinished, desk.path("batches/2026-04-30-a")).unwrap();
    conform().stops(&["was in batch 2026-04-30-a"]);
}

#[test]
fn a_row_wider_than_a_sheet_has_a_batch_without_the_workbook() {
    let wide: String = (0..16_400).map(|number| format!(",x{number}")).collect();
    let export = format!("No,Date,Queen,Honey{wide}\n117,03/04/2026,pink,10{}\n", ",1".repeat(16_400));
    let desk = Desk::new().with("export.csv", &export);
    let ran = desk.conform().ended(1);
    assert!(ran.err.contains("there is no rejects.xlsx, since a row has more cells"), "{}", ran.err);
    assert!(desk.exists("batch/rejects.csv") && !desk.exists("batch/rejects.xlsx"));
}
