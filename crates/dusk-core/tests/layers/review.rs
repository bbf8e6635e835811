//! What a review shows after any decisions is what a whole run with the same decisions comes to.

use dusk_core::conforming::Judged;
use dusk_core::decisions::{
    Correction, CorrectionFile, Crosswalk, CrosswalkLine, KEEP_OUT, LEAVE_BLANK, WHOLE_ROW, corrections_path,
    crosswalk_path,
};
use dusk_core::evidence::{ColumnId, Id as _, Problems};
use dusk_core::files::Held;
use dusk_core::run::{Review, apply_corrections};
use dusk_core::sources::Threads;
use proptest::prelude::*;

use crate::desk::{Desk, Given};

const TARGET: &str = r#"
[target]
name = "T"
[upload]
file_name = "up.csv"
[[field]]
name = "id"
type = "integer"
key = true
[[field]]
name = "region"
type = "code"
codes = "region.csv"
required = true
[[field]]
name = "district"
type = "code"
codes = "district.csv"
within = "region"
[[field]]
name = "frames"
type = "integer"
max = "12"
[[field]]
name = "brood"
type = "integer"
[[rule]]
name = "brood fits"
must = "brood <= frames"
says = "there is no more brood than frames"
"#;

const COLUMNS: [&str; 5] = ["id", "region", "district", "frames", "brood"];
const CELLS: [&[&str]; 4] = [
    &["North", "NF", "South", "Nth", "sud", ""],
    &["Fen", "Hill", "the fen", "Fn", "", "x"],
    &["3", "8", "12", "n/a", "40", ""],
    &["1", "9", "few", ""],
];

/// A decision about the cause or the row that its first number points at.
#[derive(Debug, Clone)]
enum Decision {
    Settle(usize, usize),
    Correct(usize, usize, usize),
    KeepOut(usize),
}

fn rows() -> impl Strategy<Value = Vec<[usize; 4]>> {
    prop::collection::vec([0..6_usize, 0..6, 0..6, 0..4], 4..24)
}

fn decisions() -> impl Strategy<Value = Vec<Decision>> {
    let settle = (0..9_usize, 0..4_usize).prop_map(|(cause, answer)| Decision::Settle(cause, answer));
    let correct = (0..9_usize, 0..4_usize, 0..6_usize)
        .prop_map(|(row, column, cell)| Decision::Correct(row, column, cell));
    let keep_out = (0..9_usize).prop_map(Decision::KeepOut);
    prop::collection::vec(prop_oneof![2 => settle, 2 => correct, 1 => keep_out], 1..6)
}

fn review_of(given: &Given) -> Review {
    Review::open(&given.job().prepare(&|_, _| {}).unwrap(), &|_, _| {}).unwrap().0
}

/// What is rejected, and why.
fn rejected(review: &Review) -> Vec<(u64, Vec<String>)> {
    let still = review.rows.iter().filter(|row| row.judged == Judged::Rejected);
    let says = still.map(|row| {
        let of = |finding: &dusk_core::evidence::Finding| {
            format!(
                "{} {:?} {:?} {}",
                finding.about,
                finding.value,
                finding.fault.kind(),
                finding.fault.wrong()
            )
        };
        let mut findings: Vec<String> = row.findings.iter().map(of).collect();
        findings.sort();
        (row.row.0, findings)
    });
    says.collect()
}

/// Settles a cause in the crosswalk of its field, as far as the field takes the answer.
fn settle(desk: &Desk, given: &mut Given, review: &mut Review, cause: usize, answer: usize) {
    let causes = review.causes().causes;
    let Some(cause) = causes.get(cause % causes.len().max(1)) else { return };
    let (Some(place), Some(value)) = (cause.field, cause.value.clone().filter(|value| !value.is_empty()))
    else {
        return;
    };
    let field = given.target.fields.get(place).unwrap();
    let means = if field.kind.codes().is_some() {
        field.kind.codes().unwrap().codes()[0].code.clone()
    } else {
        "7".into()
    };
    let code = [&means, &means, LEAVE_BLANK, KEEP_OUT][answer].to_owned();
    let path = crosswalk_path(&desk.path("mapping.toml"), &field.name);
    let mut problems = Problems::default();
    let mut crosswalk = match path.exists() {
        true => Crosswalk::read(&path, field, &mut problems).unwrap(),
        false => Crosswalk::default(),
    };
    let line = CrosswalkLine { value, within: cause.within.clone(), code, ..CrosswalkLine::default() };
    if crosswalk.set(line, field).is_err() {
        return;
    }
    crosswalk.write(&Held::file(&path).unwrap()).unwrap();
    for map in given.mapping.maps.iter_mut().filter(|map| map.field == place) {
        map.crosswalk = crosswalk.clone();
    }
    review.judge_again(&given.job(), &|_| true).unwrap();
}

/// Takes a cell of a rejected row for something else, or keeps the row out.
fn correct(desk: &Desk, given: &Given, review: &mut Review, row: usize, column: Option<usize>, now: &str) {
    let Some(place) = row.checked_rem(review.rows.len()) else { return };
    let row = &review.rows[place];
    let path = corrections_path(&desk.path("mapping.toml"), "export.csv");
    let mut file = CorrectionFile::read(&path, &mut Problems::default()).unwrap();
    file.set(Correction {
        row: row.row,
        column: column.map_or(WHOLE_ROW, |column| COLUMNS[column]).into(),
        was: column.map_or("", |column| row.exported(ColumnId::new(column))).into(),
        now: now.into(),
        by: String::new(),
        on: String::new(),
        note: String::new(),
        print: Some(row.print),
    });
    file.write(&Held::file(&file.path).unwrap()).unwrap();
    let at = row.row;
    match column {
        Some(column) => review.correct(place, ColumnId::new(column), now),
        None => review.keep_out(place, true),
    }
    review.judge_again(&given.job(), &|row| row.row == at).unwrap();
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn a_review_shows_what_a_whole_run_comes_to(rows in rows(), decisions in decisions()) {
        let desk = Desk::new();
        let write = |name: &str, text: &str| desk.write(name, text);
        write("target.toml", TARGET);
        write("region.csv", "code,label\nNF,North\nSF,South\n");
        write("district.csv", "code,label,within\n1,Fen,NF\n2,Hill,NF\n3,Fen,SF\n");
        let maps = COLUMNS.map(|name| format!("[[map]]\nfield = \"{name}\"\nfrom = \"{name}\"\n"));
        write("mapping.toml", &format!("target = \"target.toml\"\n{}", maps.concat()));
        let line = |(number, cells): (usize, &[usize; 4])| {
            let cells: Vec<&str> = cells.iter().zip(CELLS).map(|(cell, of)| of[*cell]).collect();
            format!("{number},{}\n", cells.join(","))
        };
        let lines: String = rows.iter().enumerate().map(line).collect();
        write("export.csv", &format!("{}\n{lines}", COLUMNS.join(",")));

        let mut given = desk.given();
        let mut review = review_of(&given);
        for decision in &decisions {
            match decision {
                Decision::Settle(cause, answer) => settle(&desk, &mut given, &mut review, *cause, *answer),
                Decision::Correct(row, column, cell) => {
                    let now = CELLS[*column][*cell % CELLS[*column].len()];
                    correct(&desk, &given, &mut review, *row, Some(column + 1), now);
                }
                Decision::KeepOut(row) => correct(&desk, &given, &mut review, *row, None, KEEP_OUT),
            }
            let mut anew = desk.given();
            apply_corrections(&anew.mapping, &anew.target, &mut anew.sources, Threads::default(), &|_, _| {}).unwrap();
            prop_assert_eq!(rejected(&review), rejected(&review_of(&anew)), "after {:?}", decision);
        }
    }
}
