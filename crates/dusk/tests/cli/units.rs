//! Units: what headings, mappings and descriptions say of them is weighed at every run.

use crate::desk::Desk;

/// A desk with a field of kilograms, or what else `field` says, and one column under `heading`.
fn desk(field: &str, heading: &str, map: &str) -> Desk {
    let field = format!("type = \"decimal\"\ndecimals = 3\n{field}");
    Desk::with_field(&field, &format!("from = \"{heading}\"\n{map}"), &[])
        .with("export.csv", &format!("Id,{heading}\na,12.5\nb,10\n"))
}

const KG: &str = "unit = \"kg\"";

/// The field, the heading, the mapping's lines, and what stops the batch.
const OPEN: [(&str, &str, &str, &[&str]); 10] = [
    (
        KG,
        "Crate mass (LBS)",
        "",
        &["names another unit than the target", "the heading says lb", "unit = \"lb\""],
    ),
    (KG, "Crate mass [Pounds]", "", &["the heading says lb; the target wants kg"]),
    (KG, "Poids en kilogrammes (lb)", "", &["the heading says lb"]),
    (KG, "Mass", "", &["nothing says which unit", "unit = \"kg\"   # or the one that they are in"]),
    (KG, "Mass (cran)", "", &["a unit that is not clear", "there is no unit \"cran\""]),
    (
        KG,
        "Load (ton)",
        "",
        &["is more than one unit", "write t (1,000 kg), ton_us (2,000 lb) or ton_br (2,240 lb)"],
    ),
    (
        KG,
        "Mass (kg)",
        "unit = \"lb\"\nround = \"half-up\"",
        &["another unit than the mapping", "the mapping says lb"],
    ),
    ("unit = \"l/min\"", "Flow (gal/min)", "", &["\"gal\" in \"gal/min\" is more than one unit", "gal_us"]),
    ("unit = \"EUR\"", "Price (£)", "", &["the heading says GBP; the target wants EUR"]),
    ("", "Hem (yd)", "", &["the target names no unit", "in target.toml"]),
];

#[test]
fn what_no_witness_proves_or_two_deny_stops_a_batch() {
    for (field, heading, map, says) in OPEN {
        let desk = desk(field, heading, map);
        desk.run(&["conform", "export.csv", "-o", "batch"]).stops(says);
        assert!(!desk.exists("batch"), "{heading}");
        let result = desk.check();
        assert_eq!(result["causes"][0]["finding"], "unit-undecided", "{heading}: {result}");
        assert_eq!(result["totals"]["rejected"], 2, "{heading}");
    }
}

/// The field, the heading, the mapping's lines, and what the first number becomes.
const SETTLED: [(&str, &str, &str, &str); 11] = [
    (KG, "Mass (KG)", "", "12.5"),
    (KG, "mass_kg", "", "12.5"),
    (KG, "Mass", KG, "12.5"),
    ("unit = \"kg\"\nexports_in_unit = true", "Mass", "", "12.5"),
    (KG, "Crate mass (LBS)", "unit = \"lb\"\nround = \"half-up\"", "5.67"),
    (KG, "Mass (cran)", KG, "12.5"),
    ("unit = \"t/ha\"", "Yield (kg/ha)", "unit = \"kg/ha\"\nround = \"half-up\"", "0.013"),
    ("unit = \"Cel\"", "Drying heat (F)", "unit = \"°F\"\nround = \"half-up\"", "-10.833"),
    ("", "Frames", "", "12.5"),
    ("", "Free Cl", "", "12.5"),
    (KG, "Mass Kg", "", "12.5"),
];

#[test]
fn what_is_proven_or_confirmed_goes_in_converted_exactly() {
    for (field, heading, map, expected) in SETTLED {
        let desk = desk(field, heading, map);
        desk.run(&["conform", "export.csv", "-o", "batch"]).ended(0);
        let upload = desk.read("batch/upload/up.csv");
        assert_eq!(upload.lines().nth(1), Some(format!("a,{expected}").as_str()), "{heading} {map}");
    }
}

#[test]
fn one_of_several_columns_that_names_its_unit_proves_nothing_of_the_others() {
    let field = format!("type = \"decimal\"\ndecimals = 3\n{KG}");
    let desk = Desk::with_field(&field, "first_of = [\"Mass (kg)\", \"Load\"]", &[])
        .with("export.csv", "Id,Mass (kg),Load\na,12.5,\nb,,10\n");
    desk.run(&["conform", "export.csv", "-o", "batch"]).stops(&["nothing says which unit"]);
    let desk = desk.edited("mapping.toml", "first_of", "unit = \"kg\"\nfirst_of");
    desk.run(&["conform", "export.csv", "-o", "batch"]).ended(0);
}

#[test]
fn a_mapping_is_proposed_with_the_unit_of_the_heading_and_never_surely_without() {
    let desk = desk(KG, "It (gal)", "");
    let ran = desk.run(&["map", "export.csv", "-t", "target.toml", "-m", "new.toml"]).ended(1);
    ran.says(&["likely", "the heading says \"gal\", which is not one unit"]);
    assert!(!desk.read("new.toml").contains("\nfrom  = \"It (gal)\""), "{}", desk.read("new.toml"));
}

#[test]
fn a_column_that_was_renamed_with_another_unit_is_offered_with_it() {
    let desk = desk("unit = \"l/min\"", "Flow (L/min)", "")
        .edited("target.toml", "name = \"it\"", "name = \"flow\"")
        .edited("mapping.toml", "field = \"it\"", "field = \"flow\"")
        .with("export.csv", "Id,Flow (gal/min)\na,12.5\nb,10\n");
    desk.run(&["check", "export.csv"]).stops(&[
        "\"Flow (L/min)\" may be called \"Flow (gal/min)\" now",
        "its heading says gal/min, and \"Flow (L/min)\" says l/min",
    ]);
}

#[test]
fn a_field_whose_name_denies_its_unit_is_a_mistake_of_the_description() {
    let desk = desk(KG, "Mass", KG).edited("target.toml", "name = \"it\"", "name = \"it_lb\"");
    desk.run(&["target", "check"]).ended(1).says(&["it_lb is in kg, and its name says lb"]);
}

#[test]
fn percents_that_would_all_be_shares_of_one_are_asked_about() {
    let desk = |keys: &str, cells: &[&str]| {
        Desk::with_field(
            "type = \"decimal\"\ndecimals = 2\nunit = \"%\"",
            &format!("from = \"It\"\n{keys}"),
            cells,
        )
    };
    let cells = ["0.76", "0.5", "1", "0.25"];
    let open = desk("unit = \"%\"", &cells);
    open.conform()
        .stops(&["and may be shares of one instead of percents", "unit = \"1\"   # for shares of one"]);
    open.run(&["check", "export.csv"]).ended(1).says(&["0 accepted + 4 rejected"]);
    let shares = desk("unit = \"1\"", &cells);
    shares.conform().ended(0);
    assert_eq!(shares.read("batch/upload/up.csv"), "id,it\nr0,76\nr1,50\nr2,100\nr3,25\n");
    desk("unit = \"%\"\nsmall_percents = \"keep\"", &cells).conform().ended(0);
    desk("unit = \"%\"", &["0.76", "12", "0.5", "0.2"]).conform().ended(0);
    desk("unit = \"%\"", &["0.76%", "0.5%", "0.2%"]).conform().ended(0);
}

#[test]
fn a_unit_may_be_asked_for_at_every_run() {
    let desk = Desk::with_field(
        "type = \"decimal\"\ndecimals = 2\nunit = \"cm\"",
        "from = \"It\"\nunit = \"{length}\"",
        &["10"],
    )
    .edited("mapping.toml", "[[map]]", "[ask]\nlength = \"In which unit is this batch?\"\n[[map]]");
    desk.run(&["check", "export.csv"]).stops(&["In which unit is this batch?", "--set length=…"]);
    let set = |unit: &str| {
        desk.run(&["conform", "export.csv", "--again", "-o", unit, "--set", &format!("length={unit}")])
    };
    set("in").ended(0);
    assert_eq!(desk.read("in/upload/up.csv"), "id,it\nr0,25.4\n");
    set("cm").ended(0);
    assert_eq!(desk.read("cm/upload/up.csv"), "id,it\nr0,10\n");
    set("kg").stops(&["--set length=kg:"]);
    let unknown = desk.edited("mapping.toml", "{length}", "{lenght}");
    unknown.run(&["check", "export.csv"]).stops(&["unit uses {lenght}, which [ask] does not ask for"]);
}

/// A desk with a field of kilograms, numbers under "Mass", and the units of these in a column beside it.
fn with_units_beside(map: &str, rows: &[(&str, &str)]) -> Desk {
    let field = format!("type = \"decimal\"\ndecimals = 3\n{KG}");
    let lines = (1..).zip(rows).map(|(number, (mass, unit))| format!("r{number},\"{mass}\",{unit}\n"));
    let export = format!("Id,Mass,Measured in\n{}", lines.collect::<String>());
    Desk::with_field(&field, &format!("from = \"Mass\"\n{map}"), &[]).with("export.csv", &export)
}

#[test]
fn each_number_may_have_its_unit_in_a_column_beside_it() {
    let rows = [
        ("12.5", "kg"),
        ("500", "g"),
        ("1,5", "KGS"),
        ("2", "lb"),
        ("", "kg"),
        ("3", ""),
        ("4", "boxes"),
        ("5", "m"),
    ];
    let keys = "unit_in = \"Measured in\"\nround = \"half-up\"\ndecimal_mark = \",\"";
    let desk = with_units_beside(&keys.replace("decimal_mark = \",\"", ""), &[rows[0], rows[1], rows[3]]);
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr1,12.5\nr2,0.5\nr3,0.907\n");
    assert!(desk.read("batch/changes.csv").contains("g to kg: × 0.001"));
    let mixed = with_units_beside(keys, &rows[1..]);
    mixed.conform().ended(1).says(&["unit nothing proves", "is in m, and the column is in kg"]);
    assert_eq!(mixed.read("batch/upload/up.csv"), "id,it\nr1,0.5\nr2,1.5\nr3,0.907\nr4,\n");
    let headed =
        with_units_beside(keys, &rows[..2]).with("export.csv", "Id,Mass (kg),Measured in\na,1,kg\nb,2,g\n");
    let headed = headed.edited("mapping.toml", "\"Mass\"", "\"Mass (kg)\"");
    headed.conform().ended(1).says(&["is in g, and the column is in kg"]);
    let both = with_units_beside(&format!("{keys}\nunit = \"kg\""), &rows);
    both.run(&["check", "export.csv"]).stops(&["unit_in takes the unit of each number from its row"]);
}

#[test]
fn a_column_of_units_is_evidence_for_the_numbers_beside_it() {
    let mixed = [("12.5", "kg"), ("500", "g"), ("7", "kg")];
    let desk = with_units_beside(KG, &mixed);
    desk.conform().stops(&[
        "a column beside it names other units",
        "g   1 row of \"Measured in\" say so; row 3 \"g\" = grams",
        "unit_in = \"Measured in\"",
    ]);
    let left_out =
        desk.edited("mapping.toml", "[[map]]", "[leave_out]\ncolumns = [\"Measured in\"]\n[[map]]");
    left_out.conform().ended(0);
    with_units_beside(KG, &[mixed[0], mixed[1], ("3", "boxes")])
        .conform()
        .stops(&["?   1 row of \"Measured in\" name no unit that is known here; row 4 \"boxes\""]);
    let all = [("12.5", "Kilograms"), ("0.5", "kg"), ("7", "KG")];
    with_units_beside("", &all).conform().ended(0).says(&["kg (proven)"]);
    with_units_beside("", &all.map(|(mass, _)| (mass, "lb"))).conform().stops(&["\"Measured in\" says lb"]);
    with_units_beside(KG, &[("1", "m"), ("2", "f"), ("3", "m")]).conform().ended(0);
}

#[test]
fn units_beside_numbers_are_proposed_with_them_and_never_left_out() {
    let named = |desk: Desk| desk.edited("target.toml", "name = \"it\"", "name = \"mass\"");
    let desk = named(with_units_beside("", &[("12.5", "kg"), ("500", "g"), ("2", "lb")]));
    desk.run(&["map", "export.csv", "-t", "target.toml", "-m", "new.toml"])
        .says(&["\"Measured in\" says kg, g, lb"]);
    let written = desk.read("new.toml");
    assert!(
        written.contains("# unit_in = \"Measured in\"") && !written.contains("columns = [\"Measured in\"]")
    );
    assert!(!written.contains("unit = \"kg\""), "{written}");
    let same = named(with_units_beside("", &[("12.5", "kg"), ("3", "KG")]));
    same.run(&["map", "export.csv", "-t", "target.toml", "-m", "new.toml"]);
    assert!(!same.read("new.toml").contains("unit ="), "{}", same.read("new.toml"));
    same.run(&["check", "export.csv", "-m", "new.toml"]).says(&["kg (proven)"]);
}
