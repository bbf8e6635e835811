//! Exit statuses, colours, quiet, help and result formats.

use std::process::Stdio;

use crate::desk::{Desk, Ran};

#[test]
fn exit_statuses_say_what_became_of_the_rows() {
    let desk = Desk::new();
    desk.run(&["check", "export.csv"]).ended(1);
    desk.run(&["check"]).ended(2);
    desk.run(&["chekc"]).ended(2);
    let desk = desk.with("export.csv", "No,Date,Queen,Honey\n117,03/04/2026,white,10\n");
    desk.run(&["check", "export.csv"]).ended(0);
}

#[test]
fn colours_are_for_terminals_unless_asked_for() {
    let desk = Desk::new();
    let plain = desk.run(&["check", "export.csv"]).ended(1);
    assert!(!plain.out.contains('\u{1b}'), "{}", plain.out);
    let coloured = desk.run(&["check", "export.csv", "--colour", "always"]).ended(1);
    assert!(coloured.out.contains("\u{1b}["), "{}", coloured.out);
    let never = desk.run(&["check", "export.csv", "--colour", "never"]).ended(1);
    assert_eq!(never.out, plain.out);
}

#[test]
fn quiet_prints_the_result_alone() {
    let ran = Desk::new().run(&["check", "export.csv", "--quiet"]).ended(1);
    assert!(ran.out.starts_with("2 rows read = 1 accepted + 1 rejected"), "{}", ran.out);
    assert_eq!(ran.err, "");
}

#[test]
fn small_causes_are_summed_up_until_all_are_asked_for() {
    let unknown = (0..25).map(|number| format!("pink{number}"));
    let cells: Vec<String> = unknown.chain(["white".to_owned()]).collect();
    let cells: Vec<&str> = cells.iter().map(String::as_str).collect();
    let desk = Desk::with_field("type = \"code\"\ncodes = \"codes/queen.csv\"", "from = \"It\"", &cells);
    let few = desk
        .run(&["check", "export.csv"])
        .ended(1)
        .says(&["and 17 smaller causes with 17 findings: --all-causes"]);
    assert!(!few.out.contains("pink24"));
    desk.run(&["check", "export.csv", "--all-causes"]).ended(1).says(&["pink24"]);
}

#[test]
fn another_mapping_is_named_in_the_command_that_settles() {
    let desk = Desk::new()
        .with("spring maps/m.toml", &crate::desk::MAPPING.replace("target.toml", "../target.toml"));
    desk.run(&["check", "export.csv", "-m", "spring maps/m.toml"])
        .ended(1)
        .says(&["add queen yel. Y -m \"spring maps/m.toml\""]);
    desk.run(&["crosswalk", "add", "queen", "yel.", "Y", "-m", "spring maps/m.toml"]).ended(0);
    desk.run(&["conform", "export.csv", "-m", "spring maps/m.toml", "--today", "2026-04-30"]).ended(0);
    assert_eq!(desk.names("spring maps"), ["batches", "crosswalks", "m.toml"]);
}

#[test]
fn a_reader_that_leaves_is_no_failure() {
    let desk = Desk::new();
    let mut child = desk
        .command(&["check", "export.csv", "--format", "json"])
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    drop(child.stdout.take());
    let output = child.wait_with_output().unwrap();
    assert_eq!(String::from_utf8(output.stderr).unwrap(), "");
}

#[test]
fn the_examples_of_the_help_work_when_pasted() {
    let desk = Desk::empty();
    desk.run(&["demo", "d", "--quiet"]).ended(0);
    let mut pasted = 0;
    // The demo ends with the summer's names in its mapping.
    let mapping = desk.read("d/mapping.toml").replace("Queen mark", "Queen");
    let desk = desk
        .with("d/mapping.toml", &mapping)
        .with("d/answers.csv", "field,value,code\nqueen_colour,creamy,W\n");
    let commands = [
        "batches",
        "map",
        "trial",
        "check",
        "correct",
        "explain",
        "conform",
        "crosswalk add",
        "crosswalk remove",
        "crosswalk check",
        "target check",
        "turn-down",
        "approve",
        "deliver",
        "practice",
        "answer",
        "batches confirm",
        "batches show",
        "follow-up",
        "round",
    ];
    let made = || {
        let batches = std::fs::read_dir(desk.path("d/batches")).unwrap();
        let mut names: Vec<String> =
            batches.map(|entry| entry.unwrap().file_name().into_string().unwrap()).collect();
        names.retain(|name| name != "replaced");
        names.sort();
        names.first().cloned().unwrap_or_default()
    };
    for command in commands {
        if command == "conform" {
            std::fs::remove_dir_all(desk.path("d/batches")).unwrap();
        }
        let words: Vec<&str> = command.split(' ').chain(["--help"]).collect();
        let help = desk.run(&words).ended(0).out;
        assert!(help.contains("Usage: dusk"), "{help}");
        let examples = help
            .lines()
            .skip_while(|line| !line.starts_with("Example"))
            .filter(|line| line.trim().starts_with("dusk "));
        for example in examples {
            // The batches of this run bear its day.
            let batch = if std::fs::exists(desk.path("d/batches")).unwrap() { made() } else { String::new() };
            let example = example.replace("2026-04-30-a", if batch.is_empty() { "none" } else { &batch });
            let answers = desk.path("d/register/incoming/answers");
            if let Some(answer) = std::fs::read_dir(answers).into_iter().flatten().flatten().next() {
                std::fs::copy(answer.path(), desk.path("d/answer.csv")).unwrap();
            }
            let script = example.trim().replacen("dusk", env!("CARGO_BIN_EXE_dusk"), 1);
            let mut shell = std::process::Command::new("sh");
            shell.args(["-c", &script]).current_dir(desk.path("d"));
            let ran = Ran::of(shell);
            assert!(ran.status < 2, "{example}: {}", ran.err);
            pasted += 1;
        }
    }
    assert!(pasted >= 45, "{pasted} examples");
}
