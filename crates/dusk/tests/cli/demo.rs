//! The demo: the whole job on the made-up export.

use serde_json::Value;

use crate::desk::Desk;

#[test]
fn the_demo_rejects_for_many_causes_settles_some_and_keeps_out_what_is_wrong() {
    let desk = Desk::empty();
    let ran = desk.run(&["demo", "d"]).ended(0);
    ran.says(&[
        "$ dusk check spring-2026.csv",
        "$ dusk crosswalk add queen_colour yel. Y",
        "1,262 rows read",
        "sure, and written: 14",
        "chosen so that they show most",
        "spring-2026.csv was in batch 2026-04-30-a of 30 Apr 2026 already",
        "\"Queen\" may be called \"Queen mark\" now",
        "mapping.toml does not speak of it: \"Scale (kg)\"",
        "queen_colour: values never seen before: \"Violet\"",
        "treatments: values never seen before: \"Essential oils\"",
    ]);
    let receipt = |batch: &str| -> Value {
        serde_json::from_str(&desk.read(&format!("d/batches/{batch}/receipt.json"))).unwrap()
    };
    let (first, second) = (receipt("replaced/2026-04-30-a-1"), receipt("2026-04-30-a"));
    let kinds = |receipt: &Value| receipt["findings"].as_object().unwrap().len();
    assert!(kinds(&first) >= 8, "{first}");
    let rejected = |receipt: &Value| receipt["totals"]["rejected"].as_u64().unwrap();
    assert!(rejected(&second) * 2 < rejected(&first), "six decisions settle most rows");
    assert!(rejected(&second) > 40 && kinds(&second) >= 8, "what is truly wrong stays out");
    for receipt in [&first, &second] {
        let totals = &receipt["totals"];
        let sum: u64 = ["accepted", "rejected", "merged", "left_out"]
            .iter()
            .map(|part| totals[part].as_u64().unwrap())
            .sum();
        assert_eq!(totals["read"], sum);
    }
    // What the register asked for, to the byte.
    let upload = desk.read_bytes("d/batches/2026-04-30-a/upload/inspections-2026-04-30-a-1.csv");
    let text = String::from_utf8(upload).unwrap();
    assert!(text.starts_with("apiary_id;hive;visit_date;arrived;region;district;location;queen_colour;marked;frames;brood_frames;honey_kg;treat_OX;treat_FA;treat_TH;treat_LA;treat_DR;treat_SM;remarks;entered_at;season;loaded_by\r\n"));
    assert_eq!(text.matches("\r\n").count(), 501, "500 records and the header");
    assert!(text.contains("Château Lane, "), "Windows-1252 has become UTF-8");
}

#[test]
fn the_demo_is_the_same_everywhere_and_overwrites_nothing() {
    let desk = Desk::empty();
    desk.run(&["demo", "one"]).ended(0);
    desk.run(&["demo", "two"]).ended(0);
    assert_eq!(desk.read_bytes("one/spring-2026.csv"), desk.read_bytes("two/spring-2026.csv"));
    assert_eq!(
        desk.read("one/batches/2026-04-30-a/receipt.json"),
        desk.read("two/batches/2026-04-30-a/receipt.json")
    );
    desk.run(&["demo", "one"]).stops(&["one exists already"]);
    desk.run(&["demo", "three", "--seed", "7"]).ended(0);
    assert_ne!(desk.read_bytes("one/spring-2026.csv"), desk.read_bytes("three/spring-2026.csv"));
}

#[test]
fn the_drafted_description_gives_the_same_batch_as_the_one_written_by_hand() {
    let desk = Desk::empty();
    desk.run(&["demo", "d"]).ended(0);
    // In summer a column was given another name.
    let mapping = desk
        .read("d/mapping.toml")
        .replace("target.toml", "drafted/target.toml")
        .replace("Queen mark", "Queen");
    let desk = desk.with("d/by-draft.toml", &mapping);
    let words = [
        "conform",
        "spring-2026.csv",
        "-m",
        "by-draft.toml",
        "-o",
        "batches/by-draft",
        "--again",
        "--today",
        "2026-04-30",
    ];
    let mut command = desk.command(&words);
    command.args(["--set", "loaded_by=A. Clerk"]).current_dir(desk.path("d"));
    crate::desk::Ran::of(command).ended(1);
    let upload = |batch: &str| -> Vec<Vec<u8>> {
        let folder = format!("d/batches/{batch}/upload");
        desk.names(&folder).iter().map(|name| desk.read_bytes(&format!("{folder}/{name}"))).collect()
    };
    assert_eq!(upload("by-draft").len(), 3);
    assert!(upload("by-draft") == upload("2026-04-30-a"), "the same files, to the byte");
}
