//! Words about numbers.

use dusk_values::Unit;

use crate::{NumberFact, NumberMarks};

/// " kg", or nothing.
fn of(unit: &Option<&'static Unit>) -> String {
    unit.map_or_else(String::new, |unit| format!(" {}", unit.symbol()))
}

pub(super) fn wrong(fact: &NumberFact) -> String {
    match fact {
        NumberFact::NotANumber(_) => "is not a number".into(),
        NumberFact::TooLong => "has more digits than can be kept exactly".into(),
        NumberFact::CommaUndecided { with_comma } => {
            format!("could be read as {with_comma}, if a comma comes before the decimals")
        }
        NumberFact::MarksUndecided { with_point, with_comma } => {
            format!("could be read as {with_point} and as {with_comma}")
        }
        NumberFact::Brackets => "is in brackets, which may mean that it is below zero".into(),
        NumberFact::Percent => {
            "is in percent, and nothing says whether the target counts in percent or in shares of one".into()
        }
        NumberFact::NeedsRounding { decimals, unit } => {
            let holds = match decimals {
                0 => "whole numbers only".to_owned(),
                1 => "1 decimal only".to_owned(),
                more => format!("{more} decimals only"),
            };
            let after = unit.map_or_else(String::new, |unit| format!(" once it is in {}", unit.symbol()));
            format!("has more decimals than the target holds{after} ({holds})")
        }
        NumberFact::UnitDiffers { cell, column } => {
            format!("is in {}, and the column is in {}", cell.symbol(), column.symbol())
        }
        NumberFact::UnitUndecided => "is a number whose unit nothing proves".into(),
        NumberFact::BelowMinimum { number, unit, .. } => {
            format!("is {number}{}, below the smallest allowed", of(unit))
        }
        NumberFact::AboveMaximum { number, unit, .. } => {
            format!("is {number}{}, above the largest allowed", of(unit))
        }
    }
}

pub(super) fn right(fact: &NumberFact) -> String {
    let right = match fact {
        NumberFact::NotANumber(marks) => return with_marks(*marks),
        NumberFact::TooLong => "30 digits or fewer",
        NumberFact::CommaUndecided { .. } | NumberFact::MarksUndecided { .. } => {
            "say in the mapping which mark is which: decimal_mark = \".\" or decimal_mark = \",\", and thousands_mark"
        }
        NumberFact::Brackets => "if it does, write brackets = \"negative\" for this field in the mapping",
        NumberFact::Percent => {
            "write unit = \"%\" or unit = \"1\" for the field in target.toml, and unit = \"%\" in the mapping"
        }
        NumberFact::NeedsRounding { .. } => {
            "if digits may be lost, write round = \"half-up\" for this field in the mapping"
        }
        NumberFact::UnitDiffers { column, .. } => return format!("the number in {}", column.symbol()),
        NumberFact::UnitUndecided => "the unit of its column written into the mapping (unit)",
        NumberFact::BelowMinimum { least, unit, .. } => return format!("{least}{} or more", of(unit)),
        NumberFact::AboveMaximum { most, unit, .. } => return format!("{most}{} or less", of(unit)),
    };
    right.to_owned()
}

fn with_marks(marks: NumberMarks) -> String {
    match marks {
        NumberMarks::Plain => "digits, with a point before the decimals".into(),
        NumberMarks::Named { decimal, thousands: None } => {
            format!("digits, with \"{decimal}\" before the decimals")
        }
        NumberMarks::Named { decimal, thousands: Some(mark) } => {
            format!("digits, with \"{decimal}\" before the decimals and \"{mark}\" between groups of three")
        }
        NumberMarks::Proven(decimal) => {
            let name = if decimal == '.' { "a point" } else { "a comma" };
            format!("digits, with {name} before the decimals, as the column proves")
        }
    }
}
