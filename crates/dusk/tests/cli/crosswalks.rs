//! Settling a cause with a crosswalk line, listing and forgetting.

use crate::desk::Desk;

#[test]
fn a_settled_cause_does_not_come_back() {
    let desk = Desk::new();
    desk.run(&["check", "export.csv"]).ended(1).says(&["settle: dusk crosswalk add queen yel. Y"]);
    let add = [
        "crosswalk",
        "add",
        "queen",
        "yel.",
        "Y",
        "--by",
        "A. Clerk",
        "--today",
        "2026-04-30",
        "--note",
        "asked, twice",
    ];
    desk.run(&add).ended(0).says(&["queen: \"yel.\" means Y Yellow (remembered in crosswalks/queen.csv)"]);
    assert_eq!(
        desk.read("crosswalks/queen.csv"),
        "value,within,code,by,on,note\nyel.,,Y,A. Clerk,2026-04-30,\"asked, twice\"\n"
    );
    desk.conform().ended(0).says(&["2 rows read = 2 accepted + 0 rejected"]);
    assert!(
        desk.read("batch/changes.csv")
            .contains("queen,yel.,Y,crosswalk,\"crosswalk, A. Clerk, 2026-04-30\",1")
    );
    assert!(desk.read("batch/receipt.json").contains("crosswalks/queen.csv"));
    desk.run(&["crosswalk", "list"]).ended(0).says(&["queen", "yel.", "Y Yellow", "A. Clerk", "2026-04-30"]);
    let listed = desk.run(&["crosswalk", "list", "queen", "--format", "json"]).ended(0);
    let lines: serde_json::Value = serde_json::from_str(&listed.out).unwrap();
    assert_eq!(lines[0]["note"], "asked, twice");
    desk.run(&["crosswalk", "remove", "queen", "YEL."]).ended(0).says(&["\"yel.\" no longer means Y"]);
    desk.run(&["check", "export.csv"]).ended(1);
    desk.run(&["crosswalk", "list"]).ended(0).says(&["nothing is remembered yet"]);
}

#[test]
fn case_and_spaces_do_not_count_and_the_last_word_holds() {
    let desk = Desk::new();
    desk.run(&["crosswalk", "add", "queen", "Y EL.", "W"]).ended(0);
    assert!(desk.read("crosswalks/queen.csv").contains(",clerk,"), "the user's name stands in for --by");
    desk.run(&["crosswalk", "add", "queen", "yel.", "Y"]).ended(0).says(&["it meant W before"]);
    desk.run(&["crosswalk", "add", "queen", "sky", "W"])
        .ended(0)
        .says(&["without this line it would mean B Blue"]);
    desk.run(&["crosswalk", "add", "queen", "--", "W"]).ended(2);
    desk.run(&["crosswalk", "add", "queen", "-", "W"]).ended(0);
    assert_eq!(desk.read("crosswalks/queen.csv").lines().count(), 4);
}

#[test]
fn a_line_that_cannot_be_is_refused_and_nothing_is_written() {
    let desk = Desk::new();
    desk.run(&["crosswalk", "add", "queen", "yel.", "Yellow"])
        .stops(&["\"Yellow\" is no code of queen", "W, Y, B"]);
    desk.run(&["crosswalk", "add", "quen", "yel.", "Y"])
        .stops(&["the target has no field \"quen\"", "did you mean \"queen\"?"]);
    desk.run(&["crosswalk", "add", "honey_kg", "much", "9"])
        .stops(&["honey_kg is of type decimal, which takes no crosswalk"]);
    desk.run(&["crosswalk", "add", "queen", " ", "Y"]).stops(&["a blank value cannot be translated"]);
    desk.run(&["crosswalk", "remove", "queen", "yel."]).stops(&["nothing is remembered for \"yel.\""]);
    assert!(!desk.exists("crosswalks"));
}

#[test]
fn what_is_wrong_with_a_crosswalk_is_said_with_its_line() {
    let desk =
        Desk::new().with("crosswalks/queen.csv", "value,code,by\nyel.,Q,me\nwht,W,me\nWHT ,Y,me\n,W,me\n");
    desk.run(&["check", "export.csv"]).stops(&[
        "crosswalks/queen.csv, line 2: \"Q\" is no code of queen",
        "line 4: translates \"WHT\" again",
        "an earlier line says W",
        "line 5: has no value to translate",
    ]);
}

#[test]
fn translations_hold_inside_their_parent() {
    let field = "type = \"code\"\ncodes = \"codes/parts.csv\"\nwithin = \"up\"\n[[field]]\nname = \"up\"\ntype = \"code\"\ncodes = \"codes/queen.csv\"";
    let desk = Desk::with_field(field, "from = \"It\"\n[[map]]\nfield = \"up\"\nfrom = \"Id\"", &[])
        .with("codes/parts.csv", "code,label,within\n01,Wing,W\n02,Wing,B\n")
        .with("export.csv", "Id,It\nW,fl\nB,fl\n");
    desk.run(&["crosswalk", "add", "it", "fl", "02", "--within", "W"])
        .stops(&["\"02\" is no code of parts within \"W\""]);
    desk.run(&["crosswalk", "add", "it", "fl", "01", "--within", "W"]).ended(0);
    desk.run(&["check", "export.csv"]).ended(1).says(&["1 accepted + 1 rejected"]);
    desk.run(&["crosswalk", "add", "it", "fl", "02", "--within", "B"]).ended(0);
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it,up\nW,01,W\nB,02,B\n");
}

#[test]
fn booleans_take_translations_into_the_targets_words() {
    let desk = Desk::with_field(
        "type = \"boolean\"\nformat = \"J/N\"",
        "from = \"It\"\nwords = \"x/-\"",
        &["done", "x"],
    );
    desk.run(&["crosswalk", "add", "it", "done", "yes"]).stops(&["\"yes\" is neither \"J\" nor \"N\""]);
    desk.run(&["crosswalk", "add", "it", "done", "J"]).ended(0);
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,J\nr1,J\n");
}
