//! Limits of single values.

use jiff::civil::Date;

use dusk_description::{Field, FieldType};
use dusk_evidence::{DateFact, Fact, Fault, NumberFact, TextFact};
use dusk_values::Value;

/// Checks a conformed value against the dictionary; `days` are the first and the last day allowed.
pub fn check_limits(
    field: &Field,
    days: (Option<Date>, Option<Date>),
    text: &str,
    value: Value,
    faults: &mut Vec<Fault>,
) {
    let mut found = |fact: Fact| faults.push(Fault::new(fact));
    match &field.kind {
        FieldType::Text { max_length, pattern, .. } => {
            if let Some(most) = max_length
                && text.len() > *most
            {
                let length = text.chars().count();
                if length > *most {
                    found(TextFact::TooLong { length, most: *most }.into());
                }
            }
            if let Some((regex, written)) = pattern
                && !regex.is_match(text)
            {
                found(TextFact::WrongPattern { pattern: written.clone() }.into());
            }
        }
        FieldType::Number { min, max, unit, .. } => {
            let Value::Number(number) = value else { return };
            if let Some(least) = min.filter(|least| number < *least) {
                found(NumberFact::BelowMinimum { number, least, unit: *unit }.into());
            }
            if let Some(most) = max.filter(|most| number > *most) {
                found(NumberFact::AboveMaximum { number, most, unit: *unit }.into());
            }
        }
        FieldType::Date { .. } => {
            let day = match value {
                Value::Date(day) => day,
                Value::DateTime(moment) => moment.date(),
                _ => return,
            };
            if let Some(first) = days.0.filter(|first| day < *first) {
                found(DateFact::TooEarly { day: Some(day), first }.into());
            }
            if let Some(last) = days.1.filter(|last| day > *last) {
                found(DateFact::TooLate { day: Some(day), last }.into());
            }
        }
        FieldType::Boolean { .. }
        | FieldType::Code { .. }
        | FieldType::Codes { .. }
        | FieldType::Reference { .. }
        | FieldType::File { .. } => {}
    }
}
