//! `dusk map`: proposals written, refreshed, asked about and shown.

use crate::desk::{Desk, QUEEN, TARGET};

const EXPORT: &str =
    "Apiary ID,Date,Queen,Honey (lb),Weather\n117,25/04/2026,white,10,sun\n290,26/04/2026,yellow,4.5,rain\n";

fn desk() -> Desk {
    Desk::empty().with("target.toml", TARGET).with("codes/queen.csv", QUEEN).with("export.csv", EXPORT)
}

#[test]
fn the_first_mapping_is_written_with_reasons_and_works_once_it_is_read_over() {
    let desk = desk();
    desk.run(&["map", "export.csv", "--today", "2026-05-01"]).ended(0).says(&[
        "sure, and written: 4",
        "apiary_id   \"Apiary ID\"   the same name, but for case and signs",
        "unit = \"lb\"   the heading says so; the target wants kg",
        "visit_date  \"Date\"        some of the same words",
        "day-month-year, so no line names it",
        "columns without a field:\n  Weather",
    ]);
    let text = desk.read("mapping.toml");
    assert!(text.contains("target = \"target.toml\""), "{text}");
    // A steward reads it over: digits may be lost, the weather is left out.
    let uncommented =
        text.replace("# round =", "round =").replace("# [leave_out]\n# columns", "[leave_out]\ncolumns");
    let desk = desk.with("mapping.toml", &uncommented);
    desk.run(&["check", "export.csv", "--evidence"])
        .ended(0)
        .says(&["2 rows read = 2 accepted", "4 of 4 fields: 4 from a column each"]);
    desk.run(&["map", "export.csv"]).ended(0).says(&["refreshed mapping.toml"]);
    let kept = desk.read("mapping.toml");
    assert!(!kept.contains("to decide (") && kept.contains("[leave_out]\ncolumns = [\"Weather\"]"), "{kept}");
    desk.run(&["check", "export.csv"]).ended(0).says(&["2 rows read = 2 accepted"]);
    desk.run(&["map", "export.csv"]).ended(0).says(&["nothing is new"]);
    assert_eq!(desk.read("mapping.toml"), kept, "a refresh of an unchanged source changes no byte");
}

#[test]
fn a_refresh_only_adds_and_says_what_it_would_change() {
    let mapping = "# mine\ntarget = \"target.toml\"\n[[map]]\nfield = \"apiary_id\"\nfrom = \"Apiary ID\"   # as agreed\n[[map]]\nfield = \"visit_date\"\nfrom = \"Date\"\n";
    let desk = desk().with("mapping.toml", mapping);
    desk.run(&["map", "export.csv"]).ended(0).says(&["new, and written: 2", "refreshed mapping.toml"]);
    assert!(desk.read("mapping.toml").starts_with(mapping));
    let renamed = desk.with("export.csv", &EXPORT.replace("Date", "Visit date"));
    renamed
        .run(&["map", "export.csv"])
        .ended(1)
        .says(&["to look at: 1", "visit_date is from \"Date\", which is gone; \"Visit date\" may be it"]);
    assert!(renamed.read("mapping.toml").starts_with(mapping), "it is said, and not changed");
    let swapped = renamed
        .with("export.csv", EXPORT)
        .edited("mapping.toml", "from = \"Apiary ID\"", "from = \"Weather\"")
        .edited("mapping.toml", "from = \"Date\"", "from = \"Apiary ID\"");
    for words in [&["map", "export.csv"][..], &["map", "export.csv", "--show"]] {
        swapped.run(words).ended(1).says(&[
            "apiary_id is from \"Weather\"; \"Apiary ID\" looks more like it",
            "visit_date is from \"Apiary ID\"",
            "0 of 2 values are dates",
        ]);
    }
}

/// A register of boats that asks for all that can be answered.
fn boats() -> Desk {
    let target = r#"
[target]
name = "Boats"

[[field]]
name = "boat_no"
type = "text"
required = true

[[field]]
name = "surveyed_at"
description = "Day and hour of the survey."
type = "datetime"

[[field]]
name = "quay"
type = "text"
max_length = 3

[[field]]
name = "harbour"
type = "text"
required = true

[[field]]
name = "owner"
type = "text"

[[field]]
name = "colour"
type = "text"
"#;
    let export = "Key,Day,Hour,Place,Belongs to,Tint,Clerk,Sheet\n\
        x7,03/04/2026,10:15,A1 North mole,Ida Penn,red,AB,1\n\
        x9,25/04/2026,11:45,B2 South mole,Jon Ashe,blue,AB,2\n\
        x8,26/04/2026,09:00,C9 Fish dock,Una Moss,red,CD,3\n";
    Desk::empty().with("target.toml", target).with("boats.csv", export)
}

#[test]
fn every_kind_of_answer_is_taken_and_a_wrong_word_is_asked_again() {
    let desk = boats();
    // A wrong word, a part of a name in any case, a constant; what may stay empty one by one: a part of a cell, a
    // part of a name, none; no look at the sure ones; the columns one by one.
    let answers = "kee\nKEY\n= Old harbour\nperhaps\ne\npart place\n{code}{name}\ncode\n{code:word} {name}\ncode\nbelong\nnone\n\
        n\ne\ny\nn\nmaybe\ny\n";
    let ran = desk.answering(&["map", "boats.csv", "--ask"], answers);
    for says in [
        "there is no column \"kee\"; did you mean \"Key\"?",
        "3 fields may stay empty, and no column looks like them: quay, owner, colour",
        "\"perhaps\" is not an answer to this question",
        "two parts with nothing between them",
        "3 of 3 values have this form; the first gives \"A1\"",
        "\"maybe\" is neither yes nor no",
    ] {
        assert!(ran.err.contains(says), "{says}: {}", ran.err);
    }
    let text = desk.read("mapping.toml");
    for line in [
        "field = \"boat_no\"\nfrom  = \"Key\"",
        "field = \"surveyed_at\"\njoin  = \"{Day} {Hour}\"",
        "field = \"quay\"\nfrom  = \"Place\"",
        "part  = \"{code:word} {name}\"\ntake  = \"code\"",
        "field = \"harbour\"\nconstant = \"Old harbour\"",
        "field = \"owner\"\nfrom  = \"Belongs to\"",
        "fields = [\"colour\"]",
        "columns = [\"Tint\", \"Sheet\"]",
    ] {
        assert!(text.contains(line), "{line}: {text}");
    }
    desk.run(&["check", "boats.csv", "-q"]).ended(0);
    // What is answered is not asked again; what was left to decide is.
    let again = desk.answering(&["map", "boats.csv", "--ask"], "y\n");
    assert!(
        again.err.contains("Nothing uses 1 column: Clerk") && !again.err.contains("What feeds it"),
        "{again:?}"
    );
    assert!(desk.read("mapping.toml").contains("columns = [\"Tint\", \"Sheet\", \"Clerk\"]"));
}

#[test]
fn asking_stops_and_is_taken_up_again_and_joins_by_number_or_name() {
    let desk = boats();
    let ran = desk.answering(&["map", "boats.csv", "--ask"], "Day + hour\nstop\n");
    assert!(ran.err.contains("What feeds it?"), "{}", ran.err);
    let text = desk.read("mapping.toml");
    assert!(text.contains("field = \"boat_no\"\njoin  = \"{Day} {Hour}\""), "{text}");
    let ran = desk.answering(&["map", "boats.csv", "--ask"], "none\n{place}, {Clerk}\n\n\n");
    assert!(ran.err.contains("this field must be filled"), "{}", ran.err);
    assert!(desk.read("mapping.toml").contains("field = \"harbour\"\njoin  = \"{Place}, {Clerk}\""));
}

#[test]
fn a_renamed_column_is_offered() {
    let desk = desk().with(
        "mapping.toml",
        "# mine\ntarget = \"target.toml\"\n[[map]]\nfield = \"visit_date\"\nfrom  = \"Day\"   # as agreed\n",
    );
    let ran = desk.answering(&["map", "export.csv", "--ask"], "x\ny\n");
    assert!(
        ran.err.contains("Take \"Date\" from now on?") && ran.err.contains("neither yes nor no"),
        "{}",
        ran.err
    );
    assert!(
        desk.read("mapping.toml").contains("from  = \"Date\"   # as agreed"),
        "{}",
        desk.read("mapping.toml")
    );
}

#[test]
fn the_mapping_is_shown_with_values_before_and_after() {
    let desk = Desk::new();
    desk.run(&["map", "export.csv", "--show"]).ended(0).says(&[
        "apiary_id * key  \"No\"",
        "117",
        "000117",
        "lb to kg; rounded half-up",
        "W",
    ]);
    let open = desk
        .edited("mapping.toml", "order = \"day-month-year\"\n", "")
        .with("export.csv", "No,Date,Queen,Honey\n1,03/04/2026,white,1\n");
    open.run(&["map", "export.csv", "--show"]).ended(1).says(&["this must be decided first", "order = …"]);
}

#[test]
fn what_stands_in_the_way_of_a_mapping_is_said() {
    let desk = desk();
    desk.run(&["map", "export.csv", "-t", "no.toml"]).stops(&["no.toml", "dusk target draft"]);
    desk.run(&["map", "no.csv"]).stops(&["no.csv"]);
    desk.run(&["map", "export.csv", "-m", "maps/spring.toml", "--header-row", "1"]).ended(0);
    let text = desk.read("maps/spring.toml");
    assert!(
        text.contains("target = \"../target.toml\"") && text.contains("[source]\nheader_row = 1"),
        "{text}"
    );
    desk.run(&["map", "export.csv", "-m", "maps/spring.toml", "--header-row", "2"])
        .stops(&["is there already"]);
    let desk = desk.with("other.toml", TARGET);
    desk.run(&["map", "export.csv", "-m", "maps/spring.toml", "-t", "other.toml"])
        .stops(&["is a mapping into"]);
    let ran = desk.run(&["map", "export.csv", "-m", "maps/spring.toml", "--format", "json"]);
    let json: serde_json::Value = serde_json::from_str(&ran.out).unwrap();
    assert_eq!((&json["changed"], &json["columns_without"][0]), (&false.into(), &"Weather".into()));
}

#[test]
fn a_mapping_that_somebody_writes_while_questions_are_asked_is_left_as_it_is() {
    let desk = desk().with("export.csv", &EXPORT.replace("Queen", "Mark"));
    for before in [None, Some("target = \"target.toml\"\n")] {
        if let Some(before) = before {
            desk.with_again("mapping.toml", before);
        }
        let mut command = desk.command(&["map", "export.csv", "-t", "target.toml", "--ask"]);
        if before.is_some() {
            command = desk.command(&["map", "export.csv", "--ask"]);
        }
        let piped = std::process::Stdio::piped;
        let mut child = command.stdin(piped()).stdout(piped()).stderr(piped()).spawn().unwrap();
        // Once the first question stands there, the mapping has been read.
        let mut said = vec![0; 16];
        std::io::Read::read_exact(child.stderr.as_mut().unwrap(), &mut said).unwrap();
        let others = "target = \"target.toml\"\n# by somebody else\n";
        desk.with_again("mapping.toml", others);
        let mut answers = child.stdin.take().unwrap();
        // Whoever has enough answers reads no more of them.
        let _ = std::io::Write::write_all(&mut answers, &b"y\n".repeat(12));
        drop(answers);
        let ended = child.wait_with_output().unwrap();
        let says = String::from_utf8_lossy(&ended.stderr).into_owned();
        assert_eq!(ended.status.code(), Some(2), "{says}");
        assert!(says.contains("somebody has written it meanwhile, so it was left as it is"), "{says}");
        assert_eq!(desk.read("mapping.toml"), others);
    }
}

#[test]
fn a_unit_that_the_target_does_not_name_is_said() {
    let desk = desk().edited("target.toml", "unit = \"kg\"\n", "");
    desk.run(&["map", "export.csv"])
        .ended(1)
        .says(&["likely, written as comments: 1", "heading says lb, and the target names no unit"]);
    assert!(!desk.read("mapping.toml").contains("unit ="));
}

#[test]
fn a_mapping_is_never_made_unreadable() {
    let mapping = "target = \"target.toml\"\n[leave_out]\ncolumns = []\n";
    let desk = desk().with("mapping.toml", mapping);
    desk.answering(&["map", "export.csv", "--ask"], "y\ny\ny\ny\n");
    let text = desk.read("mapping.toml");
    assert!(text.starts_with(mapping), "{text}");
    assert_eq!(text.matches("[leave_out]").count(), 2, "the second in a comment\n{text}");
    desk.run(&["map", "export.csv"]).says(&["nothing is new"]);
    let desk = desk.with("mapping.toml", "target = \"target.toml\"\n[[map]\n");
    desk.run(&["map", "export.csv"]).stops(&["mapping.toml, line 2"]);
    assert_eq!(desk.read("mapping.toml"), "target = \"target.toml\"\n[[map]\n");
}

#[test]
fn codes_inside_other_codes_prove_two_columns_that_nothing_names() {
    let target = r#"[target]
name = "Hats"

[[field]]
name = "kind"
type = "code"
codes = "codes/kind.csv"

[[field]]
name = "sort"
type = "code"
codes = "codes/sort.csv"
within = "kind"

[[field]]
name = "size"
type = "integer"
"#;
    let kinds = "code,label\nS,Straw\nF,Felt\nW,Wool\n";
    let sorts = "code,label,within\n1,Boater,S\n2,Sun hat,S\n3,Trilby,F\n4,Bowler,F\n5,Beret,W\n6,Cap,W\n";
    let rows = |sort: &dyn Fn(usize) -> usize| -> String {
        let kind = |at: usize| ["S", "S", "F", "F", "W", "W"][at % 6];
        (0..60).map(|at| format!("{},{},{}\n", sort(at), kind(at), at % 4 + 1)).collect()
    };
    let desk = Desk::empty()
        .with("target.toml", target)
        .with("codes/kind.csv", kinds)
        .with("codes/sort.csv", sorts)
        .with("hats.csv", &format!("a,b,c\n{}", rows(&|at| at % 6 + 1)));
    desk.run(&["map", "hats.csv"])
        .says(&["sure, and written: 2", "row by row its codes go with those of another column"]);
    let mapping = desk.read("mapping.toml");
    assert!(
        mapping.contains("field = \"sort\"\nfrom  = \"a\"")
            && mapping.contains("field = \"kind\"\nfrom  = \"b\"")
    );
    // The same values, in rows where they do not go together.
    let desk = desk.with("hats.csv", &format!("a,b,c\n{}", rows(&|at| (at / 7 * 5 + at) % 6 + 1)));
    let ran = desk.run(&["map", "hats.csv", "-m", "other.toml"]);
    assert!(!ran.out.contains("row by row"), "{}", ran.out);
}

#[test]
fn what_a_column_holds_speaks_against_its_name() {
    let target = r#"[target]
name = "Loans"

[[field]]
name = "customer"
type = "text"

[[field]]
name = "fee"
type = "decimal"
decimals = 2

[[field]]
name = "weight"
type = "decimal"
decimals = 2

[[field]]
name = "lost"
type = "decimal"
decimals = 1
unit = "%"

[[field]]
name = "note"
type = "text"
"#;
    let rows: String = (1..9).map(|at| format!("K-{at}/7,5.00,{at} kg,{at},\n")).collect();
    let desk = Desk::empty()
        .with("target.toml", target)
        .with("loans.csv", &format!("Customer,Fee,Weight,Lost,Note\n{rows}"));
    let ran = desk.run(&["map", "loans.csv"]);
    let said = ran.out.split_whitespace().collect::<Vec<_>>().join(" ");
    for against in [
        "most of its values have figures, and a name has none",
        "every filled row that was looked at holds \"5.00\"",
        "its values name a unit, and the target names none",
        "nothing says that these numbers are percent",
        "the column is empty in every row that was looked at",
    ] {
        assert!(said.contains(against), "{}", ran.out);
    }
    assert!(!said.contains("sure, and written: "), "{}", ran.out);
}

#[test]
fn what_one_mapping_settled_helps_the_next_of_its_target() {
    let desk = boats().with(
        "first.toml",
        "target = \"target.toml\"\n[[map]]\nfield = \"boat_no\"\nfrom = \"Rumpfzeichen\"\n[[map]]\nfield = \"harbour\"\nfrom = \"Heimat\"\n",
    );
    let desk = desk.with("next.csv", "Rumpfzeichen,Heimat\nx7,Vik\nx9,Orm\nx8,Vik\n");
    desk.run(&["map", "next.csv", "-m", "next.toml"]).ended(0).says(&[
        "sure, and written: 2",
        "another mapping of this target has it so",
        "also = [\"Heimat\"] in the",
    ]);
}

#[test]
fn a_column_that_is_filled_at_the_beginning_of_groups_is_asked_about() {
    let desk = boats().with("grouped.csv", "Boat no,Harbour\nx7,Vik\nx9,\nx8,\nx1,Orm\nx2,\nx3,\nx4,\n");
    desk.run(&["map", "grouped.csv"]).says(&["fill_down = true", "5 cells are blank below a filled one"]);
    assert!(desk.read("mapping.toml").contains("# fill_down = true"));
}
