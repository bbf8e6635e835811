//! What goes into the upload file: every conversion and every layout, byte for byte.

use crate::desk::{Desk, MAPPING, TARGET};

/// Runs one field's cells through, and gives the upload file's column and the list of changes.
fn conformed(field: &str, map: &str, cells: &[&str]) -> (Vec<String>, String) {
    let desk = Desk::with_field(field, map, cells).edited(
        "target.toml",
        "name = \"id\"",
        "name = \"id\"\nlabel = \"x\"",
    );
    desk.conform().ended(0);
    let upload = desk.read("batch/upload/up.csv");
    let values = upload.lines().skip(1).map(|line| line.split_once(',').unwrap().1.to_owned()).collect();
    (values, desk.read("batch/changes.csv"))
}

#[test]
fn text_is_trimmed_and_what_was_taken_away_is_said() {
    let (values, changes) = conformed("type = \"text\"", "from = \"It\"", &["  Ash\u{a0}Hollow\t ", "plain"]);
    assert_eq!(values, ["Ash Hollow", "plain"]);
    assert!(changes.contains("trim + spaces"), "{changes}");
    assert!(
        changes
            .contains("took away 2 spaces before, 1 tab and 1 space after; made 1 no-break space ordinary"),
        "{changes}"
    );
    assert!(!changes.contains("plain,"), "what did not change is not listed: {changes}");
    let kept = "from = \"It\"\ntrim = false\nspaces = \"keep\"";
    assert_eq!(conformed("type = \"text\"", kept, &[" a\u{a0}b "]).0, [" a\u{a0}b "]);
    let one_line = "from = \"It\"\nline_breaks = \"space\"";
    let (values, changes) = conformed("type = \"text\"", one_line, &["one\r\ntwo\n\nthree"]);
    assert_eq!(values, ["one two three"]);
    assert!(changes.contains("made 2 line breaks a space"), "{changes}");
}

#[test]
fn digits_numbers_and_units_come_out_exact() {
    let (values, changes) = conformed("type = \"text\"\ndigits = 6", "from = \"It\"", &["117", "000117"]);
    assert_eq!(values, ["000117", "000117"]);
    assert!(
        changes.contains("it,117,000117,digits,always 6 digits in the dictionary,1,export.csv,2"),
        "{changes}"
    );
    let number = "type = \"decimal\"\ndecimals = 2";
    assert_eq!(
        conformed(number, "from = \"It\"", &["12.50", "+7", "-0", ".5", "1,204.5"]).0,
        ["12.50", "7", "0", "0.5", "1204.5"]
    );
    let marks = "from = \"It\"\ndecimal_mark = \",\"\nthousands_mark = \".\"";
    assert_eq!(conformed(number, marks, &["1.204,5", "-3,25"]).0, ["1204.5", "-3.25"]);
    let kilograms = "type = \"decimal\"\ndecimals = 1\nunit = \"kg\"";
    let (values, changes) =
        conformed(kilograms, "from = \"It\"\nunit = \"lb\"\nround = \"half-up\"", &["10", "10 lb", "0"]);
    assert_eq!(values, ["4.5", "4.5", "0"]);
    assert!(changes.contains("unit + round"), "{changes}");
    assert!(changes.contains("lb to kg: × 0.45359237; rounded half-up to 1 decimal"), "{changes}");
    let celsius = "type = \"decimal\"\ndecimals = 1\nunit = \"°C\"";
    assert_eq!(
        conformed(celsius, "from = \"It\"\nunit = \"°F\"", &["212", "-40", "98.6"]).0,
        ["100", "-40", "37"]
    );
}

#[test]
fn booleans_and_codes_are_read_in_every_way_that_leaves_one_reading() {
    let marked = "type = \"boolean\"\nformat = \"1/0\"";
    assert_eq!(
        conformed(marked, "from = \"It\"", &["YES", "n", "true", "0", ""]).0,
        ["1", "0", "1", "0", ""]
    );
    assert_eq!(conformed(marked, "from = \"It\"\nwords = \"x/-\"", &["X", "-"]).0, ["1", "0"]);
    let queen = "type = \"code\"\ncodes = \"codes/queen.csv\"";
    let (values, changes) = conformed(queen, "from = \"It\"", &["w", "WHI TE", "Sky", "B"]);
    assert_eq!(values, ["W", "W", "B", "B"]);
    for evidence in ["case and spaces do not count", "a label of queen", "another name for Blue in queen"] {
        assert!(changes.contains(evidence), "{changes}");
    }
}

#[test]
fn several_codes_stand_in_one_column_or_in_one_each() {
    let joined = "type = \"codes\"\ncodes = \"codes/queen.csv\"\nseparator = \"|\"";
    assert_eq!(
        conformed(joined, "from = \"It\"\nbetween = \";\"", &["white; Blue;white", "y", ""]).0,
        ["W|B", "Y", ""]
    );
    let per_code =
        "type = \"codes\"\ncodes = \"codes/queen.csv\"\ncolumn_per_code = \"q_{code}\"\nformat = \"J/N\"";
    let (values, _) = conformed(per_code, "from = \"It\"\nbetween = \";\"", &["white; sky", ""]);
    assert_eq!(values, ["J,N,J", ",,"]);
    let (values, changes) = conformed(per_code, "from = \"It\"\nif_blank = \"N\"", &["", "blue"]);
    assert_eq!(values, ["N,N,N", "N,N,J"]);
    assert!(changes.contains("if_blank"), "{changes}");
    // The target's word for no is no code when the source writes it.
    let desk = Desk::with_field(per_code, "from = \"It\"\nif_blank = \"N\"", &["N"]);
    desk.run(&["check", "export.csv"]).ended(1).says(&["\"N\"  is not a code or label of queen"]);
}

#[test]
fn constants_defaults_and_joins_are_recorded_as_what_they_are() {
    let (values, changes) = conformed("type = \"text\"", "constant = \"{{2026}}\"", &["x"]);
    assert_eq!(values, ["{2026}"]);
    assert!(changes.contains("it,,{2026},constant,"), "{changes}");
    let (values, changes) =
        conformed("type = \"integer\"", "from = \"It\"\nif_blank = \"0\"", &["", " ", "7"]);
    assert_eq!(values, ["0", "0", "7"]);
    assert!(changes.contains("trim + if_blank"), "{changes}");
    let desk = Desk::with_field("type = \"text\"", "join = \"{It} ({Id}), {Town}\"", &[])
        .with("export.csv", "Id,It,Town\na,x,Merrow\n,x,Merrow\na,,\n,,Merrow\n");
    desk.conform().ended(0);
    let upload = desk.read("batch/upload/up.csv");
    assert_eq!(upload, "id,it\na,\"x (a), Merrow\"\n,\"x), Merrow\"\na,a\n,Merrow\n");
    assert!(desk.read("batch/changes.csv").contains("x + a + Merrow"), "{upload}");
    // The character that keeps the parts apart inside must not move them when a cell has it.
    let desk = desk.with("export.csv", "Id,It,Town\na\u{1f}b,x,Merrow\n");
    desk.run(&["check", "export.csv"]).ended(1).says(&["lost a character"]);
}

#[test]
fn codes_inside_a_parent_depend_on_the_row() {
    let field = "type = \"code\"\ncodes = \"codes/parts.csv\"\nwithin = \"up\"\n[[field]]\nname = \"up\"\ntype = \"code\"\ncodes = \"codes/queen.csv\"";
    let desk = Desk::with_field(field, "from = \"It\"\n[[map]]\nfield = \"up\"\nfrom = \"Id\"", &[])
        .with("codes/parts.csv", "code,label,within\n01,Wing,W\n02,Wing,B\n")
        .with("export.csv", "Id,It\nwhite,wing\nblue,wing\nblue,Wing\n");
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it,up\nwhite,01,W\nblue,02,B\nblue,02,B\n");
}

#[test]
fn every_layout_is_written_byte_for_byte() {
    let cases: [(&str, &[u8]); 9] = [
        ("", b"a;b\r\nx;\"p;q\"\r\n"),
        ("line_end = \"lf\"", b"a;b\nx;\"p;q\"\n"),
        ("line_end = \"cr\"\nheader = false", b"x;\"p;q\"\r"),
        ("quoting = \"always\"", b"\"a\";\"b\"\r\n\"x\";\"p;q\"\r\n"),
        ("delimiter = \"\\t\"", b"a\tb\r\nx\tp;q\r\n"),
        ("quote = \"'\"", b"a;b\r\nx;'p;q'\r\n"),
        ("bom = true", b"\xef\xbb\xbfa;b\r\nx;\"p;q\"\r\n"),
        ("encoding = \"utf-16le\"\nbom = true\nheader = false", b"\xff\xfex\0;\0\"\0p\0;\0q\0\"\0\r\0\n\0"),
        ("encoding = \"utf-16be\"\nheader = false", b"\0x\0;\0\"\0p\0;\0q\0\"\0\r\0\n"),
    ];
    for (options, expected) in cases {
        let delimiter = if options.contains("delimiter") { "" } else { "delimiter = \";\"\n" };
        let target = format!(
            "[target]\nname = \"T\"\n[upload]\nfile_name = \"up.csv\"\n{delimiter}{options}\n\
             [[field]]\nname = \"a\"\ntype = \"text\"\n[[field]]\nname = \"b\"\ntype = \"text\"\n"
        );
        let desk = Desk::empty()
            .with("target.toml", &target)
            .with("mapping.toml", "target = \"target.toml\"\n[[map]]\nfield = \"a\"\nfrom = \"A\"\n[[map]]\nfield = \"b\"\nfrom = \"B\"\n")
            .with("export.csv", "A,B\nx,p;q\n");
        desk.conform().ended(0);
        assert_eq!(desk.read_bytes("batch/upload/up.csv"), expected, "{options}");
    }
}

#[test]
fn files_are_split_where_the_target_limits_their_rows() {
    let target = TARGET.replace(
        "file_name = \"up-{part}.csv\"",
        "file_name = \"up-{batch}-{today}-{part}.csv\"\nmax_rows = 2",
    );
    let rows: Vec<String> = (1..=5).map(|number| format!("{number},03/04/2026,white,1")).collect();
    let desk = Desk::new()
        .with("target.toml", &target)
        .with("export.csv", &format!("No,Date,Queen,Honey\n{}\n", rows.join("\n")));
    desk.conform().ended(0);
    assert_eq!(
        desk.names("batch/upload"),
        ["up-batch-2026-04-30-1.csv", "up-batch-2026-04-30-2.csv", "up-batch-2026-04-30-3.csv"]
    );
    assert_eq!(
        desk.read("batch/upload/up-batch-2026-04-30-3.csv"),
        "apiary_id;visit_date;queen;honey_kg\n000005;2026-04-03;W;0.5\n"
    );
    // A batch without a record is a file with the header alone.
    let desk = Desk::new().with("export.csv", "No,Date,Queen,Honey\nx,2026-04-03,?,?\n");
    desk.conform().ended(1).says(&["1 row read = 0 accepted"]);
    assert_eq!(desk.read("batch/upload/up-1.csv"), "apiary_id;visit_date;queen;honey_kg\n");
    // An export that was begun and not finished makes none.
    for (rows, says) in [
        ("", "there are headings and no rows below them"),
        (",,,\n,,,\n", "not one of the 2 rows below the headings holds a record"),
    ] {
        let desk = Desk::new().with("export.csv", &format!("No,Date,Queen,Honey\n{rows}"));
        desk.conform().stops(&["export.csv: ", says]);
        desk.run(&["check", "export.csv"]).stops(&[says]);
        assert!(!desk.exists("batch"));
    }
}

#[test]
fn what_conforms_already_is_not_changed() {
    let desk = Desk::new().with("export.csv", "No,Date,Queen,Honey\n000117,2026-04-03,W,4.5\n");
    let desk = desk.with("mapping.toml", &MAPPING.replace("unit = \"lb\"", "unit = \"kg\""));
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up-1.csv").lines().nth(1), Some("000117;2026-04-03;W;4.5"));
    assert_eq!(desk.read("batch/changes.csv").lines().count(), 1);
}
