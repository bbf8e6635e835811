//! `dusk trial`: the telling rows, before and after.

use crate::desk::Desk;

fn desk() -> Desk {
    Desk::new().with(
        "export.csv",
        "No,Date,Queen,Honey\n117,03/04/2026,white,10\n118,04/04/2026,white,12\n119,05/04/2026,yel.,4.5\n\n120,06/04/2026,blue,many\n117,07/04/2026,B,\n",
    )
}

#[test]
fn few_rows_show_everything_with_marks_that_need_no_colour() {
    let ran = desk().run(&["trial", "export.csv"]).ended(1).says(&[
        "row 4",
        "119",
        "→000119",
        "✗is not a code or …",
        "reject: queen \"yel.\" is not a code or label of queen; nearest: Y Yellow",
        "reject: apiary_id \"000117\" is the key of row 2 already",
        "of 6 rows, chosen so that they show most: ",
        "→ changed   ✗ rejected",
    ]);
    assert!(
        !ran.out.contains("row 3\n") && !ran.out.contains("04/04/2026"),
        "row 3 shows nothing new\n{}",
        ran.out
    );
    desk().run(&["trial", "export.csv", "-n", "1"]).ended(0).says(&["1 of 6 rows", "shows all of them"]);
}

#[test]
fn rows_are_tried_as_asked_for_and_written_as_a_small_upload() {
    let desk = desk();
    desk.run(&["trial", "export.csv", "--rows", "2-3,6", "-o", "try.csv"])
        .ended(1)
        .says(&["3 of 6 rows, as asked for", "wrote try.csv: the 2 rows"]);
    assert_eq!(
        desk.read("try.csv"),
        "apiary_id;visit_date;queen;honey_kg\n000117;2026-04-03;W;4.5\n000118;2026-04-04;W;5.4\n"
    );
    assert!(!desk.names(".").iter().any(|name| name.starts_with(".trial")), "{:?}", desk.names("."));
    desk.run(&["trial", "export.csv", "-o", "try.csv"]).stops(&["try.csv"]);
    desk.run(&["trial", "export.csv", "--first", "2"]).ended(0).says(&["2 of 6 rows"]);
    desk.run(&["trial", "export.csv", "--rows", "99"]).stops(&["export.csv has none of these rows"]);
    desk.run(&["trial", "export.csv", "--rows", "9-3"]).stops(&["17,44-50"]);
    let split = desk
        .edited(
            "target.toml",
            "file_name = \"up-{part}.csv\"",
            "split_by = \"queen\"\nfile_name = \"{queen}.csv\"",
        )
        .with("export.csv", "No,Date,Queen,Honey\n1,03/04/2026,white,1\n2,04/04/2026,blue,2\n");
    split.run(&["trial", "export.csv", "--first", "2", "-o", "one.csv"]).stops(&["2 files", "name a folder"]);
    let split = split.with("tries/.keep", "");
    split.run(&["trial", "export.csv", "--first", "2", "-o", "tries"]).ended(0);
    assert_eq!(split.names("tries"), [".keep", "B.csv", "W.csv"]);
}

#[test]
fn many_columns_are_shown_as_cards_and_programs_get_the_same() {
    let names: Vec<String> = (1..=9).map(|number| format!("field_number_{number}")).collect();
    let fields: String =
        names.iter().map(|name| format!("[[field]]\nname = \"{name}\"\ntype = \"text\"\n")).collect();
    let maps: String =
        names.iter().map(|name| format!("[[map]]\nfield = \"{name}\"\nfrom = \"{name}\"\n")).collect();
    let row: Vec<String> = names.iter().map(|name| format!(" value of {name}")).collect();
    let desk = Desk::empty()
        .with("target.toml", &format!("[target]\nname = \"T\"\n{fields}"))
        .with("mapping.toml", &format!("target = \"target.toml\"\n{maps}"))
        .with("export.csv", &format!("{}\n{}\n", names.join(","), row.join(",")));
    desk.run(&["trial", "export.csv"])
        .ended(0)
        .says(&["row 2: accepted", "  field_number_9   value of field_number_9"]);
    let ran = desk.run(&["trial", "export.csv", "--format", "json"]).ended(0);
    let json: serde_json::Value = serde_json::from_str(&ran.out).unwrap();
    let field = &json["rows"][0]["records"][0]["fields"][8];
    assert_eq!(
        (&field["before"], &field["upload"]),
        (&" value of field_number_9".into(), &"value of field_number_9".into())
    );
    assert_eq!(json["shown"], json["things"]);
}
