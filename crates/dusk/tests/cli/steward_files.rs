//! What is wrong with a steward's own files is said with file, line and the nearest spelling, all
//! at once.

use crate::desk::Desk;

/// A file, what is replaced in it, by what, and what has to be said.
type Case = (&'static str, &'static str, &'static str, &'static [&'static str]);

const TARGET: [Case; 24] = [
    (
        "target.toml",
        "delimiter = \";\"",
        "delimitter = \";\"",
        &["target.toml, line 6", "delimitter", "did you mean \"delimiter\"?"],
    ),
    (
        "target.toml",
        "digits = 6",
        "digits = \"six\"",
        &["line 13", "digits must be a whole number, 1 or more, but it is of type string"],
    ),
    (
        "target.toml",
        "type = \"date\"",
        "type = \"dat\"",
        &["line 19", "there is no type \"dat\"", "did you mean \"date\"?"],
    ),
    (
        "target.toml",
        "name = \"visit_date\"",
        "name = \"apiary_id\"",
        &["line 17", "the field \"apiary_id\" is described twice", "the first is on line 10"],
    ),
    (
        "target.toml",
        "codes/queen.csv",
        "codes/queens.csv",
        &["line 24", "the code list codes/queens.csv is missing", "did you mean \"queen.csv\"?"],
    ),
    (
        "target.toml",
        "type = \"date\"",
        "type = \"date\"\ndigits = 6",
        &["line 20", "a field of type date does not take digits"],
    ),
    (
        "target.toml",
        "type = \"date\"",
        "type = \"date\"\nformat = \"DD/MM/YYYY\"",
        &["line 20", "\"D\" is the day of the year", "yyyy-MM-dd"],
    ),
    ("target.toml", "decimals = 1\n", "", &["a decimal needs decimals"]),
    ("target.toml", "unit = \"kg\"", "unit = \"kgg\"", &["there is no unit \"kgg\"", "did you mean \"kg\"?"]),
    ("target.toml", "unit = \"kg\"", "unit = \"gal\"", &["\"gal\" is more than one unit", "gal_br"]),
    ("target.toml", "unit = \"kg\"", "min = \"5\"\nmax = \"2\"", &["max 2 is below min 5"]),
    ("target.toml", "unit = \"kg\"", "min = \"5,0\"", &["min \"5,0\" is not a plain number"]),
    (
        "target.toml",
        "line_end = \"lf\"",
        "encoding = \"utf8-le\"",
        &["there is no encoding \"utf8-le\"", "did you mean \"utf-8\"?"],
    ),
    (
        "target.toml",
        "line_end = \"lf\"",
        "encoding = \"windows-1252\"\nbom = true",
        &["bom = true does not go with windows-1252"],
    ),
    (
        "target.toml",
        "line_end = \"lf\"",
        "line_end = \"unix\"",
        &["line_end cannot be \"unix\"", "crlf, lf, cr"],
    ),
    ("target.toml", "line_end = \"lf\"", "format = \"parquet\"", &["parquet"]),
    (
        "target.toml",
        "up-{part}.csv",
        "up.csv\"\nmax_rows = 5\n#\"",
        &["max_rows or max_bytes may make several files", "{part}"],
    ),
    (
        "target.toml",
        "up-{part}.csv",
        "../up-{prt}.csv",
        &["does not know {prt}", "did you mean \"part\"?", "without a folder"],
    ),
    ("target.toml", "digits = 6", "pattern = \"[A-\"", &["pattern \"[A-\" cannot be read"]),
    (
        "target.toml",
        "[[field]]",
        "[[rule]]\nmust = \"apiary_idd = \\\"x\\\"\"\n[[field]]",
        &["there is no field \"apiary_idd\"", "did you mean \"apiary_id\"?"],
    ),
    (
        "target.toml",
        "[[field]]",
        "[[rule]]\nmust = \"honey_kg > \\\"x\\\"\"\n[[field]]",
        &["line 11", "cannot be compared"],
    ),
    ("target.toml", "[target]", "[target", &["target.toml, line 2"]),
    (
        "codes/queen.csv",
        "B,Blue,sky",
        "Y,Blue,sky",
        &["codes/queen.csv, line 4", "has the code \"Y\" again", "line 3 already"],
    ),
    (
        "codes/queen.csv",
        "code,label,also",
        "code,lable,also",
        &["does not know the column \"lable\"", "did you mean \"label\"?"],
    ),
];

const MAPPING: [Case; 21] = [
    (
        "mapping.toml",
        "from = \"No\"",
        "fromm = \"No\"",
        &["mapping.toml, line 6", "fromm", "did you mean \"from\"?"],
    ),
    (
        "mapping.toml",
        "field = \"queen\"",
        "field = \"quen\"",
        &["line 14", "the target has no field \"quen\"", "did you mean \"queen\"?"],
    ),
    (
        "mapping.toml",
        "field = \"queen\"",
        "field = \"apiary_id\"",
        &["line 13", "the field \"apiary_id\" is mapped twice", "line 4"],
    ),
    (
        "mapping.toml",
        "day-month-year",
        "dmy",
        &["order cannot be \"dmy\"", "did you mean \"day-month-year\"?"],
    ),
    ("mapping.toml", "half-up", "half-upp", &["round cannot be \"half-upp\"", "did you mean \"half-up\"?"]),
    ("mapping.toml", "unit = \"lb\"", "unit = \"m\"", &["metres cannot become kilograms"]),
    (
        "mapping.toml",
        "from = \"Queen\"",
        "from = \"Queen\"\norder = \"day-month-year\"",
        &["queen is of type code, which does not take order"],
    ),
    (
        "mapping.toml",
        "from = \"Queen\"",
        "from = \"Queen\"\nconstant = \"W\"",
        &["more than one source for its value"],
    ),
    ("mapping.toml", "from = \"Queen\"", "", &["does not say where its value comes from"]),
    (
        "mapping.toml",
        "from = \"Queen\"",
        "constant = \"Q\"",
        &["constant \"Q\" for queen is not a code or label of queen"],
    ),
    (
        "mapping.toml",
        "from = \"Queen\"",
        "from = \"Queen\"\nif_blank = \"Q\"",
        &["if_blank \"Q\" for queen is not a code"],
    ),
    (
        "mapping.toml",
        "from = \"Queen\"",
        "constant = \"{who}\"",
        &["constant uses {who}, which [ask] does not ask for", "under [ask]"],
    ),
    ("mapping.toml", "from = \"Queen\"", "join = \"{Queen\"", &["opens a brace and does not close it"]),
    ("mapping.toml", "from = \"Queen\"", "from = \"Queen\"\nbetween = \";\"", &["queen holds one value"]),
    (
        "mapping.toml",
        "[[map]]\nfield = \"apiary_id\"\nfrom = \"No\"\n",
        "",
        &["the field \"apiary_id\" is required, and no [[map]] feeds it"],
    ),
    (
        "mapping.toml",
        "target = \"target.toml\"",
        "target = \"there.toml\"",
        &["there is no target description there.toml", "line 2"],
    ),
    (
        "mapping.toml",
        "[[map]]",
        "[source]\nencoding = \"latin\"\n[[map]]",
        &["there is no encoding \"latin\""],
    ),
    (
        "mapping.toml",
        "[[map]]",
        "[source]\ndelimiter = \"\"\n[[map]]",
        &["delimiter must be one character, or a few"],
    ),
    (
        "mapping.toml",
        "[[map]]",
        "[source]\nheader_row = -1\n[[map]]",
        &["header_row must be a whole number, 0 or more"],
    ),
    (
        "mapping.toml",
        "[[map]]",
        "[leave_out]\ncolumns = [\"Queen\"]\n[[map]]",
        &["the column \"Queen\" is mapped and left out as well"],
    ),
    (
        "mapping.toml",
        "order = \"day-month-year\"",
        "order = \"day-month-year\"\npattern = \"dd/MM/yyyy\"",
        &["both order and pattern"],
    ),
];

#[test]
fn what_is_wrong_with_the_target_is_said_with_its_line() {
    for (file, old, new, says) in TARGET {
        let desk = Desk::new().edited(file, old, new);
        desk.run(&["check", "export.csv"]).stops(says);
        desk.run(&["target", "check"]).ended(1).says(says).says(&["to put right"]);
    }
}

#[test]
fn what_is_wrong_with_the_mapping_is_said_with_its_line() {
    for (file, old, new, says) in MAPPING {
        Desk::new().edited(file, old, new).run(&["check", "export.csv"]).stops(says);
    }
}

#[test]
fn everything_wrong_is_said_at_once() {
    let desk = Desk::new()
        .edited("target.toml", "unit = \"kg\"", "unitt = \"kg\"")
        .edited("target.toml", "type = \"date\"", "type = \"day\"")
        .edited("codes/queen.csv", "W,White,", ",White,")
        .edited("mapping.toml", "target =", "targets =");
    desk.run(&["check", "export.csv"]).stops(&[
        "unitt",
        "there is no type \"day\"",
        "has no code",
        "targets",
    ]);
}

#[test]
fn a_sound_target_is_summed_up() {
    Desk::new()
        .run(&["target", "check"])
        .ended(0)
        .says(&["target.toml: nothing wrong", "4 fields (1 required), 1 code list with 3 codes, 0 rules"]);
}

#[test]
fn divided_lists_need_their_parents_and_no_circle() {
    let parts = "code,label,within\n1,One,W\n1,Uno,B\n";
    let field = |within: &str| format!("type = \"code\"\ncodes = \"codes/parts.csv\"\n{within}");
    let desk = |within: &str| {
        Desk::with_field(&field(within), "from = \"It\"", &["One"]).with("codes/parts.csv", parts)
    };
    desk("").run(&["target", "check"]).ended(1).says(&["divided by within", "within = \"…\""]);
    desk("within = \"up\"").run(&["target", "check"]).ended(1).says(&["within names no field \"up\""]);
    desk("within = \"id\"").run(&["target", "check"]).ended(1).says(&["which is not of type code"]);
    desk("within = \"it\"").run(&["target", "check"]).ended(1).says(&["it is within itself"]);
}

#[test]
fn lists_come_back_from_spreadsheet_programs_as_they_are() {
    let desk = Desk::new().with("codes/queen.csv", "\u{feff}label;code\r\nWhite;W\r\n\"Yel;low\";Y\r\n\r\n");
    desk.run(&["target", "check"]).ended(0).says(&["with 2 codes"]);
    let desk = desk.with_bytes("codes/queen.csv", b"code,label\nW,Wei\xdf\n");
    desk.run(&["target", "check"]).ended(1).says(&["codes/queen.csv, line 2", "not UTF-8"]);
}

#[test]
fn a_spread_that_collides_with_a_field_is_refused() {
    let field = "type = \"codes\"\ncodes = \"codes/queen.csv\"\ncolumn_per_code = \"{code}\"\n[[field]]\nname = \"W\"\ntype = \"text\"";
    let desk = Desk::with_field(field, "from = \"It\"", &[]);
    desk.run(&["target", "check"]).ended(1).says(&["two columns \"W\", for it and W"]);
}

#[test]
fn asked_values_are_asked_for_every_time() {
    let desk = Desk::with_field(
        "type = \"text\"\nrequired = true",
        "constant = \"{who}\"\n[ask]\nwho = \"Who is it?\"",
        &["x"],
    );
    desk.run(&["check", "export.csv"]).stops(&["Who is it?", "--set who=…"]);
    desk.run(&["check", "export.csv", "--set", "who= "]).stops(&["Who is it?"]);
    desk.run(&["check", "export.csv", "--set", "who=I", "--set", "whom=I"])
        .stops(&["nothing asks for --set whom", "did you mean who?"]);
    let ran = desk.run(&["conform", "export.csv", "--set", "who=I, me", "-o", "batch"]).ended(0);
    assert_eq!(ran.err, "");
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,\"I, me\"\n");
}

#[test]
fn two_fields_that_would_share_a_file_are_told_apart() {
    let field = |name: &str, heading: &str| {
        format!("\n[[field]]\nname = \"{name}\"\nheading = \"{heading}\"\ntype = \"text\"\n")
    };
    let target = crate::desk::TARGET.to_owned() + &field("length/width", "a") + &field("length:width", "b");
    let desk = Desk::new().with("target.toml", &target);
    desk.run(&["target", "check"]).ended(1).says(&[
        "target.toml, line ",
        "the names \"length/width\" and \"length:width\" are the same as names of files",
        "give one of the two fields another name",
    ]);
    let target = crate::desk::TARGET.to_owned() + &field("length/width", "a") + &field("length", "b");
    desk.with("target.toml", &target).run(&["target", "check"]).ended(0);
}
