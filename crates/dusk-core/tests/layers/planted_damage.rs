//! A clean table is damaged in every way that exports are damaged, and what comes of each row is
//! told: restored exactly, reported, or silently wrong. Silently wrong must never be.
//!
//! `cargo test -p dusk-core --test layers planted_damage -- --nocapture` prints the share restored.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Mutex;

use dusk_core::Error;
use dusk_core::run::Job;
use encoding_rs::WINDOWS_1252;
use jiff::civil::date;
use proptest::prelude::*;
use rust_xlsxwriter::{ExcelDateTime, Format, Workbook};

use crate::desk::Desk;

const TARGET: &str = r#"
[target]
name = "T"
[upload]
line_end = "lf"
file_name = "up.csv"
[[field]]
name = "id"
type = "text"
digits = 6
required = true
key = true
[[field]]
name = "day"
type = "date"
[[field]]
name = "code"
type = "code"
codes = "codes.csv"
[[field]]
name = "weight"
type = "decimal"
decimals = 2
[[field]]
name = "serial"
type = "text"
pattern = "[0-9]{17}"
[[field]]
name = "note"
type = "text"
[[field]]
name = "frames"
type = "integer"
"#;

const FIELDS: [&str; 7] = ["id", "day", "code", "weight", "serial", "note", "frames"];
const COLUMNS: [&str; 7] = ["Id", "Day", "Code", "Weight", "Serial", "Note", "Frames"];
const CODES: [(&str, &str); 6] = [
    ("MAR5", "Märzkönigin"),
    ("007", "Öst"),
    ("012", "Château"),
    ("SEP1", "Späte"),
    ("W", "White"),
    ("X9", "Élite"),
];
const NOTES: [&str; 5] = ["Öst Quay, calm", "Château; quiet", "plain note", "déjà vu – “again”", "Élan"];

/// One record as it truly is.
#[derive(Debug, Clone)]
struct Truth {
    id: u32,
    day: jiff::civil::Date,
    code: usize,
    cents: u32,
    serial: u64,
    note: usize,
    frames: u32,
}

impl Truth {
    /// As the upload file has to have it.
    fn upload(&self) -> Vec<String> {
        let weight = self.weight('.');
        let cell = [
            format!("{:06}", self.id),
            self.day.to_string(),
            CODES[self.code].0.into(),
            weight,
            format!("{:017}", self.serial),
            NOTES[self.note].into(),
            self.frames.to_string(),
        ];
        cell.to_vec()
    }

    fn weight(&self, mark: char) -> String {
        format!("{}{mark}{:02}", self.cents / 100, self.cents % 100)
    }

    /// As the export has it before any damage.
    fn export(&self) -> Vec<String> {
        let mut cells = self.upload();
        cells[1] = self.day.strftime("%d/%m/%Y").to_string();
        cells
    }
}

fn truth() -> impl Strategy<Value = Vec<Truth>> {
    let one = (
        0..1000_i64,
        0..CODES.len(),
        1..900_000_u32,
        10_000_000_000_000_001..99_999_999_999_999_999_u64,
        0..NOTES.len(),
        1..40_u32,
    );
    prop::collection::vec(one, 24..60).prop_map(|all| {
        (1..)
            .zip(all)
            .map(|(id, (day, code, cents, serial, note, frames))| Truth {
                id,
                day: date(2024, 1, 1).checked_add(jiff::Span::new().days(day)).unwrap(),
                code,
                cents,
                // A serial number that ends in zeros would look damaged without any damage.
                serial: serial - serial % 10 + 7,
                note,
                frames,
            })
            .collect()
    })
}

macro_rules! damages {
    ($($name:ident),* $(,)?) => {
        #[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
        enum Damage { $($name),* }
        const DAMAGES: &[Damage] = &[$(Damage::$name),*];
    };
}

damages![
    None,
    LostZeros,
    StrayDecimals,
    Apostrophes,
    PowersOfTen,
    RoundedDigits,
    MonthFirst,
    MonthFirstBlock,
    HalfIso,
    HalfTyped,
    HalfTypedRepaired,
    HalfBareSwapped,
    HalfBareKept,
    HalfTime,
    TwoDigitYears,
    DayCounts,
    WrongDecoding,
    LostLetters,
    QuestionMarks,
    OddSpaces,
    HiddenMarks,
    Decomposed,
    LookAlikes,
    UnquotedDelimiters,
    UnclosedQuotes,
    DecimalCommas,
    Grouped,
    CodesToDates,
    CodesWithoutZeros,
    RepeatedHeaders,
    Totals,
    Windows1252,
    TwoEncodings,
    Semicolons,
    TornRows,
    EscapedQuotes,
    Controls,
];

impl Damage {
    /// Whether the files alone leave one reading of what was damaged, or none.
    fn leaves_one_reading(self) -> bool {
        match self {
            // Digits, letters or cells are gone.
            Self::PowersOfTen
            | Self::RoundedDigits
            | Self::LostLetters
            | Self::QuestionMarks
            | Self::TornRows
            | Self::UnclosedQuotes
            | Self::Controls => false,
            // Days that are as good as others: nothing says from which row on, from which year, or by what program.
            Self::MonthFirstBlock
            | Self::HalfIso
            | Self::HalfTyped
            | Self::HalfBareSwapped
            | Self::HalfBareKept
            | Self::HalfTime
            | Self::TwoDigitYears
            | Self::DayCounts => false,
            // Several encodings make words of the bytes, and another alphabet may be meant.
            Self::Windows1252 | Self::TwoEncodings | Self::LookAlikes => false,
            _ => true,
        }
    }
}

/// A row of the damaged export: the record that it was, and its cells.
type Row = (Option<usize>, Vec<String>);

/// The export as text or as a workbook, and the lines of the mapping that go with it.
struct Damaged {
    rows: Vec<Row>,
    delimiter: char,
    /// Cells that stand unquoted although they would need quotes, by row and column.
    unquoted: BTreeSet<(usize, usize)>,
    open: BTreeSet<usize>,
    escaped: bool,
    one_byte: BTreeSet<usize>,
    workbook: bool,
    typed_days: BTreeMap<usize, jiff::civil::Date>,
    repair: bool,
}

fn damaged(truth: &[Truth], damage: Damage, hit: &[bool]) -> Damaged {
    let mut rows: Vec<Row> =
        truth.iter().enumerate().map(|(place, one)| (Some(place), one.export())).collect();
    let mut made = Damaged {
        rows: Vec::new(),
        delimiter: ',',
        unquoted: BTreeSet::new(),
        open: BTreeSet::new(),
        escaped: false,
        one_byte: BTreeSet::new(),
        workbook: false,
        typed_days: BTreeMap::new(),
        repair: false,
    };
    let half = rows.len() / 2;
    for (place, one) in truth.iter().enumerate() {
        let cells = &mut rows[place].1;
        let is_hit = hit[place % hit.len()];
        let fits = one.day.day() <= 12;
        let swapped = || jiff::civil::Date::new(one.day.year(), one.day.day(), one.day.month()).unwrap();
        match damage {
            Damage::HalfIso if fits => cells[1] = swapped().to_string(),
            Damage::HalfTime if fits => cells[1] = format!("{} 00:00", swapped().strftime("%d/%m/%Y")),
            Damage::HalfBareSwapped if fits => cells[1] = swapped().strftime("%-d/%-m/%Y").to_string(),
            Damage::HalfBareKept if fits => cells[1] = one.day.strftime("%-d.%-m.%Y").to_string(),
            Damage::HalfTyped | Damage::HalfTypedRepaired if fits => {
                made.typed_days.insert(place, swapped());
            }
            Damage::MonthFirst => cells[1] = one.day.strftime("%m/%d/%Y").to_string(),
            Damage::MonthFirstBlock if place >= half => cells[1] = one.day.strftime("%m/%d/%Y").to_string(),
            Damage::TwoDigitYears => cells[1] = one.day.strftime("%d/%m/%y").to_string(),
            Damage::DecimalCommas => cells[3] = one.weight(','),
            Damage::Grouped => {
                let whole = (one.cents / 100).to_string();
                let grouped = if whole.len() > 3 {
                    {
                        let (thousands, rest) = whole.split_at(whole.len() - 3);
                        format!("{thousands}.{rest}")
                    }
                } else {
                    whole
                };
                // Whole numbers have no decimals, so that some stand in the balance.
                cells[3] =
                    if one.cents % 100 == 0 { grouped } else { format!("{grouped},{:02}", one.cents % 100) };
            }
            Damage::Windows1252 => {
                made.one_byte.insert(place);
            }
            _ if !is_hit => {}
            Damage::LostZeros => cells[0] = one.id.to_string(),
            Damage::StrayDecimals => {
                (cells[0], cells[6]) = (format!("{}.0", one.id), format!("{}.0", one.frames))
            }
            Damage::Apostrophes => {
                (cells[0], cells[6]) = (format!("'{}", cells[0]), format!("'{}", one.frames))
            }
            Damage::PowersOfTen => {
                cells[4] = {
                    let (first, rest) = cells[4].split_at(1);
                    format!("{first}.{}E+16", rest.split_at(2).0)
                }
            }
            Damage::RoundedDigits => cells[4] = format!("{}00", cells[4].split_at(15).0),
            Damage::DayCounts => {
                let days = one.day.since(date(1899, 12, 30)).unwrap().get_days();
                cells[1] = days.to_string();
            }
            Damage::WrongDecoding => {
                cells[5] =
                    WINDOWS_1252.decode_without_bom_handling(cells[5].clone().as_bytes()).0.into_owned()
            }
            Damage::LostLetters => cells[5] = cells[5].replace(|c: char| !c.is_ascii(), "\u{fffd}"),
            Damage::QuestionMarks => cells[5] = cells[5].replace(['â', 'é', 'à'], "?"),
            Damage::OddSpaces => cells[5] = format!(" {}\u{a0}", cells[5].replace(' ', "\u{202f}")),
            Damage::HiddenMarks => {
                (cells[5], cells[2]) =
                    (format!("\u{feff}{}\u{200b}", cells[5]), format!("{}\u{200e}", cells[2]))
            }
            Damage::Decomposed => {
                cells[5] = cells[5]
                    .replace('é', "e\u{301}")
                    .replace('â', "a\u{302}")
                    .replace('Ö', "O\u{308}")
                    .replace('à', "a\u{300}")
                    .replace('É', "E\u{301}");
            }
            Damage::LookAlikes => cells[5] = cells[5].replacen('a', "\u{430}", 1),
            Damage::UnquotedDelimiters => {
                made.unquoted.insert((place, 5));
            }
            Damage::UnclosedQuotes => {
                made.open.insert(place);
            }
            Damage::CodesToDates => {
                cells[2] = match CODES[one.code].0 {
                    "MAR5" => "5-Mar".into(),
                    "SEP1" => "01-Sep".into(),
                    other => other.into(),
                }
            }
            Damage::CodesWithoutZeros => cells[2] = CODES[one.code].0.trim_start_matches('0').into(),
            Damage::TwoEncodings => {
                made.one_byte.insert(place);
            }
            Damage::TornRows => cells.truncate(4),
            Damage::EscapedQuotes => {
                made.escaped = true;
                cells[5] = format!("{} \"so\"", cells[5]);
            }
            Damage::Controls => cells[5] = format!("{}\u{1}", cells[5]),
            _ => {}
        }
    }
    let header: Vec<String> = COLUMNS.map(str::to_owned).to_vec();
    match damage {
        Damage::RepeatedHeaders => rows.insert(half, (None, header.clone())),
        Damage::Totals => {
            rows.push((None, vec!["Total".into(), String::new(), String::new(), "17.5".into()]))
        }
        Damage::Semicolons => made.delimiter = ';',
        Damage::HalfTyped | Damage::HalfTypedRepaired => {
            (made.workbook, made.repair) = (true, damage == Damage::HalfTypedRepaired)
        }
        _ => {}
    }
    rows.insert(0, (None, header));
    made.rows = rows;
    made
}

impl Damaged {
    fn bytes(&self) -> Vec<u8> {
        if self.workbook {
            let mut book = Workbook::new();
            let sheet = book.add_worksheet();
            let days = Format::new().set_num_format("dd/mm/yyyy");
            for (row, (truth, cells)) in (0..).zip(&self.rows) {
                for (column, cell) in (0..).zip(cells) {
                    match truth.and_then(|truth| self.typed_days.get(&truth)).filter(|_| column == 1) {
                        Some(day) => {
                            let day = ExcelDateTime::from_ymd(
                                day.year() as u16,
                                day.month() as u8,
                                day.day() as u8,
                            )
                            .unwrap();
                            sheet.write_datetime_with_format(row, column, &day, &days).unwrap();
                        }
                        None => {
                            sheet.write(row, column, cell).unwrap();
                        }
                    }
                }
            }
            return book.save_to_buffer().unwrap();
        }
        let mut bytes = Vec::new();
        for (truth, cells) in &self.rows {
            let mut line = String::new();
            for (column, cell) in cells.iter().enumerate() {
                if column > 0 {
                    line.push(self.delimiter);
                }
                let place = truth.unwrap_or(usize::MAX);
                if column == 5 && self.open.contains(&place) {
                    line.push_str(&format!("\"{cell}"));
                } else if cell.contains([self.delimiter, '"']) && !self.unquoted.contains(&(place, column)) {
                    let quote = if self.escaped { "\\\"" } else { "\"\"" };
                    line.push_str(&format!("\"{}\"", cell.replace('"', quote)));
                } else {
                    line.push_str(cell);
                }
            }
            line.push('\n');
            match truth.is_some_and(|truth| self.one_byte.contains(&truth)) {
                true => bytes.extend_from_slice(&WINDOWS_1252.encode(&line).0),
                false => bytes.extend_from_slice(line.as_bytes()),
            }
        }
        bytes
    }

    fn mapping(&self) -> String {
        let mut text = String::from("target = \"target.toml\"\n");
        for (field, column) in FIELDS.iter().zip(COLUMNS) {
            text.push_str(&format!("[[map]]\nfield = \"{field}\"\nfrom = \"{column}\"\n"));
            if *field == "day" && self.repair {
                text.push_str("order = \"day-month-year\"\norder_where = [{ shape = \"typed\", order = \"year-day-month\" }]\n");
            }
        }
        text
    }
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Came {
    Restored,
    Reported,
    SilentlyWrong,
}

/// What came of each record.
fn classify(truth: &[Truth], damage: Damage, made: &Damaged) -> Vec<(Came, String)> {
    let codes: String = CODES.iter().map(|(code, label)| format!("{code},{label}\n")).collect();
    let name = if made.workbook { "export.xlsx" } else { "export.csv" };
    let desk = Desk::new()
        .with("codes.csv", format!("code,label\n{codes}"))
        .with("target.toml", TARGET)
        .with("mapping.toml", made.mapping())
        .with(name, made.bytes());
    let ran = desk
        .read_export(name)
        .and_then(|given| desk.batch_of(&Job { today: date(2026, 11, 1), ..given.job() }));
    match ran {
        Ok(_) => {}
        // A question asked before anything is written is a report of every row.
        Err(Error::Undecided(_) | Error::Source { .. }) => {
            return vec![(Came::Reported, "asked".into()); truth.len()];
        }
        Err(error) => panic!("{damage:?}: {error}"),
    }
    let table = |name: &str| -> Vec<Vec<String>> {
        desk.records(name).iter().map(|row| row.iter().map(str::to_owned).collect()).collect()
    };
    let uploaded: BTreeMap<String, Vec<String>> =
        table("batch/upload/up.csv").into_iter().map(|row| (row[0].clone(), row)).collect();
    let said: BTreeSet<(usize, String)> = table("batch/findings.csv")
        .iter()
        .filter_map(|finding| Some((finding[1].parse().ok()?, finding[5].clone())))
        .collect();
    let rejected: BTreeSet<usize> =
        table("batch/rejects.csv").iter().filter_map(|row| row[2].parse().ok()).collect();
    let row_of: BTreeMap<usize, usize> =
        (1..).zip(&made.rows).filter_map(|(row, (truth, _))| Some(((*truth)?, row))).collect();
    let known: BTreeSet<String> = truth.iter().map(|one| one.upload()[0].clone()).collect();
    let strangers = uploaded.keys().any(|id| !known.contains(id));
    (truth.iter().enumerate())
        .map(|(place, one)| {
            let (row, wanted) = (row_of[&place], one.upload());
            // 7.50 and 7.5 are the same number.
            let plain = |mut row: Vec<String>| {
                if row[3].contains('.') {
                    row[3] = row[3].trim_end_matches('0').trim_end_matches('.').to_owned();
                }
                row
            };
            let got = uploaded.get(&wanted[0]).cloned().map(plain);
            let mut expected = plain(wanted);
            if damage == Damage::EscapedQuotes && made.rows[row - 1].1[5].contains('"') {
                expected[5] = made.rows[row - 1].1[5].clone();
            }
            let came = match got {
                _ if strangers => Came::SilentlyWrong,
                Some(ref got) if *got == expected => Came::Restored,
                // What goes in although it is wrong needs a finding about that very cell.
                Some(ref got) if wrong_cells(got, &expected).all(|field| said.contains(&(row, field))) => {
                    Came::Reported
                }
                None if rejected.contains(&row) => Came::Reported,
                _ => Came::SilentlyWrong,
            };
            (came, format!("row {row}: {got:?} for {expected:?}"))
        })
        .collect()
}

/// The fields that are not what they have to be.
fn wrong_cells<'r>(got: &'r [String], expected: &'r [String]) -> impl Iterator<Item = String> + 'r {
    let cells = FIELDS.iter().zip(got.iter().zip(expected));
    cells.filter(|(_, (got, expected))| got != expected).map(|(field, _)| (*field).to_owned())
}

static TOLD: Mutex<BTreeMap<Damage, [u64; 3]>> = Mutex::new(BTreeMap::new());

fn cases() -> u32 {
    std::env::var("PROPTEST_CASES").ok().and_then(|cases| cases.parse().ok()).unwrap_or(8)
}

#[test]
fn no_damage_is_silently_wrong() {
    let mut runner = proptest::test_runner::TestRunner::new(ProptestConfig {
        cases: cases(),
        failure_persistence: None,
        ..ProptestConfig::default()
    });
    let hits = prop::collection::vec(any::<bool>(), 7..13);
    runner
        .run(&(truth(), hits), |(truth, hit)| {
            for damage in DAMAGES {
                let made = damaged(&truth, *damage, &hit);
                for (came, what) in classify(&truth, *damage, &made) {
                    prop_assert!(came != Came::SilentlyWrong, "{damage:?}: {what}");
                    TOLD.lock().unwrap().entry(*damage).or_default()[came as usize] += 1;
                }
            }
            Ok(())
        })
        .unwrap();
    let told = TOLD.lock().unwrap();
    let sum = |which: usize| told.values().map(|counts| counts[which]).sum::<u64>();
    for (damage, [restored, reported, wrong]) in told.iter() {
        println!("{damage:?}: {restored} restored, {reported} reported, {wrong} silently wrong");
    }
    let (restored, reported) = (sum(0), sum(1));
    println!(
        "restored exactly: {:.1} % of {} rows, all others reported",
        restored as f64 * 100.0 / (restored + reported) as f64,
        restored + reported
    );
    let provable = told.iter().filter(|(damage, _)| damage.leaves_one_reading());
    let (restored, reported) = provable.fold((0, 0), |sum, (_, told)| (sum.0 + told[0], sum.1 + told[1]));
    println!(
        "where the files leave one reading: {:.1} % of {} rows",
        restored as f64 * 100.0 / (restored + reported) as f64,
        restored + reported
    );
    assert!(restored * 20 >= (restored + reported) * 19, "{restored} restored, {reported} reported");
    // A reader that reports everything would pass as well; what can be restored has to be.
    for sure in [
        Damage::None,
        Damage::LostZeros,
        Damage::StrayDecimals,
        Damage::Apostrophes,
        Damage::OddSpaces,
        Damage::HiddenMarks,
        Damage::Decomposed,
        Damage::CodesToDates,
        Damage::CodesWithoutZeros,
        Damage::RepeatedHeaders,
        Damage::Semicolons,
        Damage::HalfTypedRepaired,
        Damage::EscapedQuotes,
    ] {
        let [restored, reported, _] = told[&sure];
        assert!(reported == 0 && restored > 0, "{sure:?}: {restored} restored, {reported} reported");
    }
}
