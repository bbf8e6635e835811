//! The target's rules: in each row, only sometimes, only as a warning, and over the whole batch.

use crate::desk::Desk;

/// The small desk with one rule more, and three records that fit.
fn desk(rule: &str) -> Desk {
    let target = format!(
        "{}\n[[rule]]\nname = \"the rule\"\nsays = \"so it is agreed\"\n{rule}\n",
        crate::desk::TARGET
    );
    Desk::new().with("target.toml", &target).with(
        "export.csv",
        "No,Date,Queen,Honey\n117,03/04/2026,white,10\n290,25/04/2026,yellow,4.5\n291,26/04/2026,white,\n",
    )
}

#[test]
fn a_rule_applies_when_it_says_so_and_may_only_warn() {
    let rule = "when = \"queen = \\\"W\\\"\"\nmust = \"honey_kg < 4 and day of visit_date is not 26\"";
    desk(rule).conform().ended(1).says(&[
        "3 rows read = 1 accepted + 2 rejected",
        "2 rows   the rule  rows that break this rule",
        "\"queen W, honey_kg 4.5, visit_date 2026-04-03\"",
    ]);
    let ran = desk(&format!("{rule}\nseverity = \"warn\"")).conform().ended(0);
    ran.says(&["3 rows read = 3 accepted", "warn: 2 rows, first row 2: the rule"]);
    // A blank leaves a rule undecided, and only `is blank` asks for it.
    desk("must = \"honey_kg > 1\"").conform().ended(0);
    desk("must = \"honey_kg is not blank\"").conform().ended(1).says(&["\"honey_kg \" breaks a rule"]);
}

#[test]
fn a_rule_over_the_batch_keeps_it_from_being_written() {
    let desk = desk("must = \"number of records <= 2 or sum of honey_kg < 6.5\"");
    desk.run(&["check", "export.csv", "--today", "2026-05-01"]).ended(1).says(&[
        "3 rows read = 3 accepted + 0 rejected",
        "1 group  the rule  \"the whole batch\"  breaks a rule: so it is agreed (number of records 3",
        "honey_kg 6.5)",
    ]);
    desk.conform().stops(&["breaks rules over all its records", "sum of honey_kg 6.5"]);
    assert!(!desk.exists("batch"), "nothing was written");
    let result = desk.check();
    assert_eq!(result["causes"][0]["finding"], "batch-rule-broken", "{result}");
}

#[test]
fn a_rule_over_groups_names_the_group_and_counts_accepted_records_only() {
    let rule = "for_each = [\"queen\"]\nmust = \"number of records = 1\"";
    let desk = desk(&format!("{rule}\nseverity = \"warn\""));
    desk.conform().ended(0).says(&["queen W", "number of records 2"]);
    let result = desk.check();
    assert_eq!(result["remarks"][0]["finding"], "batch-rule-not-met", "{result}");
    // A rejected record and a second one of the same key are in no group.
    let desk = self::desk(rule).with(
        "export.csv",
        "No,Date,Queen,Honey\n117,03/04/2026,white,10\n117,03/04/2026,white,10\n290,x,white,1\n",
    );
    desk.run(&["check", "export.csv", "--today", "2026-05-01"]).ended(1).says(&["1 accepted + 2 rejected"]);
    assert!(!desk.check().to_string().contains("batch-rule"));
}

#[test]
fn what_is_wrong_with_a_rule_is_pointed_at() {
    for (rule, message) in [
        ("must = \"honey <= 3\"", "    honey <= 3\n    ^^^^^\n  did you mean \"honey_kg\"?"),
        ("must = \"honey_kg <= visit_date\"", "a number and a date cannot be compared"),
        ("must = \"honey_kg / 2 < 3\"", "there is no division"),
        ("must = \"honey_kg < 3\"\nfor_each = [\"queen\"]", "for_each makes groups of records"),
        ("must = \"sum of honey_kg < 3\"\nwhen = \"number of records > 1\"", "when looks at one record"),
        ("must = \"honey_kg < 3\"\nseverity = \"harsh\"", "harsh"),
    ] {
        desk(rule).run(&["target", "check"]).ended(1).says(&[message]);
    }
}
