//! Corrections: what comes back from rejected rows has the effect of editing the source by hand, and what is
//! not certain is refused.

use std::path::PathBuf;

use dusk_core::decisions::{
    Correction, CorrectionFile, DOUBLE, KEEP_OUT, WHOLE_ROW, corrections_path, exported_row, is_double,
};
use dusk_core::evidence::{Problems, Row};
use dusk_core::files::Held;
use dusk_core::files::{guarded, unguarded};
use dusk_core::mapping;
use dusk_core::rejects::{ChangedCell, Compared, Comparison, compare, read_back};
use dusk_core::run::{CorrectionCounts, apply_corrections};
use dusk_core::sources::{Source, Threads};
use proptest::prelude::*;
use rust_xlsxwriter::Workbook;

use crate::desk::Desk;

type Table = Vec<Vec<String>>;

const TARGET: &str = r#"
[target]
name = "T"
[upload]
line_end = "lf"
file_name = "up.csv"
[[field]]
name = "hive"
type = "text"
required = true
[[field]]
name = "frames"
type = "integer"
max = "40"
[[field]]
name = "note"
type = "text"
"#;

const MAPPING: &str = r#"
target = "target.toml"
[leave_out]
columns = ["Other"]
[[map]]
field = "hive"
from = "Hive"
[[map]]
field = "frames"
from = "Frames"
[[map]]
field = "note"
from = "Note"
trim = false
spaces = "keep"
hidden = "keep"
letters = "keep"
"#;

const HEADER: [&str; 4] = ["Hive", "Frames", "Note", "Other"];

/// A desk at which rows are brought back.
struct Correcting(Desk);

impl Correcting {
    fn new() -> Self {
        Self(Desk::new().with("target.toml", TARGET).with("mapping.toml", MAPPING))
    }

    fn path(&self, name: &str) -> PathBuf {
        self.0.path(name)
    }

    fn export(&self, rows: &Table) {
        let mut writer = csv::WriterBuilder::new()
            .quote_style(csv::QuoteStyle::Always)
            .from_path(self.path("export.csv"))
            .unwrap();
        writer.write_record(HEADER).unwrap();
        rows.iter().for_each(|row| writer.write_record(row).unwrap());
        writer.flush().unwrap();
    }

    /// Conforms the export with what was corrected: the upload file, and what became of corrections.
    fn conform(&self) -> (String, CorrectionCounts) {
        let mut given = self.0.given();
        let sources = given.sources.as_mut_slice();
        let found = apply_corrections(&given.mapping, &given.target, sources, Threads::default(), &|_, _| {})
            .unwrap();
        self.0.batch_of(&given.job()).unwrap();
        (self.0.read("batch/upload/up.csv"), CorrectionCounts::of(&found))
    }

    /// The rejected rows as the batch handed them out, with their headings.
    fn rejects(&self) -> Table {
        let mut reader =
            csv::ReaderBuilder::new().has_headers(false).from_path(self.path("batch/rejects.csv")).unwrap();
        let plain = |cell: &str| unguarded(cell).into_owned();
        reader.records().map(|row| row.unwrap().iter().map(plain).collect()).collect()
    }

    /// Brings rows back, as a workbook or as delimited text.
    fn bring_back(&self, rows: &Table, as_workbook: bool) -> Comparison {
        let path = self.path(if as_workbook { "back.xlsx" } else { "back.csv" });
        if as_workbook {
            let mut book = Workbook::new();
            let sheet = book.add_worksheet().set_name("Rejects").unwrap();
            for (row, cells) in (0..).zip(rows) {
                for (column, cell) in (0..).zip(cells) {
                    match cell.strip_prefix("number:") {
                        Some(number) => sheet.write_number(row, column, number.parse::<f64>().unwrap()),
                        None => sheet.write_string(row, column, cell),
                    }
                    .unwrap();
                }
            }
            book.save(&path).unwrap();
        } else {
            let mut writer = csv::WriterBuilder::new().flexible(true).from_path(&path).unwrap();
            for row in rows {
                let cell = |cell: &String| guarded(cell.strip_prefix("number:").unwrap_or(cell)).into_owned();
                writer.write_record(row.iter().map(cell)).unwrap();
            }
            writer.flush().unwrap();
        }
        let (mapping, target) = mapping::read(&self.path("mapping.toml")).unwrap();
        let source =
            Source::open(&self.path("export.csv"), &mapping.source, &mapping.known(&target)).unwrap();
        let compared = Compared {
            name: source.name.clone(),
            source: &source,
            prints: mapping.row_hashes(&source, &target),
            corrections: self.corrections(),
        };
        compare(&read_back(&path).unwrap(), &[compared]).unwrap()
    }

    fn corrections(&self) -> CorrectionFile {
        let path = corrections_path(&self.path("mapping.toml"), "export.csv");
        CorrectionFile::read(&path, &mut Problems::default()).unwrap()
    }

    /// The lines that come of these rows, and how many corrections were applied, no longer needed, and stale.
    fn upload(&self, rows: &Table) -> (Vec<String>, (usize, usize, usize)) {
        self.export(rows);
        let (upload, counts) = self.conform();
        let lines = upload.lines().skip(1).map(str::to_owned).collect();
        (lines, (counts.applied, counts.no_longer_needed, counts.stale))
    }

    /// The line that keeps a double row of the export out.
    fn kept_out(&self, row: u64) -> Correction {
        let (mapping, target) = mapping::read(&self.path("mapping.toml")).unwrap();
        let source =
            Source::open(&self.path("export.csv"), &mapping.source, &mapping.known(&target)).unwrap();
        let prints = mapping.row_hashes(&source, &target);
        let print = exported_row(&source, &prints, row).unwrap().unwrap().print;
        assert!(is_double(&source, &prints, print).unwrap());
        let [column, was, now] = [WHOLE_ROW, DOUBLE, KEEP_OUT].map(str::to_owned);
        let (by, on, note) = (String::new(), String::new(), String::new());
        Correction { row: Row(row), column, was, now, by, on, note, print: Some(print) }
    }

    fn record(&self, changes: &[ChangedCell]) {
        let mut file = self.corrections();
        for change in changes {
            file.set(change.correction("A. Clerk", "2026-04-30", ""));
        }
        file.write(&Held::file(&file.path).unwrap()).unwrap();
    }
}

/// Where the source's columns begin in rejected rows, and where the row number stands.
const FIRST: usize = 5;
const ROW: usize = 2;

fn rows() -> impl Strategy<Value = Table> {
    let frames = prop_oneof![3 => "[1-9]", 3 => Just("n/a".to_owned()), 1 => "[1-9]{3}"];
    let row = ("[AB]", frames, "[ab=\"\n,;' ]{0,3}", "[xy]");
    prop::collection::vec(row.prop_map(|(a, b, c, d)| vec![a, b, c, d]), 1..12)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, ..ProptestConfig::default() })]

    /// Whatever is edited in rejected rows, bringing it back gives the table that editing the source by hand
    /// gives, in whichever order the rows come back, and once more when some of it is edited again.
    #[test]
    fn what_is_brought_back_is_what_editing_by_hand_gives(
        rows in rows(),
        edits in prop::collection::vec((any::<prop::sample::Index>(), 0..4_usize, "[1-9]|[a=, \n]{0,3}"), 0..6),
        again in prop::collection::vec((any::<prop::sample::Index>(), 0..4_usize, "[1-9]|[a']{0,2}"), 0..3),
        as_workbook in any::<bool>(),
        reversed in any::<bool>(),
    ) {
        let desk = Correcting::new();
        desk.export(&rows);
        desk.conform();
        let mut by_hand = rows.clone();
        for edits in [edits, again] {
            let mut back = desk.rejects();
            let count = back.len() - 1;
            for (row, column, text) in edits.iter().filter(|_| count > 0) {
                let row = 1 + row.index(count);
                // A text that begins like a number may have been made of one, and is not taken for an edit.
                back[row][FIRST + column] = text.clone();
                let number: usize = back[row][ROW].parse().unwrap();
                by_hand[number - 2][*column] = text.clone();
            }
            if reversed {
                back[1..].reverse();
            }
            let came_back = desk.bring_back(&back, as_workbook);
            prop_assert!(came_back.problems.is_empty(), "{}", came_back.problems);
            desk.record(&came_back.changes);
            let (corrected, counts) = desk.conform();
            prop_assert_eq!(counts.stale, 0);
            let other = Correcting::new();
            other.export(&by_hand);
            prop_assert_eq!(corrected, other.conform().0);
            // Bringing the same file back once more changes nothing.
            prop_assert_eq!(desk.bring_back(&back, as_workbook).changes, []);
        }
    }

    /// Rows that are dropped, doubled or re-typed change nothing by themselves; what would is refused.
    #[test]
    fn mangled_rows_are_harmless_or_refused(
        rows in rows(),
        mangling in prop::collection::vec((any::<prop::sample::Index>(), 0..7_u8), 1..4),
        as_workbook in any::<bool>(),
    ) {
        let desk = Correcting::new();
        desk.export(&rows);
        desk.conform();
        let mut back = desk.rejects();
        let mut refused = false;
        for (row, how) in &mangling {
            let count = back.len() - 1;
            if count == 0 {
                break;
            }
            let row = 1 + row.index(count);
            match how {
                0 => drop(back.remove(row)),
                1 => back.push(back[row].clone()),
                2 => for cell in &mut back[row][FIRST..] {
                    if cell.parse::<u32>().is_ok() {
                        *cell = format!("number:{cell}");
                    }
                },
                3 => {
                    let mut copy = back[row].clone();
                    copy[FIRST] = "Z".into();
                    back.push(copy);
                    refused = true;
                }
                4 => (back[row][FIRST - 1], refused) = ("0".into(), true),
                5 => (back[row][1], refused) = ("other.csv".into(), true),
                _ => (back[row][ROW], refused) = ("one".into(), true),
            }
        }
        let came_back = desk.bring_back(&back, as_workbook);
        if refused && came_back.problems.is_empty() {
            // The mangled row was dropped afterwards, or its copy is all that is left of it.
            let changed: Vec<&str> = came_back.changes.iter().map(|change| change.now.as_str()).collect();
            prop_assert!(changed.is_empty() || changed == ["Z"], "{changed:?}");
        } else if !refused {
            prop_assert!(came_back.problems.is_empty(), "{}", came_back.problems);
            prop_assert_eq!(came_back.changes, []);
        }
    }
}

#[test]
fn a_correction_holds_next_month_unless_the_row_says_something_else() {
    let desk = Correcting::new();
    let row = |cells: [&str; 4]| cells.map(str::to_owned).to_vec();
    let (first, second) = (row(["A", "n/a", "x", ""]), row(["B", "n/a", "y", ""]));
    desk.export(&vec![first.clone(), second.clone()]);
    desk.conform();
    let mut back = desk.rejects();
    back[1][FIRST + 1] = "11".into();
    back[2][FIRST + 1] = "12".into();
    desk.record(&desk.bring_back(&back, true).changes);
    let both = ["A,11,x".to_owned(), "B,12,y".to_owned()];
    assert_eq!(desk.upload(&vec![first.clone(), second.clone()]), (both.to_vec(), (2, 0, 0)));
    // Moved, and changed in a column that nobody uses.
    let moved = vec![row(["C", "1", "", ""]), row(["B", "n/a", "y", "z"]), first.clone()];
    let expected = vec!["C,1,".to_owned(), both[1].clone(), both[0].clone()];
    assert_eq!(desk.upload(&moved), (expected, (2, 0, 0)));
    // The source has made one itself, and says something else in the other.
    let meanwhile = vec![row(["A", "11", "x", ""]), row(["B", "n/a", "other", ""])];
    assert_eq!(desk.upload(&meanwhile), (vec![both[0].clone()], (0, 1, 1)));
    // Another row stands where the corrected one stood, and differs from it in that very cell alone.
    let twin = vec![row(["A", "7", "x", ""]), second, first.clone()];
    let expected = vec!["A,7,x".to_owned(), both[1].clone(), both[0].clone()];
    assert_eq!(desk.upload(&twin), (expected, (2, 0, 0)));
    // Two rows that are alike could both be meant.
    let alike = vec![row(["C", "1", "", ""]), first.clone(), first];
    assert_eq!(desk.upload(&alike).1, (0, 0, 2));
}

#[test]
fn a_double_is_kept_out_as_long_as_it_is_one() {
    let desk = Correcting::new();
    let row = |cells: [&str; 4]| cells.map(str::to_owned).to_vec();
    let (one, other) = (row(["D", "1", "", ""]), row(["E", "2", "", ""]));
    let both = vec![one.clone(), one.clone()];
    let of = |lines: &[&str]| lines.iter().map(|line| (*line).to_owned()).collect::<Vec<_>>();
    desk.export(&both);
    let mut file = desk.corrections();
    file.set(desk.kept_out(3));
    file.write(&Held::file(&file.path).unwrap()).unwrap();
    assert_eq!(desk.upload(&both), (of(&["D,1,"]), (1, 0, 0)));
    assert_eq!(desk.upload(&vec![other, one.clone()]), (of(&["E,2,", "D,1,"]), (0, 1, 0)));
    // Both cannot be kept out: one of them stays.
    desk.export(&both);
    file.set(desk.kept_out(2));
    file.write(&Held::file(&file.path).unwrap()).unwrap();
    assert_eq!(desk.upload(&both), (of(&["D,1,"]), (1, 1, 0)));
    assert_eq!(desk.upload(&vec![one]).0, ["D,1,"]);
}
