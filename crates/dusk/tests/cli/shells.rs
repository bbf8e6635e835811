//! What shells and the manual are given: completions that know the target here, and a page for each command.

use std::process::Command;

use crate::desk::Desk;

/// What a shell is offered for the word that is typed last, besides options.
fn offered(desk: &Desk, words: &[&str]) -> Vec<String> {
    let mut command = desk.command(&["--", "dusk"]);
    command.args(words).env("DUSK_COMPLETE", "bash").env("_CLAP_COMPLETE_INDEX", words.len().to_string());
    let output = command.env("_CLAP_IFS", "\n").output().unwrap();
    assert!(output.status.success(), "{output:?}");
    let lines = String::from_utf8(output.stdout).unwrap();
    lines.lines().filter(|line| !line.starts_with('-')).map(str::to_owned).collect()
}

#[test]
fn fields_codes_batches_and_what_is_asked_for_are_completed() {
    let desk = Desk::new().edited(
        "mapping.toml",
        "target = \"target.toml\"\n",
        "target = \"target.toml\"\n[ask]\nclerk = \"Who loads it?\"\n",
    );
    desk.run(&["conform", "export.csv", "--set", "clerk=A", "--today", "2026-04-30"]).ended(1);
    let is = |words: &[&str], wanted: &[&str]| assert_eq!(offered(&desk, words), wanted, "{words:?}");
    is(&["crosswalk", "add", "q"], &["queen"]);
    is(&["crosswalk", "add", "queen", "yel.", ""], &["W", "Y", "B"]);
    is(&["crosswalk", "add", "honey_kg", "4", ""], &[]);
    is(&["target", "show", "h"], &["honey_kg"]);
    is(&["check", "export.csv", "--total", "v"], &["visit_date"]);
    is(&["check", "export.csv", "--set", "c"], &["clerk="]);
    is(&["follow-up", "x", "--field", "v"], &["visit_date="]);
    for command in ["approve", "turn-down", "deliver", "answer", "follow-up"] {
        is(&[command, "20"], &["2026-04-30-a"]);
    }
    is(&["batches", "show", "20"], &["2026-04-30-a"]);
    is(&["conform", "--rest", ""], &["2026-04-30-a"]);
    is(&["inspect", "exp"], &["export.csv"]);
    assert!(offered(&desk, &["st"]).contains(&"start".to_owned()));
    // Another mapping, or none, is none of this one's names.
    is(&["check", "export.csv", "-m", "no.toml", "--set", "c"], &[]);
    assert_eq!(offered(&Desk::empty(), &["crosswalk", "add", ""]), [""; 0]);
}

#[test]
fn each_shell_is_told_how_to_ask_and_bash_takes_it() {
    let desk = Desk::new();
    for shell in ["bash", "zsh", "fish", "elvish", "powershell"] {
        desk.run(&["completions", shell]).ended(0).says(&["DUSK_COMPLETE"]);
    }
    desk.run(&["completions", "abacus"]).ended(2);
    // Where that shell is installed, it is asked itself.
    if !std::path::Path::new("/bin/bash").exists() {
        return;
    }
    let script = format!("{}\ncomplete -p dusk\n", desk.run(&["completions", "bash"]).out);
    let taken = Command::new("/bin/bash").args(["--norc", "-c", &script]).output().unwrap();
    assert!(String::from_utf8_lossy(&taken.stdout).contains("dusk"), "{taken:?}");
}

#[test]
fn the_manual_has_a_page_for_each_command() {
    let desk = Desk::empty();
    desk.run(&["man", "manual"]).ended(0).says(&["manual: ", " pages"]);
    let pages = desk.names("manual");
    for page in
        ["dusk.1", "dusk-conform.1", "dusk-target-draft.1", "dusk-crosswalk-add.1", "dusk-batches-show.1"]
    {
        assert!(pages.contains(&page.to_owned()), "{page}: {pages:?}");
    }
    let page = desk.read("manual/dusk-crosswalk-add.1");
    assert!(page.contains(".SH OPTIONS") && page.contains("dusk\\-crosswalk\\-add"), "{page}");
    assert!(pages.iter().all(|page| !page.contains("help")), "{pages:?}");
}
