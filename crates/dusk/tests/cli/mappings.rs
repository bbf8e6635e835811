//! What a mapping can say: the examples of the page of mappings, and what goes wrong with each.

use std::fs;

use crate::desk::Desk;
use crate::docs::root;

/// A part of the page: its heading, its mapping, the export and the upload file.
struct Example {
    heading: String,
    mapping: String,
    export: String,
    upload: String,
}

fn blocks(text: &str) -> Vec<&str> {
    text.split("```").skip(1).step_by(2).map(|block| block.split_once('\n').unwrap().1).collect()
}

fn examples() -> (Vec<String>, Vec<Example>) {
    let page = fs::read_to_string(root().join("docs/mappings.md")).unwrap();
    let mut parts = page.split("\n## ");
    let fields = blocks(parts.next().unwrap())[0];
    let fields: Vec<String> =
        fields.split("[[field]]").skip(1).map(|field| format!("[[field]]{field}")).collect();
    let example = |part: &str| {
        let [mapping, export, upload] = blocks(part).try_into().unwrap();
        let heading = part.lines().next().unwrap().to_owned();
        Example { heading, mapping: mapping.into(), export: export.into(), upload: upload.into() }
    };
    (fields, parts.map(example).collect())
}

/// A desk on which the example with this heading stands, with those fields that it feeds.
fn desk_of(heading: &str) -> (Desk, Example) {
    let (fields, examples) = examples();
    let example = examples.into_iter().find(|example| example.heading.starts_with(heading)).unwrap();
    let mut target =
        String::from("[target]\nname = \"T\"\n[upload]\nline_end = \"lf\"\nfile_name = \"up.csv\"\n");
    for field in &fields {
        let name = field.lines().nth(1).unwrap().split('"').nth(1).unwrap();
        if example.mapping.contains(&format!("\"{name}\"")) {
            target.push_str(field);
        }
    }
    let desk = Desk::empty()
        .with("target.toml", &target)
        .with("codes/treatment.csv", "code,label\nOX,Oxalic acid\nFA,Formic acid\nTH,Thymol\n")
        .with(
            "places.csv",
            "number,year,town\n117,2026,Vik\n118,2025,Fen\n118,2026,Old Mill\n119,2026,A\n119,2026,B\n",
        )
        .with("mapping.toml", &format!("target = \"target.toml\"\n{}", example.mapping))
        .with("export.csv", &example.export);
    (desk, example)
}

fn check(desk: &Desk, rows: &str, status: i32, says: &[&str]) {
    fs::write(desk.path("export.csv"), rows).unwrap();
    desk.run(&["check", "export.csv", "--all-causes"]).ended(status).says(says);
}

#[test]
fn every_example_of_the_page_gives_what_it_says() {
    let (_, examples) = examples();
    assert!(examples.len() > 12);
    for example in examples {
        let (desk, _) = desk_of(&example.heading);
        let mut words = vec!["conform", "export.csv", "-o", "batch"];
        if example.mapping.contains("[ask]") {
            words.extend(["--set", "loaded_by=A. Clerk"]);
        }
        desk.run(&words).ended(0);
        assert_eq!(desk.read("batch/upload/up.csv"), example.upload, "{}", example.heading);
    }
}

#[test]
fn filling_down_ends_at_a_torn_row_and_at_the_end_of_a_source() {
    let (desk, _) = desk_of("Filled down");
    desk.with("export.csv", "Town,Hive\nVik,H1\n,H2\nFen,H3,x\n,H4\nOld Mill,H5\n\n,H6\n")
        .with("second.csv", "Town,Hive\n,H7\n,H7\n")
        .run(&["conform", "export.csv", "second.csv", "-o", "batch", "--all-causes"])
        .ended(1)
        .says(&[
            "9 rows read = 5 accepted + 3 rejected + 0 merged + 1 left out",
            "blank cells below a torn row",
            "5",
            "\"H7\" is the key of row 2",
        ]);
}

#[test]
fn filling_down_reaches_across_blocks_and_explains_itself() {
    let (desk, _) = desk_of("Filled down");
    let mut rows = String::from("Town,Hive\nVik,first\n");
    for number in 0..60_000 {
        rows.push_str(&format!(",hive number {number}\n"));
    }
    rows.push_str(",first\n");
    let desk = desk.with("export.csv", &rows);
    desk.conform().ended(1).says(&["60,002 rows read = 60,001 accepted + 1 rejected"]);
    let changes = desk.read("batch/changes.csv");
    assert!(changes.contains("\ntown,,Vik,fill_down,"), "the source has a blank cell\n{changes}");
    let upload = desk.read("batch/upload/up.csv");
    assert_eq!(upload.lines().filter(|line| line.ends_with(",Vik")).count(), 60_001);
    desk.run(&["explain", "export.csv", "60000", "town"]).ended(0).says(&[
        "fill_down",
        "\"Vik\"",
        "the value above",
    ]);
}

#[test]
fn what_cannot_be_taken_apart_or_looked_up_is_rejected() {
    let (desk, _) = desk_of("Joined");
    check(
        &desk,
        "Apiary,Hive,Place\n1,1,Vik\n2,2,\"A, B, C 1\"\n",
        1,
        &[
            "\"Vik\"  does not have the form \"{town}, {region} {postcode:digits}\"",
            "2 rows read = 0 accepted + 2 rejected",
            "ways: \"A\" or \"A, B\"",
        ],
    );
    let (desk, _) = desk_of("Looked up");
    check(
        &desk,
        "Hive,Apiary,Year\nH1,999,2026\nH2,119,2026\nH3,,\n",
        1,
        &[
            "\"999 + 2026\"  is not among the 4 values of number and year in places.csv",
            "leads to two rows of places.csv that say different things",
            "3 rows read = 1 accepted + 2 rejected",
        ],
    );
    let (desk, _) = desk_of("Columns of true and false");
    check(
        &desk,
        "Hive,Oxalic acid,Formic acid,Thymol\nH1,1,maybe,\nH2,,,\n",
        1,
        &[
            "has \"maybe\" in the column \"Formic acid\", which is not a word",
            "2 rows read = 1 accepted + 1 rejected",
        ],
    );
}

#[test]
fn a_row_goes_in_with_all_of_its_records_or_with_none() {
    let (desk, _) = desk_of("A row for each");
    let rows = "Hive,Honey 1,Note 1,Honey 2,Note 2,Honey 4,Note 4\nH1,3,,many,,5,\nH2,,,,,,\nH3,1,,,,2,\nH1,,,,,9,\n,,,,,,\n";
    check(
        &desk,
        rows,
        1,
        &[
            "5 rows read = 1 accepted + 2 rejected + 0 merged + 2 left out",
            "the accepted rows make 2 records",
            "1 blank row and 1 row without a record",
            "\"many\"  is not a number",
            "\"H1 + 4\" is the key of row 2 already",
        ],
    );
    desk.conform().ended(1);
    let findings = desk.read("batch/findings.csv");
    assert!(findings.contains("export.csv,2,2,reject,not-a-number,honey_kg (2),many"), "{findings}");
    assert!(findings.contains("export.csv,3,3,note,nothing-repeated,the row"), "{findings}");
    assert!(desk.read("batch/receipt.json").contains("\"records\": 2"));
    desk.run(&["explain", "export.csv", "4", "honey_kg"]).ended(0).says(&[
        "record 1",
        "Honey 1 (honey_kg)",
        "record 4",
    ]);
    let in_order = desk.edited("mapping.toml", "number    =", "numbering = \"in-order\"\nnumber =");
    in_order.run(&["conform", "export.csv", "-o", "again", "--again"]).ended(1);
    assert_eq!(in_order.read("again/upload/up.csv"), "hive,remarks,honey_kg,visit_no\nH3,,1,1\nH3,,2,2\n");
}

#[test]
fn rows_that_are_not_kept_are_counted_and_listed_and_doubt_is_said() {
    let (desk, _) = desk_of("Only some");
    check(
        &desk,
        "Kind,Hive,Cancelled\nvisit,H1,\nsale,H1,\n,H2,\n",
        1,
        &["3 rows read = 1 accepted + 1 rejected + 0 merged + 1 left out", "may hold a record or not"],
    );
    desk.conform().ended(1);
    assert!(desk.read("batch/findings.csv").contains("export.csv,3,3,note,not-kept,the row,,\"is left out"));
    desk.run(&["explain", "export.csv", "3"]).ended(0).says(&["left out, as the mapping keeps"]);
}

#[test]
fn parents_are_merged_only_if_they_say_the_same() {
    let (desk, _) = desk_of("Parents");
    check(
        &desk,
        "Hive,Town,Visit\nH1,Vik,1\nH1, Vik,2\nH1,Fen,3\nH2,Fen,1\n,Fen,1\n,Fen,1\n",
        1,
        &[
            "6 rows read = 2 accepted + 3 rejected + 1 merged + 0 left out",
            "\"H1\" is the key of row 2 as well, and the two",
        ],
    );
}

#[test]
fn what_is_wrong_with_a_mapping_is_said_with_its_line() {
    let (desk, _) = desk_of("A row for each");
    let edits = [
        ("numbers = [\"1-2\", \"4\"]", "numbers = [\"1-2\", \"2\"]", "numbers names \"2\" twice"),
        ("numbers = [\"1-2\", \"4\"]", "", "does not say which numbers"),
        ("number    = \"visit_no\"", "number = \"visit\"", "did you mean \"visit_no\"?"),
        ("from  = \"Hive\"", "from = \"Hive\"\npart = \"{a}{b}\"\ntake = \"a\"", "nothing between"),
        ("from  = \"Hive\"", "from = \"Hive\"\ntake = \"a\"", "part and take go together"),
        ("from  = \"Hive\"", "first_of = [\"Hive\"]", "two columns or more"),
        (
            "from  = \"Hive\"",
            "from = \"Hive\"\ntogether = [\"A\", \"B\"]",
            "more than one source for its value: from, together",
        ),
        ("from  = \"Hive\"", "together = [\"A\", \"B\"]", "does not say what to put between"),
        ("from  = \"Hive\"", "from = \"Hive\"\ngather = [\"A\", \"B\"]", "it is called together now"),
        ("from  = \"Hive\"", "from = \"Hive\"\nholds = \"A\"", "it is called true_where now"),
        ("numbers = [\"1-2\", \"4\"]", "instances = [\"1-2\", \"4\"]", "it is called numbers now"),
        (
            "from  = \"Hive\"",
            "look_up = { file = \"no.csv\", by = { \"A\" = \"b\" }, take = \"c\" }",
            "no.csv",
        ),
        (
            "from  = \"Hive\"",
            "look_up = { file = \"places.csv\", by = { \"A\" = \"b\" }, take = \"town\" }",
            "has no column \"b\"",
        ),
        ("from  = \"Hive\"", "constant = \"x\"\nfill_down = true", "fill_down goes with from"),
        ("[repeat]", "[rows]\nkeep = '{Kind} > 3'\n[repeat]", "a text and a number cannot be compared"),
        ("[repeat]", "[rows]\nkeep = 'number of records > 3'\n[repeat]", "looks at one row"),
        (
            "\"Honey {n}\"",
            "\"Honey {n}\"\nfill_down = true",
            "fill_down does not go with columns that repeat",
        ),
    ];
    for (old, new, says) in edits {
        let text = desk.read("mapping.toml");
        assert!(text.contains(old), "{old}");
        fs::write(desk.path("wrong.toml"), text.replacen(old, new, 1)).unwrap();
        desk.run(&["check", "export.csv", "-m", "wrong.toml"]).stops(&["wrong.toml, line", says]);
    }
}

#[test]
fn a_key_without_what_it_goes_with_is_said() {
    let (desk, _) = desk_of("Several values");
    desk.edited("mapping.toml", "between = \",\"\ntrue_where", "true_where")
        .run(&["check", "export.csv"])
        .stops(&["does not say what parts the values"]);
    let (desk, _) = desk_of("Several values");
    desk.edited("mapping.toml", "from    = \"Treatments\"", "from = \"Treatments\"\nwords = \"x/-\"")
        .run(&["check", "export.csv"])
        .stops(&["words goes with fields of true and false, and with flags"]);
}

#[test]
fn merging_needs_a_key() {
    let (desk, _) = desk_of("Parents");
    let keyless = desk.read("target.toml").replace("key      = true", "");
    desk.with("target.toml", &keyless)
        .run(&["check", "export.csv"])
        .stops(&["no field of the target is part of a key"]);
}

#[test]
fn values_for_which_no_field_is_left_reject_their_record() {
    let (desk, example) = desk_of("Columns packed");
    let kept = example.mapping.replace("rest   = \", \"", "");
    let desk = desk.with("mapping.toml", &format!("target = \"target.toml\"\n{kept}"));
    desk.run(&["check", "export.csv"])
        .ended(1)
        .says(&["3 rows read = 2 accepted + 1 rejected", "\"Vik\" is left over"]);
    let numbered = "\n[[field]]\nname = \"line_{n}\"\ntype = \"text\"\nnumbers = [\"1-3\"]\n";
    let target = desk.read("target.toml") + numbered;
    let mapping = "target = \"target.toml\"\n[[map]]\nfield = \"hive\"\nfrom = \"Hive\"\n[[map]]\nfield = \"line_{n}\"\nnumbers = [\"1-3\"]\nfilled = [\"Line 1\", \"Line 2\", \"Line 3\"]\n";
    let desk = desk.with("target.toml", &target).with("mapping.toml", mapping);
    desk.run(&["conform", "export.csv", "-o", "batch"]).ended(0);
    let sent = desk.read("batch/upload/up.csv");
    assert!(sent.contains("H2,,,Old Mill,Vik,\n") && sent.contains("H3,,,Fen Lane,Old Mill,Vik\n"), "{sent}");
    desk.run(&["explain", "export.csv", "3", "line_1"])
        .ended(0)
        .says(&["\"Line 2\", number 1 of the columns that are not blank"]);
    let gap = mapping.replace("line_{n}\"\nnumbers = [\"1-3\"]", "town\"\nnth = 2");
    desk.with_again("mapping.toml", &gap)
        .run(&["check", "export.csv"])
        .stops(&["no field takes number 1 of the columns"]);
    let unsaid = desk.with("mapping.toml", &mapping.replace("line_{n}\"\nnumbers = [\"1-3\"]", "town\""));
    unsaid
        .run(&["check", "export.csv"])
        .stops(&["which of the columns that are not blank is meant", "nth = 1"]);
}

#[test]
fn numbers_that_could_be_two_are_not_reckoned_with() {
    let (desk, _) = desk_of("A number worked out");
    let head = "Hive,Jars,Weight of a jar,Wax\n";
    check(&desk, &format!("{head}H1,12,1.234,0\n"), 1, &["\"1.234\"", "which is not a number"]);
    check(&desk, &format!("{head}H1,12,\"0,35\",0\n"), 1, &["\"0,35\""]);
    check(&desk, &format!("{head}H1,twelve,0.35,0\n"), 1, &["\"twelve\""]);
    let comma = desk.edited("mapping.toml", "round      =", "decimal_mark = \",\"\nround      =");
    check(&comma, &format!("{head}H1,12,\"0,35\",0\n"), 0, &["1 accepted"]);
    check(&comma, &format!("{head}H1,12,1.234,0\n"), 1, &["\"1.234\""]);
    fs::write(comma.path("export.csv"), format!("{head}H1,12,\"1,234\",0\n")).unwrap();
    comma
        .run(&["explain", "export.csv", "2", "honey_kg"])
        .ended(0)
        .says(&["worked out as {Jars} * {Weight of a jar}", "\"14.8\""]);
    let wrong = comma.edited("mapping.toml", "{Jars} *", "{Jars} of");
    wrong.run(&["check", "export.csv"]).stops(&["worked_out:", "^"]);
}

#[test]
fn texts_are_brought_into_a_form_and_columns_without_a_field_are_handed_on() {
    let desk = Desk::with_field("type = \"text\"", "from = \"It\"\ntext_form = \"initials\"", &[])
        .with("export.csv", "Id,It,Weather,Helper\na,Anna-Maria  Öst,=wet,Bo\nb,AMÖ,,\nc,,dry,\n");
    let desk = desk.edited(
        "mapping.toml",
        "[[map]]",
        "[leave_out]\ncolumns = [\"Helper\"]\nhand_on = [\"Weather\"]\n[[map]]",
    );
    let desk = desk.edited("target.toml", "name = \"it\"", "name = \"it\"\nrequired = true");
    desk.run(&["conform", "export.csv", "-o", "batch"]).ended(1);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\na,AMÖ\nb,AMÖ\n");
    assert_eq!(desk.read("batch/companion.csv"), "key,file,record,Weather\n,up.csv,1,'=wet\n,up.csv,2,\n");
    assert!(desk.read("batch/changes.csv").contains("the initials, as the mapping says"));
    let gone = desk.edited("mapping.toml", "hand_on = [\"Weather\"]", "hand_on = [\"Wether\"]");
    gone.run(&["check", "export.csv"]).stops(&["\"Wether\" (did you mean \"Weather\"?)"]);
    let number = Desk::with_field("type = \"integer\"", "from = \"It\"\ntext_form = \"upper\"", &["1"]);
    number.run(&["check", "export.csv"]).stops(&["text_form goes with fields of type text"]);
}

#[test]
fn values_are_looked_up_in_the_sheet_that_is_named() {
    let (desk, example) = desk_of("Looked up");
    let mut book = rust_xlsxwriter::Workbook::new();
    book.add_worksheet().set_name("Notes").unwrap().write(0, 0, "nothing").unwrap();
    let sheet = book.add_worksheet().set_name("Places").unwrap();
    for (row, cells) in
        [["number", "year", "town"], ["117", "2026", "Vik"], ["118", "2026", "Fen"]].iter().enumerate()
    {
        for (column, cell) in cells.iter().enumerate() {
            sheet.write(row as u32, column as u16, *cell).unwrap();
        }
    }
    let mapping =
        example.mapping.replace("file = \"places.csv\"", "file = \"places.xlsx\", sheet = \"Places\"");
    let desk = desk
        .with_bytes("places.xlsx", &book.save_to_buffer().unwrap())
        .with("mapping.toml", &format!("target = \"target.toml\"\n{mapping}"));
    desk.run(&["conform", "export.csv", "-o", "batch"]).ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "hive,town\nH1,Vik\nH2,Fen\n");
    let one =
        mapping.replace("{ \"Apiary\" = \"number\", \"Year\" = \"year\" }", "{ \"Apiary\" = \"number\" }");
    let desk = desk.with("mapping.toml", &format!("target = \"target.toml\"\n{one}"));
    check(
        &desk,
        "Hive,Apiary,Year\nH1,1117,2026\n",
        1,
        &["\"1117\"  is not among the 2 values of number in places.xlsx"],
    );
    let gone = desk.edited("mapping.toml", "sheet = \"Places\"", "sheet = \"Place\"");
    gone.run(&["check", "export.csv"]).stops(&["has no sheet \"Place\" (did you mean \"Places\"?)"]);
}

/// A desk whose town is looked up as `look_up` says, with the numbers of apiaries in its export.
fn looked_up(look_up: &str, numbers: &str) -> Desk {
    let export: String = numbers.lines().zip(1..).map(|(number, row)| format!("H{row},{number}\n")).collect();
    Desk::empty()
        .with(
            "target.toml",
            "[target]\nname = \"T\"\n[upload]\nline_end = \"lf\"\nfile_name = \"up.csv\"\n[[field]]\nname = \"hive\"\ntype = \"text\"\n\
             [[field]]\nname = \"town\"\ntype = \"text\"\n",
        )
        .with(
            "mapping.toml",
            &format!(
                "target = \"target.toml\"\n[[map]]\nfield = \"hive\"\nfrom = \"Hive\"\n[[map]]\nfield = \"town\"\nlook_up = {{ {look_up} }}\n"
            ),
        )
        .with("places.csv", "number,town\nA-117,Vik\nA-118,Fen\nB-1,Old Mill\n")
        .with("export.csv", &format!("Hive,Apiary\n{export}"))
}

#[test]
fn a_value_is_looked_up_in_a_table_of_a_database() {
    let key = "by = { \"Apiary\" = \"number\" }, take = \"town\"";
    let desk = looked_up(
        &format!("file = \"register.db\", table = \"Place\", {key}"),
        "A-117\na-118\nA-119\n\nB-2\n",
    );
    let database = rusqlite::Connection::open(desk.path("register.db")).unwrap();
    database
        .execute_batch(
            "CREATE TABLE keeper (name TEXT); CREATE TABLE place (number TEXT, town TEXT, since INTEGER);
             INSERT INTO place VALUES ('A-117', 'Vik', 1), ('A-118', ' Fen ', 2), ('B-2', 'North', 3), ('B-2', 'South', 4), (NULL, 'x', 5);",
        )
        .unwrap();
    desk.conform().ended(1).says(&["5 rows read = 3 accepted + 2 rejected"]);
    assert_eq!(desk.read("batch/upload/up.csv"), "hive,town\nH1,Vik\nH2,Fen\nH4,\n");
    let findings = desk.read("batch/findings.csv");
    assert!(findings.contains("is not among the 3 values of number in place of register.db"), "{findings}");
    assert!(
        findings
            .contains("leads to two rows of place of register.db that say different things, rows 3 and 4"),
        "{findings}"
    );
    desk.run(&["explain", "export.csv", "2", "town"])
        .ended(0)
        .says(&["town in row 1 of place of register.db"]);
    // The database is one of the files that the batch was made with.
    assert!(desk.read("batch/receipt.json").contains("register.db"));
    let wrong = |look_up: &str, says: &[&str]| {
        desk.with_again("mapping.toml", &looked_up(look_up, "").read("mapping.toml"));
        desk.run(&["check", "export.csv"]).stops(says);
    };
    wrong(
        &format!("file = \"register.db\", table = \"places\", {key}"),
        &["no table \"places\"", "keeper, place"],
    );
    wrong(
        "file = \"register.db\", table = \"place\", by = { \"Apiary\" = \"no\" }, take = \"town\"",
        &["no column \"no\"", "number, town, since"],
    );
    wrong(
        &format!("file = \"places.csv\", table = \"place\", {key}"),
        &["places.csv is not a database", "leave table out"],
    );
    wrong(
        &format!("file = \"register.db\", sheet = \"x\", table = \"place\", {key}"),
        &["more than one of sheet, table and query"],
    );
}

#[test]
fn the_key_of_a_look_up_has_a_crosswalk_of_its_own() {
    let key = "file = \"places.csv\", by = { \"Apiary\" = \"number\" }, take = \"town\", crosswalk = \"crosswalks/apiaries.csv\"";
    let desk = looked_up(key, "A-117\nVik mill \nvik MILL\n118\nA-119\n").with(
        "crosswalks/apiaries.csv",
        "value,code,by,on\nVik mill,B-1,clerk,2026-05-01\n118,A-118,clerk,2026-05-02\n",
    );
    desk.conform().ended(1).says(&["5 rows read = 4 accepted + 1 rejected"]);
    assert_eq!(desk.read("batch/upload/up.csv"), "hive,town\nH1,Vik\nH2,Old Mill\nH3,Old Mill\nH4,Fen\n");
    desk.run(&["explain", "export.csv", "5", "town"]).ended(0).says(&[
        "crosswalk",
        "A-118",
        "look_up",
        "Fen",
        "clerk",
    ]);
    let findings = desk.read("batch/findings.csv");
    assert!(findings.contains("A-119") && findings.contains("is not among the 3 values"), "{findings}");
    for (lines, says) in [
        ("Mill,B-9\n", "\"B-9\" for \"Mill\" is not a key of places.csv"),
        ("A-117,B-1\n", "\"A-117\" is a key of places.csv itself"),
        ("Mill,B-1\nmill ,A-118\n", "\"mill\" is translated twice"),
    ] {
        desk.with_again("crosswalks/apiaries.csv", &format!("value,code\n{lines}"));
        desk.run(&["check", "export.csv"]).stops(&[says]);
    }
    std::fs::remove_file(desk.path("crosswalks/apiaries.csv")).unwrap();
    desk.run(&["check", "export.csv"]).stops(&["crosswalks/apiaries.csv"]);
    desk.with_again(
        "mapping.toml",
        &looked_up(&key.replace("\"number\" }", "\"number\", \"Hive\" = \"town\" }"), "")
            .read("mapping.toml"),
    );
    desk.run(&["check", "export.csv"]).stops(&["crosswalk translates the key of a look-up by one column"]);
}

#[test]
fn a_value_is_looked_up_by_a_query_that_only_reads() {
    let key = "by = { \"Apiary\" = \"id\" }, take = \"name\"";
    let look_up = |query: &str| format!("file = \"register.db\", query = '{query}', {key}");
    let good =
        "SELECT p.number AS id, upper(k.name) AS name FROM place p JOIN keeper k ON k.place = p.number";
    let desk = looked_up(&look_up(good), "A-117\nb-2\nA-9\n");
    let open = || rusqlite::Connection::open(desk.path("register.db")).unwrap();
    open()
        .execute_batch(
            "CREATE TABLE place (number TEXT); CREATE TABLE keeper (place TEXT, name TEXT);
             INSERT INTO place VALUES ('A-117'), ('B-2'); INSERT INTO keeper VALUES ('A-117', 'Berg'), ('B-2', 'Lund');",
        )
        .unwrap();
    desk.conform().ended(1).says(&["3 rows read = 2 accepted + 1 rejected"]);
    assert_eq!(desk.read("batch/upload/up.csv"), "hive,town\nH1,BERG\nH2,LUND\n");
    desk.run(&["explain", "export.csv", "2", "town"])
        .ended(0)
        .says(&["name in row 1 of the query of register.db"]);
    let wrong = |query: &str, says: &[&str]| {
        desk.with_again("mapping.toml", &looked_up(&look_up(query), "").read("mapping.toml"));
        desk.run(&["check", "export.csv"]).stops(says);
    };
    wrong("SELECT number AS id FROM place", &["the query of", "has no column \"name\"", "it has id"]);
    wrong("SELECT number FROM plaice", &["is not one that", "plaice"]);
    for harmful in [
        "DELETE FROM keeper",
        "INSERT INTO keeper VALUES (1, 2) RETURNING place AS id, name",
        "DROP TABLE place",
        "ATTACH \"other.db\" AS o",
    ] {
        wrong(harmful, &["register.db"]);
    }
    let left: i64 = open().query_row("SELECT count(*) FROM keeper", [], |row| row.get(0)).unwrap();
    assert_eq!(left, 2, "nothing was changed");
    assert!(!desk.exists("other.db"));
}
