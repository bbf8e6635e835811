//! The causes found in the made-up exports of the demo and of the benchmark, held against those planted there.

use crate::desk::Desk;
use crate::export::Export;

const FILES: [(&str, &str); 6] = [
    ("target.toml", include_str!("../../src/demo/data/target.toml")),
    ("mapping.toml", include_str!("../../src/demo/data/mapping.toml")),
    ("codes/region.csv", include_str!("../../src/demo/data/codes/region.csv")),
    ("codes/district.csv", include_str!("../../src/demo/data/codes/district.csv")),
    ("codes/queen-colour.csv", include_str!("../../src/demo/data/codes/queen-colour.csv")),
    ("codes/treatment.csv", include_str!("../../src/demo/data/codes/treatment.csv")),
];

/// What the exports plant that one decision settles: the field, the column, the value, and a right answer.
const PLANTED: [(&str, &str, &str, &str); 10] = [
    ("region", "Region", "Nth Fen", "NF"),
    ("treatments", "Treatments", "oxalc", "OX"),
    ("treatments", "Treatments", "old strips", "TH"),
    ("frames", "Frames", "n/a", "--leave-blank"),
    ("honey_kg", "Honey (lb)", "about 20", "20"),
    ("visit_date", "Date", "last week", "2026-04-20"),
    ("queen_colour", "Queen", "yel.", "Y"),
    ("queen_colour", "Queen", "wht", "W"),
    ("queen_colour", "Queen", "light blue", "B"),
    ("marked", "Marked", "done", "1"),
];

#[test]
fn the_causes_planted_are_found_and_settle_their_rows() {
    let demo = Export { rows: 1_260, faulty: 60, habits: true, seed: 2026, summer: false };
    let benchmark = Export { rows: 20_000, faulty: 20, habits: false, seed: 7, summer: false };
    for (name, export) in [("demo", demo), ("benchmark", benchmark)] {
        let mut bytes = Vec::new();
        export.write(&mut bytes).unwrap();
        let desk = FILES.iter().fold(Desk::empty(), |desk, (name, text)| desk.with(name, text));
        let desk = desk.with_bytes("export.csv", &bytes).edited("target.toml", "max_rows  = 500\n", "");
        let given = ["--today", "2026-04-30", "--set", "loaded_by=A. Clerk"];
        let with = |words: &[&str]| desk.run(&[words, &given].concat());
        with(&["conform", "export.csv", "-o", "batch"]).ended(1);
        // Which rejected rows have which of the planted values.
        let mut reader = csv::Reader::from_path(desk.path("batch/rejects.csv")).unwrap();
        let headings = reader.headers().unwrap().clone();
        let place = |column: &str| headings.iter().position(|heading| heading == column).unwrap();
        let places = PLANTED.map(|(_, column, ..)| place(column));
        let has = |row: &csv::StringRecord, number: usize| {
            let (_, column, value, _) = PLANTED[number];
            // A row that falls apart is not judged by its cells.
            row[0].contains(column) && row[places[number]].split("; ").any(|item| item.trim() == value)
        };
        let rows: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
        let planted: Vec<usize> =
            (0..PLANTED.len()).filter(|n| rows.iter().any(|row| has(row, *n))).collect();
        let of_planted = rows.iter().filter(|row| planted.iter().any(|n| has(row, *n))).count() as u64;
        // Each is one cause, with all of its rows.
        let before = check(&with);
        let found = |number: &&usize| {
            let (field, _, value, _) = PLANTED[**number];
            let count = rows.iter().filter(|row| has(row, **number)).count() as u64;
            let is_it = |cause: &serde_json::Value| {
                cause["about"] == field && cause["value"] == value && cause["rows"] == count
            };
            before["causes"].as_array().unwrap().iter().any(is_it)
        };
        let found = planted.iter().filter(found).count();
        for number in &planted {
            let (field, _, value, answer) = PLANTED[*number];
            desk.run(&["crosswalk", "add", field, value, answer]).ended(0);
        }
        let rejected = |result: &serde_json::Value| result["totals"]["rejected"].as_u64().unwrap();
        let settled = rejected(&before) - rejected(&check(&with));
        println!(
            "{name}: {} decisions planted, {found} found; of {of_planted} rejected rows with one of them, {settled} are settled by these alone",
            planted.len()
        );
        assert_eq!(found, planted.len(), "{name}");
        assert!(settled * 100 >= of_planted * 95, "{name}: {settled} of {of_planted}");
    }
}

fn check(with: &dyn Fn(&[&str]) -> crate::desk::Ran) -> serde_json::Value {
    serde_json::from_str(&with(&["check", "export.csv", "--format", "json"]).out).unwrap()
}

#[test]
fn a_value_that_the_pattern_takes_in_capitals_is_a_likely_answer() {
    let field = "type = \"text\"\npattern = \"[A-Z][0-9]\"";
    let desk = Desk::with_field(field, "from = \"It\"", &["a1", "a1", "b 1", "b 1", "B1", "c2"]);
    desk.run(&["check", "export.csv"]).ended(1).says(&[
        "do: dusk crosswalk add it a1 A1",
        "do: dusk crosswalk add it \"b 1\" VALUE",
        "do: dusk correct export.csv 7 It C2",
    ]);
}

#[test]
#[cfg(unix)]
fn what_settles_a_cause_is_taken_by_a_shell_as_it_is_printed() {
    let values = [
        "-x",
        "--yes",
        "$HOME",
        "`id`",
        "it's",
        "a\"b",
        "a\\b",
        "!1",
        "*",
        "ü 1",
        "#1",
        "~",
        "a;b",
        "w=1",
        "=w",
        "two\nlines",
        "ü\tx",
        "50%\u{7}'s\\",
    ];
    let rows: String =
        (0..).zip(values).fold(String::from("No,Date,Queen,Honey\n"), |rows, (number, value)| {
            let queen = value.replace('"', "\"\"");
            let odd_day = format!("{number}3,31/02/2026,white,1\n");
            format!("{rows}{number}1,03/04/2026,\"{queen}\",1\n{number}2,03/04/2026,\"{queen}\",1\n{odd_day}")
        });
    let desk = Desk::new().with("ex port$.csv", &rows);
    let check = || desk.run(&["check", "ex port$.csv", "--format", "json", "--today", "2026-04-30"]).out;
    let result: serde_json::Value = serde_json::from_str(&check()).unwrap();
    let program = std::path::Path::new(env!("CARGO_BIN_EXE_dusk")).parent().unwrap().to_owned();
    let mut settled = 0;
    for cause in result["causes"].as_array().unwrap() {
        let Some(command) = cause["settle"].as_str() else { continue };
        let command = command.replace(" CODE", " W").replace(" VALUE", " 2026-02-28");
        let mut shell = std::process::Command::new("/bin/sh");
        shell.args(["-c", &command]).current_dir(desk.path(".")).env_clear().env("PATH", &program);
        let ran = crate::desk::Ran::of(shell);
        assert_eq!(ran.status, 0, "{command}: {}", ran.err);
        settled += 1;
    }
    assert_eq!(settled, values.len() + 1, "the days are all the same one");
    let left: serde_json::Value = serde_json::from_str(&check()).unwrap();
    assert_eq!(left["totals"]["rejected"], 0, "{left}");
}

/// The findings that no single decision settles: their rows are mended one by one.
const ROW_BY_ROW: [&str; 7] = [
    "above-maximum",
    "below-minimum",
    "number-too-long",
    "power-of-ten",
    "too-early",
    "too-late",
    "too-long",
];

/// Does what a cause says would settle it, with nothing in the place of an open answer.
fn settle(desk: Desk, settle: &str, required: bool) -> Desk {
    if let Some(lines) = settle.strip_prefix("in mapping.toml, under it: ") {
        let line = |line: &str| {
            let (line, choices) = line.split_once("   #").unwrap_or((line, ""));
            // The first answer that is offered, where there are some.
            let choices = choices.split("; ").next().unwrap_or_default();
            let answer = choices.split(", ").next().and_then(|choices| choices.split(" or ").next());
            let answer = answer.map_or("", str::trim);
            match (line.contains("\"…\""), answer.contains(" = ")) {
                (true, _) => line.replace('…', "0"),
                (false, true) if line.contains('…') => answer.to_owned(),
                _ => line.replace('…', answer),
            }
        };
        let new: Vec<String> = lines.split("  and  ").map(line).collect();
        let mapping = desk.read("mapping.toml");
        // What the target has to say as well, in its last field.
        let of_target =
            if lines.contains("# and the same for the field in target.toml") { "unit = \"%\"\n" } else { "" };
        let target = format!("{}\n{of_target}", desk.read("target.toml"));
        let desk = desk.with("target.toml", &target);
        // A key that is there already is written over.
        let key = |line: &str| line.split_whitespace().next().unwrap_or_default().to_owned();
        let is_kept = |old: &&str| !new.iter().any(|line| key(line) == key(old));
        let kept: Vec<&str> = mapping.lines().filter(is_kept).collect();
        return desk.with("mapping.toml", &format!("{}\n{}\n", kept.join("\n"), new.join("\n")));
    }
    let words = settle
        .replace(" VALUE", if required { " x" } else { " ''" })
        .replace(" CODE", " --leave-blank")
        .replace(" WORD", " --leave-blank");
    let words = match words.strip_prefix("dusk crosswalk") {
        Some(_) => words.replace(" ''", " --leave-blank"),
        None => words,
    };
    let mut shell = std::process::Command::new("/bin/sh");
    let program = std::path::Path::new(env!("CARGO_BIN_EXE_dusk")).parent().unwrap().to_owned();
    shell.args(["-c", &words]).current_dir(desk.path(".")).env_clear().env("PATH", &program);
    let ran = crate::desk::Ran::of(shell);
    assert_eq!(ran.status, 0, "{words}: {}", ran.err);
    desk
}

type Key = (&'static str, &'static str, &'static [&'static str], &'static [&'static str], &'static str);

/// The field's type, the mapping's lines, cells that one key lets in, those that stay, and the key.
const KEYS: [Key; 13] = [
    (
        "type = \"decimal\"\ndecimals = 2",
        "",
        &["12.50 kr", "7.00 kr", "9.25 kr"],
        &["3.5"],
        "currency = \"kr\"",
    ),
    ("type = \"decimal\"\ndecimals = 2", "", &["€12,50", "€7,25", "€1.209,00"], &[], "currency = \"€\""),
    ("type = \"decimal\"\ndecimals = 1", "", &["3.25", "7.75"], &["3.5"], "round = \"half-up\""),
    ("type = \"decimal\"\ndecimals = 1", "", &["(3.2)", "(0.5)"], &["4"], "brackets = \"negative\""),
    (
        "type = \"decimal\"\ndecimals = 2",
        "",
        &["(£12.50)", "(£3.75)"],
        &["4"],
        "currency = \"£\"  and  brackets = \"negative\"",
    ),
    ("type = \"date\"", "", &["46085", "46090"], &["2026-03-04"], "day_count = …"),
    ("type = \"date\"", "", &["25/03/51", "30/03/40"], &["2026-03-14"], "years_from = …"),
    ("type = \"date\"", "", &["2026-03-04 08:30", "2026-03-05 09:15"], &["2026-03-04"], "drop_time = true"),
    (
        "type = \"date\"",
        "",
        &["04|03|2026", "25|03|2026", "26|03|2026"],
        &["lost"],
        "pattern = \"dd|MM|yyyy\"",
    ),
    ("type = \"boolean\"", "", &["da", "njet", "da"], &[], "words = …"),
    (
        "type = \"codes\"\ncodes = \"codes/queen.csv\"\nseparator = \"|\"",
        "",
        &["W + Y", "Y + B", "W + B"],
        &["W"],
        "between = \"+\"",
    ),
    ("type = \"text\"\nrequired = true", "", &["", "", ""], &["oak"], "fill_down = true"),
    (
        "type = \"text\"",
        "",
        &["12345678901234500", "98765432109876500"],
        &["short"],
        "rounded_digits = \"keep\"",
    ),
];

#[test]
fn a_key_that_lets_values_in_is_one_cause_and_changes_nothing_else() {
    for (field, map, cells, others, key) in KEYS {
        let first = if field.contains("required") { others } else { cells };
        let second = if field.contains("required") { cells } else { others };
        let desk = Desk::with_field(field, &format!("from = \"It\"\n{map}"), &[first, second].concat());
        let accepted = |desk: &Desk| -> Vec<String> {
            let ran = desk.run(&["conform", "export.csv", "-o", "batch", "--again"]);
            assert!(desk.exists("batch"), "{key}: {}", ran.err);
            // Without an accepted record there is no upload file.
            let there = desk.exists("batch/upload/up.csv");
            let upload = if there { desk.read("batch/upload/up.csv") } else { "id,it\n".to_owned() };
            std::fs::remove_dir_all(desk.path("batch")).unwrap();
            upload.lines().map(str::to_owned).collect()
        };
        let before = accepted(&desk);
        let result = desk.check();
        let says =
            |cause: &&serde_json::Value| cause["settle"].as_str().is_some_and(|settle| settle.contains(key));
        let causes: Vec<_> = result["causes"].as_array().unwrap().iter().filter(says).collect();
        assert_eq!(causes.len(), 1, "{key}: {result}");
        assert_eq!(causes[0]["count"], cells.len(), "{key}: {result}");
        let after = accepted(&settle(desk, causes[0]["settle"].as_str().unwrap(), false));
        assert_eq!(after.len(), before.len() + cells.len(), "{key}: {after:?}");
        assert!(before.iter().all(|record| after.contains(record)), "{key}: {before:?} and {after:?}");
    }
}

#[test]
fn what_would_let_nothing_in_or_spoil_other_values_is_not_offered() {
    for (field, cells, key) in [
        ("type = \"decimal\"\ndecimals = 2", &["1.5 kr", "2.5 km", "3.5 ft"][..], "currency"),
        ("type = \"boolean\"", &["da", "njet", "kanske"], "words"),
        ("type = \"decimal\"\ndecimals = 2", &["soon", "later", "never"], "decimal_mark"),
        ("type = \"code\"\ncodes = \"codes/queen.csv\"", &["W; Y", "Y; B", "B; W"], "between"),
    ] {
        let result = Desk::with_field(field, "from = \"It\"", cells).check();
        let settles = |cause: &serde_json::Value| cause["settle"].to_string().contains(&format!("{key} ="));
        assert!(!result["causes"].as_array().unwrap().iter().any(settles), "{key}: {result}");
    }
}

#[test]
#[cfg(unix)]
fn what_is_said_to_settle_a_cause_does() {
    let mut without = std::collections::BTreeSet::new();
    for (field, map, value, finding, _) in crate::findings::CELLS {
        for cells in [&[value][..], &[value, value]] {
            let desk = Desk::with_field(field, map, cells);
            let is_it = |cause: &&serde_json::Value| cause["finding"] == finding;
            let before = desk.check();
            let cause = before["causes"].as_array().unwrap().iter().find(is_it).unwrap();
            let Some(says) = cause["settle"].as_str() else {
                without.insert(finding);
                continue;
            };
            let desk = settle(desk, says, field.contains("required"));
            let after = desk.check();
            let left = after["causes"].as_array().unwrap().iter().find(is_it);
            assert!(left.is_none(), "{finding} of {value:?} is still there after: {says}\n{left:?}");
        }
    }
    let without: Vec<&str> = without.into_iter().collect();
    assert_eq!(without, ROW_BY_ROW);
}
