//! What the cells of a data dictionary are taken for, one after another: the lines of the draft, and the
//! questions that are left.

use crate::desk::Desk;
use dusk_core::description::{FieldType, Target, TextType};
use dusk_core::drafting::{DraftOptions, Drafted, draft};
use proptest::prelude::*;

/// Drafts from a dictionary of these headings with one field of these cells.
fn drafted(headings: &[&str], cells: &[&str]) -> Drafted {
    let header: Vec<&str> = ["Field name"].iter().chain(headings).copied().collect();
    let row: Vec<&str> = ["it"].iter().chain(cells).copied().collect();
    // A second field, so that it is a dictionary and no single line.
    let mut other = vec!["other"; 1];
    other.resize(row.len(), "");
    let desk = Desk::new().with_table("dictionary.csv", &header, [row, other]);
    draft(&[desk.path("dictionary.csv")], &DraftOptions::default()).unwrap()
}

/// The lines of the draft about the field, without its name and its place.
fn lines(drafted: &Drafted) -> Vec<String> {
    let field = drafted.fields.iter().find(|field| field.name == "it").unwrap();
    field.claims.0.iter().map(|claim| format!("{} = {}", claim.key, claim.value.toml())).collect()
}

/// What is asked about the field.
fn asked(drafted: &Drafted) -> Vec<&str> {
    let about = drafted.questions.iter().filter(|question| question.about == "it");
    about.map(|question| question.says.as_str()).collect()
}

#[test]
fn types_and_their_sizes_are_known_by_the_words_that_people_use() {
    for (cell, expected) in [
        ("Text(6)", &["type = \"text\"", "max_length = 6"][..]),
        ("AN10", &["type = \"text\"", "max_length = 10"]),
        ("varchar(30)", &["type = \"text\"", "max_length = 30"]),
        ("Text, max 60 characters", &["type = \"text\"", "max_length = 60"]),
        ("6 digits", &["type = \"text\"", "digits = 6"]),
        ("Integer", &["type = \"integer\""]),
        ("Number(5,1)", &["type = \"decimal\"", "decimals = 1", "max = \"9999.9\""]),
        ("Number with 1 decimal", &["type = \"decimal\"", "decimals = 1"]),
        ("Date DD/MM/YYYY", &["type = \"date\"", "format = \"dd/MM/yyyy\""]),
        ("CCYYMMDD", &["type = \"date\"", "format = \"yyyyMMdd\""]),
        ("%d.%m.%Y", &["type = \"date\"", "format = \"dd.MM.yyyy\""]),
        ("Y/N", &["type = \"boolean\"", "format = \"Y/N\""]),
        ("1=Yes; 0=No", &["type = \"boolean\"", "format = \"1/0\""]),
    ] {
        let drafted = drafted(&["Type"], &[cell]);
        assert_eq!(lines(&drafted), expected, "{cell}");
    }
}

#[test]
fn limits_and_demands_stand_in_columns_of_their_own() {
    for (heading, cell, expected) in [
        ("Mandatory", "M", Some("required = true")),
        ("Mandatory", "yes", Some("required = true")),
        ("Required", "x", Some("required = true")),
        ("M/O", "O", None),
        ("Key", "key", Some("key = true")),
        ("Unit", "kg", Some("unit = \"kg\"")),
        ("Label", "Frames in the hive", Some("label = \"Frames in the hive\"")),
    ] {
        let drafted = drafted(&["Type", heading], &["Integer", cell]);
        let found = lines(&drafted);
        match expected {
            Some(line) => assert!(found.iter().any(|found| found == line), "{heading} {cell}: {found:?}"),
            None => assert_eq!(found, ["type = \"integer\""], "{heading} {cell}"),
        }
        assert_eq!(asked(&drafted), Vec::<&str>::new(), "{heading} {cell}");
    }
    for (cell, expected) in [
        ("1-5", &["min = \"1\"", "max = \"5\""][..]),
        (">= 0", &["min = \"0\""]),
        ("between 1 and 40", &["min = \"1\"", "max = \"40\""]),
        ("max 60", &["max = \"60\""]),
    ] {
        let drafted = drafted(&["Type", "Allowed values"], &["Integer", cell]);
        assert_eq!(lines(&drafted)[1..], *expected, "{cell}");
    }
    let drafted_day = drafted(&["Type", "Allowed values"], &["Date", "from 2015-01-01, not in the future"]);
    assert!(lines(&drafted_day).contains(&"not_after = \"today\"".to_owned()), "{:?}", lines(&drafted_day));
    assert!(
        lines(&drafted_day).contains(&"not_before = \"2015-01-01\"".to_owned()),
        "{:?}",
        lines(&drafted_day)
    );
}

#[test]
fn a_limit_that_is_not_allowed_itself_becomes_one_that_is_a_step_further_or_a_rule() {
    let step = drafted(&["Type", "Allowed values"], &["Number with 1 decimal", "> 0"]);
    assert!(
        lines(&step).contains(&"min = \"0.1\"".to_owned()) && step.rules.is_empty(),
        "{:?}",
        lines(&step)
    );
    // With one decimal nothing is a step above 0.25.
    let rule = drafted(&["Type", "Allowed values"], &["Number with 1 decimal", "> 0.25"]);
    assert!(!lines(&rule).iter().any(|line| line.starts_with("min")), "{:?}", lines(&rule));
    assert_eq!(rule.rules[0].must, "it > 0.25");
}

#[test]
fn codes_written_into_a_cell_are_a_list() {
    let drafted = drafted(&["Type", "Allowed values"], &["Code", "1=White; 2=Yellow; 3 = Light blue"]);
    let list = &drafted.lists[0];
    let codes: Vec<(&str, &str)> =
        list.codes.iter().map(|code| (code.code.as_str(), code.label.as_str())).collect();
    assert_eq!(codes, [("1", "White"), ("2", "Yellow"), ("3", "Light blue")]);
    assert!(lines(&drafted).contains(&"type = \"code\"".to_owned()), "{:?}", lines(&drafted));
}

#[test]
fn what_leaves_two_readings_is_asked_and_what_says_nothing_is_not_made_up() {
    // A condition is no yes and no no.
    let conditional = drafted(&["Type", "Mandatory"], &["Integer", "if the hive is marked"]);
    assert_eq!(lines(&conditional), ["type = \"integer\""]);
    assert!(
        conditional.questions.iter().any(|question| question.says.contains("if the hive is marked")),
        "{:?}",
        conditional.questions
    );
    // Day and month of these may be either.
    let dates = drafted(&["Type"], &["Date"]);
    assert_eq!(lines(&dates)[0], "type = \"date\"");
    let nothing = drafted(&["Type"], &["as agreed"]);
    assert!(!asked(&nothing).is_empty());
    // Every line names where it comes from, or is asked about.
    for drafted in [&nothing, &dates, &conditional] {
        for claim in &drafted.fields[0].claims.0 {
            let has_place = claim.from.file == "dictionary.csv" && !claim.from.at.is_empty();
            assert!(has_place || !asked(drafted).is_empty(), "{claim:?}");
        }
    }
}

/// The lines of the draft about a column of CSVW metadata.
fn from_metadata(column: &str) -> Vec<String> {
    let metadata = format!(
        "{{\"@context\": \"http://www.w3.org/ns/csvw\", \"url\": \"t.csv\", \"tableSchema\": {{\"columns\": [{{\"name\": \"it\", {column}}}, {{\"name\": \"other\"}}]}}}}"
    );
    let desk = Desk::new().with("t.json", &metadata);
    lines(&draft(&[desk.path("t.json")], &DraftOptions::default()).unwrap())
}

#[test]
fn the_open_standard_for_tables_is_read_as_it_is_written() {
    for (column, expected) in [
        (r#""datatype": "string""#, &["type = \"text\""][..]),
        (r#""datatype": "integer", "required": true"#, &["type = \"integer\"", "required = true"]),
        (r#""datatype": {"base": "string", "maxLength": 8}"#, &["type = \"text\"", "max_length = 8"]),
        (
            r#""datatype": {"base": "decimal", "format": "0.00"}"#,
            &["type = \"decimal\"", "decimals = 2", "all_decimals = true"],
        ),
        (
            r#""datatype": {"base": "integer", "minimum": 1, "maximum": "40"}"#,
            &["type = \"integer\"", "min = \"1\"", "max = \"40\""],
        ),
        (
            r#""datatype": {"base": "date", "format": "dd.MM.yyyy"}"#,
            &["type = \"date\"", "format = \"dd.MM.yyyy\""],
        ),
        (
            r#""datatype": {"base": "boolean", "format": "ja|nein"}"#,
            &["type = \"boolean\"", "format = \"ja/nein\""],
        ),
        (r#""datatype": "boolean""#, &["type = \"boolean\"", "format = \"true/false\""]),
        (
            r#""titles": {"en": "Frames"}, "datatype": "unsignedByte""#,
            &["type = \"integer\"", "min = \"0\"", "max = \"255\""],
        ),
    ] {
        let mut found = from_metadata(column);
        let mut expected: Vec<String> = expected.iter().map(|line| (*line).to_owned()).collect();
        found.retain(|line| !line.starts_with("heading"));
        found.sort();
        expected.sort();
        assert_eq!(found, expected, "{column}");
    }
}

#[test]
fn a_typed_table_tells_what_its_columns_hold() {
    for (column, expected) in [
        ("it TEXT", &["type = \"text\""][..]),
        ("it VARCHAR(12) NOT NULL", &["type = \"text\"", "max_length = 12", "required = true"]),
        ("it INTEGER", &["type = \"integer\""]),
        ("it DECIMAL(6,2)", &["type = \"decimal\"", "decimals = 2", "max = \"9999.99\""]),
        ("it DATE", &["type = \"date\""]),
        ("it TEXT PRIMARY KEY", &["type = \"text\"", "key = true"]),
        ("it TEXT REFERENCES colour(code)", &["type = \"code\""]),
    ] {
        let desk = Desk::new();
        let database = rusqlite::Connection::open(desk.path("register.db")).unwrap();
        let tables = format!(
            "CREATE TABLE colour (code TEXT PRIMARY KEY, label TEXT); INSERT INTO colour VALUES ('W', 'White'), ('Y', 'Yellow'); CREATE TABLE visits ({column}, other TEXT);"
        );
        database.execute_batch(&tables).unwrap();
        drop(database);
        let options = DraftOptions { table: Some("visits".into()), ..DraftOptions::default() };
        let found = lines(&draft(&[desk.path("register.db")], &options).unwrap());
        for line in expected {
            assert!(found.iter().any(|found| found == line), "{column}: {line} is not among {found:?}");
        }
    }
}

/// A dictionary of text fields: name, label and longest text.
fn dictionary(fields: &[(usize, &str, u32)]) -> Vec<[String; 4]> {
    let row = |(number, label, longest): &(usize, &str, u32)| {
        [format!("field_{number}"), (*label).to_owned(), "Text".to_owned(), longest.to_string()]
    };
    fields.iter().map(row).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// What was edited stays, what was not follows the dictionary, and a third draft of the same changes nothing.
    #[test]
    fn drafting_again_keeps_edits_and_follows_the_rest(
        states in prop::collection::vec(((0..3_usize, 1..4_u32), (0..3_usize, 1..4_u32), prop::option::of(0..3_usize), any::<bool>()), 2..6),
    ) {
        const LABELS: [&str; 3] = ["Hive mark", "Frames in it", "Remarks"];
        const EDITED: [&str; 3] = ["Mark of the hive", "How many frames", "What was seen"];
        let desk = Desk::new();
        let path = desk.path("target.toml");
        let draft_of = |desk: &Desk, pick: &dyn Fn(usize) -> Option<(usize, u32)>| {
            let fields: Vec<(usize, &str, u32)> =
                (0..states.len()).filter_map(|number| pick(number).map(|(label, longest)| (number, LABELS[label], longest * 10))).collect();
            let rows = dictionary(&fields);
            let mut writer = csv::Writer::from_path(desk.path("dictionary.csv")).unwrap();
            writer.write_record(["Field name", "Label", "Type", "Length"]).unwrap();
            rows.iter().for_each(|row| writer.write_record(row).unwrap());
            writer.flush().unwrap();
            draft(&[desk.path("dictionary.csv")], &DraftOptions::default()).unwrap()
        };
        // The first field is there from the start; others may come later.
        let first = draft_of(&desk, &|number| (number == 0 || !states[number].3).then_some(states[number].0));
        prop_assert!(first.save(&path).unwrap().is_new);
        let mut text = desk.read("target.toml");
        for (number, state) in states.iter().enumerate() {
            let Some(edit) = state.2.filter(|_| number == 0 || !state.3) else { continue };
            let begin = text.find(&format!("\"field_{number}\"")).unwrap();
            let (before, after) = text.split_at(begin);
            let label = format!("\"{}\"", LABELS[state.0.0]);
            text = format!("{before}{}", after.replacen(&label, &format!("\"{}\"", EDITED[edit]), 1));
        }
        std::fs::write(&path, &text).unwrap();
        let second = draft_of(&desk, &|number| Some(states[number].1));
        second.save(&path).unwrap();
        let target = Target::read(&path).unwrap();
        for (number, (_, new, edit, late)) in states.iter().enumerate() {
            let field = target.field(&format!("field_{number}")).and_then(|field| target.fields.get(field)).unwrap();
            let edited = edit.filter(|_| number == 0 || !late);
            let expected = edited.map_or(LABELS[new.0], |edit| EDITED[edit]);
            prop_assert_eq!(field.label.as_deref(), Some(expected), "field_{}", number);
            let longest = match &field.kind {
                FieldType::Text(TextType { max_length, .. }) => *max_length,
                _ => None,
            };
            prop_assert_eq!(longest, Some(new.1 as usize * 10));
        }
        let saved = second.save(&path).unwrap();
        prop_assert!(saved.files.is_empty() && saved.changes.is_empty(), "{:?}", saved);
    }
}
