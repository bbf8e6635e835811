//! Columns of numbers, written as somewhere in the world: read as they were meant, or not at all.

use crate::desk::Desk;
use dusk_core::values::Decimal;
use proptest::prelude::*;

/// How a program writes numbers: what stands before the decimals, and between groups of three digits.
const STYLES: [(char, &str); 6] = [('.', ""), (',', ""), ('.', ","), (',', "."), (',', " "), ('.', "'")];

/// A number of thousandths, written so.
fn written(thousandths: u32, (mark, between): (char, &str), decimals: usize) -> String {
    let (whole, rest) = ((thousandths / 1000).to_string(), format!("{:03}", thousandths % 1000));
    let mut grouped = String::new();
    for (place, digit) in whole.chars().enumerate() {
        if place > 0 && (whole.len() - place).is_multiple_of(3) {
            grouped.push_str(between);
        }
        grouped.push(digit);
    }
    let rest = rest.get(..decimals).unwrap();
    if rest.is_empty() { grouped } else { format!("{grouped}{mark}{rest}") }
}

/// What it means, and the numbers that outcomes are, however many zeros they end in.
fn meant(thousandths: u32, decimals: usize) -> Option<Decimal> {
    number(&written(thousandths, ('.', ""), decimals))
}

fn number(outcome: &str) -> Option<Decimal> {
    Decimal::parse(outcome)
}

fn numbers() -> impl Strategy<Value = Vec<(u32, usize)>> {
    prop::collection::vec(
        (prop_oneof![0..2_000_u32, 0..3_000_000_u32, 900_000_000..2_000_000_000_u32], 0..=3_usize),
        1..16,
    )
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Nobody says which mark is which: what goes in is what was meant, in every style.
    #[test]
    fn no_number_is_read_as_another(numbers in numbers(), style in 0..STYLES.len()) {
        let style = STYLES[style];
        let cells: Vec<String> = numbers.iter().map(|(number, decimals)| written(*number, style, *decimals)).collect();
        let given: Vec<&str> = cells.iter().map(String::as_str).collect();
        let outcomes = Desk::with_field("type = \"decimal\"\ndecimals = 3", "", &given).outcomes(given.len());
        for ((thousandths, decimals), (cell, outcome)) in numbers.iter().zip(cells.iter().zip(&outcomes)) {
            let meant = meant(*thousandths, *decimals);
            prop_assert!(number(outcome) == meant || outcome.starts_with('!'), "{} became {} and meant {:?}", cell, outcome, meant);
        }
    }

    /// Where the mapping says it, every number is read.
    #[test]
    fn named_marks_read_every_number(numbers in numbers(), style in 0..STYLES.len()) {
        let style = STYLES[style];
        let cells: Vec<String> = numbers.iter().map(|(number, decimals)| written(*number, style, *decimals)).collect();
        let given: Vec<&str> = cells.iter().map(String::as_str).collect();
        let between = if style.1.is_empty() { String::new() } else { format!("\nthousands_mark = \"{}\"", style.1) };
        let map = format!("decimal_mark = \"{}\"{between}", style.0);
        let outcomes = Desk::with_field("type = \"decimal\"\ndecimals = 3", &map, &given).outcomes(given.len());
        let expected: Vec<Option<Decimal>> = numbers.iter().map(|(number, decimals)| meant(*number, *decimals)).collect();
        let read: Vec<Option<Decimal>> = outcomes.iter().map(|outcome| number(outcome)).collect();
        prop_assert_eq!(read, expected, "{:?}", cells);
    }

    /// With only one column's worth of proof: a mark that stands twice, or before other than three digits.
    #[test]
    fn a_proof_reads_the_whole_column(numbers in numbers(), style in 2..4_usize) {
        let style = STYLES[style];
        let mut cells: Vec<String> = numbers.iter().map(|(number, decimals)| written(*number, style, *decimals)).collect();
        cells.push(written(1_234_567_500, style, 1));
        let given: Vec<&str> = cells.iter().map(String::as_str).collect();
        let outcomes = Desk::with_field("type = \"decimal\"\ndecimals = 3", "", &given).outcomes(given.len());
        let mut expected: Vec<Option<Decimal>> = numbers.iter().map(|(number, decimals)| meant(*number, *decimals)).collect();
        expected.push(number("1234567.5"));
        let read: Vec<Option<Decimal>> = outcomes.iter().map(|outcome| number(outcome)).collect();
        prop_assert_eq!(read, expected, "{:?}", cells);
    }
}
