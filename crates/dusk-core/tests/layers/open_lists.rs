//! Open lists: a term goes in only once somebody has allowed it, with one spelling, and everything that was decided,
//! or is still to be, is listed once.

use std::collections::BTreeMap;

use crate::desk::Desk;
use proptest::prelude::*;

const FIELD: &str = "type = \"code\"\ncodes = \"trees.csv\"\nunmatched = \"new-term\"";
const LIST: &str = "code,label,also\nO,Oak,oaken\nB,Silver birch,\n";

/// What cells hold, and what each of them means without case, spaces and what nobody sees.
const CELLS: [(&str, &str); 13] = [
    ("Oak", "O"),
    (" OAKEN", "O"),
    ("silver  birch", "B"),
    ("", ""),
    ("Rowan", "rowan"),
    ("ROWAN ", "rowan"),
    ("ro\u{200b}wan", "rowan"),
    ("yew", "yew"),
    ("Yew", "yew"),
    ("Wild service", "wildservice"),
    ("wild\u{a0}service", "wildservice"),
    ("hazel", "hazel"),
    ("0117", "0117"),
];

/// What somebody decided about a value that the list does not have.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Decided {
    Nothing,
    Term(&'static str),
    Oak,
    SameAsRowan,
    Blank,
    Out,
}

/// The values that the list does not have, each as somebody writes it when it is allowed.
const STRANGERS: [(&str, &str); 5] = [
    ("rowan", "Rowan"),
    ("yew", "Yew"),
    ("wildservice", "Wild service tree"),
    ("hazel", "hazel"),
    ("0117", "0117"),
];

fn decided() -> impl Strategy<Value = Vec<u8>> {
    prop::collection::vec(0..6_u8, STRANGERS.len())
}

/// The line of the crosswalk, if there is one. The value of a term is its spelling, so one with another name has two.
fn lines(value: &str, decided: Decided) -> String {
    let line = |value: &str, code: &str| format!("{value},{code},A. Clerk,2026-04-30\n");
    match decided {
        Decided::Nothing => String::new(),
        Decided::Term("Wild service tree") => {
            line("Wild service tree", "(new term)") + &line("wild service", "Wild service tree")
        }
        Decided::Term(term) => line(term, "(new term)"),
        Decided::Oak => line(value, "O"),
        Decided::SameAsRowan => line(value, "Rowan"),
        Decided::Blank => line(value, "(leave blank)"),
        Decided::Out => line(value, "(keep out)"),
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_term_goes_in_once_it_is_allowed_and_every_decision_is_listed(
        cells in prop::collection::vec(0..CELLS.len(), 1..24),
        choices in decided(),
    ) {
        let rowan_is_a_term = choices[0] == 1;
        let decided: BTreeMap<&str, Decided> = STRANGERS
            .iter()
            .zip(&choices)
            .map(|((value, term), choice)| {
                let decided = match choice {
                    1 => Decided::Term(term),
                    2 => Decided::Oak,
                    3 if rowan_is_a_term && *value != "rowan" => Decided::SameAsRowan,
                    4 => Decided::Blank,
                    5 => Decided::Out,
                    _ => Decided::Nothing,
                };
                (*value, decided)
            })
            .collect();
        let crosswalk: String = decided.iter().map(|(value, one)| lines(value, *one)).collect();
        let desk = |cells: &[&str]| {
            Desk::with_field(FIELD, "", cells)
                .with("trees.csv", LIST)
                .with("crosswalks/it.csv", format!("value,code,by,on\n{crosswalk}"))
        };
        let texts: Vec<&str> = cells.iter().map(|place| CELLS[*place].0).collect();
        let meant: Vec<String> = cells
            .iter()
            .map(|place| match decided.get(CELLS[*place].1) {
                None => CELLS[*place].1.to_owned(),
                Some(Decided::Nothing) => "!new-term".to_owned(),
                Some(Decided::Term(term)) => (*term).to_owned(),
                Some(Decided::Oak) => "O".to_owned(),
                Some(Decided::SameAsRowan) => "Rowan".to_owned(),
                Some(Decided::Blank | Decided::Out) => String::new(),
            })
            .collect();
        prop_assert_eq!(&desk(&texts).outcomes(texts.len()), &meant, "{:?}", texts);

        let desk_of = desk(&texts);
        let made = desk_of.conform();
        let count = |is: &dyn Fn(Decided) -> bool| {
            cells.iter().filter(|place| decided.get(CELLS[**place].1).is_some_and(|one| is(*one))).count() as u64
        };
        prop_assert_eq!(made.summary.totals.left_out, count(&|one| one == Decided::Out));
        // Each list has every value once, with how many rows have it.
        let listed = |name: &str, counted: usize| -> (usize, u64) {
            let there = desk_of.path(name).exists();
            let lines = if there { desk_of.records(name) } else { Vec::new() };
            (lines.len(), lines.iter().map(|line| line[counted].parse::<u64>().unwrap()).sum())
        };
        let different = |is: &dyn Fn(Decided) -> bool| {
            let met = decided.iter().filter(|(value, one)| is(**one) && cells.iter().any(|place| CELLS[*place].1 == **value));
            met.count()
        };
        let waits = |one: Decided| one == Decided::Nothing;
        let is_listed = |one: Decided| !matches!(one, Decided::Nothing | Decided::Oak);
        prop_assert_eq!(listed("batch/new-values.csv", 5), (different(&waits), count(&waits)));
        prop_assert_eq!(listed("batch/decided-values.csv", 6), (different(&is_listed), count(&is_listed)));

        // What went in goes in again as it is.
        let went_in: Vec<&str> =
            meant.iter().map(String::as_str).filter(|value| !value.is_empty() && !value.starts_with('!')).collect();
        if !went_in.is_empty() {
            prop_assert_eq!(desk(&went_in).outcomes(went_in.len()), went_in);
        }
    }
}
