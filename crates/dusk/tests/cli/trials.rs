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
        "reject: queen \"yel.\" is not a code or label of queen\n    nearest: Y Yellow",
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
    desk.run(&["trial", "export.csv", "--rows", "99"]).stops(&["export.csv does not have these rows"]);
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

/// What `trial --as-file` says beside a file of the owner's own.
fn beside(desk: &Desk, own: &[u8], status: i32) -> String {
    std::fs::write(desk.path("own.csv"), own).unwrap();
    desk.run(&["trial", "export.csv", "--first", "2", "--as-file", "--beside", "own.csv"]).ended(status).out
}

#[test]
fn an_upload_is_shown_as_it_is_written_with_all_that_nobody_sees() {
    let desk = desk().edited("target.toml", "[upload]", "[upload]\nbom = true").edited(
        "target.toml",
        "line_end = \"lf\"\n",
        "",
    );
    desk.run(&["trial", "export.csv", "--first", "2", "--as-file"]).ended(0).says(&[
        "up-1.csv, in utf-8",
        "a byte order mark",
        "1  apiary_id;visit_date;queen;honey_kg␍␊",
        "2  000117;2026-04-03;W;4.5␍␊",
        "3  000118;2026-04-04;W;5.4␍␊",
    ]);
    let fixed = super::desk::TARGET
        .replace("delimiter = \";\"", "format = \"fixed-width\"")
        .replace("type = \"text\"\n", "type = \"text\"\nwidth = 8\n")
        .replace("type = \"date\"", "type = \"date\"\nwidth = 10")
        .replace("type = \"code\"", "type = \"code\"\nwidth = 3")
        .replace("type = \"decimal\"", "type = \"decimal\"\nwidth = 6\nalign = \"left\"");
    let desk = desk.with("target.toml", &fixed);
    desk.run(&["trial", "export.csv", "--first", "1", "--as-file"])
        .ended(0)
        .says(&["1  000117  2026-04-03W  4.5···␊"]);
    let workbook = self::desk().edited(
        "target.toml",
        "delimiter = \";\"\nline_end = \"lf\"\nfile_name = \"up-{part}.csv\"",
        "format = \"workbook\"\nfile_name = \"up-{part}.xlsx\"",
    );
    workbook.run(&["trial", "export.csv", "--as-file"]).stops(&["not a text file", "-o FILE"]);
}

#[test]
fn an_upload_is_held_against_the_owners_own_file() {
    let desk = desk();
    let own = b"apiary_id;visit_date;queen;honey_kg\n000900;2025-01-01;W;1\n000901;2025-01-02;B;\n";
    assert!(beside(&desk, own, 0).contains("it is written as own.csv is"));
    for (own, says) in [
        (&b"apiary_id;visit_date;queen;honey\n"[..], "line 1 differs from character 33 on: \"_kg\" in the upload, \"\" in that file"),
        (b"apiary_id;visit_date;queen;honey_kg\r\n", "lines end with LF in the upload, and with CR LF in that file"),
        (b"\xef\xbb\xbfapiary_id;visit_date;queen;honey_kg\n", "that file begins with a byte order mark, and the upload does not"),
        (b"\xff\xfea\0", "that file begins with a byte order mark"),
        (b"apiary_id;visit_date;queen;honey_kg\n\"000900\";2025-01-01;W;1\n\"000901\";2025-01-02;B;\"2\"\n", "values of \"apiary_id\" are bare in the upload, and quoted in that file"),
    ] {
        let said = beside(&desk, own, 1);
        assert!(said.contains(says), "{says} is not in:\n{said}");
    }
    // What the file does in two ways, or only where quotes are needed, proves nothing.
    let twofold =
        b"apiary_id;visit_date;queen;honey_kg\n\"000900\";2025-01-01;W;1\n000901;2025-01-02;\"B;\";2\n";
    beside(&desk, twofold, 0);
    // Each difference has a key: with all of them there is none left.
    let texts = b"\"apiary_id\";\"visit_date\";\"queen\";\"honey_kg\"\n\"000900\";2025-01-01;\"W\";1\n\"000901\";\"2025-01-02\";\"B\";\n";
    let desk = desk.edited("target.toml", "[upload]", "[upload]\nquoting = \"texts\"");
    beside(&desk, texts, 0);
    let dates_too = String::from_utf8(texts.to_vec()).unwrap().replace("2025-01-01;", "\"2025-01-01\";");
    assert!(
        beside(&desk, dates_too.as_bytes(), 1)
            .contains("values of \"visit_date\" are bare in the upload, and quoted")
    );
    let desk = desk.edited("target.toml", "type = \"date\"", "type = \"date\"\nquoted = true");
    beside(&desk, dates_too.as_bytes(), 0);
    std::fs::remove_file(desk.path("own.csv")).unwrap();
    desk.run(&["trial", "export.csv", "--as-file", "--beside", "own.csv"]).stops(&["own.csv"]);
    std::fs::write(desk.path("own.csv"), b"Vik\xf8").unwrap();
    desk.run(&["trial", "export.csv", "--as-file", "--beside", "own.csv"])
        .stops(&["own.csv is not a text in utf-8"]);
}

#[test]
fn a_field_says_whether_it_is_quoted_only_where_texts_are() {
    let desk = desk().edited("target.toml", "type = \"date\"", "type = \"date\"\nquoted = true");
    desk.run(&["target", "check"])
        .ended(1)
        .says(&["visit_date says whether it is quoted", "quoting = \"texts\""]);
}
