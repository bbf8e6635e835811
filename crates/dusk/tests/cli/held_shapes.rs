//! Lists of what the target holds, in the shapes in which targets give them, and what a description may say of them.

use rust_xlsxwriter::Workbook;
use serde_json::{Value, json};

use crate::desk::{Desk, Ran};

const TARGET: &str = r#"
[target]
name = "Lockers"
[holds]
file = "held.csv"
[upload]
line_end = "lf"
file_name = "up.csv"
[[field]]
name = "locker"
label = "Locker number"
type = "text"
key = true
required = true
[[field]]
name = "rent"
type = "decimal"
decimals = 2
[[field]]
name = "since"
type = "date"
format = "dd.MM.yyyy"
[[field]]
name = "kit"
type = "codes"
codes = "codes/kit.csv"
column_per_code = "kit_{code}"
format = "y/n"
[[field]]
name = "paid"
type = "boolean"
format = "1/0"
"#;

const MAPPING: &str = r#"
target = "target.toml"
[[map]]
field = "locker"
from = "No"
[[map]]
field = "rent"
from = "Rent"
decimal_mark = "."
[[map]]
field = "since"
from = "From"
[[map]]
field = "kit"
from = "Kit"
between = "+"
[[map]]
field = "paid"
from = "Paid"
"#;

const HELD: &str = "locker,rent,since,kit_K,kit_L,kit_S,paid\nA1,12.00,01.02.2025,y,n,n,1\nA2,9.5,03.04.2025,n,n,n,0\nA3,7,05.06.2025,,,,\n";

const EXPORT: &str = "No,Rent,From,Kit,Paid\nA1,12,2025-02-01,key,yes\nA2,9.50,2025-04-03,,no\nA3,7.00,2025-06-05,shelf + lamp,yes\n";

fn desk() -> Desk {
    Desk::empty()
        .with("target.toml", TARGET)
        .with("mapping.toml", MAPPING)
        .with("codes/kit.csv", "code,label\nK,key\nL,lamp\nS,shelf\n")
        .with("held.csv", HELD)
        .with("export.csv", EXPORT)
}

fn compared(desk: &Desk, more: &[&str]) -> Value {
    let ran =
        desk.run(&[&["compare", "export.csv", "--format", "json", "--today", "2026-06-01"], more].concat());
    serde_json::from_str(&ran.out).unwrap_or_else(|_| panic!("{ran:?}"))
}

fn counts(new: u64, changed: u64, same: u64, gone: u64) -> Value {
    json!({"new": new, "changed": changed, "same": same, "gone": gone})
}

fn checked(desk: &Desk) -> Ran {
    desk.run(&["target", "check"])
}

#[test]
fn a_list_is_read_whatever_it_was_saved_as() {
    let desk = desk();
    assert_eq!(compared(&desk, &[])["counts"], counts(0, 1, 2, 0));
    // Semicolons, another encoding, labels for headings, and lines above the header.
    let european = "Lockers on 31 May\n\nLocker number;rent;since;kit_K;kit_L;kit_S;paid\nA1;12,00;01.02.2025;y;n;n;1\nA2;9,5;03.04.2025;n;n;n;0\nA3;7,25;05.06.2025;;;;\nÄ9;1,5;05.06.2025;;;;\n";
    let (latin, _, _) = encoding_rs::WINDOWS_1252.encode(european);
    let desk = desk.with_bytes("held.csv", &latin);
    desk.run(&["compare", "export.csv"]).stops(&["held.csv: its encoding is not proven"]);
    // The target's own list is in the target's own encoding, where nothing in it says so.
    let desk = desk.edited("target.toml", "line_end", "encoding = \"windows-1252\"\nline_end");
    let found = compared(&desk, &["--changed", "--gone"]);
    assert_eq!(found["counts"], counts(0, 1, 2, 1), "{found}");
    assert_eq!(found["records"][0]["fields"]["rent"], json!({"old": "7.25", "new": "7.00"}));
    assert_eq!(found["records"][1]["key"], "Ä9");
    // A workbook with typed cells.
    let mut book = Workbook::new();
    let sheet = book.add_worksheet();
    for (row, line) in (0..).zip(HELD.lines()) {
        for (column, cell) in (0..).zip(line.split(',')) {
            match (row, column, cell.parse::<f64>()) {
                (1.., 1, Ok(number)) => sheet.write_number(row, column, number).unwrap(),
                _ => sheet.write_string(row, column, cell).unwrap(),
            };
        }
    }
    let desk = desk.with_bytes("held.xlsx", &book.save_to_buffer().unwrap()).edited(
        "target.toml",
        "held.csv",
        "held.xlsx",
    );
    assert_eq!(compared(&desk, &[])["counts"], counts(0, 1, 2, 0));
    // A list with its headings alone holds nothing.
    let empty =
        desk.with("none.csv", HELD.lines().next().unwrap()).edited("target.toml", "held.xlsx", "none.csv");
    assert_eq!(compared(&empty, &[])["counts"], counts(3, 0, 0, 0));
}

#[test]
fn what_a_list_holds_against_the_dictionary_is_kept_as_it_is() {
    let desk = desk()
        .with("held.csv", &HELD.replace("9.5,", "free,").replace("05.06.2025", "soon"))
        .with("export.csv", &EXPORT.replace("9.50", "").replace("2025-06-05", ""));
    let found = compared(&desk, &["--changed"]);
    // A blank leaves alone even what nobody understands; nothing of it is called a change.
    assert_eq!(found["counts"], counts(0, 1, 2, 0), "{found}");
    assert!(found["records"][0]["fields"].get("since").is_none());
    desk.conform().ended(0);
    let upload = desk.read("batch/upload/up.csv");
    let lines: Vec<&str> = upload.lines().skip(1).collect();
    assert_eq!(lines[1], "A2,free,03.04.2025,n,n,n,0");
    assert_eq!(lines[2], "A3,7.00,soon,n,y,y,1");
    // None of several codes is something else than nothing said.
    let flags = desk
        .edited("mapping.toml", "from = \"Kit\"\nbetween = \"+\"", "flags = { \"Key\" = \"K\", \"Lamp\" = \"L\" }")
        .with("held.csv", HELD)
        .with("export.csv", "No,Rent,From,Key,Lamp,Paid\nA1,12,2025-02-01,no,no,yes\nA2,9.5,2025-04-03,,,no\nA3,7,2025-06-05,,,\n");
    let found = compared(&flags, &["--changed"]);
    assert_eq!(found["counts"], counts(0, 1, 2, 0), "{found}");
    assert_eq!(found["records"][0]["fields"]["kit"], json!({"old": "K", "new": ""}));
}

#[test]
fn numbers_that_are_doubtful_far_down_are_read_once_more() {
    let mut held = String::from("locker,rent\n");
    let mut export = String::from("No,Rent,From,Kit,Paid\n");
    for number in 0..9_000 {
        // Nothing says before row 8,001 that these have a comma before the decimals.
        let rent =
            if number >= 8_000 { format!("\"{},75\"", number % 40) } else { (number % 40).to_string() };
        held += &format!("B{number},{rent}\n");
        export += &format!("b{number:05},{},,,\n", rent.replace(['"'], "").replace(',', "."));
    }
    let desk = desk().with("held.csv", &held).with("export.csv", &export);
    // Zeros behind a letter are no zeros before digits, so the keys are others.
    assert_eq!(compared(&desk, &[])["counts"], counts(9_000, 0, 0, 9_000));
    let same = desk.with(
        "export.csv",
        &export
            .replace("\nb0000", "\nb")
            .replace("\nb000", "\nb")
            .replace("\nb00", "\nb")
            .replace("\nb0", "\nb")
            .replacen("\nb,", "\nb0,", 1),
    );
    let found = compared(&same, &["--changed"]);
    assert_eq!(found["counts"]["same"], 9_000, "{}", found["records"][0]);
}

#[test]
fn dates_of_a_list_in_another_order_than_the_targets_are_read_in_theirs() {
    // Day and month could be either in every row but the last, which no day before the month explains.
    let desk = desk()
        .with("held.csv", "locker,since\nA1,02/01/2025\nA2,04/03/2025\nA9,05/31/2025\n")
        .with("export.csv", "No,Rent,From,Kit,Paid\nA1,,2025-02-01,,\nA2,,2025-03-04,,\nA9,,2025-05-31,,\n");
    let found = compared(&desk, &["--changed"]);
    assert_eq!(found["counts"], counts(0, 1, 2, 0), "{found}");
    assert_eq!(found["records"][0]["fields"]["since"], json!({"old": "03.04.2025", "new": "04.03.2025"}));
    // Without that row nothing says so, and the target's own order holds.
    let open = desk.with("held.csv", "locker,since\nA1,02/01/2025\nA2,04/03/2025\nA9,05/12/2025\n");
    let found = compared(&open, &["--same"]);
    assert_eq!(found["records"][0]["key"], "A2", "{found}");
}

#[test]
fn a_value_of_a_row_that_the_table_refuses_is_free_for_a_later_one() {
    let desk = desk()
        .edited("target.toml", "[holds]\nfile = \"held.csv\"\n", "")
        .edited(
            "target.toml",
            "line_end = \"lf\"",
            "format = \"database\"\ndatabase = \"r.db\"\ntable = \"t\"",
        )
        .edited("target.toml", "name = \"rent\"\n", "name = \"rent\"\nunique = true\n")
        .with("export.csv", "No,Rent,From,Kit,Paid\nA1,5,,,\nA2,5,,,\nA3,5,,,\n");
    let connection = rusqlite::Connection::open(desk.path("r.db")).unwrap();
    let table = "CREATE TABLE t (locker TEXT CHECK (locker <> 'A1'), rent REAL, since TEXT, kit_K TEXT, kit_L TEXT, kit_S TEXT, paid TEXT)";
    connection.execute_batch(table).unwrap();
    desk.run(&["check", "export.csv"]).ended(1).says(&[
        "3 rows read = 1 accepted + 2 rejected",
        "\"A1\" is refused by",
        "\"5\"  is the value of row 3 already",
    ]);
}

#[test]
fn rows_of_several_exports_are_compared_together() {
    let desk =
        desk().with("more.csv", "No,Rent,From,Kit,Paid\na1,13,2025-02-01,key,yes\nB7,3,2026-01-09,,no\n");
    let ran = desk.run(&["compare", "export.csv", "more.csv", "--today", "2026-06-01"]).ended(1);
    ran.says(&["1 rejected", "+ new             1", "row 3 of more.csv"]);
    desk.run(&["check", "export.csv", "more.csv", "--today", "2026-06-01"])
        .ended(1)
        .says(&["\"a1\" is the same record of the target as row 2 of export.csv"]);
    // The same two rows from one export that keeps the first.
    let kept = desk
        .edited("mapping.toml", "[[map]]", "[rows]\nsame_key = \"last\"\n[[map]]")
        .with("export.csv", &format!("{EXPORT}a1,13,2025-02-01,key,yes\n"));
    let found = compared(&kept, &["--changed"]);
    assert_eq!((&found["counts"], &found["totals"]["merged"]), (&counts(0, 2, 1, 0), &json!(1)));
    let named = kept.edited(
        "mapping.toml",
        "same_key = \"last\"",
        "same_key = \"combine\"\nsame_by = [\"since\", \"paid\"]",
    );
    let ran = named.run(&["check", "export.csv", "--today", "2026-06-01"]).ended(1);
    ran.says(&["rows of one key that say different things", "contradicts row"]);
    let odd = named.edited("mapping.toml", "same_by = [\"since\", \"paid\"]", "same_by = [\"sinse\"]");
    odd.run(&["check", "export.csv"]).stops(&["the target has no field \"sinse\"", "did you mean"]);
}

#[test]
fn every_upload_says_what_is_to_be_done() {
    let operation = "[[field]]\nname = \"todo\"\ntype = \"text\"\noperation = { new = \"add\", changed = \"set\", gone = \"drop\" }\n[[field]]";
    let held = format!("{HELD}A4,1.00,05.06.2025,n,n,n,1\n");
    let with = |upload: &str| {
        desk()
            .edited("target.toml", "line_end = \"lf\"\nfile_name = \"up.csv\"", upload)
            .edited(
                "target.toml",
                "[holds]",
                "[holds]\nsend = \"new-and-changed\"\nremove_gone = true\nremove_at_most = \"50 %\"",
            )
            .edited("target.toml", "[[field]]", operation)
            .with("held.csv", &held)
            .with("export.csv", &format!("{EXPORT}C1,2,2026-05-05,lamp,no\n"))
    };
    let lines = with("format = \"json-lines\"\nfile_name = \"up.jsonl\"");
    lines.conform().ended(0).says(&["1 record that the target is told to remove"]);
    let text = lines.read("batch/upload/up.jsonl");
    let said: Vec<Value> = text.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let todo: Vec<(&str, &str)> =
        said.iter().map(|one| (one["todo"].as_str().unwrap(), one["locker"].as_str().unwrap())).collect();
    assert_eq!(todo, [("set", "A3"), ("add", "C1"), ("drop", "A4")]);
    assert_eq!((&said[2]["kit_K"], &said[2]["rent"]), (&json!("n"), &json!(1)));
    let split = with("line_end = \"lf\"\nsplit_by = \"paid\"\nfile_name = \"up-{paid}.csv\"");
    split.conform().ended(0);
    assert_eq!(split.names("batch/upload"), ["up-0.csv", "up-1.csv"]);
    assert!(split.read("batch/upload/up-1.csv").ends_with("drop,A4,1.00,05.06.2025,n,n,n,1\n"));
    let compared = split.read("batch/compared.csv");
    assert!(compared.contains("export.csv,4,A3,changed,kit,,S|L,yes\n"), "{compared}");
    assert!(compared.contains("held.csv,5,A4,gone,,,,yes\n"), "{compared}");
    let report = split.read("batch/report.html");
    assert!(report.contains("What changes in the target") && report.contains("<del>(blank)</del>"));
    split
        .run(&["conform", "export.csv", "-o", "quiet", "--again", "--no-values", "--today", "2026-06-01"])
        .ended(0);
    let report = split.read("quiet/report.html");
    assert!(
        report.contains("What changes in the target") && !report.contains("A3") && !report.contains("<del>")
    );
}

#[test]
fn what_a_description_says_of_held_records_is_checked_at_once() {
    let wrongs = [
        ("file = \"held.csv\"", "file = \"heldd.csv\"", "heldd.csv is not there"),
        ("file = \"held.csv\"", "as_of = \"2026-05-31\"", "does not say where the held records are listed"),
        (
            "file = \"held.csv\"",
            "file = \"held.csv\"\nas_of = \"last May\"",
            "as_of \"last May\" is not a day",
        ),
        ("file = \"held.csv\"", "file = \"held.csv\"\nsend = \"some\"", "new-and-changed"),
        ("file = \"held.csv\"", "file = \"held.csv\"\nfound_by = [\"loker\"]", "did you mean \"locker\"?"),
        ("file = \"held.csv\"", "table = \"t\"", "does not say in which database it is"),
        (
            "file = \"held.csv\"",
            "file = \"held.csv\"\nremove_gone = true",
            "does not say how many may be removed",
        ),
        (
            "file = \"held.csv\"",
            "file = \"held.csv\"\nremove_gone = true\nremove_at_most = \"few\"",
            "is not a number or a share",
        ),
        (
            "file = \"held.csv\"",
            "file = \"held.csv\"\nremove_at_most = \"5 %\"",
            "goes with remove_gone = true",
        ),
        ("file = \"held.csv\"", "file = \"held.csv\"\nmapping = \"none.toml\"", "none.toml is not there"),
        ("key = true\n", "", "no field is part of the key"),
        ("name = \"rent\"\n", "name = \"rent\"\noperation = { new = \"I\" }\n", "does not say both words"),
        (
            "name = \"rent\"\n",
            "name = \"rent\"\noperation = { new = \"I\", changed = \"U\", lost = \"L\" }\n",
            "operation does not know \"lost\"",
        ),
        ("[upload]\n", "[upload]\nclearing = \"NULL\"\n", "clearing goes with blank = \"leaves\""),
    ];
    for (old, new, says) in wrongs {
        checked(&desk().edited("target.toml", old, new)).ended(1).says(&[says]);
    }
    let without = desk().edited("target.toml", "[holds]\nfile = \"held.csv\"\n", "");
    for key in ["set_once = true", "only_when_new = true", "given_by_target = true"] {
        let wrong =
            without.read("target.toml").replace("name = \"paid\"", &format!("name = \"paid\"\n{key}"));
        checked(&desk().with("target.toml", &wrong)).ended(1).says(&["what the target holds"]);
    }
    without.run(&["compare", "export.csv"]).stops(&["what the target holds", "write [holds]"]);
    without.run(&["target", "blank", "-o", "b.csv", "--rows"]).stops(&["target.toml has no [holds]"]);
    without
        .edited("mapping.toml", "from = \"Rent\"", "from = \"Rent\"\nblank_clears = true")
        .run(&["check", "export.csv"])
        .stops(&["what the target holds"]);
    desk()
        .edited("target.toml", "name = \"rent\"\n", "name = \"rent\"\nset_once = true\n")
        .edited("mapping.toml", "from = \"Rent\"", "from = \"Rent\"\nblank_clears = true")
        .run(&["check", "export.csv"])
        .stops(&["rent may be set only once, so that a blank cannot clear it"]);
    let short = desk().with("held.csv", &format!("{HELD}A9,1\n"));
    short
        .run(&["check", "export.csv"])
        .stops(&["row 5 of held.csv, which lists what the target holds, has 2 cells"]);
}

#[test]
fn who_loads_a_batch_changes_no_record_and_a_constant_does() {
    let more = "[[field]]\nname = \"by\"\ntype = \"text\"\n[[field]]\nname = \"hall\"\ntype = \"text\"\n[[field]]\nname = \"note\"\ntype = \"text\"\n";
    let held: String = HELD
        .lines()
        .enumerate()
        .map(|(row, line)| match row {
            0 => format!("{line},by,hall\n"),
            _ => format!("{line},B. Before,north\n"),
        })
        .collect();
    let desk = desk()
        .with("target.toml", &format!("{TARGET}{more}"))
        .with("held.csv", &held)
        .with("mapping.toml", &format!("{}[[map]]\nfield = \"by\"\nconstant = \"{{who}}\"\n[[map]]\nfield = \"hall\"\nconstant = \"north\"\n[[map]]\nfield = \"note\"\nfrom = \"Paid\"\n", MAPPING.replace("[[map]]\nfield = \"locker\"", "[ask]\nwho = \"Who?\"\n[[map]]\nfield = \"locker\"")));
    let set = ["--set", "who=A. Clerk"];
    assert_eq!(compared(&desk, &set)["counts"], counts(0, 1, 2, 0));
    desk.run(&["compare", "export.csv", "--set", "who=A. Clerk"])
        .ended(1)
        .says(&["it has no column for note, so what changes there is not seen"]);
    desk.run(&["conform", "export.csv", "-o", "batch", "--set", "who=A. Clerk", "--today", "2026-06-01"])
        .ended(0);
    assert!(desk.read("batch/upload/up.csv").contains("A1,12,01.02.2025,y,n,n,1,A. Clerk,north,yes\n"));
    let moved = desk.edited("mapping.toml", "constant = \"north\"", "constant = \"south\"");
    let found = compared(&moved, &[&set[..], &["--changed"]].concat());
    assert_eq!((&found["counts"], &found["fields"][0]["field"]), (&counts(0, 3, 0, 0), &json!("hall")));
}

#[test]
fn a_list_for_another_target_is_refused() {
    let desk = desk()
        .edited("target.toml", "file = \"held.csv\"", "file = \"held.csv\"\nmapping = \"own.toml\"")
        .with("own.toml", "target = \"other.toml\"\n[[map]]\nfield = \"locker\"\nfrom = \"locker\"\n")
        .with("other.toml", "[target]\nname = \"Cellars\"\n[[field]]\nname = \"locker\"\ntype = \"text\"\n");
    desk.run(&["check", "export.csv"]).stops(&["own.toml is for the target Cellars", "what Lockers holds"]);
}

#[test]
fn rows_that_make_several_records_are_each_compared() {
    let target = "[target]\nname = \"T\"\n[holds]\nfile = \"held.csv\"\nsend = \"new-and-changed\"\n[upload]\nline_end = \"lf\"\nfile_name = \"up.csv\"\n[[field]]\nname = \"box\"\ntype = \"text\"\nkey = true\n[[field]]\nname = \"shelf\"\ntype = \"text\"\nkey = true\n[[field]]\nname = \"load\"\ntype = \"integer\"\n";
    let mapping = "target = \"target.toml\"\n[repeat]\nnumbers = [\"1-3\"]\nnumber = \"shelf\"\n[[map]]\nfield = \"box\"\nfrom = \"Box\"\n[[map]]\nfield = \"load\"\nfrom = \"Load {n}\"\n";
    let desk = Desk::empty()
        .with("target.toml", target)
        .with("mapping.toml", mapping)
        .with("held.csv", "box,shelf,load\nX,1,5\nX,2,6\nY,1,1\n")
        .with("export.csv", "Box,Load 1,Load 2,Load 3\nx,5,7,9\nY,1,,\n");
    let found = compared(&desk, &["--changed", "--new", "--same"]);
    assert_eq!(found["counts"], counts(1, 1, 2, 0), "{found}");
    desk.conform().ended(0).says(&["the accepted rows make 4 records", "2 sent + 2 not sent"]);
    assert_eq!(desk.read("batch/upload/up.csv"), "box,shelf,load\nX,2,7\nx,3,9\n");
    // A key that two rows make one record of does not go with rows that make several.
    let wrong = desk.edited("mapping.toml", "[repeat]", "[rows]\nsame_key = \"last\"\n[repeat]");
    wrong.run(&["check", "export.csv"]).stops(&["keep one of the two"]);
}
