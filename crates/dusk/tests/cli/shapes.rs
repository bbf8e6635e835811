//! Every shape of upload file that a target may ask for.

use calamine::{Data, Reader as _};
use sha2::Digest as _;

use crate::desk::{Desk, MAPPING, QUEEN};

const FIELDS: &str = "[[field]]\nname = \"apiary_id\"\nlabel = \"Apiary\"\ntype = \"text\"\ndigits = 6\nkey = true\n\
[[field]]\nname = \"visit_date\"\nlabel = \"Day\"\ntype = \"date\"\n[[field]]\nname = \"queen\"\ntype = \"code\"\ncodes = \"codes/queen.csv\"\n\
[[field]]\nname = \"honey_kg\"\ntype = \"decimal\"\ndecimals = 1\nunit = \"kg\"\n";

/// A desk whose target has this `[upload]`, with three records that fit.
fn desk(upload: &str) -> Desk {
    Desk::empty()
        .with("target.toml", &format!("[target]\nname = \"T\"\n[upload]\n{upload}\n{FIELDS}"))
        .with("codes/queen.csv", QUEEN)
        .with("mapping.toml", MAPPING)
        .with("export.csv", "No,Date,Queen,Honey\n117,03/04/2026,white,10\n290,25/04/2026,yellow,\n291,26/04/2026,white,4.5\n")
}

fn upload(desk: &Desk, name: &str) -> String {
    desk.read(&format!("batch/upload/{name}"))
}

#[test]
fn columns_have_places_and_a_second_header() {
    let desk =
        desk("line_end = \"lf\"\ndelimiter = \"¦\"\ncolumns = 7\nlabels = true\nfile_name = \"up.csv\"")
            .edited(
                "target.toml",
                "name = \"visit_date\"",
                "name = \"visit_date\"\nposition = 3\nheading = \"Visit (day)\"",
            )
            .edited("target.toml", "name = \"honey_kg\"", "name = \"honey_kg\"\nposition = 6");
    desk.conform().ended(0);
    assert_eq!(
        upload(&desk, "up.csv"),
        "apiary_id¦¦Visit (day)¦queen¦¦honey_kg¦\nApiary¦¦Day¦¦¦¦\n000117¦¦2026-04-03¦W¦¦4.5¦\n000290¦¦2026-04-25¦Y¦¦¦\n000291¦¦2026-04-26¦W¦¦2¦\n"
    );
    let wrong = desk.edited("target.toml", "position = 6", "position = 3").edited(
        "target.toml",
        "columns = 7",
        "columns = 2",
    );
    wrong
        .run(&["target", "check"])
        .ended(1)
        .says(&["has position 3, but 4 columns come before it", "columns is 2, and the fields take"]);
}

#[test]
fn a_mark_stands_for_line_breaks_and_may_not_occur_itself() {
    let desk = desk(
        "line_end = \"lf\"\nline_break = \"␤\"\nquoting = \"never\"\nheader = false\nfile_name = \"up.csv\"",
    )
    .edited(
        "target.toml",
        "name = \"queen\"\ntype = \"code\"\ncodes = \"codes/queen.csv\"",
        "name = \"queen\"\ntype = \"text\"",
    )
    .with("export.csv", "No,Date,Queen,Honey\n117,03/04/2026,\"one\r\ntwo\",10\n290,25/04/2026,a␤b,\n");
    desk.conform().ended(1).says(&["which means a line break"]);
    assert_eq!(upload(&desk, "up.csv"), "000117,2026-04-03,one␤two,4.5\n");
}

#[test]
fn json_lines_hold_numbers_and_nulls() {
    let desk = desk("format = \"json-lines\"\nfile_name = \"up.jsonl\"");
    desk.conform().ended(0);
    assert_eq!(
        upload(&desk, "up.jsonl"),
        "{\"apiary_id\":\"000117\",\"visit_date\":\"2026-04-03\",\"queen\":\"W\",\"honey_kg\":4.5}\n\
         {\"apiary_id\":\"000290\",\"visit_date\":\"2026-04-25\",\"queen\":\"Y\",\"honey_kg\":null}\n\
         {\"apiary_id\":\"000291\",\"visit_date\":\"2026-04-26\",\"queen\":\"W\",\"honey_kg\":2}\n"
    );
    let twice =
        desk.with("export.csv", "No,Date,Queen,Honey\n117,03/04/2026,white,10\n117,04/04/2026,white,10\n");
    twice.run(&["check", "export.csv"]).ended(1).says(&["keys that an earlier row has already"]);
}

#[test]
fn a_workbook_is_all_text_or_typed() {
    for (cells, day, honey) in [
        ("text", Data::String("2026-04-03".into()), Data::String("4.5".into())),
        ("typed", Data::Empty, Data::Float(4.5)),
    ] {
        let desk = desk(&format!(
            "format = \"workbook\"\nsheet = \"Upload\"\ncells = \"{cells}\"\nmax_rows = 2\nfile_name = \"up-{{part}}.xlsx\""
        ));
        desk.conform().ended(0);
        assert_eq!(desk.names("batch/upload"), ["up-1.xlsx", "up-2.xlsx"]);
        let mut book: calamine::Xlsx<_> =
            calamine::open_workbook(desk.path("batch/upload/up-1.xlsx")).unwrap();
        let range = book.worksheet_range("Upload").unwrap();
        let cell = |row, column| range.get((row, column)).cloned().unwrap_or_default();
        assert_eq!(
            (cell(0, 0), cell(1, 0)),
            (Data::String("apiary_id".into()), Data::String("000117".into()))
        );
        assert_eq!(cell(1, 3), honey);
        match day {
            Data::Empty => assert!(
                matches!(cell(1, 1), Data::DateTime(moment) if moment.as_f64() == 46_115.0),
                "{:?}",
                cell(1, 1)
            ),
            text => assert_eq!(cell(1, 1), text),
        }
        assert_eq!(range.height(), 3, "a header and two records");
    }
}

#[test]
fn rows_go_into_a_table_together_or_not_at_all() {
    let desk = desk(
        "format = \"database\"\ndatabase = \"register.db\"\ntable = \"visits\"\nfile_name = \"sent.csv\"",
    );
    let connection = rusqlite::Connection::open(desk.path("register.db")).unwrap();
    connection.execute_batch("CREATE TABLE visits (apiary_id TEXT PRIMARY KEY, visit_date DATE, queen TEXT, honey_kg REAL, added DEFAULT 7)").unwrap();
    desk.conform().ended(0);
    let rows: Vec<(String, String, Option<f64>, i64)> = connection
        .prepare("SELECT apiary_id, visit_date, honey_kg, added FROM visits ORDER BY 1")
        .unwrap()
        .query_map([], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?)))
        .unwrap()
        .map(Result::unwrap)
        .collect();
    assert_eq!(rows[0], ("000117".into(), "2026-04-03".into(), Some(4.5), 7));
    assert_eq!((rows.len(), rows[1].2), (3, None));
    assert!(upload(&desk, "sent.csv").starts_with("apiary_id,visit_date,queen,honey_kg\n000117,"));
    // A record that the table has already is rejected, and another that the table refuses; the rest goes in.
    let desk = desk.with(
        "export.csv",
        "No,Date,Queen,Honey\n300,03/04/2026,white,10\n117,03/04/2026,white,10\n301,03/04/2026,blue,10\n",
    );
    connection.execute_batch("CREATE TRIGGER no BEFORE INSERT ON visits WHEN NEW.queen = 'B' BEGIN SELECT RAISE(ABORT, 'no blue ones'); END").unwrap();
    let again = ["export.csv", "-o", "second", "--today", "2026-05-01"];
    desk.run(&[&["check"], &again[..1]].concat())
        .ended(1)
        .says(&["no blue ones", "held by the target already"]);
    desk.run(&[&["conform"][..], &again].concat())
        .ended(1)
        .says(&["1 accepted + 2 rejected", "1 row inserted into the table visits of register.db"]);
    let count =
        || connection.query_row("SELECT count(*) FROM visits", [], |row| row.get::<_, i64>(0)).unwrap();
    assert_eq!(count(), 4);
    // The same batch once more puts nothing in twice.
    desk.run(&["conform", "export.csv", "-o", "third", "--again", "--today", "2026-05-01"]).ended(1);
    assert_eq!(count(), 4);
    desk.edited("target.toml", "\"visits\"", "\"visit\"")
        .conform_again()
        .stops(&["has no table \"visit\"; there are visits"]);
}

#[test]
fn files_are_split_by_a_value_and_by_their_size() {
    let desk = desk("line_end = \"lf\"\nsplit_by = \"queen\"\nfile_name = \"{queen}-{part}.csv\"");
    desk.conform().ended(0);
    assert_eq!(desk.names("batch/upload"), ["W-1.csv", "Y-1.csv"]);
    assert_eq!(upload(&desk, "W-1.csv").lines().count(), 3);
    desk.edited("target.toml", "{queen}-{part}", "all-{part}")
        .run(&["target", "check"])
        .ended(1)
        .says(&["put {queen} into file_name"]);
    let desk = self::desk("line_end = \"lf\"\nmax_bytes = 60\nfile_name = \"{part}.csv\"");
    desk.conform().ended(0);
    assert_eq!(desk.names("batch/upload"), ["1.csv", "2.csv", "3.csv"]);
    assert!((1..4).all(|part| upload(&desk, &format!("{part}.csv")).len() <= 60 + 10));
}

#[test]
fn values_that_nothing_matches_are_rejected_left_blank_or_kept() {
    let with = |policy: &str| {
        desk("file_name = \"up.csv\"\nline_end = \"lf\"")
            .edited(
                "target.toml",
                "codes = \"codes/queen.csv\"",
                &format!("codes = \"codes/queen.csv\"\n{policy}"),
            )
            .with("export.csv", "No,Date,Queen,Honey\n117,03/04/2026,pink,10\n290,25/04/2026,pink,\n")
    };
    with("")
        .conform()
        .ended(1)
        .says(&["2 accepted + 0 rejected".replace("2 accepted + 0", "0 accepted + 2").as_str()]);
    for (policy, cell, finding) in [("blank", "", "left-blank"), ("keep", "pink", "kept-unmatched")] {
        let desk = with(&format!("unmatched = \"{policy}\""));
        desk.conform().ended(0).says(&["warn: 2 rows", "new-values.csv"]);
        assert_eq!(
            upload(&desk, "up.csv").lines().nth(1),
            Some(format!("000117,2026-04-03,{cell},4.5").as_str())
        );
        assert_eq!(
            desk.read("batch/new-values.csv"),
            format!(
                "field,value,within,code,finding,rows,source,first row\nqueen,pink,,,{finding},2,export.csv,2\n"
            )
        );
    }
}

#[test]
fn a_reference_is_among_what_the_target_holds() {
    let desk = desk("file_name = \"up.csv\"\nline_end = \"lf\"")
        .edited("target.toml", "type = \"text\"\ndigits = 6", "type = \"reference\"\nvalues = \"held.csv\"\ncolumn = \"Id\"")
        .with("held.csv", "Name;Id\nNorth;000117\nSouth;A 290\nEast;00291\nWest;0291\n")
        .with("export.csv", "No,Date,Queen,Honey\n117,03/04/2026,white,10\na290,25/04/2026,white,\n291,25/04/2026,white,\n999,25/04/2026,white,\n");
    desk.conform().ended(1).says(&["2 accepted + 2 rejected", "\"999\"  is not among the 4 values of Id in"]);
    assert_eq!(
        upload(&desk, "up.csv"),
        "apiary_id,visit_date,queen,honey_kg\n000117,2026-04-03,W,4.5\nA 290,2026-04-25,W,\n"
    );
    assert!(desk.read("batch/new-values.csv").contains("apiary_id,999,,,unknown-reference,1,export.csv,5"));
    desk.run(&["explain", "export.csv", "2", "apiary_id"]).ended(0).says(&["lost zeros put back"]);
    desk.edited("target.toml", "column = \"Id\"", "column = \"No\"")
        .run(&["target", "check"])
        .ended(1)
        .says(&["has no column \"No\""]);
}

#[test]
fn a_month_or_a_year_may_do_for_a_date_and_a_field_may_be_fixed() {
    let desk = desk("file_name = \"up.csv\"\nline_end = \"lf\"")
        .edited("target.toml", "name = \"visit_date\"\nlabel = \"Day\"\ntype = \"date\"", "name = \"visit_date\"\ntype = \"date\"\nnot_after = \"2026-12-31\"\nmonth_format = \"yyyy-MM\"\nyear_format = \"yyyy\"\n[[field]]\nname = \"form\"\ntype = \"integer\"\nfixed = \"7\"")
        .with("export.csv", "No,Date,Queen,Honey\n1,Mar 2026,,\n2,2025,,\n3,04/2026,,\n4,25/04/2026,,\n5,2027,,\n6,13/2026,,\n");
    desk.conform().ended(1).says(&["4 accepted + 2 rejected", "begins after the last day allowed"]);
    let upload = upload(&desk, "up.csv");
    let days: Vec<&str> = upload.lines().skip(1).map(|line| line.split_once(',').unwrap().1).collect();
    assert_eq!(days, ["2026-03,7,,", "2025,7,,", "2026-04,7,,", "2026-04-25,7,,"]);
    desk.edited("target.toml", "fixed = \"7\"", "fixed = \"x\"")
        .run(&["check", "export.csv"])
        .stops(&["fixed \"x\" for form is not a number"]);
}

#[test]
fn a_file_is_there_of_the_right_kind_and_every_other_is_listed() {
    let desk = desk("file_name = \"up.csv\"\nline_end = \"lf\"")
        .edited(
            "target.toml",
            "type = \"code\"\ncodes = \"codes/queen.csv\"",
            "type = \"file\"\nfolder = \"photos\"\nendings = [\"jpg\", \"png\"]\nmax_bytes = 5",
        )
        .with("photos/north/One.jpg", "1234")
        .with("photos/two.jpg", "123456")
        .with("photos/three.pdf", "1")
        .with("photos/nobody.png", "1")
        .with("photos/.hidden.jpg", "1")
        .with(
            "export.csv",
            "No,Date,Queen,Honey\n1,03/04/2026,north\\one.jpg,\n2,03/04/2026,two.jpg,\n3,03/04/2026,three.pdf,\n4,03/04/2026,four.jpg,\n5,03/04/2026,,\n",
        );
    let ran = desk.conform().ended(1);
    ran.says(&[
        "2 accepted + 3 rejected",
        "has 6 bytes",
        "ends in \"pdf\", and the target takes jpg, png",
        "is not a file in",
        "queen: no accepted record names 3 files of its folder",
    ]);
    assert_eq!(upload(&desk, "up.csv").lines().nth(1), Some("000001,2026-04-03,north/One.jpg,"));
    let findings = desk.read("batch/findings.csv");
    let not_named: Vec<&str> = findings.lines().filter(|line| line.contains("file-not-named")).collect();
    assert_eq!(not_named.len(), 3, "{findings}");
    assert!(findings.contains("nobody.png") && !findings.contains(".hidden.jpg"));
    desk.edited("target.toml", "\"photos\"", "\"fotos\"")
        .run(&["target", "check"])
        .ended(1)
        .says(&["cannot be read"]);
}

#[test]
fn a_description_that_no_record_can_satisfy_is_said_to_be_so() {
    let desk =
        Desk::empty().with("codes/queen.csv", QUEEN).with("codes/odd.csv", "code,label\nA\u{200b},First\n");
    for (field, message) in [
        (
            "type = \"text\"\nmax_length = 3\npattern = \"[A-Z]{2}[0-9]{2}\"",
            "needs 4 characters or more, and the field takes 3",
        ),
        ("type = \"text\"\npattern = \"[a&&b]\"", "matches nothing"),
        (
            "type = \"text\"\ndigits = 6\npattern = \"[0-9]{4}\"",
            "takes 4 characters at most, and digits demands 6",
        ),
        ("type = \"text\"\ndigits = 6\nmax_length = 5", "leave no value that fits"),
        ("type = \"date\"\nnot_before = \"2026-02-01\"\nnot_after = \"2026-01-01\"", "so no day is allowed"),
        ("type = \"integer\"\nfixed = \"x\"", "fixed \"x\" for it is not a number"),
        ("type = \"code\"\ncodes = \"codes/odd.csv\"", "holds an invisible character"),
        ("type = \"date\"\nmonth_format = \"yyyy\"", "does not write exactly that"),
        ("type = \"text\"\nnever_send = true\nkey = true", "cannot be part of the key"),
    ] {
        let target = format!("[target]\nname = \"T\"\n[[field]]\nname = \"it\"\n{field}\n");
        std::fs::write(desk.path("target.toml"), target).unwrap();
        desk.run(&["target", "check"]).ended(1).says(&[message]);
    }
}

#[test]
fn several_codes_stand_in_numbered_columns() {
    let desk = desk("file_name = \"up.csv\"\nline_end = \"lf\"")
        .edited("target.toml", "type = \"code\"\ncodes = \"codes/queen.csv\"", "type = \"codes\"\ncodes = \"codes/queen.csv\"\nnumbered = \"colour_{n}\"\nmost = 2")
        .edited("mapping.toml", "from = \"Queen\"", "from = \"Queen\"\nbetween = \"+\"")
        .with("export.csv", "No,Date,Queen,Honey\n1,03/04/2026,yellow + white,\n2,03/04/2026,B,\n3,03/04/2026,,\n4,03/04/2026,W+Y+B,\n");
    desk.conform().ended(1).says(&["has 3 codes, and the target has 2 columns for them"]);
    assert_eq!(
        upload(&desk, "up.csv"),
        "apiary_id,visit_date,colour_1,colour_2,honey_kg\n000001,2026-04-03,Y,W,\n000002,2026-04-03,B,,\n000003,2026-04-03,,,\n"
    );
    desk.edited("target.toml", "\nmost = 2", "")
        .run(&["target", "check"])
        .ended(1)
        .says(&["numbered needs most"]);
}

#[test]
fn times_are_brought_to_the_targets_clock() {
    let desk = desk("file_name = \"up.csv\"\nline_end = \"lf\"")
        .edited("target.toml", "name = \"visit_date\"\nlabel = \"Day\"\ntype = \"date\"", "name = \"visit_date\"\ntype = \"datetime\"\nformat = \"yyyy-MM-dd'T'HH:mm'Z'\"\nzone = \"UTC\"")
        .edited("mapping.toml", "order = \"day-month-year\"", "order = \"day-month-year\"\nzone = \"Europe/Oslo\"")
        .with("export.csv", "No,Date,Queen,Honey\n1,01/07/2026 01:00,,\n2,15/01/2026 09:30,,\n3,29/03/2026 02:30,,\n4,25/10/2026 02:30,,\n");
    desk.conform().ended(1).says(&[
        "2 accepted + 2 rejected",
        "showed, when it was put forward",
        "twice, when it was put back",
    ]);
    let upload = upload(&desk, "up.csv");
    assert!(
        upload.contains("000001,2026-06-30T23:00Z,") && upload.contains("000002,2026-01-15T08:30Z,"),
        "{upload}"
    );
    desk.run(&["explain", "export.csv", "2", "visit_date"]).says(&["Europe/Oslo"]);
    let desk = desk.edited("mapping.toml", "zone = \"Europe/Oslo\"", "");
    desk.run(&["check", "export.csv"]).stops(&["wants times of UTC, and nothing says which clock"]);
    desk.edited("target.toml", "\"UTC\"", "\"Europe/Olso\"")
        .run(&["target", "check"])
        .ended(1)
        .says(&["there is no time zone"]);
}

#[test]
fn a_date_written_in_another_way_that_the_target_takes_stays_so() {
    let desk = desk("file_name = \"up.csv\"\nline_end = \"lf\"")
        .edited(
            "target.toml",
            "type = \"date\"",
            "type = \"date\"\nalso_formats = [\"dd.MM.yyyy\", \"MM/dd/yyyy\"]",
        )
        .with("export.csv", "No,Date,Queen,Honey\n1,03.04.2026,,\n2,03/04/2026,,\n3,3 Apr 2026,,\n");
    desk.conform().ended(0);
    let upload = upload(&desk, "up.csv");
    let days: Vec<&str> = upload.lines().skip(1).map(|line| line.split(',').nth(1).unwrap()).collect();
    // 03/04/2026 is the 3 April here: as MM/dd it would be another day, so it does not stay.
    assert_eq!(days, ["03.04.2026", "2026-04-03", "2026-04-03"]);
}

#[test]
fn numbered_fields_take_the_numbers_that_the_source_has() {
    let desk = desk("line_end = \"lf\"\nfile_name = \"up.csv\"")
        .edited(
            "target.toml",
            "[[field]]\nname = \"honey_kg\"",
            "[[field]]\nname = \"frame_{n}\"\nlabel = \"Frame {n}\"\ntype = \"decimal\"\ndecimals = 2\nnumbers = [\"1-3\"]\n[[rule]]\nmust = \"frame_2 <= 9\"\n[[field]]\nname = \"honey_kg\"",
        )
        .edited(
            "mapping.toml",
            "[[map]]\nfield = \"honey_kg\"",
            "[[map]]\nfield = \"frame_{n}\"\nfrom = \"Frame {n}\"\nnumbers = [\"1\", \"2\", \"4\"]\n[[map]]\nfield = \"honey_kg\"",
        )
        .with("export.csv", "No,Date,Queen,Honey,Frame 4,Frame 2,Frame 1\n117,03/04/2026,white,10,4.25,2.5,1\n118,25/04/2026,white,10,,10,\n");
    desk.conform().ended(1).says(&["breaks a rule", "frame_2 10"]);
    assert_eq!(
        upload(&desk, "up.csv"),
        "apiary_id,visit_date,queen,frame_1,frame_2,frame_3,honey_kg\n000117,2026-04-03,W,1,2.5,4.25,4.5\n"
    );
    desk.run(&["target", "show", "frame_2"]).ended(0).says(&["Frame 2"]);
    let few = desk.edited("mapping.toml", "[\"1\", \"2\", \"4\"]", "[\"1-4\"]");
    few.run(&["check", "export.csv"]).stops(&["there are 4 numbers, and the target has 3 fields for them"]);
}

#[test]
fn a_field_made_of_others_has_their_conformed_values() {
    let desk = desk("line_end = \"lf\"\nfile_name = \"up.csv\"")
        .edited(
            "target.toml",
            "[[field]]\nname = \"queen\"",
            "[[field]]\nname = \"mark\"\ntype = \"text\"\nmax_length = 18\nmade_of = \"{queen}: {honey_kg}\"\n[[field]]\nonly_part = true\nname = \"queen\"",
        )
        .edited("target.toml", "name = \"honey_kg\"", "name = \"honey_kg\"\nonly_part = true")
        .with("export.csv", "No,Date,Queen,Honey\n117,03/04/2026,white,10\n290,25/04/2026,pink,1\n291,26/04/2026,,4.5\n292,26/04/2026,blue,\n");
    desk.conform().ended(1).says(&["4 rows read = 3 accepted + 1 rejected", "1 cell   queen  \"pink\""]);
    assert_eq!(
        upload(&desk, "up.csv"),
        "apiary_id,visit_date,mark\n000117,2026-04-03,W: 4.5\n000291,2026-04-26,2\n000292,2026-04-26,B\n"
    );
    desk.run(&["explain", "export.csv", "2", "mark"])
        .ended(0)
        .says(&["made of queen, honey_kg", "\"W + 4.5\""]);
    desk.run(&["explain", "export.csv", "3", "mark"]).ended(0).says(&["not judged"]);
    let wrongs = [
        ("made_of = \"{queen}: {honey_kg}\"", "made_of = \"{quen}\"", "did you mean \"queen\"?"),
        (
            "made_of = \"{queen}: {honey_kg}\"",
            "made_of = \"{queen}\"",
            "honey_kg is only_part, and no field is made_of it",
        ),
        ("max_length = 18\n", "only_part = true\n", "so it cannot be never_send, only_part or fixed"),
        (
            "only_part = true\nname = \"queen\"",
            "key = true\nonly_part = true\nname = \"queen\"",
            "has no column of its own, and cannot be part",
        ),
    ];
    let right = desk.read("target.toml");
    let mut desk = desk;
    for (old, new, says) in wrongs {
        desk = desk.with("target.toml", &right).edited("target.toml", old, new);
        desk.run(&["target", "check"]).ended(1).says(&[says]);
    }
}

#[test]
fn what_may_be_set_once_is_never_changed() {
    let desk = desk("line_end = \"lf\"\nfile_name = \"up.csv\"")
        .edited("target.toml", "[upload]", "[holds]\nfile = \"held.csv\"\n[upload]")
        .edited("target.toml", "name = \"queen\"", "name = \"queen\"\nset_once = true")
        .with("held.csv", "queen,apiary_id\nW,117\nB,000290\n,000291\nY,000292\n")
        .with("export.csv", "No,Date,Queen,Honey\n117,03/04/2026,white,10\n290,25/04/2026,white,1\n291,26/04/2026,blue,\n292,26/04/2026,,\n");
    desk.run(&["check", "export.csv"]).ended(1).says(&[
        "4 rows read = 3 accepted + 1 rejected",
        "row: 3: \"W\" would change \"B\", which the target holds",
    ]);
    let held = desk.read("held.csv");
    std::fs::write(desk.path("held.csv"), format!("{held}Y,117\n")).unwrap();
    desk.run(&["check", "export.csv"]).ended(1).says(&["is the key of 2 records that the target holds"]);
    std::fs::write(desk.path("held.csv"), &held).unwrap();
    let wrong = desk.edited("target.toml", "[holds]\nfile = \"held.csv\"", "");
    wrong.run(&["target", "check"]).ended(1).says(&["nothing says what the target holds"]);
    let wrong = wrong.edited("target.toml", "[upload]", "[holds]\nfile = \"export.csv\"\n[upload]");
    wrong
        .run(&["check", "export.csv"])
        .stops(&["export.csv, which lists what the target holds, has no column for apiary_id"]);
    let wrong = wrong.edited("target.toml", "name = \"T\"", "name = \"T\"\nholds = \"held.csv\"");
    wrong.run(&["target", "check"]).ended(1).says(&["write [holds] with file = \"held.csv\" instead"]);
}

#[test]
fn a_control_file_counts_adds_up_and_hashes_what_is_beside_it() {
    let desk = Desk::new().with(
        "export.csv",
        "No,Date,Queen,Honey\n117,03/04/2026,white,10\n290,25/04/2026,sky,4.5\n1208,25/04/2026,white,\n",
    );
    let control = "[control]\nfile_name = \"{batch}.ctl\"\nlines = [\"N={records} in {files} on {today}\", \"KG={sum:honey_kg}\"]\neach_file = \"{file};{records};{bytes};{sha256}\"\n";
    let target = desk.read("target.toml").replace("line_end = \"lf\"", "line_end = \"lf\"\nmax_rows = 2");
    let desk = desk.with("target.toml", &format!("{target}\n{control}"));
    desk.run(&["conform", "export.csv", "-o", "april", "--today", "2026-04-30"])
        .ended(0)
        .says(&["upload/april.ctl"]);
    let file = |name: &str| {
        let bytes = std::fs::read(desk.path(&format!("april/upload/{name}"))).unwrap();
        let hash: String = sha2::Sha256::digest(&bytes).iter().map(|byte| format!("{byte:02x}")).collect();
        format!("{};{hash}", bytes.len())
    };
    assert_eq!(
        desk.read("april/upload/april.ctl"),
        format!(
            "N=3 in 2 on 2026-04-30\nKG=6.5\nup-1.csv;2;{}\nup-2.csv;1;{}\n",
            file("up-1.csv"),
            file("up-2.csv")
        )
    );
    for (from, to, says) in [
        ("{sum:honey_kg}", "{sum:honey}", "there is not a field of numbers called \"honey\""),
        ("{records} in", "{record} in", "does not know {record}"),
        ("{sha256}", "{md9}", "does not know {md9}"),
        ("{batch}.ctl", "a/{batch}.ctl", "without a folder"),
    ] {
        let wrong = desk.read("target.toml").replace(from, to);
        std::fs::write(desk.path("wrong.toml"), wrong).unwrap();
        desk.run(&["target", "check", "wrong.toml"]).ended(1).says(&[says]);
    }
}
