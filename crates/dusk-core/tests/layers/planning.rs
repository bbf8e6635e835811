//! What a mapping or a crosswalk may not put into a field is said before the first row, with the file, the field
//! and what would be right.

use crate::desk::Desk;

/// What stops the run of a field described so, and mapped so; nothing where it runs.
fn stopped(field: &str, map: &str, crosswalk: &str) -> Option<String> {
    let mut desk = Desk::with_field(field, map, &["x"]);
    if !crosswalk.is_empty() {
        desk = desk.with("crosswalks/it.csv", format!("value,code\n{crosswalk}\n"));
    }
    let read = dusk_core::mapping::read(&desk.path("mapping.toml"));
    match read {
        Err(error) => Some(error.to_string()),
        Ok(_) => {
            let given = desk.given();
            given.job().prepare(&|_, _| {}).err().map(|error| error.to_string())
        }
    }
}

const CODE: &str = "type = \"code\"\ncodes = \"colours.csv\"";

#[test]
fn a_value_for_blank_cells_has_to_be_one_that_the_field_holds() {
    for (field, value, says) in [
        ("type = \"integer\"\nmax = \"40\"", "41", Some("above the largest")),
        ("type = \"integer\"", "few", Some("is not a number")),
        ("type = \"integer\"", "7", None),
        ("type = \"text\"\nmax_length = 3", "four", Some("has 4 characters")),
        ("type = \"text\"\npattern = \"[A-Z]\"", "a", Some("does not have the form")),
        ("type = \"date\"", "03/04/2026", Some("is not written as yyyy-MM-dd")),
        ("type = \"date\"", "2026-04-03", None),
        ("type = \"date\"\nnot_after = \"today\"", "2026-05-01", Some("after the last day")),
        ("type = \"boolean\"\nformat = \"1/0\"", "yes", Some("is not a word for true or false")),
        ("type = \"boolean\"\nformat = \"1/0\"", "0", None),
        (CODE, "White", None),
        (CODE, "pink", Some("is not a code")),
        (CODE, "W", None),
        (CODE, "O", Some("retired")),
    ] {
        let order = if field.contains("date") { "order = \"day-month-year\"\n" } else { "" };
        let found = stopped(field, &format!("{order}if_blank = \"{value}\""), "");
        match (says, &found) {
            (Some(says), Some(found)) => {
                assert!(
                    found.contains(says) && found.contains(value) && found.contains("mapping.toml"),
                    "{field}: {found}"
                );
            }
            (None, None) => {}
            _ => panic!("{field} {value}: {found:?}"),
        }
    }
}

#[test]
fn an_answer_has_to_be_one_that_the_field_holds() {
    for (field, line, says) in [
        (CODE, "pink,Q", Some("\"Q\" is not a code of colours")),
        (CODE, "pink,W", None),
        (CODE, "pink,(leave blank)", None),
        (
            "type = \"code\"\ncodes = \"colours.csv\"\nrequired = true",
            "pink,(leave blank)",
            Some("must be filled"),
        ),
        (CODE, "pink,W\nPink ,Y", Some("translates \"Pink\" again")),
        (CODE, ",W", Some("has no value to translate")),
        ("type = \"boolean\"\nformat = \"1/0\"", "done,yes", Some("yes")),
        ("type = \"boolean\"\nformat = \"1/0\"", "done,1", None),
        ("type = \"integer\"", "few,some", Some("is not a number")),
        ("type = \"integer\"", "few,3", None),
    ] {
        let found = stopped(field, "", line);
        match (says, &found) {
            (Some(says), Some(found)) => {
                assert!(found.contains(says) && found.contains("it.csv"), "{line}: {found}")
            }
            (None, None) => {}
            _ => panic!("{field} {line}: {found:?}"),
        }
    }
}

#[test]
fn everything_that_is_wrong_is_said_at_once() {
    let found = stopped("type = \"integer\"", "if_blank = \"none\"\nround = \"nearest\"\nunit = \"kgg\"", "")
        .unwrap();
    for says in ["round cannot be \"nearest\"", "there is no unit \"kgg\""] {
        assert!(found.contains(says), "{says}: {found}");
    }
}
