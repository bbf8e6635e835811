//! Answers that a crosswalk gives, for fields of every type: a value means something, nothing, or that its record
//! is kept out. Whoever wrote it with other spaces or in capitals is answered as well.

use crate::desk::Desk;
use dusk_core::run::Totals;

/// A field, what its mapping needs, a value that it does not take, and what the value is to mean.
type Case = (&'static str, &'static str, &'static str, &'static str, &'static str);

const CASES: [Case; 9] = [
    ("type = \"text\"\npattern = \"[A-Z][0-9]\"", "", "a one", "A1", "A1"),
    ("type = \"text\"\ndigits = 4", "", "see note", "0117", "0117"),
    ("type = \"integer\"\nmax = \"40\"", "", "about 20", "20", "20"),
    ("type = \"decimal\"\ndecimals = 1\nunit = \"kg\"", "unit = \"lb\"", "a bucket", "12.5", "12.5"),
    ("type = \"date\"", "order = \"day-month-year\"", "last week", "2026-04-20", "2026-04-20"),
    ("type = \"time\"\nformat = \"HH:mm\"", "", "at noon", "12:00", "12:00"),
    ("type = \"boolean\"\nformat = \"1/0\"", "", "done", "1", "1"),
    ("type = \"code\"\ncodes = \"colours.csv\"", "", "light blue", "B", "B"),
    ("type = \"reference\"\nvalues = \"held.csv\"\ncolumn = \"id\"", "", "Ann's", "A-1", "A-1"),
];

/// A desk on which the value has this answer, with the value in three spellings and once among others.
fn desk((field, map, value, ..): &Case, answer: &str) -> Desk {
    let spaced = format!("  {}\u{a0}", value.replace(' ', "  "));
    Desk::with_field(field, map, &[value, &value.to_uppercase(), &spaced])
        .with("held.csv", "id\nA-1\nA-2\n")
        .with(
            "crosswalks/it.csv",
            format!("value,code,by,on,note\n\"{value}\",{answer},A. Clerk,2026-04-30,asked\n"),
        )
}

#[test]
fn a_value_means_what_was_decided_in_every_type_of_field() {
    for case in &CASES {
        let (field, _, value, answer, expected) = case;
        assert_eq!(desk(case, answer).outcomes(3), [*expected; 3], "{field}: {value}");
        let desk = desk(case, answer);
        desk.conform();
        let changes = desk.records("batch/changes.csv");
        let decided = changes.iter().find(|change| &change[0] == "it").unwrap();
        assert!(
            decided[3].contains("crosswalk") && decided[4].contains("A. Clerk, 30 Apr 2026"),
            "{decided:?}"
        );
    }
}

#[test]
fn leaving_blank_means_blank_whatever_the_mapping_puts_there() {
    for case in &CASES {
        assert_eq!(desk(case, "(leave blank)").outcomes(3), [""; 3], "{}", case.0);
        // What stands for blank cells is no answer to this.
        let (field, map, value, answer, _) = case;
        let with_default = (*field, format!("{map}\nif_blank = \"{answer}\""));
        let cells = Desk::with_field(with_default.0, &with_default.1, &[value, ""])
            .with("held.csv", "id\nA-1\nA-2\n")
            .with("crosswalks/it.csv", format!("value,code\n\"{value}\",(leave blank)\n"))
            .outcomes(2);
        assert_eq!(cells, ["", *answer], "{field}");
    }
}

#[test]
fn keeping_out_leaves_the_row_out_and_says_who_decided_it() {
    for case in &CASES {
        let desk = desk(case, "(keep out)");
        let made = desk.conform();
        let expected = Totals { read: 3, left_out: 3, ..Totals::default() };
        assert_eq!((made.summary.totals, made.summary.kept_out), (expected, 3), "{}", case.0);
        let findings = desk.records("batch/findings.csv");
        assert_eq!(findings.len(), 3);
        for finding in &findings {
            assert_eq!((&finding[3], &finding[4]), ("note", "kept-out"));
            assert!(finding[7].contains("A. Clerk, 30 Apr 2026"), "{finding:?}");
        }
        assert_eq!(desk.records("batch/rejects.csv").len(), 0);
    }
}
