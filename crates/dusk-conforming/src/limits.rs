//! Limits of single values.

use jiff::civil::Date;

use dusk_description::{Field, FieldType};
use dusk_evidence::{Fault, Kind};
use dusk_values::{Value, shown};

/// Checks a conformed value against the dictionary; `days` are the first and the last day allowed.
pub fn check_limits(
    field: &Field,
    days: (Option<Date>, Option<Date>),
    text: &str,
    value: Value,
    faults: &mut Vec<Fault>,
) {
    let mut fault = |kind: Kind, wrong: String, right: String| faults.push(Fault::new(kind, wrong, right));
    match &field.kind {
        FieldType::Text { max_length, pattern, .. } => {
            if let Some(most) = max_length
                && text.len() > *most
            {
                let length = text.chars().count();
                if length > *most {
                    fault(
                        Kind::TooLong,
                        format!("has {length} characters"),
                        format!("{most} characters or fewer"),
                    );
                }
            }
            if let Some((regex, written)) = pattern
                && !regex.is_match(text)
            {
                fault(
                    Kind::WrongPattern,
                    "does not have the form that the dictionary demands".into(),
                    format!("the form {written}"),
                );
            }
        }
        FieldType::Number { min, max, unit, .. } => {
            let Value::Number(number) = value else { return };
            let unit = unit.map_or_else(String::new, |unit| format!(" {}", unit.symbol()));
            if let Some(min) = min.filter(|min| number < *min) {
                fault(
                    Kind::BelowMinimum,
                    format!("is {number}{unit}, below the smallest allowed"),
                    format!("{min}{unit} or more"),
                );
            }
            if let Some(max) = max.filter(|max| number > *max) {
                fault(
                    Kind::AboveMaximum,
                    format!("is {number}{unit}, above the largest allowed"),
                    format!("{max}{unit} or less"),
                );
            }
        }
        FieldType::Date { .. } => {
            let day = match value {
                Value::Date(day) => day,
                Value::DateTime(moment) => moment.date(),
                _ => return,
            };
            if let Some(first) = days.0.filter(|first| day < *first) {
                fault(
                    Kind::TooEarly,
                    format!("is {}, before the first day allowed", shown(day)),
                    format!("{} or later", shown(first)),
                );
            }
            if let Some(last) = days.1.filter(|last| day > *last) {
                fault(
                    Kind::TooLate,
                    format!("is {}, after the last day allowed", shown(day)),
                    format!("{} or earlier", shown(last)),
                );
            }
        }
        FieldType::Boolean { .. }
        | FieldType::Code { .. }
        | FieldType::Codes { .. }
        | FieldType::Reference { .. }
        | FieldType::File { .. } => {}
    }
}
