//! `dusk status`: what is in a folder, and the command that comes next, which is run as it is printed.

use serde_json::Value;

use crate::desk::{Desk, MAPPING, QUEEN, Ran, TARGET};

/// The command after "next: ", as it is printed.
fn next_of(ran: &Ran) -> String {
    let line = ran.out.lines().find_map(|line| line.strip_prefix("next: "));
    line.unwrap_or_else(|| panic!("no next command in\n{}", ran.out)).to_owned()
}

/// Runs a printed command on a desk.
fn run_printed(desk: &Desk, command: &str) -> Ran {
    let words: Vec<&str> = command.split(' ').collect();
    assert_eq!(words.first(), Some(&"dusk"));
    desk.run(words.get(1..).unwrap_or_default())
}

#[test]
fn each_step_of_a_job_is_followed_by_the_next_one() {
    let desk = Desk::empty();
    let ran = desk.run(&["status"]).ended(0).says(&["nothing is here yet"]);
    assert_eq!(next_of(&ran), "dusk demo");
    let desk =
        desk.with("visits.csv", "No,Date,Queen,Honey\n117,25/04/2026,white,10\n290,25/04/2026,yel.,4.5\n");
    let ran =
        desk.run(&["status"]).ended(0).says(&["visits.csv", "fits no mapping", "no target is described"]);
    assert_eq!(next_of(&ran), "dusk start visits.csv");
    assert!(run_printed(&desk, &next_of(&ran)).err.contains("Which files say what the target takes?"));
    let desk = desk.with("target.toml", TARGET).with("codes/queen.csv", QUEEN);
    let ran = desk.run(&[]).ended(0).says(&["target.toml  Apiary register"]);
    assert_eq!(next_of(&ran), "dusk map visits.csv -t target.toml");
    run_printed(&desk, &next_of(&ran));
    assert!(desk.exists("mapping.toml"), "the command that is printed does what it says");
    let desk = desk.with("mapping.toml", MAPPING);
    let ran = desk
        .run(&["status"])
        .ended(0)
        .says(&["mapping.toml  into Apiary register", "visits.csv  fits mapping.toml; no batch yet"]);
    assert_eq!(next_of(&ran), "dusk check visits.csv");
    // What a command prints at its end goes on in the same way.
    let checked = run_printed(&desk, &next_of(&ran)).ended(1);
    assert_eq!(next_of(&checked), "dusk review visits.csv");
    desk.run(&["conform", "visits.csv", "--today", "2026-04-30"]).ended(1);
    let ran = desk.run(&["status"]).ended(0).says(&[
        "visits.csv  in batch 2026-04-30-a, 1 row rejected",
        "2026-04-30-a  draft: 1 row accepted, 1 rejected",
        "batch 2026-04-30-a rejected 1 row",
    ]);
    assert_eq!(next_of(&ran), "dusk review visits.csv");
    desk.run(&["crosswalk", "add", "queen", "yel.", "Y"]).ended(0);
    let checked = desk.run(&["check", "visits.csv", "--today", "2026-04-30"]).ended(0);
    assert_eq!(next_of(&checked), "dusk conform visits.csv");
    let made = desk.run(&["conform", "visits.csv", "--today", "2026-04-30", "--again"]).ended(0);
    assert!(
        !made.out.contains("next: "),
        "nothing comes next where the description knows no delivery\n{}",
        made.out
    );
    desk.run(&["status"]).ended(0).says(&["all of it accepted", "nothing waits here"]);
    // An export that changes is a new one.
    let desk = desk.with("visits.csv", "No,Date,Queen,Honey\n117,26/04/2026,white,10\n");
    desk.run(&["status"]).ended(0).says(&["no batch yet", "next: dusk check visits.csv"]);
}

#[test]
fn a_batch_that_waits_is_delivered_next_and_another_folder_is_named() {
    let target = TARGET.replace("[upload]", "[delivery]\nfolder = \"incoming\"\n[upload]");
    let desk = Desk::empty()
        .with("april/target.toml", &target)
        .with("april/codes/queen.csv", QUEEN)
        .with("april/incoming/.keep", "")
        .with("april/bees.toml", &format!("{MAPPING}[ask]\nby = \"Who?\"\n"))
        .with("april/visits.csv", "No,Date,Queen,Honey\n117,25/04/2026,white,10\n");
    let ran = desk.run(&["status", "april"]).ended(0);
    assert_eq!(next_of(&ran), "dusk check april/visits.csv -m april/bees.toml --set by=…");
    let made = desk
        .run(&[
            "conform",
            "april/visits.csv",
            "-m",
            "april/bees.toml",
            "--set",
            "by=A. Clerk",
            "--today",
            "2026-04-30",
        ])
        .ended(0);
    assert_eq!(next_of(&made), "dusk deliver 2026-04-30-a -m april/bees.toml");
    let ran = desk.run(&["status", "april"]).ended(0).says(&["batch 2026-04-30-a is not delivered yet"]);
    assert_eq!(next_of(&ran), next_of(&made));
    run_printed(&desk, &next_of(&ran)).ended(0);
    desk.run(&["status", "april"])
        .ended(0)
        .says(&["2026-04-30-a  delivered: 1 row accepted", "nothing waits here"]);
    desk.run(&["status", "may"]).stops(&["may", "does not exist"]);
}

#[test]
fn what_cannot_be_read_is_shown_as_that_and_programs_get_the_same() {
    let many: Vec<String> = (0..12).map(|number| format!("e{number:02}.csv")).collect();
    let desk = many.iter().fold(Desk::new(), |desk, name| desk.with(name, "Other,Headings\n1,2\n"));
    let desk = desk
        .with("broken.toml", "[target]\nname = 5\n")
        .with("old.toml", "target = \"gone.toml\"\n")
        .with("notes.md", "not an export");
    let ran =
        desk.run(&["status"]).ended(0).says(&["broken.toml  it cannot be read", "old.toml", "and 5 more"]);
    assert!(!ran.out.contains("notes.md") && !ran.out.contains("codes/queen.csv"), "{}", ran.out);
    let json: Value = serde_json::from_str(&desk.run(&["status", "--format", "json"]).ended(0).out).unwrap();
    assert_eq!(json["exports"].as_array().map(Vec::len), Some(13));
    assert_eq!(json["form"], 1);
    let export =
        json["exports"].as_array().unwrap().iter().find(|export| export["file"] == "export.csv").unwrap();
    assert_eq!((&export["mappings"][0], &export["batch"]), (&"mapping.toml".into(), &Value::Null));
    assert_eq!(json["next"]["command"], "dusk check export.csv");
}

#[test]
fn help_tells_what_a_finding_means() {
    let desk = Desk::empty();
    let all =
        desk.run(&["help", "findings"]).ended(0).says(&["not-a-code", "reject", "dusk help NAME tells"]);
    assert!(all.out.lines().count() > 60, "{}", all.out);
    desk.run(&["help", "not-a-code"]).ended(0).says(&["not-a-code: ", "(reject)", "code list"]);
    desk.run(&["help", "not-a-cod"])
        .ended(0)
        .says(&["there is no finding not-a-cod", "dusk help not-a-code"]);
    // Commands are told as ever.
    desk.run(&["help", "turn-down"]).ended(0).says(&["Usage: dusk turn-down"]);
    desk.run(&["help", "check"]).ended(0).says(&["Usage: dusk check"]);
    desk.run(&["help", "nonsense"]).ended(2);
}
