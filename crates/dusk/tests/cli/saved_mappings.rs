//! Several mappings saved in one folder: which one is taken, and how they are listed, renamed and put aside.

use crate::desk::{Desk, MAPPING};

/// A desk with two saved mappings, for exports of two kinds.
fn with_two_mappings() -> Desk {
    Desk::new()
        .with("hives.toml", &MAPPING.replace("from = \"Queen\"", "from = \"Colour\""))
        .with("june.csv", "No,Date,Colour,Honey\n117,25/06/2026,white,10\n")
        .with("may.csv", "No,Date,Queen,Honey\n118,25/05/2026,white,10\n")
}

#[test]
fn without_a_named_mapping_the_one_that_fits_is_taken_and_said() {
    let desk = with_two_mappings();
    for (command, export) in
        [("check", "june.csv"), ("trial", "june.csv"), ("conform", "june.csv"), ("map", "june.csv")]
    {
        let ran = desk.run(&[command, export]);
        assert!(
            ran.err.contains("note: the mapping for june.csv is hives.toml; -m names another"),
            "{ran:?}"
        );
        assert!(ran.status < 2, "{ran:?}");
    }
    let quiet = desk.run(&["check", "june.csv", "-q"]);
    assert!(quiet.err.contains("is hives.toml"), "also where nothing else is said: {quiet:?}");
    // The rejects of a batch belong to the mapping that made it.
    let desk = desk.with("july.csv", "No,Date,Colour,Honey\n117,25/07/2026,yel.,10\n");
    desk.run(&["conform", "july.csv", "-o", "batches/july"]).ended(1);
    let back = desk.run(&["correct", "batches/july/rejects.csv", "--yes"]);
    assert!(back.err.contains("is hives.toml"), "{back:?}");
    // The usual one needs no words, and the others are in nobody's way.
    let usual = desk.run(&["check", "may.csv"]).ended(0);
    assert!(!usual.err.contains("note:"), "{usual:?}");
    desk.run(&["check", "june.csv", "-m", "mapping.toml"]).stops(&["Queen"]);
    desk.run(&["crosswalk", "list"]).ended(0);
    // What is wrong with the usual one is said before another is taken.
    let desk = desk.edited("mapping.toml", "[[map]]", "[[mop]]");
    desk.run(&["check", "june.csv"]).stops(&["mapping.toml"]);
}

#[test]
fn where_two_mappings_fit_or_none_one_has_to_be_named() {
    let desk = with_two_mappings().with("third.toml", MAPPING);
    desk.run(&["check", "may.csv"]).stops(&[
        "2 saved mappings fit may.csv",
        "-m mapping.toml",
        "-m third.toml",
    ]);
    let desk = desk.with("other.csv", "Name,Town\na,b\n");
    std::fs::remove_file(desk.path("mapping.toml")).unwrap();
    desk.run(&["check", "other.csv"]).stops(&[
        "not one of the mappings saved here fits other.csv",
        "hives.toml: there is no column \"No\", and 3 more are not there",
        "dusk map other.csv",
    ]);
    // For a new kind of export a new mapping is begun.
    desk.run(&["map", "other.csv"]);
    assert!(desk.exists("mapping.toml"));
}

#[test]
fn saved_mappings_are_listed_renamed_and_put_aside_and_keep_their_batches() {
    let desk = with_two_mappings();
    desk.run(&["conform", "june.csv", "--today", "2026-06-30"]).ended(0);
    let list =
        desk.run(&["map", "--list"]).ended(0).says(&["hives.toml", "june.csv", "2026-06-30-a", "never"]);
    assert!(
        list.out.lines().any(|line| line.contains("mapping.toml") && line.contains("may.csv")),
        "{}",
        list.out
    );
    desk.run(&["map", "--list", "june.csv"]).ended(0).says(&["no: there is no", "column \"Queen\"", "yes"]);
    desk.run(&["map", "--rename", "hives", "colonies"]).ended(0).says(&["called colonies.toml now"]);
    assert_eq!(desk.read("colonies.toml").matches("Colour").count(), 1);
    desk.run(&["map", "--list"]).says(&["colonies.toml", "2026-06-30-a"]);
    desk.run(&["conform", "june.csv"]).stops(&["was in batch 2026-06-30-a"]);
    desk.run(&["map", "--rename", "colonies.toml", "mapping.toml"]).stops(&["mapping.toml is there already"]);
    desk.run(&["map", "--rename", "colonies.toml", "../out.toml"])
        .stops(&["not a name of a file in the same folder"]);
    desk.run(&["map", "--remove", "colonie"])
        .stops(&["there is no saved mapping colonie", "did you mean colonies.toml?"]);
    desk.run(&["map", "--remove", "colonies"]).ended(0).says(&["removed/colonies-1.toml"]);
    assert!(!desk.exists("colonies.toml") && desk.exists("removed/colonies-1.toml"));
    desk.run(&["map", "--list", "nowhere.csv"]).ended(1).says(&["no: the file does not exist"]);
    desk.run(&["map"]).stops(&["SOURCE"]);
}
