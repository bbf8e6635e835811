//! A batch handed over, answered, followed by its rest, and confirmed.

use std::io::{BufRead as _, BufReader};
use std::process::{Child, Stdio};

use serde_json::Value;

use crate::desk::{Desk, Ran};

const TARGET: &str = "[target]\nname = \"Quay museum: loans\"\n[upload]\ndelimiter = \";\"\nfile_name = \"loans-{batch}.csv\"\n\
[[field]]\nname = \"piece\"\ntype = \"text\"\ndigits = 4\nkey = true\n\
[[field]]\nname = \"kg\"\ntype = \"decimal\"\ndecimals = 1\nunit = \"kg\"\n\
[[field]]\nname = \"note\"\ntype = \"text\"\n";

const MAPPING: &str = "target = \"target.toml\"\n[[map]]\nfield = \"piece\"\nfrom = \"Piece\"\n\
[[map]]\nfield = \"kg\"\nfrom = \"Weight\"\nunit = \"kg\"\n[[map]]\nfield = \"note\"\nfrom = \"Remark\"\n";

const FOLDER: &str = "[delivery]\nfolder = \"drop\"\nanswers = \"drop/answers\"\n";

const ANSWER: &str = "[answer]\nline = \"Line\"\nkey = \"Piece\"\noutcome = \"Result\"\nloaded = \"in\"\nwarned = \"in, look\"\n\
refused = \"out\"\nreason = \"Why\"\nnumber = \"Given\"\n";

const BATCH: &str = "2026-05-02-a";
const REST: &str = "2026-05-02-b";

/// The upload file of the first batch.
const FILE: &str = "loans-2026-05-02-a.csv";

/// Rows 2 to 9; the remark of row 4 has two lines, so the records after it begin a line later than their row.
const EXPORT: &str =
    "Piece,Weight,Remark\n1,1.5,a\n2,2.5,b\n3,3,\"two\nlines\"\n4,4,d\n5,5,e\n6,6,f\n7,7,g\n8,8,h\n";

fn desk_with(more: &str) -> Desk {
    let desk = Desk::empty()
        .with("target.toml", &format!("{TARGET}{more}"))
        .with("mapping.toml", MAPPING)
        .with("loans.csv", EXPORT);
    std::fs::create_dir_all(desk.path("drop/answers")).unwrap();
    conform(&desk, &["loans.csv"]).ended(0);
    desk
}

fn conform(desk: &Desk, words: &[&str]) -> Ran {
    on_the_day(desk, &[&["conform"], words].concat())
}

/// Runs a command on the day of the batches.
fn on_the_day(desk: &Desk, words: &[&str]) -> Ran {
    desk.run(&[words, &["--today", "2026-05-02", "--by", "clerk"]].concat())
}

fn counts(desk: &Desk, words: &[&str]) -> Vec<u64> {
    let ran = desk.run(&[words, &["--format", "json"]].concat());
    let json: Value = serde_json::from_str(&ran.out).unwrap_or_else(|_| panic!("{}", ran.err));
    ["loaded", "warned", "refused", "not_there", "not_mentioned"]
        .iter()
        .map(|name| json["counts"][name].as_u64().unwrap())
        .collect()
}

#[test]
fn a_file_goes_once_and_only_where_it_may() {
    let desk = desk_with(&format!(
        "{FOLDER}needs_approval = true\nname = \"Q-{{file}}\"\nready = \"{{name}}.ok\"\n"
    ));
    on_the_day(&desk, &["deliver", BATCH]).stops(&["is not approved", "dusk approve 2026-05-02-a"]);
    on_the_day(&desk, &["turn-down", BATCH, "--why", "kilos, not pounds"]).ended(0);
    on_the_day(&desk, &["deliver", BATCH]).stops(&["was turned down: kilos, not pounds"]);
    on_the_day(&desk, &["approve", BATCH]).ended(0).says(&["8 records", "sum 37"]);
    let upload = format!("batches/{BATCH}/upload/{FILE}");
    let written = desk.read(&upload);
    let desk = desk.with(&upload, &written.replace("1.5", "9.5"));
    on_the_day(&desk, &["deliver", BATCH])
        .stops(&["is not as the batch wrote it", "an edited file is never sent"]);
    let desk = desk.with(&upload, &written).with(&format!("drop/Q-{FILE}"), "somebody else's");
    on_the_day(&desk, &["deliver", BATCH]).stops(&["is there already, and is not this file"]);
    std::fs::remove_file(desk.path(&format!("drop/Q-{FILE}"))).unwrap();
    on_the_day(&desk, &["deliver", BATCH]).ended(0).says(&["delivered", "now: dusk answer 2026-05-02-a"]);
    assert_eq!(desk.read(&format!("drop/Q-{FILE}")), written);
    assert_eq!(desk.names("drop"), [&format!("Q-{FILE}"), &format!("Q-{FILE}.ok"), "answers"]);
    desk.run(&["batches", "show", BATCH]).says(&["it is delivered; waiting to be taken"]);
    std::fs::create_dir(desk.path("drop/done")).unwrap();
    std::fs::rename(desk.path(&format!("drop/Q-{FILE}")), desk.path("drop/done/x")).unwrap();
    desk.run(&["batches", "show", BATCH]).says(&["the target has moved it to", "drop/done/x"]);
    std::fs::remove_file(desk.path("drop/done/x")).unwrap();
    desk.run(&["batches", "show", BATCH])
        .says(&["taken by the target", "turned down by clerk: kilos, not pounds"]);
    on_the_day(&desk, &["deliver", BATCH]).ended(0).says(&["delivered before"]);
    assert!(!desk.exists(&format!("drop/Q-{FILE}")), "it is not sent again");
    // Somebody took it away before the target came, and says so.
    on_the_day(&desk, &["deliver", BATCH, "--is-not-there", FILE]).ended(0).says(&["delivered"]);
    assert_eq!(desk.read(&format!("drop/Q-{FILE}")), written);
    conform(&desk, &["loans.csv", "--again"]).stops(&["would be sent twice", "--rest 2026-05-02-a"]);
    on_the_day(&desk, &["turn-down", BATCH, "--why", "late"]).stops(&["it is delivered already"]);
}

#[test]
fn an_answer_is_matched_by_line_number_or_key_in_any_form() {
    let words =
        "outcome = \"s\"\nloaded = \"ok\"\nwarned = \"hm\"\nrefused = [\"no\", \"NEIN\"]\nreason = \"w\"\n";
    let by = |what: &str| format!("[answer]\n{what}\n{words}");
    let forms = "[[answer.says]]\nline = \"Line {line}: ok\"\noutcome = \"loaded\"\n[[answer.says]]\nline = \"Line {line}: refused, {reason}\"\n\
                 outcome = \"refused\"\n[[answer.says]]\nline = \"{loaded} in, {refused} out\"\n";
    let json = format!("{}records = \"r.rows\"\ncounts = {{ loaded = \"n.in\" }}\n", by("key = \"k.id\""));
    for (layout, file, answer, expected) in [
        (
            by("line = \"l\""),
            "a.csv",
            "l,s,w\n2,ok,\n3,hm,light\n5,no,closed\n\"1,0\",ok,\n",
            [1, 1, 1, 0, 5],
        ),
        (by("record = \"n\"\nrecord_from = 0"), "a.csv", "n;s;w\n0;OK;\n7;nein;late\n", [1, 0, 1, 0, 6]),
        (by("key = \"k\""), "a.csv", "k,s,w\n1,ok,\n0002,no,closed\n 3 ,ok,\n", [2, 0, 1, 0, 5]),
        (
            by("line = \"l\"\nkey = \"k\""),
            "a.csv",
            "l,k,s,w\n2,1,ok,\n3,2,no,x\n6,4,ok,\n7,9,ok,\n",
            [2, 0, 1, 0, 5],
        ),
        (
            "[answer]\nline = \"l\"\nall = \"refused\"\n".to_owned(),
            "a.csv",
            "l,w\n2,x\n9,x\n",
            [0, 0, 2, 0, 6],
        ),
        (
            json,
            "a.json",
            "{\"n\":{\"in\":7},\"r\":{\"rows\":[{\"k\":{\"id\":\"3\"},\"s\":\"no\",\"w\":[\"a\",\"b\"]}]}}",
            [7, 0, 1, 0, 0],
        ),
        (
            forms.to_owned(),
            "a.txt",
            "Report\nline 2: OK\nLine 3: refused, site closed\n7 in, 1 out\n",
            [7, 0, 1, 0, 0],
        ),
        (forms.to_owned(), "a.txt", "Line 3: refused, site closed\n6 in, 1 out\n", [0, 0, 1, 0, 7]),
        (forms.to_owned(), "a.txt", "Line 3: refused, x\n0 in, 8 out\n", [0, 0, 1, 7, 0]),
    ] {
        let desk = desk_with(&layout).with(file, answer);
        assert_eq!(counts(&desk, &["answer", BATCH, file]), expected, "{layout}\n{answer}");
    }
}

#[test]
fn a_line_that_names_no_record_changes_nothing_and_is_said() {
    let desk = desk_with(ANSWER).with(
        "a.csv",
        "Line,Piece,Result,Why,Given\n1,,in,,\n2,1,in,,G1\n3,8,in,,\n99,,in,,\n4,3,lost,,\n6,4,in,,\n6,4,out,late,\n\
         7,5,out,closed,\n7,5,out,too heavy,\n8,6,in,,\n9,7,in,,\n10,8,in,,\n9,7,in,,\nx,,in,,\n",
    );
    let ran = on_the_day(&desk, &["answer", BATCH, "a.csv"]).ended(1);
    ran.says(&[
        "line 2 of a.csv names line 1 of loans-2026-05-02-a.csv, whose records are on lines 2 to 10",
        "line 4 of a.csv names \"8\" and the line of \"0002\"",
        "line 5 of a.csv names line 99",
        "line 6 of a.csv says \"lost\", and [answer] does not know what that means",
        "line 8 of a.csv says that \"0004\" is refused, and it was said to be loaded",
        "closed; too heavy",
        "8 records sent = 4 loaded + 0 loaded with a warning + 1 refused + 3 not mentioned",
    ]);
    assert!(desk.read("numbers/mapping.csv").ends_with("0001,G1,2026-05-02-a,2026-05-02\n"));
    on_the_day(&desk, &["answer", BATCH, "a.csv"])
        .stops(&["was read as an answer about batch 2026-05-02-a already"]);
    // A later answer adds to it, and takes nothing back by itself.
    let desk = desk
        .with("b.csv", "Line,Piece,Result,Why,Given\n3,2,in,,\n4,3,in,,\n")
        .with("c.csv", "Line,Piece,Result,Why,Given\n2,1,out,gone,\n3,2,in,,\n")
        .with("other.csv", "Line,Piece,Result,Why,Given\n2,71,in,,\n3,72,in,,\n");
    assert_eq!(counts(&desk, &["answer", BATCH, "b.csv"]), [6, 0, 1, 0, 1]);
    desk.run(&["answer", BATCH, "c.csv"]).stops(&["contradicts the answer before it", "add --replace"]);
    desk.run(&["answer", BATCH, "other.csv"])
        .stops(&["are about no record that batch", "nothing was recorded"]);
    assert_eq!(counts(&desk, &["answer", BATCH, "c.csv", "--replace"]), [1, 0, 1, 0, 6]);
    let kept = desk.read(&format!("batches/{BATCH}/answer-3.csv"));
    let desk = desk.with(&format!("batches/{BATCH}/answer-3.csv"), &kept.replace("refused", "loaded"));
    desk.run(&["check", "--rest", BATCH]).stops(&["answer-3.csv: is not as it was written"]);
}

#[test]
fn what_is_drafted_from_an_answer_reads_it_as_it_was_meant() {
    let says = "[[answer.says]]\nline = \"Zeile {line}: geladen\"\noutcome = \"loaded\"\n[[answer.says]]\n\
                line = \"Zeile {line}: abgelehnt, {reason}\"\noutcome = \"refused\"\n";
    let words = |loaded: &str, warned: &str, refused: &str| {
        format!("loaded = \"{loaded}\"\nwarned = \"{warned}\"\nrefused = \"{refused}\"\n")
    };
    let english = words("OK", "OK with warning", "NOK");
    let french = words("chargé", "avertissement", "rejeté");
    for layout in [
        format!("[answer]\nkey = \"Objet\"\noutcome = \"État\"\nreason = \"Motif\"\n{french}"),
        format!(
            "[answer]\nkey = \"Object\"\nline = \"Row of file\"\noutcome = \"Res\"\nreason = \"Text\"\n{english}"
        ),
        format!(
            "[answer]\nrecord = \"No\"\nkey = \"Ref\"\nrecord_from = 0\noutcome = \"Res\"\nreason = \"Text\"\n{english}"
        ),
        format!(
            "[answer]\nrecords = \"out.list\"\nline = \"at.line\"\nkey = \"at.key\"\noutcome = \"state\"\nreason = \"text\"\n{english}"
        ),
        says.to_owned(),
    ] {
        let desk = desk_with(&format!("{FOLDER}{layout}"));
        on_the_day(&desk, &["deliver", BATCH]).ended(0);
        let refuse = ["--refuse", "piece=0003: das Stück ist verliehen", "--refuse", "piece=0006: zu schwer"];
        desk.run(&[&["practice", "--once"][..], &refuse].concat()).ended(0);
        let answer = format!("drop/answers/{}", desk.names("drop/answers").last().unwrap());
        let meant = counts(&desk, &["answer", BATCH, &answer, "--look"]);
        assert_eq!(meant[2], 2, "{layout}");
        let drafted = desk.run(&["answer", "--draft", &answer]);
        let desk = desk.with("target.toml", &format!("{TARGET}{FOLDER}{}", drafted.out));
        assert_eq!(counts(&desk, &["answer", BATCH, &answer, "--look"]), meant, "{layout}\n{}", drafted.out);
    }
    // Answers that no [answer] was there for: counted from 0, with codes, a reason behind a word or in brackets.
    let seen = |of: fn(u64, u64) -> String| {
        (0..8).map(|at| of(at, [2, 3, 4, 6, 7, 8, 9, 10][at as usize])).collect::<String>()
    };
    for (file, answer, expected) in [
        ("a.jsonl", seen(|at, _| format!("{{\"seq\":{at},\"ok\":{}}}\n", at != 4)), [7, 0, 1, 0, 0]),
        (
            "a.csv",
            "Line,HTTP code\n".to_owned()
                + &seen(|at, line| format!("{line},{}\n", if at == 1 { 409 } else { 200 })),
            [7, 0, 1, 0, 0],
        ),
        (
            "a.csv",
            "Record;Outcome\n".to_owned()
                + &seen(|at, _| format!("{};{}\n", at + 1, if at == 6 { "Rejected: late" } else { "Added" })),
            [7, 0, 1, 0, 0],
        ),
        (
            "a.txt",
            "09:08 begin\n".to_owned()
                + &seen(|at, line| {
                    format!("linje {line}: {}\n", if at == 2 { "avvist (stengt)" } else { "godtatt" })
                }),
            [7, 0, 1, 0, 0],
        ),
        (
            "a.txt",
            seen(|at, line| {
                if at == 5 {
                    format!("FAILED line {line} (000{}) - unknown crate\n", at + 1)
                } else {
                    format!("line {line} loaded as Q-{}\n", at * 77)
                }
            }),
            [7, 0, 1, 0, 0],
        ),
    ] {
        let desk = desk_with("").with(file, &answer);
        let drafted = desk.run(&["answer", "--draft", file]);
        let desk = desk.with("target.toml", &format!("{TARGET}{}", drafted.out));
        assert_eq!(counts(&desk, &["answer", BATCH, file, "--look"]), expected, "{answer}\n{}", drafted.out);
    }
    // Where lines and numbers are both possible, that is asked and not guessed.
    let desk = desk_with("").with("a.csv", "No,State\n3,OK\n6,NOK\n");
    let drafted = desk.run(&["answer", "--draft", "a.csv"]).ended(1);
    let open = ["# key = [\"No\"]", "# line = \"No\"", "# record = \"No\""];
    drafted
        .says(&open)
        .notes(&["does the target name records by keys, by lines of the file, or by numbers?"]);
}

#[test]
fn the_rest_never_holds_what_is_loaded_and_holds_what_was_mended() {
    let desk = desk_with(ANSWER).with(
        "a.csv",
        "Line,Piece,Result,Why,Given\n2,1,in,,\n3,2,out,closed,\n4,3,out,closed,\n6,4,in,,\n7,5,in,,\n8,6,in,,\n9,7,in,,\n",
    );
    on_the_day(&desk, &["answer", BATCH, "a.csv"]).ended(1).says(&["2  refused  closed"]);
    desk.run(&["check", "--rest", BATCH]).ended(1).says(&[
        "8 rows read = 6 accepted + 2 rejected + 0 merged + 0 left out",
        "0 sent, 5 loaded before, 1 sent before, unknown whether loaded",
        "2 rows   piece  was refused by the target, which says: closed (batch 2026-05-02-a)",
    ]);
    conform(&desk, &["--rest", BATCH]).ended(1).says(&["nothing of batch 2026-05-02-a can be sent now"]);
    assert!(!desk.exists(&format!("batches/{REST}")));
    desk.run(&["correct", "loans.csv", "3", "Remark", "mended"]).ended(0);
    // A key that is changed after its record was loaded would make a second record of one row.
    desk.run(&["correct", "loans.csv", "2", "Piece", "99"]).ended(0);
    conform(&desk, &["--rest", BATCH, "--all-causes"])
        .ended(1)
        .says(&["is the key of a row that batch 2026-05-02-a has sent as \"0001\""]);
    let sent = desk.read(&format!("batches/{REST}/upload/loans-{REST}.csv"));
    assert_eq!(sent, "piece;kg;note\r\n0002;2.5;mended\r\n");
    // With a yes, what is unknown goes as well; what the last batch sent is unknown by now.
    let again = conform(&desk, &["--rest", BATCH, "--with-unknown"]).ended(1);
    again.says(&["of the accepted records: 2 sent, 4 loaded before"]);
    let third = desk.read("batches/2026-05-02-c/upload/loans-2026-05-02-c.csv");
    assert_eq!(third, "piece;kg;note\r\n0002;2.5;mended\r\n0008;8;h\r\n");
    on_the_day(&desk, &["turn-down", "2026-05-02-c", "--why", "not again"]).ended(0);
    desk.run(&["check", "--rest", REST]).says(&["2 sent before, unknown whether loaded"]);
    desk.run(&["batches", "show", BATCH]).says(&["8 sent = 5 loaded + 1 refused or not there + 2 unknown"]);
    desk.run(&["batches", "--key", "0002"])
        .says(&["2026-05-02-a  sent, refused: closed", "2026-05-02-b  sent  0002"]);
    let page = desk.read(&format!("batches/{REST}/report.html"));
    assert!(
        page.contains("<strong>1 record</strong> is sent") && page.contains("4 records of the accepted ones"),
        "{page}"
    );
}

#[test]
fn records_without_a_key_are_known_again_by_their_rows_as_long_as_the_export_is_the_same() {
    let target = TARGET.replace("key = true\n", "");
    let answer = ANSWER.replace("key = \"Piece\"\n", "");
    let desk = desk_with("").with("target.toml", &format!("{target}{answer}"));
    conform(&desk, &["loans.csv", "--again"]).ended(0);
    let desk = desk.with(
        "a.csv",
        "Line,Result,Why,Given\n2,in,,\n3,out,closed,\n4,in,,\n6,in,,\n7,in,,\n8,in,,\n9,in,,\n10,in,,\n",
    );
    on_the_day(&desk, &["answer", BATCH, "a.csv"]).says(&["nothing in it proves that it is about batch"]);
    desk.run(&["correct", "loans.csv", "3", "Weight", "2"]).ended(0);
    conform(&desk, &["--rest", BATCH]).ended(0);
    assert_eq!(
        desk.read(&format!("batches/{REST}/upload/loans-{REST}.csv")),
        "piece;kg;note\r\n0002;2;b\r\n"
    );
    let desk = desk.with("other.csv", &EXPORT.replace("1.5", "1.6"));
    desk.run(&["check", "other.csv", "--rest", BATCH])
        .stops(&["records are known again by their rows alone"]);
}

#[test]
fn a_few_rows_go_first_and_the_others_wait() {
    let desk =
        Desk::empty().with("target.toml", TARGET).with("mapping.toml", MAPPING).with("loans.csv", EXPORT);
    conform(&desk, &["loans.csv", "-n", "3"]).ended(0).says(&["3 sent, 5 waiting for the rest"]);
    conform(&desk, &["--rest", BATCH, "--first", "2"]).ended(0).says(&["2 sent, 3 sent before", "3 waiting"]);
    conform(&desk, &["--rest", REST]).ended(0).says(&["3 sent, 5 sent before"]);
    let mut all: Vec<String> = ["a", "b", "c"]
        .iter()
        .flat_map(|letter| {
            let text =
                desk.read(&format!("batches/2026-05-02-{letter}/upload/loans-2026-05-02-{letter}.csv"));
            text.lines()
                .filter(|line| line.starts_with("00"))
                .map(|line| line.chars().take(4).collect::<String>())
                .collect::<Vec<_>>()
        })
        .collect();
    all.sort();
    assert_eq!(all, ["0001", "0002", "0003", "0004", "0005", "0006", "0007", "0008"], "each once");
}

#[test]
fn a_batch_is_complete_only_where_the_targets_own_counts_say_so() {
    let desk = desk_with(&format!("{FOLDER}{ANSWER}"));
    on_the_day(&desk, &["deliver", BATCH]).ended(0);
    desk.run(&["practice", "--once", "--refuse", "kg=4: too light"]).ended(0);
    on_the_day(&desk, &["answer", BATCH]).ended(1);
    let confirm = |words: &[&str]| on_the_day(&desk, &[&["batches", "confirm", BATCH], words].concat());
    confirm(&["--loaded", "8"])
        .ended(1)
        .says(&["records loaded: the target says 8, and the batch comes to 7"]);
    confirm(&["--loaded", "7", "--sum", "kg=37"])
        .ended(1)
        .says(&["the batch comes to 33", "is not complete"]);
    confirm(&["--sum", "kilo=33"]).stops(&["no field \"kilo\" has a sum", "kg"]);
    confirm(&[]).stops(&["there is nothing to hold batch 2026-05-02-a against"]);
    confirm(&["--loaded", "7", "--refused", "1", "--sum", "kg=33.00"]).ended(0).says(&["is complete"]);
    desk.run(&["batches"]).says(&["complete"]);
    // Its own list: one is gone there, one was changed, and the refused one is not expected.
    let held = desk.read("practice/held.csv");
    let held: String =
        held.lines().filter(|line| !line.starts_with("0008")).map(|line| line.to_owned() + "\n").collect();
    let holds = format!("{TARGET}{FOLDER}{ANSWER}[holds]\nfile = \"held.csv\"\n");
    let desk = desk.with("held.csv", &held.replace("2.5,b", "2.5,x")).with("target.toml", &holds);
    desk.run(&["batches", "confirm", BATCH]).ended(1).says(&[
        "5 records are in the target's list as they were sent",
        "1 were said to be loaded, and are not in the target's list: row 9 of loans.csv 0008",
        "1 are in the target's list with other values: row 3 of loans.csv 0002 (note: sent \"b\",",
    ]);
    let old =
        desk.edited("target.toml", "file = \"held.csv\"", "file = \"held.csv\"\nas_of = \"2026-05-01\"");
    old.run(&["batches", "confirm", BATCH]).stops(&["is of 1 May 2026", "export the list anew"]);
}

/// A practice target that listens on loopback, ended when it is dropped.
struct Practice(Child);

impl Drop for Practice {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// Starts a practice target that writes over what it holds, so that everything sent twice is counted twice.
fn practice(desk: &Desk, words: &[&str]) -> (Practice, String) {
    let usual = ["practice", "practice.toml", "--port", "0", "--overwrite"];
    let mut command = desk.command(&[&usual[..], words].concat());
    let mut child = command.stdout(Stdio::piped()).stderr(Stdio::null()).spawn().unwrap();
    let mut first = String::new();
    BufReader::new(child.stdout.take().unwrap()).read_line(&mut first).unwrap();
    let address =
        first.split("http://").nth(1).unwrap_or_else(|| panic!("{first}")).split(';').next().unwrap();
    (Practice(child), address.to_owned())
}

const HTTP_ANSWER: &str = "[answer]\nrecords = \"rows\"\ncounts = { loaded = \"n.in\", refused = \"n.out\" }\nline = \"line\"\nkey = \"key\"\n\
outcome = \"is\"\nloaded = \"in\"\nrefused = \"out\"\nreason = \"why\"\nretry = \"another record\"\n";

fn over_http(desk: &Desk, address: &str, more: &str) {
    let delivery = format!(
        "[delivery]\nurl = \"http://{address}/loads/{{file}}\"\nask = \"http://{address}/deliveries/{{key}}\"\n{more}"
    );
    desk.with_again("target.toml", &format!("{TARGET}{delivery}{HTTP_ANSWER}"));
}

/// The law: over any sequence of deliveries, failures, answers and re-sends no record is loaded twice, each is named
/// loaded, not loaded or unknown, and in the end all are in.
#[test]
fn no_record_is_loaded_twice_whatever_breaks() {
    const MANNERS: [&str; 6] =
        ["prompt", "queued", "breaks-off", "loads-and-breaks-off", "breaks-off-first", "all-or-nothing"];
    for seed in 0..6_usize {
        let desk = desk_with("").with("practice.toml", &format!("{TARGET}{HTTP_ANSWER}"));
        if seed % 2 == 1 {
            conform(&desk, &["loans.csv", "-n", "3", "--again"]).ended(0);
        }
        let mut number = seed;
        for step in 0..8 {
            number = (number * 7 + step * 5 + 3) % 97;
            // The last rounds go well, so that it comes to an end.
            let manner = if step < 5 { MANNERS[number % MANNERS.len()] } else { "prompt" };
            let mut words = vec!["--behave", manner];
            if step == 0 {
                words.extend(["--refuse", "piece=0003: closed", "--mention-few"]);
            }
            let (_target, address) = practice(&desk, &words);
            over_http(&desk, &address, if number % 3 == 0 { "form = \"file\"\n" } else { "" });
            for batch in desk.names("batches").iter().filter(|name| name.starts_with("2026")) {
                on_the_day(&desk, &["deliver", batch]);
                if number % 2 == 0 {
                    on_the_day(&desk, &["deliver", batch]);
                }
                desk.run(&["answer", batch]);
            }
            if step == 2 {
                desk.run(&["correct", "loans.csv", "4", "Remark", "mended"]).ended(0);
            }
            conform(&desk, &["--rest", BATCH]);
            let loads = desk.path("practice/loads.csv");
            let loads = std::fs::read_to_string(loads).unwrap_or_default();
            let mut keys: Vec<&str> =
                loads.lines().skip(1).filter_map(|line| line.split(',').next()).collect();
            keys.sort_unstable();
            let all = keys.len();
            keys.dedup();
            assert_eq!(keys.len(), all, "seed {seed}, step {step}, {manner}: {loads}");
        }
        // What broke off where the target mentions only what it refuses stays unknown, until its own list tells.
        let (_target, address) = practice(&desk, &[]);
        over_http(&desk, &address, "[holds]\nfile = \"practice/held.csv\"\n");
        let batches = || desk.names("batches").into_iter().filter(|name| name.starts_with("2026"));
        batches().for_each(|batch| {
            desk.run(&["batches", "confirm", &batch]);
        });
        conform(&desk, &["--rest", BATCH]);
        batches().for_each(|batch| {
            on_the_day(&desk, &["deliver", &batch]);
        });
        conform(&desk, &["--rest", BATCH]).ended(0).says(&["8 records loaded"]);
        assert_eq!(desk.read("practice/loads.csv").lines().count(), 9, "seed {seed}");
    }
}

/// Wherever the connection ends, the file is not there or nobody knows; it is never taken for delivered.
#[test]
fn a_connection_that_ends_anywhere_is_no_delivery() {
    let desk = desk_with("");
    for (ends_after, answers) in [
        (0, ""),
        (10, ""),
        (200, ""),
        (500, ""),
        (5_000, ""),
        (5_000, "HTTP/1.1 20"),
        (5_000, "HTTP/1.1 503 No\r\n\r\n"),
    ] {
        let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
        let address = listener.local_addr().unwrap().to_string();
        let target = std::thread::spawn(move || {
            // It hangs up on every try.
            for stream in listener.incoming().take(4).flatten() {
                let mut stream = stream;
                stream.set_read_timeout(Some(std::time::Duration::from_millis(300))).unwrap();
                let mut room = vec![0; ends_after];
                let mut read = 0;
                while read < ends_after {
                    match std::io::Read::read(&mut stream, &mut room[read..]) {
                        Ok(more) if more > 0 => read += more,
                        _ => break,
                    }
                }
                let _ = std::io::Write::write_all(&mut stream, answers.as_bytes());
            }
        });
        let delivery = format!("[delivery]\nurl = \"http://{address}/{{file}}\"\n");
        desk.with_again("target.toml", &format!("{TARGET}{delivery}"));
        let ran = on_the_day(&desk, &["deliver", BATCH]).ended(1);
        assert!(
            ran.out.contains("not delivered") || ran.out.contains("unknown"),
            "{ends_after}: {}",
            ran.out
        );
        let is_unknown = ran.out.contains("unknown");
        if is_unknown {
            on_the_day(&desk, &["deliver", BATCH]).ended(1).says(&["unknown"]);
        }
        assert!(is_unknown || ends_after < 5_000, "the whole file came there, so it may be in: {}", ran.out);
        // Somebody has looked, and it can be tried again.
        on_the_day(&desk, &["deliver", BATCH, "--is-not-there", FILE]);
        drop(target);
    }
    assert!(!desk.read(&format!("batches/{BATCH}/events.csv")).contains(",delivered,"));
}

#[test]
fn what_is_unknown_waits_for_somebody_who_looks_where_the_target_cannot_be_asked() {
    let desk = desk_with("").with("practice.toml", &format!("{TARGET}{HTTP_ANSWER}"));
    let (_target, address) = practice(&desk, &["--behave", "loads-and-breaks-off"]);
    let delivery = format!("[delivery]\nurl = \"http://{address}/loads/{{file}}\"\n");
    let desk = desk.with("target.toml", &format!("{TARGET}{delivery}{HTTP_ANSWER}"));
    on_the_day(&desk, &["deliver", BATCH]).ended(1).says(&["unknown", "--is-there loans-2026-05-02-a.csv"]);
    on_the_day(&desk, &["deliver", BATCH]).ended(1).says(&["unknown"]);
    desk.run(&["batches"]).says(&["delivery unknown"]);
    assert_eq!(desk.read("practice/loads.csv").lines().count(), 9, "it was not sent again");
    on_the_day(&desk, &["deliver", BATCH, "--is-there", "other.csv"])
        .stops(&["has no upload file other.csv"]);
    on_the_day(&desk, &["deliver", BATCH, "--is-there", FILE]).ended(0).says(&["somebody has seen it there"]);
    // A server that is not there has nothing of it.
    let (target, address) = practice(&desk, &[]);
    drop(target);
    let desk =
        desk.with("loans.csv", &EXPORT.replace("1.5", "1.25").replace("0", "")).with("target.toml", TARGET);
    let desk = desk.with("other.csv", "Piece,Weight,Remark\n21,1,a\n");
    over_http(&desk, &address, "method = \"put\"\n");
    conform(&desk, &["other.csv"]).ended(0);
    on_the_day(&desk, &["deliver", REST]).ended(1).says(&["not delivered", "now: dusk deliver 2026-05-02-b"]);
}

#[test]
fn a_secret_is_used_and_never_written() {
    const SECRET: &str = "hush-7-quay";
    let desk = desk_with("").with("practice.toml", &format!(
        "{TARGET}[delivery]\nurl = \"http://127.0.0.1:1/{{file}}\"\nsecret_from = \"QUAY_SECRET\"\n{HTTP_ANSWER}"
    ));
    let mut command = desk.command(&["practice", "practice.toml", "--port", "0"]);
    let mut child = command.env("QUAY_SECRET", SECRET).stdout(Stdio::piped()).spawn().unwrap();
    let mut first = String::new();
    BufReader::new(child.stdout.take().unwrap()).read_line(&mut first).unwrap();
    let _target = Practice(child);
    let address = first.split("http://").nth(1).unwrap().split(';').next().unwrap().to_owned();
    over_http(&desk, &address, "secret_from = \"QUAY_SECRET\"\n");
    on_the_day(&desk, &["deliver", BATCH]).stops(&["the variable QUAY_SECRET of the environment is not set"]);
    let with = |secret: &str| {
        let mut command = desk.command(&["deliver", BATCH, "--today", "2026-05-02"]);
        command.env("QUAY_SECRET", secret);
        Ran::of(command)
    };
    let refused = with("wrong-9-one").ended(1).says(&["401", "not delivered"]);
    let done = with(SECRET).ended(0);
    for said in [&refused.out, &refused.err, &done.out, &done.err] {
        assert!(!said.contains(SECRET) && !said.contains("wrong-9-one"), "{said}");
    }
    let mut folders = vec![desk.path(".")];
    while let Some(folder) = folders.pop() {
        for entry in std::fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() {
                folders.push(path);
            } else {
                let bytes = std::fs::read(&path).unwrap();
                let has = |secret: &str| bytes.windows(secret.len()).any(|part| part == secret.as_bytes());
                assert!(!has(SECRET) && !has("wrong-9-one"), "{}", path.display());
            }
        }
    }
    over_http(&desk, &address, "secret_file = \"secret\"\n");
    let desk = desk.with("secret", SECRET);
    if cfg!(unix) {
        desk.run(&["deliver", BATCH]).stops(&["can be read by other users"]);
    }
    for (wrong, says) in [
        ("headers = { Authorization = \"x\" }\n", "a secret does not belong into this file"),
        ("url = \"http://clerk:pw@register.example/{file}\"\n", "has a name or a password in it"),
        ("url = \"http://register.example/{file}\"\nsecret_from = \"A\"\n", "sends a secret over http"),
        ("folder = \"drop\"\nurl = \"https://register.example/\"\n", "names a folder and a url"),
    ] {
        let url = if wrong.contains("url") { "" } else { "url = \"https://register.example/{file}\"\n" };
        let desk = Desk::empty().with("target.toml", &format!("{TARGET}[delivery]\n{url}{wrong}"));
        desk.run(&["target", "check"]).ended(1).says(&[says]);
    }
}

#[test]
fn children_wait_for_the_numbers_of_their_parents() {
    let desk = Desk::empty();
    desk.run(&["demo", "d", "--quiet"]).ended(0);
    let work = |words: &[&str]| {
        let mut command = desk.command(words);
        command.current_dir(desk.path("d"));
        Ran::of(command)
    };
    work(&["round"]).ended(0).says(&[
        "sites  complete: 4 loaded",
        "hives  complete: 14 loaded",
        "the round is complete",
    ]);
    let page = desk.read("d/round.html");
    assert!(page.contains("New sites of autumn 2026") && page.contains("complete"), "{page}");
    for folder in ["d/enrol/batches", "d/enrol/sites/batches", "d/enrol/sites/numbers"] {
        std::fs::remove_dir_all(desk.path(folder)).unwrap();
    }
    work(&["round", "--make"]).says(&["hives  waits for sites", "now: dusk deliver"]);
    assert!(!desk.exists("d/enrol/batches"), "children are not made before their parents are answered");
    let check = work(&["check", "enrol/new-hives.csv", "-m", "enrol/hives.toml"]);
    check.stops(&["sites/numbers/mapping.csv", "deliver the batch of these records first"]);
    let desk = desk
        .with("r.toml", "[round]\nname = \"R\"\n[[step]]\nname = \"a\"\nmapping = \"m.toml\"\nsource = \"x.csv\"\nafter = \"b\"\n\
                        [[step]]\nname = \"b\"\nmapping = \"m.toml\"\nsorce = \"x.csv\"\nafter = \"c\"\n");
    desk.run(&["round", "r.toml"]).stops(&[
        "[[step]] a comes after \"b\", but is written before it",
        "[[step]] after names no step \"c\"",
        "[[step]] b names no source",
        "did you mean \"source\"?",
    ]);
}

/// Uploads of every form are read back: what is loaded of them comes to its sums, and is found again in a follow-up.
#[test]
fn uploads_of_every_form_are_read_back() {
    for (upload, ending) in [
        ("format = \"json-lines\"", "jsonl"),
        ("header = false", "csv"),
        ("format = \"workbook\"", "xlsx"),
        ("encoding = \"utf-16le\"\nbom = true", "csv"),
    ] {
        let target = TARGET
            .replace("delimiter = \";\"\n", "")
            .replace("[upload]\n", &format!("[upload]\n{upload}\n"))
            .replace("{batch}.csv", &format!("{{batch}}.{ending}"));
        let answer = ANSWER.replace("line = \"Line\"\n", "");
        let desk = Desk::empty()
            .with("target.toml", &format!("{target}{answer}"))
            .with("mapping.toml", MAPPING)
            .with("loans.csv", EXPORT)
            .with("a.csv", "Piece,Result,Why,Given\n1,in,,\n2,out,closed,\n3,in,,\n4,in,,\n5,in,,\n6,in,,\n7,in,,\n8,in,,\n");
        conform(&desk, &["loans.csv"]).ended(0);
        on_the_day(&desk, &["answer", BATCH, "a.csv"]).ended(1);
        on_the_day(&desk, &["batches", "confirm", BATCH, "--loaded", "7", "--sum", "kg=34.5"])
            .ended(0)
            .says(&["is complete"]);
        on_the_day(&desk, &["follow-up", BATCH, "--field", "note=back"]).ended(0).says(&["7 records"]);
    }
}

#[test]
fn the_line_of_a_removal_is_no_line_of_another_record() {
    let target = TARGET.replace("[[field]]\nname = \"kg\"", "[[field]]\nname = \"do\"\ntype = \"text\"\noperation = { new = \"N\", changed = \"C\", gone = \"R\" }\n[[field]]\nname = \"kg\"");
    let holds = "[holds]\nfile = \"held.csv\"\nremove_gone = true\nremove_at_most = \"5\"\n";
    let desk = Desk::empty()
        .with("target.toml", &format!("{target}{holds}{}", ANSWER.replace("key = \"Piece\"\n", "")))
        .with("mapping.toml", MAPPING)
        .with("held.csv", "piece,kg,note\n0098,1,x\n0099,1,y\n")
        .with("loans.csv", EXPORT)
        .with("a.csv", "Line,Result,Why,Given\n2,in,,\n11,out,not known here,\n12,in,,\n");
    conform(&desk, &["loans.csv"]).ended(0);
    let sent = desk.read(&format!("batches/{BATCH}/upload/{FILE}"));
    assert!(sent.ends_with("0008;N;8;h\r\n0098;R;1;x\r\n0099;R;1;y\r\n"), "{sent}");
    let ran = on_the_day(&desk, &["answer", BATCH, "a.csv"]).ended(1);
    ran.says(&[
        "1  refused  not known here",
        "row 2 of held.csv (0098)",
        "10 records sent = 2 loaded",
        "7 not mentioned",
    ]);
    desk.run(&["check", "--rest", BATCH]).says(&["1 loaded before, 7 sent before, unknown"]);
}

#[test]
fn a_follow_up_sets_a_field_of_all_that_is_in_the_target() {
    let desk = desk_with(ANSWER).with(
        "a.csv",
        "Line,Piece,Result,Why,Given\n2,1,in,,\n3,2,out,closed,\n4,3,in,,\n6,4,in,,\n7,5,in,,\n8,6,in,,\n9,7,in,,\n10,8,in,,\n",
    );
    on_the_day(&desk, &["answer", BATCH, "a.csv"]).ended(1);
    on_the_day(&desk, &["follow-up", "2026-05-02", "--field", "note=returned"])
        .ended(0)
        .says(&["note set to \"returned\": 7 records; 1 record that the target does not have"]);
    let sent = desk.read(&format!("batches/{REST}/upload/loans-{REST}.csv"));
    assert!(sent.starts_with("piece;kg;note\r\n0001;1.5;returned\r\n0003;3;returned\r\n"), "{sent}");
    assert!(!sent.contains("0002"), "what was refused is not there");
    // It is no month of its own, and no batch to go on from.
    conform(&desk, &["loans.csv"]).stops(&["was in batch 2026-05-02-a"]);
    desk.run(&["follow-up", BATCH, "--remove"]).stops(&["the target cannot remove records by an upload"]);
    desk.run(&["follow-up", BATCH, "--field", "nte=x"]).stops(&["did you mean \"note\"?"]);
    desk.run(&["follow-up", BATCH, "--field", "piece=x"]).stops(&["is part of the key"]);
    desk.run(&["follow-up", BATCH, "--field", "kg=x"]).stops(&["\"x\" for kg is not a number"]);
}

#[test]
fn where_a_limit_is_passed_it_is_proposed_what_to_leave_out() {
    let rule =
        "[[rule]]\nname = \"the van\"\nmust = \"sum of kg <= 20\"\nleave_out_first = [\"largest kg\"]\n";
    let desk = Desk::empty()
        .with("target.toml", &format!("{TARGET}{rule}"))
        .with("mapping.toml", MAPPING)
        .with("loans.csv", EXPORT);
    conform(&desk, &["loans.csv"]).stops(&["breaks rules over all its records"]);
    // 37 in all: without 8, 7 and 6 it is 16; 5 may stay.
    desk.run(&["check", "loans.csv"])
        .ended(1)
        .says(&["the van would hold without 3 records of 8", "row 9 of loans.csv  0008  kg 8"]);
    desk.run(&["check", "loans.csv", "--leave-out-list", "out.csv"]).ended(1).says(&["dusk correct out.csv"]);
    desk.run(&["correct", "out.csv", "--yes"]).ended(0).says(&["0 agreed to, 3 not"]);
    conform(&desk, &["loans.csv"]).ended(0).says(&["5 accepted + 0 rejected + 0 merged + 3 left out"]);
    let never = desk.edited("target.toml", "<= 20", "= 0.5");
    never.run(&["check", "loans.csv"]).ended(1).says(&["no number of records left out makes the van hold"]);
    let wrong = never.edited("target.toml", "largest kg", "largest kgs");
    wrong
        .run(&["target", "check"])
        .ended(1)
        .says(&["leave_out_first names no field \"kgs\"", "did you mean"]);
}
