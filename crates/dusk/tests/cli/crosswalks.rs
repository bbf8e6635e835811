//! Settling a cause with a crosswalk line, listing and forgetting.

use crate::desk::Desk;

#[test]
fn a_settled_cause_does_not_come_back() {
    let desk = Desk::new();
    desk.run(&["check", "export.csv"]).ended(1).says(&["do: dusk crosswalk add queen yel. Y"]);
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
            .contains("queen,yel.,Y,crosswalk,\"crosswalk, A. Clerk, 30 Apr 2026\",1")
    );
    assert!(desk.read("batch/receipt.json").contains("crosswalks/queen.csv"));
    desk.run(&["crosswalk", "list"]).ended(0).says(&["queen", "yel.", "Y Yellow", "A. Clerk", "30 Apr 2026"]);
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
        .stops(&["\"Yellow\" is not a code of queen", "W, Y, B"]);
    desk.run(&["crosswalk", "add", "quen", "yel.", "Y"])
        .stops(&["the target has no field \"quen\"", "did you mean \"queen\"?"]);
    desk.run(&["crosswalk", "add", "honey_kg", "much", "plenty"])
        .stops(&["honey_kg: \"plenty\" is not a number"]);
    desk.run(&["crosswalk", "add", "apiary_id", "?", "--leave-blank"]).stops(&["apiary_id must be filled"]);
    desk.run(&["crosswalk", "add", "queen", " ", "Y"]).stops(&["a blank value cannot be translated"]);
    desk.run(&["crosswalk", "remove", "queen", "yel."]).stops(&["nothing is remembered for \"yel.\""]);
    assert!(!desk.exists("crosswalks"));
}

#[test]
fn what_is_wrong_with_a_crosswalk_is_said_with_its_line() {
    let desk =
        Desk::new().with("crosswalks/queen.csv", "value,code,by\nyel.,Q,me\nwht,W,me\nWHT ,Y,me\n,W,me\n");
    desk.run(&["check", "export.csv"]).stops(&[
        "crosswalks/queen.csv, line 2: \"Q\" is not a code of queen",
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
        .stops(&["\"02\" is not a code of parts within \"W\""]);
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

#[test]
fn a_value_can_mean_nothing_keep_its_record_out_or_be_said_as_the_target_writes_it() {
    let desk = Desk::new().with(
        "export.csv",
        "No,Date,Queen,Honey\n1,03/04/2026,n/a,much\n2,some day,white,1\n3,25/04/2026,white,n/a\n",
    );
    let add = |words: &[&str]| {
        desk.run(&[&["crosswalk", "add"], words, &["--today", "2026-04-30"]].concat()).ended(0)
    };
    add(&["queen", "n/a", "--leave-blank"]).says(&["queen: \"n/a\" is left blank"]);
    add(&["honey_kg", "much", "9.5"]).says(&["honey_kg: \"much\" means 9.5"]);
    add(&["visit_date", "some day", "--keep-out", "--note", "nobody knows"]).says(&["keeps its record out"]);
    add(&["honey_kg", "n/a", "--leave-blank"]);
    let ran = desk.conform().ended(0);
    ran.says(&[
        "3 rows read = 2 accepted + 0 rejected + 0 merged + 1 left out",
        "1 row kept out as was decided",
    ]);
    assert_eq!(
        desk.read("batch/upload/up-1.csv"),
        "apiary_id;visit_date;queen;honey_kg\n000001;2026-04-03;;9.5\n000003;2026-04-25;W;\n"
    );
    assert!(desk.read("batch/findings.csv").contains("note,kept-out,visit_date,some day"));
    assert!(
        desk.read("batch/changes.csv").contains("queen,n/a,,crosswalk,\"crosswalk, clerk, 30 Apr 2026\",1")
    );
    desk.run(&["explain", "export.csv", "3"]).ended(0).says(&["left out, because it keeps its record out"]);
}

#[test]
fn many_answers_come_from_a_file_and_doubtful_lines_are_said() {
    let desk = Desk::new().with(
        "answers.csv",
        "field;value;code;note\nqueen;yel.;Y;asked\nqueen;sky;W;\nqueen;open;;\nhoney_kg;much;(keep out);\n",
    );
    desk.run(&["crosswalk", "add", "--from", "answers.csv"]).ended(0).says(&[
        "queen: 2 lines remembered",
        "honey_kg: 1 line",
        "1 without a code passed over",
    ]);
    desk.run(&["crosswalk", "check", "export.csv"]).ended(1).says(&[
        "queen: \"sky\" = W  contradicts queen, where it is B Blue",
        "queen: \"sky\" = W  is not used by these sources",
        "honey_kg: \"much\" = (keep out)  is not used",
    ]);
    let desk = desk.with("answers.csv", "field,value,code\nqueen,a,W\nqueen,b,Q\n,c,W\n");
    let before = desk.read("crosswalks/queen.csv");
    desk.run(&["crosswalk", "add", "--from", "answers.csv"]).stops(&[
        "answers.csv, line 3",
        "\"Q\" is not a code of queen",
        "line 4: names no field",
    ]);
    assert_eq!(desk.read("crosswalks/queen.csv"), before, "nothing is remembered in part");
    let circle = desk.with("crosswalks/queen.csv", "value,code\nW,B\nB,W\nyel.,Y\n");
    circle.run(&["crosswalk", "check"]).ended(1).says(&["\"W\" = B  goes in a circle: \"B\" means W"]);
}

#[test]
fn what_stands_for_an_error_of_a_spreadsheet_program_is_a_decision() {
    let cells = ["#N/A", "#N/A", "Vik", "#REF!"];
    let desk = Desk::with_field("type = \"text\"", "from = \"It\"", &cells);
    desk.run(&["check", "export.csv"])
        .ended(1)
        .says(&["2 cells  it  \"#N/A\"  is an error", "do: dusk crosswalk add it"]);
    desk.run(&["crosswalk", "add", "it", "#N/A", "--leave-blank"]).ended(0);
    desk.conform().ended(1).says(&["4 rows read = 3 accepted + 1 rejected"]);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,\nr1,\nr2,Vik\n");
}

#[test]
fn a_line_that_no_value_needs_is_said_whatever_the_order_of_the_lines() {
    let field = |name: &str, more: &str| {
        format!("[[field]]\nname = \"{name}\"\ntype = \"code\"\ncodes = \"codes/{name}.csv\"\n{more}")
    };
    let desk = Desk::empty()
        .with("target.toml", &format!("[target]\nname = \"T\"\n[upload]\nfile_name = \"up.csv\"\n{}{}", field("region", ""), field("district", "within = \"region\"\n")))
        .with("codes/region.csv", "code,label\nNF,North Fen\nSF,South Fen\n")
        .with("codes/district.csv", "code,label,within\n1,Hills,NF\n2,Hills,SF\n3,Marsh,NF\n3,Marsh,SF\n")
        .with("mapping.toml", "target = \"target.toml\"\n[[map]]\nfield = \"region\"\nfrom = \"Region\"\n[[map]]\nfield = \"district\"\nfrom = \"District\"\n")
        .with("export.csv", "Region,District\nNF,upland\nNorth Fen,Upland\n");
    let lines = ["upland,,3,clerk,2026-04-30,", "upland,NF,1,clerk,2026-04-30,"];
    for order in [[0, 1], [1, 0]] {
        let rows: String = order.iter().map(|place| format!("{}\n", lines[*place])).collect();
        let text = format!("value,within,code,by,on,note\n{rows}");
        std::fs::create_dir_all(desk.path("crosswalks")).unwrap();
        std::fs::write(desk.path("crosswalks/district.csv"), text).unwrap();
        let ran = desk.run(&["crosswalk", "check", "export.csv"]).ended(1);
        assert_eq!(ran.out.matches("is not used by these sources").count(), 1, "{}", ran.out);
        assert!(ran.out.contains("\"upland\" = 3"), "{}", ran.out);
    }
}

#[test]
fn a_new_term_of_an_open_list_waits_for_a_yes_and_is_sent_in_one_spelling() {
    let desk = Desk::new()
        .edited("target.toml", "codes = \"codes/queen.csv\"", "codes = \"codes/queen.csv\"\nunmatched = \"new-term\"")
        .with("export.csv", "No,Date,Queen,Honey\n117,25/04/2026,Lilac,\n118,25/04/2026, lilac\u{200b},\n119,25/04/2026,mauve,\n120,25/04/2026,white,\n");
    desk.conform().ended(1).says(&[
        "1 accepted + 3 rejected",
        "the list is open, so it may be",
        "yes to the new term",
        "dusk crosswalk add queen Lilac --new-term",
    ]);
    let header = "field,value,within,code,finding,rows,source,first row\n";
    assert_eq!(
        desk.read("batch/new-values.csv"),
        format!("{header}queen,Lilac,,,new-term,2,export.csv,2\nqueen,mauve,,,new-term,1,export.csv,4\n"),
        "cleaned, and once where case and spaces differ"
    );
    let yes =
        ["crosswalk", "add", "queen", "Lilac", "--new-term", "--by", "A. Clerk", "--today", "2026-04-30"];
    desk.run(&yes).ended(0).says(&["\"Lilac\" may go in as a new term"]);
    // Another spelling may lead to a term that was allowed.
    desk.run(&["crosswalk", "add", "queen", "mauve", "lilac"]).ended(0);
    std::fs::remove_dir_all(desk.path("batch")).unwrap();
    desk.conform().ended(0).says(&["4 accepted + 0 rejected", "decided-values.csv"]);
    let upload = desk.read("batch/upload/up-1.csv");
    assert_eq!(upload.matches(";Lilac;").count(), 3, "{upload}");
    assert!(
        desk.read("batch/decided-values.csv")
            .contains("queen,Lilac,,(new term),A. Clerk,2026-04-30,2,export.csv,2\n")
    );
    // Once the target has made a code of it, the code is sent.
    let desk = desk.with("codes/queen.csv", "code,label\nW,White\nL,Lilac\n");
    desk.run(&["crosswalk", "check"]).ended(1).says(&["is not needed: queen has L Lilac"]);
    desk.run(&["crosswalk", "add", "queen", "white", "--new-term"])
        .stops(&["is in the list of queen already: W White"]);
    std::fs::remove_dir_all(desk.path("batch")).unwrap();
    desk.conform();
    let upload = desk.read("batch/upload/up-1.csv");
    assert_eq!(upload.matches(";L;").count(), 3, "what leads to the term as well: {upload}");
}

#[test]
fn a_closed_list_takes_no_new_term() {
    Desk::new()
        .run(&["crosswalk", "add", "queen", "lilac", "--new-term"])
        .stops(&["the list of queen is closed", "unmatched = \"new-term\""]);
}

#[test]
fn what_a_decision_blanks_or_keeps_out_is_listed_and_can_be_answered_later() {
    let desk = Desk::new().with(
        "export.csv",
        "No,Date,Queen,Honey\n117,25/04/2026,pale,some\n118,25/04/2026,PALE ,\n119,25/04/2026,lost,3\n",
    );
    for (field, value, how) in [
        ("queen", "pale", "--leave-blank"),
        ("queen", "lost", "--keep-out"),
        ("honey_kg", "some", "--leave-blank"),
    ] {
        desk.run(&["crosswalk", "add", field, value, how, "--by", "A. Clerk", "--today", "2026-04-30"])
            .ended(0);
    }
    desk.conform().ended(0).says(&["2 accepted + 0 rejected + 0 merged + 1 left out", "decided-values.csv"]);
    assert_eq!(
        desk.read("batch/decided-values.csv"),
        "field,value,within,code,by,on,rows,source,first row\n\
         honey_kg,some,,(leave blank),A. Clerk,2026-04-30,1,export.csv,2\n\
         queen,lost,,(keep out),A. Clerk,2026-04-30,1,export.csv,4\n\
         queen,pale,,(leave blank),A. Clerk,2026-04-30,2,export.csv,2\n"
    );
    // The list is brought back with an answer.
    let desk = desk.edited("batch/decided-values.csv", "pale,,(leave blank)", "pale,,B");
    desk.run(&["crosswalk", "add", "--from", "batch/decided-values.csv"])
        .ended(0)
        .says(&["queen: 2 lines remembered"]);
    assert!(desk.read("crosswalks/queen.csv").contains("pale,,B,"));
}

/// A desk whose field takes several colours, with these cells and lines of the mapping.
fn several(map: &str, cells: &[&str]) -> Desk {
    let field = "type = \"codes\"\ncodes = \"codes/queen.csv\"\nseparator = \";\"";
    Desk::with_field(field, &format!("from = \"It\"\n{map}"), cells)
}

#[test]
fn a_line_may_hold_several_codes_for_a_field_of_several() {
    let desk = several("between = \",\"", &["two-tone", "White, two-tone", "Blue"]);
    desk.run(&["crosswalk", "add", "it", "two-tone", "Y|B"]).ended(0).says(&["means Y Yellow and B Blue"]);
    desk.run(&["crosswalk", "add", "it", "other", "Y|Z"]).stops(&["\"Y|Z\" is not a code of queen"]);
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,Y;B\nr1,W;Y;B\nr2,B\n");
    // What a record had last month is offered as a crosswalk takes it, and is taken.
    let desk = desk.edited("mapping.toml", "[[map]]\nfield = \"it\"", "[[map]]\nfield = \"it\" ");
    std::fs::remove_file(desk.path("crosswalks/it.csv")).unwrap();
    let desk = desk.edited("target.toml", "name = \"id\"", "name = \"id\"\nkey = true");
    desk.run(&["crosswalk", "add", "it", "two-tone", "Y|B"]).ended(0);
    desk.run(&["conform", "export.csv", "--today", "2026-03-31", "--again", "-o", "batches/march"]).ended(0);
    let desk = desk.with("april.csv", "Id,It\nr0,mottled\nr9,Blue\n");
    let check = || desk.run(&["check", "april.csv", "--today", "2026-04-30"]);
    check()
        .ended(1)
        .says(&["the same records had \"Y;B\" in batch march", "dusk crosswalk add it mottled \"Y|B\""]);
    desk.run(&["crosswalk", "add", "it", "mottled", "Y|B"]).ended(0);
    check().ended(0);
    Desk::new().run(&["crosswalk", "add", "queen", "two-tone", "Y|B"]).stops(&["is not a code of queen"]);
}

#[test]
fn cells_parted_in_two_ways_are_offered_both_and_one_code_is_not_taken_apart() {
    let cells = ["White; Blue", "Blue, Yellow", "Yellow", "off white", "White, Blue"];
    let desk = several("between = \";\"", &cells);
    desk.run(&["check", "export.csv"]).ended(1).says(&[
        "between = [\";\", \",\"] lets 2 of 3 in and changes no other value",
        "dusk crosswalk add it \"off white\" CODE",
    ]);
    let desk = several("between = [\";\", \",\"]", &cells);
    desk.run(&["crosswalk", "add", "it", "off white", "W"]).ended(0);
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,W;B\nr1,B;Y\nr2,Y\nr3,W\nr4,W;B\n");
    // A label that holds what parts values is one code, unless its parts are codes as well.
    let list = "code,label\nW,White\nB,Blue\nC,\"Cream, pale\"\nM,\"White, Blue\"\n";
    let desk = several("between = \",\"", &["Cream, pale", "White, Blue"]).with("codes/queen.csv", list);
    desk.conform().ended(1).says(&["\"White, Blue\"  could mean more than one code"]);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,C\n");
}
