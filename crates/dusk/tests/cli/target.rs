//! `dusk target`: looking fields up, templates to fill in, the open standard, drafting again.

use crate::desk::Desk;

#[test]
fn fields_are_shown_in_a_list_in_depth_and_by_a_word() {
    let desk = Desk::new()
        .edited(
            "target.toml",
            "name = \"queen\"",
            "name = \"queen\"\nlabel = \"Queen's colour\"\ndescription = \"The mark on | her back\"",
        )
        .edited(
            "target.toml",
            "name = \"honey_kg\"",
            "name = \"honey_kg\"\nheading = \"Honey (kg)\"\nmin = 0",
        );
    desk.run(&["target", "show"]).ended(0).says(&[
        "apiary_id",
        "yes, key",
        "6 digits",
        "1 decimal, kg",
        "3 codes of queen",
    ]);
    desk.run(&["target", "show", "queen"]).ended(0).says(&[
        "Queen's colour",
        "may be blank",
        "W     White",
        "B     Blue    sky",
    ]);
    desk.run(&["target", "show", "honey_kg"]).ended(0).says(&["headings    \"Honey (kg)\"", "0 or more"]);
    desk.run(&["target", "show", "--find", "SKY"]).ended(0).says(&["queen  code   B Blue (sky)"]);
    desk.run(&["target", "show", "--find", "nowhere"]).ended(1);
    desk.run(&["target", "show", "honey"]).stops(&["has no field \"honey\"; did you mean honey_kg?"]);
    let markdown = desk.run(&["target", "show", "--format", "markdown"]).ended(0);
    markdown.says(&[
        "| name | label | type |",
        "| queen | Queen's colour | code |",
        "The mark on \\| her back |",
    ]);
    desk.run(&["target", "show", "queen", "--format", "csv"]).ended(0).says(&["code,label,also\nW,White,\n"]);
    let json: serde_json::Value =
        serde_json::from_str(&desk.run(&["target", "show", "--format", "json"]).out).unwrap();
    assert_eq!(json[3]["format"], "1 decimal, kg");
}

#[test]
fn a_template_filled_in_and_read_back_conforms_unchanged() {
    let desk = Desk::new()
        .with("held.csv", "apiary id;Visit Date;queen;honey_kg;Weather\n000117;2026-04-03;W;4.5;sun\n000290;2026-04-25;Y;2.0;\n")
        .edited("target.toml", "name = \"visit_date\"", "name = \"visit_date\"\nlabel = \"Visit date\"\nrequired = true");
    for (name, more, settings) in [
        ("down.xlsx", None, "sheet = \"Records\""),
        ("across.xlsx", Some("--across"), "sheet = \"Records\"\nrecords = \"across\""),
        ("rows.csv", None, ""),
    ] {
        let words = ["target", "blank", "-o", name, "--rows", "held.csv", "--today", "2026-05-01"];
        let words: Vec<&str> = words.into_iter().chain(more).collect();
        desk.run(&words)
            .ended(0)
            .says(&["4 columns, 2 fields must be filled; filled with 2 rows", "left out: Weather"]);
        let mapping = format!(
            "target = \"target.toml\"\n[source]\n{settings}\n{}",
            ["apiary_id", "visit_date", "queen", "honey_kg"]
                .map(|name| format!("[[map]]\nfield = \"{name}\"\nfrom = \"{name}\"\n"))
                .concat()
        );
        std::fs::write(desk.path("back.toml"), mapping).unwrap();
        let out = format!("{name}-batch");
        desk.run(&["conform", name, "-m", "back.toml", "-o", &out, "--today", "2026-05-01"]).ended(0);
        let upload = desk.read(&format!("{out}/upload/up-1.csv"));
        assert_eq!(
            upload, "apiary_id;visit_date;queen;honey_kg\n000117;2026-04-03;W;4.5\n000290;2026-04-25;Y;2.0\n",
            "{name}"
        );
    }
    desk.run(&["target", "blank", "-o", "rows.csv"]).stops(&["is there already"]);
    desk.run(&["target", "blank", "-o", "empty.csv"]).ended(0);
    assert_eq!(desk.read("empty.csv"), "apiary_id;visit_date;queen;honey_kg\n");
    desk.run(&["target", "blank", "-o", "x.csv", "--across"]).stops(&["name a file ending in .xlsx"]);
    let twice = |name: &str| {
        desk.run(&["target", "blank", "-o", name, "--today", "2026-05-01"]).ended(0);
        desk.read_bytes(name)
    };
    assert!(twice("a.xlsx") == twice("b.xlsx"), "the same template has the same bytes");
}

#[test]
fn what_the_open_standard_can_say_comes_back() {
    let desk = Desk::new().edited(
        "target.toml",
        "name = \"queen\"",
        "name = \"queen\"\nheading = \"Queen\"\nlabel = \"Queen's colour\"\ndescription = \"Her mark\"",
    );
    desk.run(&["target", "export", "--as", "csvw", "-o", "meta.json"]).ended(0);
    desk.run(&["target", "draft", "meta.json", "-o", "again/target.toml"])
        .ended(0)
        .says(&["Nothing is open."]);
    desk.run(&["target", "export", "--as", "csvw", "-t", "again/target.toml", "-o", "again/meta.json"])
        .ended(0);
    assert_eq!(desk.read("meta.json"), desk.read("again/meta.json"));
    assert_eq!(desk.read("again/codes/queen.csv"), "code,label,also\nW,White,\nY,Yellow,\nB,Blue,sky\n");
    Desk::empty()
        .with("m.json", "{\"@context\": \"http://x\", \"url\": \"a.csv\"}")
        .run(&["target", "draft", "m.json"])
        .stops(&["has no tableSchema"]);
    Desk::empty()
        .with("m.json", "{\"a\": ")
        .run(&["target", "draft", "m.json"])
        .stops(&["is JSON that cannot be read"]);
}

const DICTIONARY: &str = "Field,Label,Type,Required,Values\nhive,Hive,Text(8),M,\nframes,Frames,Integer,O,1-40\nqueen,Queen,Code,O,W=White; Y=Yellow\n";

#[test]
fn drafting_again_keeps_edits_and_says_what_the_material_changed() {
    let desk = Desk::empty().with("dictionary.csv", DICTIONARY);
    let draft = |desk: &Desk| desk.run(&["target", "draft", "dictionary.csv"]).ended(0);
    draft(&desk).says(&["3 fields (1 required)", "no template is among the materials"]);
    let first = desk.read("target.toml");
    draft(&desk);
    assert_eq!(desk.read("target.toml"), first, "nothing has changed");
    let edited = first.replace("\"40\"", "\"60\" # agreed").replace("\"Queen\"", "\"Her colour\"");
    let desk = desk
        .with("target.toml", &edited)
        .with("codes/queen.csv", "code,label,also\nW,White,cream\nY,Yellow,\n")
        .with(
            "dictionary.csv",
            "Field,Label,Type,Required,Values\nhive,Hive,Text(10),M,\nframes,Frames,Integer,M,1-30\nqueen,Queen,Code,O,W=White; R=Red\nage,Age,Integer,O,\n",
        );
    draft(&desk).says(&[
        "hive: max_length was 8 and is 10",
        "frames: required was false and is true",
        "frames: max stays \"60\", as it was edited; the material says \"30\"",
        "age is a new field",
        "queen: the code Y Yellow is in the material no more, and was taken out",
        "queen: the code \"R\" is new: Red",
    ]);
    let text = desk.read("target.toml");
    for kept in ["\"60\" # agreed", "\"Her colour\"", "= \"age\""] {
        assert!(text.contains(kept), "{kept}: {text}");
    }
    assert_eq!(desk.read("codes/queen.csv"), "code,label,also\nW,White,cream\nR,Red,\n");
    desk.run(&["target", "check"]).ended(0);
    let desk = desk.with("target.toml", "[target\n");
    desk.run(&["target", "draft", "dictionary.csv"]).stops(&["target.toml, line 1"]);
}

#[test]
fn material_that_describes_nothing_or_too_much_is_said() {
    let desk = Desk::empty().with("notes.csv", "just\nsome\nnotes\n").with(
        "two.csv",
        "Table,Field,Type,Required\nhives,id,Text,M\nhives,mark,Text,M\nvisits,id,Text,M\nvisits,day,Date,M\n",
    );
    desk.run(&["target", "draft", "notes.csv"]).stops(&["not one of the materials describes a field"]);
    desk.run(&["target", "draft", "two.csv"])
        .stops(&["describes 2 tables", "--table \"hives\" or --table \"visits\""]);
    desk.run(&["target", "draft", "two.csv", "--table", "visits"]).ended(0).says(&["2 fields"]);
    let desk = desk.with("none.csv", "Field,Type,Required\n").with(
        "export.csv",
        "\"Hives of the north, spring\"\nprinted on,Monday\n\nMember,Since,Fee\nAnn,2020-01-02,4.50\n",
    );
    desk.run(&["target", "draft", "none.csv"])
        .stops(&["has the headings of a dictionary, and no field below"]);
    desk.run(&["target", "draft", "export.csv", "-o", "e/target.toml"])
        .ended(0)
        .says(&["3 fields", "likely date"]);
    let json = desk
        .with("m.json", "{\"@context\": \"http://www.w3.org/ns/csvw\", \"tables\": [1, {\"url\": \"a\"}]}");
    json.run(&["target", "draft", "m.json"]).stops(&["has no tableSchema in any table"]);
    let desk = json;
    desk.run(&["target", "draft", "missing.xlsx"]).stops(&["missing.xlsx: cannot be read"]);
}

#[test]
fn the_workbook_to_fill_in_has_lists_notes_and_marks() {
    let desk = Desk::new()
        .with("codes/queen.csv", "code,label,also,until\nW,White,cream,\nY,Yellow,,\nO,Old,,2020-01-01\n")
        .edited(
            "target.toml",
            "name = \"queen\"",
            "name = \"queen\"\nlabel = \"Her colour\"\nrequired = true",
        )
        .edited(
            "target.toml",
            "name = \"honey_kg\"",
            "name = \"marked\"\ntype = \"boolean\"\nformat = \"1/0\"\n[[field]]\nname = \"honey_kg\"",
        );
    desk.run(&["target", "blank", "-o", "b.xlsx", "--today", "2026-05-01"]).ended(0);
    let (records, notes) =
        (desk.part_of("b.xlsx", "xl/worksheets/sheet1.xml"), desk.part_of("b.xlsx", "xl/comments1.xml"));
    // The codes of the list, without the retired one, stand on the sheet of codes.
    assert!(records.contains("sqref=\"C3:C5002\"") && records.contains("Codes!$B$2:$B$3"), "{records}");
    assert!(records.contains("&quot;1,0&quot;") || records.contains("\"1,0\""), "{records}");
    assert!(
        notes.contains("Her colour") && notes.contains("must be filled") && notes.contains("6 digits"),
        "{notes}"
    );
    let strings = desk.part_of("b.xlsx", "xl/sharedStrings.xml");
    assert!(strings.contains("cream") && !strings.contains("Old"), "{strings}");
    assert_eq!(strings.matches("must be filled").count(), 1, "one text, used for both required fields");
}

#[test]
fn a_draft_tells_programs_the_same() {
    let desk = Desk::empty().with("dictionary.csv", DICTIONARY);
    let out = desk.run(&["target", "draft", "dictionary.csv", "--format", "json"]).ended(0).out;
    let json: serde_json::Value = serde_json::from_str(&out).unwrap();
    assert_eq!(json["fields"][1]["name"], "frames");
    let keys = json["fields"][1]["keys"].as_array().unwrap();
    let max = keys.iter().find(|key| key["key"] == "max").unwrap();
    assert_eq!((&max["value"], &max["from"]), (&"\"40\"".into(), &"dictionary.csv row 3".into()));
    assert!(json["questions"][0]["says"].as_str().unwrap().contains("no template"));
    assert_eq!(json["files"].as_array().unwrap().len(), 2, "the description and a code list: {json}");
}

#[test]
fn what_materials_say_differently_is_asked() {
    let desk = Desk::empty()
        .with("a.csv", "Field,Type,Length,Required,Format\nhive,Text(8),10,M,\nday,Date DD/MM/YYYY,,M,YYYY-MM-DD\ncount,Integer,3,O,\nodd,Date,,O,tick box\n")
        .with("template.csv", "hive;day;count;extra\n\"A\";03/04/2026;x;\n")
        .with("other.csv", "hive,day,count\n");
    let ran = desk.run(&["target", "draft", "a.csv", "template.csv", "other.csv"]).ended(0);
    ran.says(&[
        "hive: max_length is 8 by a.csv row 2, and 10 by a.csv row 2; the first was",
        "day: format is \"dd/MM/yyyy\" by a.csv row 3, and \"yyyy-MM-dd\" by a.csv row 3; the first",
        "extra: is a heading of the template, and in no dictionary",
        "odd: is of type date by one cell and of type boolean by another",
        "count: no plain number in 1 of 1 value, for example \"x\"",
        "is described, but is not in the template other.csv",
        "[upload]: delimiter is \";\" by template.csv, and \",\" by other.csv",
    ]);
}

#[test]
fn one_of_several_tables_is_drafted() {
    let desk = Desk::empty();
    let connection = rusqlite::Connection::open(desk.path("r.db")).unwrap();
    connection
        .execute_batch(
            "CREATE TABLE hives (id TEXT PRIMARY KEY, n INTEGER); CREATE TABLE visits (day DATE, hive TEXT)",
        )
        .unwrap();
    desk.run(&["target", "draft", "r.db"])
        .stops(&["has 2 tables", "--table \"hives\" or --table \"visits\""]);
    desk.run(&["target", "draft", "r.db", "--table", "VISITS"]).ended(0).says(&["2 fields", "table visits"]);
    desk.run(&["target", "draft", "r.db", "--table", "other"])
        .stops(&["has no table \"other\"; there are hives, visits"]);
}
