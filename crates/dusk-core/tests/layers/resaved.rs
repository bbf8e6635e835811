//! Rejected rows that a spreadsheet program opened and saved again, in its own way of writing: nobody changed
//! anything, so nothing is recorded; and what somebody did change comes back as the source would write it.

use crate::desk::Desk;
use dusk_core::decisions::CorrectionFile;
use dusk_core::files::unguarded;
use dusk_core::rejects::{Compared, Comparison, compare, read_back};
use jiff::civil::{Date, Time, date, time};
use proptest::prelude::*;

const TARGET: &str = "[target]\nname = \"T\"\n[upload]\nfile_name = \"up.csv\"\n[[field]]\nname = \"count\"\ntype = \"integer\"\n";
const MAPPING: &str = "target = \"target.toml\"\n[[map]]\nfield = \"count\"\nfrom = \"Count\"\n";
const HEADINGS: &str = "No,Day,Hour,Since,Mass,Note,Count";

/// How many columns stand before those of the export.
const FIXED: usize = 5;

/// How a program reads cells that look like something, and how it writes them.
#[derive(Debug, Clone, Copy)]
struct Program {
    /// The order in which it reads days.
    reads: &'static str,
    writes_days: &'static str,
    writes_hours: &'static str,
    decimal: char,
}

const PROGRAMS: [Program; 4] = [
    Program { reads: "%m/%d/%Y", writes_days: "%-m/%-d/%Y", writes_hours: "%-I:%M:%S %p", decimal: '.' },
    Program { reads: "%d/%m/%Y", writes_days: "%d.%m.%Y", writes_hours: "%H:%M:%S", decimal: '.' },
    Program { reads: "%d/%m/%Y", writes_days: "%Y-%m-%d", writes_hours: "%-H:%M", decimal: ',' },
    Program { reads: "%m/%d/%Y", writes_days: "%m/%d/%y", writes_hours: "%H:%M", decimal: ',' },
];

impl Program {
    /// What it makes of a cell when it opens and saves it.
    fn saved(self, cell: &str) -> String {
        if let Ok(day) = Date::strptime(self.reads, cell) {
            return day.strftime(self.writes_days).to_string();
        }
        if let Ok(hour) = Time::strptime("%H:%M", cell) {
            return hour.strftime(self.writes_hours).to_string();
        }
        if let Some((day, hour)) = cell.split_once(' ')
            && let (Ok(day), Ok(hour)) = (Date::strptime(self.reads, day), Time::strptime("%H:%M", hour))
        {
            return format!("{} {}", day.strftime(self.writes_days), hour.strftime("%-H:%M"));
        }
        // A note that reads "nan" is no number to a spreadsheet program.
        match cell.parse::<f64>().ok().filter(|_| cell.starts_with(|c: char| c.is_ascii_digit())) {
            Some(number) => number.to_string().replace('.', &self.decimal.to_string()),
            None => cell.to_owned(),
        }
    }
}

/// A record: its number, day, hour and mass, as the export writes them.
fn record() -> impl Strategy<Value = [String; 7]> {
    let days =
        (0..700_i64).prop_map(|days| date(2025, 1, 1).checked_add(jiff::Span::new().days(days)).unwrap());
    let hours = (0..24_i8, 0..60_i8).prop_map(|(hour, minute)| time(hour, minute, 0, 0));
    (1..900_u32, days.clone(), hours.clone(), days, hours, 1..90_000_u32, "[a-z]{3,8}").prop_map(
        |(number, day, hour, since, at, mass, note)| {
            let day_of = |day: Date| day.strftime("%d/%m/%Y").to_string();
            [
                format!("{number:05}"),
                day_of(day),
                hour.strftime("%H:%M").to_string(),
                format!("{} {}", day_of(since), at.strftime("%H:%M")),
                format!("{}.{:02}", mass / 100, mass % 100),
                note,
                "many".to_owned(),
            ]
        },
    )
}

/// Brings the rejected rows back as the program saves them, `edit` having changed them before.
fn brought_back(
    records: &[[String; 7]],
    program: Program,
    edit: impl Fn(usize, &mut Vec<String>),
) -> Comparison {
    let export: String = records.iter().map(|cells| cells.join(",") + "\n").collect();
    let desk = Desk::new()
        .with("target.toml", TARGET)
        .with("mapping.toml", MAPPING)
        .with("export.csv", format!("{HEADINGS}\n{export}"));
    desk.conform();
    let rejects = std::fs::read_to_string(desk.path("batch/rejects.csv")).unwrap();
    let mut reader = csv::ReaderBuilder::new().has_headers(false).from_reader(rejects.as_bytes());
    let mut writer = csv::Writer::from_path(desk.path("back.csv")).unwrap();
    for (number, row) in reader.records().map(Result::unwrap).enumerate() {
        let mut cells: Vec<String> = row.iter().map(|cell| unguarded(cell).into_owned()).collect();
        if number > 0 {
            // What tells which row is which is text, and the program leaves it alone.
            let mut own: Vec<String> = cells.drain(FIXED..FIXED + 7).collect();
            edit(number - 1, &mut own);
            let saved: Vec<String> = own.iter().map(|cell| program.saved(cell)).collect();
            cells.splice(FIXED..FIXED, saved);
        }
        writer.write_record(&cells).unwrap();
    }
    writer.flush().unwrap();
    let given = desk.given();
    let source = &given.sources[0];
    let compared = Compared {
        name: source.name.clone(),
        source,
        prints: given.mapping.row_hashes(source, &given.target),
        corrections: CorrectionFile::default(),
    };
    compare(&read_back(&desk.path("back.csv")).unwrap(), &[compared]).unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 12, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn what_nobody_touched_records_nothing(records in prop::collection::vec(record(), 12..30)) {
        for program in PROGRAMS {
            let done = brought_back(&records, program, |_, _| {});
            prop_assert!(done.problems.is_empty(), "{program:?}: {}", done.problems);
            prop_assert_eq!(&done.changes, &[], "{:?}", program);
        }
    }

    #[test]
    fn what_somebody_typed_is_taken_and_nothing_beyond_it(records in prop::collection::vec(record(), 12..30)) {
        for program in PROGRAMS {
            let done = brought_back(&records, program, |row, cells| {
                match row {
                    2 => cells[6] = "12".to_owned(),
                    5 => cells[5] = "mended".to_owned(),
                    _ => {}
                }
            });
            prop_assert!(done.problems.is_empty(), "{program:?}: {}", done.problems);
            let taken: Vec<(&str, &str)> =
                done.changes.iter().map(|change| (change.column.as_str(), change.now.as_str())).collect();
            prop_assert_eq!(taken, [("Count", "12"), ("Note", "mended")], "{:?}", program);
        }
    }
}

#[test]
fn a_day_that_somebody_typed_comes_back_as_the_source_writes_days() {
    let record = |number: usize, day: &str| {
        [
            format!("{number:05}"),
            day.into(),
            "08:30".into(),
            format!("{day} 08:30"),
            "1.5".into(),
            "a".into(),
            "many".into(),
        ]
    };
    let days = ["25/03/2026", "13/04/2026", "28/04/2026", "30/04/2026", "14/05/2026"];
    let records: Vec<[String; 7]> = days.iter().zip(1..).map(|(day, number)| record(number, day)).collect();
    let typed = |row: usize, cells: &mut Vec<String>| {
        if row == 1 {
            cells[1] = "03/04/2026".to_owned();
        }
    };
    let done = brought_back(&records, PROGRAMS[1], typed);
    assert!(done.problems.is_empty(), "{}", done.problems);
    assert_eq!(done.changes.iter().map(|change| change.now.as_str()).collect::<Vec<_>>(), ["03/04/2026"]);
    // A program that reads the month first takes 3 April for 4 March, and leaves the others as they are.
    let done = brought_back(&records, PROGRAMS[0], typed);
    assert!(done.problems.is_empty(), "{}", done.problems);
    assert_eq!(done.changes.iter().map(|change| change.now.as_str()).collect::<Vec<_>>(), ["3/4/2026"]);
}

#[test]
fn a_column_that_was_sorted_by_itself_is_refused() {
    let record = |number: usize| {
        let cells =
            [format!("{number:05}"), "25/03/2026".into(), "08:30".into(), String::new(), "1.5".into()];
        let note = ["pear", "apple", "quince", "medlar", "sloe", "plum"][number].to_owned();
        let [no, day, hour, since, mass] = cells;
        [no, day, hour, since, mass, note, "many".into()]
    };
    let records: Vec<[String; 7]> = (0..6).map(record).collect();
    let mut notes: Vec<String> = records.iter().map(|cells| cells[5].clone()).collect();
    notes.sort();
    let done = brought_back(&records, PROGRAMS[1], |row, cells| {
        cells[5] = notes[row].clone();
    });
    assert!(
        done.problems
            .to_string()
            .contains("\"Note\" holds what it held, in other rows: it was sorted by itself")
    );
}
