//! Drift: what is new in this export since the last batch of the same mapping.

use serde::{Deserialize, Serialize};

use dusk_description::fold;

/// What was met in the column of a field, as a receipt keeps it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct FieldDigest {
    /// The field.
    pub field: String,
    /// The columns that feed it.
    #[serde(default)]
    pub from: Vec<String>,
    /// How many of its cells were blank.
    pub blank: u64,
    /// The values, where the field holds codes or true and false and there are not too many.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub values: Option<Vec<String>>,
    /// The shapes of its values, where the field has a form and there are not too many.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shapes: Option<Vec<String>>,
}

/// One run, as far as drift looks at it.
#[derive(Debug, Clone, Copy)]
pub struct Run<'r> {
    /// The columns of the source, in order.
    pub columns: &'r [String],
    /// What was met in the column of each field.
    pub digest: &'r [FieldDigest],
    /// The orders of dates and the marks before decimals that the data proved: field and reading.
    pub proven: &'r [(String, String)],
    /// How many rows were read, and how many of them were rejected.
    pub rows: (u64, u64),
}

/// What is new in the columns of a source.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct ColumnDrift {
    /// Columns that were not there before.
    pub new: Vec<String>,
    /// Columns that are not there any more.
    pub gone: Vec<String>,
    /// True where the columns that stayed stand in another order.
    pub moved: bool,
}

impl ColumnDrift {
    /// Compares the columns of two exports.
    pub fn between(before: &[String], now: &[String]) -> Self {
        let without = |some: &[String], others: &[String]| -> Vec<String> {
            some.iter().filter(|column| !others.contains(column)).cloned().collect()
        };
        let stayed = |columns: &[String], others: &[String]| -> Vec<String> {
            columns.iter().filter(|column| others.contains(column)).cloned().collect()
        };
        Self {
            new: without(now, before),
            gone: without(before, now),
            moved: stayed(before, now) != stayed(now, before),
        }
    }
}

fn list(names: &[String]) -> String {
    names.iter().map(|name| format!("\"{name}\"")).collect::<Vec<_>>().join(", ")
}

/// The first few of what is new, and how many more there are.
fn few(fresh: &[String]) -> String {
    /// How many are named.
    const NAMED: usize = 6;
    let named = list(fresh.get(..NAMED).unwrap_or(fresh));
    match fresh.len().saturating_sub(NAMED) {
        0 => named,
        more => format!("{named} and {more} more"),
    }
}

/// Values that the field never had; case and spaces do not count.
fn fresh_values(field: &FieldDigest, old: &FieldDigest, is_of_list: &IsOfList<'_>) -> Option<String> {
    let (old, new) = (old.values.as_ref().filter(|old| !old.is_empty())?, field.values.as_ref()?);
    let known: Vec<String> = old.iter().map(|value| fold(value)).collect();
    let is_fresh = |value: &&String| {
        !old.contains(value) && !known.contains(&fold(value)) && !is_of_list(&field.field, value)
    };
    let fresh: Vec<String> = new.iter().filter(is_fresh).cloned().collect();
    (!fresh.is_empty()).then(|| format!("{}: values never seen before: {}", field.field, few(&fresh)))
}

/// Shapes that its values never had.
fn fresh_shapes(field: &FieldDigest, old: &FieldDigest) -> Option<String> {
    let (old, new) = (old.shapes.as_ref().filter(|old| !old.is_empty())?, field.shapes.as_ref()?);
    // A running number gets a digit more some day.
    let has_grown = |shape: &str| {
        shape.match_indices('9').any(|(at, _)| {
            let before = shape.get(..at).unwrap_or_default();
            old.iter().any(|old| *old == format!("{before}{}", shape.get(at + 1..).unwrap_or_default()))
        })
    };
    let is_fresh = |shape: &&String| !old.contains(shape) && !has_grown(shape);
    let fresh: Vec<String> = new.iter().filter(is_fresh).cloned().collect();
    let says = "values of a shape never seen before, like";
    (!fresh.is_empty()).then(|| format!("{}: {says} {}", field.field, few(&fresh)))
}

/// Whether a value of a field is one of its list.
pub type IsOfList<'l> = dyn Fn(&str, &str) -> bool + 'l;

/// What is new since an earlier run, each in a sentence; the columns first. A value that is one of its field's list
/// is nothing new.
pub fn drift(before: &Run<'_>, now: &Run<'_>, is_of_list: &IsOfList<'_>) -> Vec<String> {
    let mut says = Vec::new();
    let mut columns = ColumnDrift::between(before.columns, now.columns);
    let old_of = |field: &FieldDigest| before.digest.iter().find(|old| old.field == field.field);
    for field in now.digest {
        let Some(old) = old_of(field).filter(|old| old.from != field.from && !old.from.is_empty()) else {
            continue;
        };
        // A column that feeds the same field is the old one under another name.
        let (new_names, old_names) = (list(&field.from), list(&old.from));
        says.push(format!("{}: is from {new_names} now, and was from {old_names}", field.field));
        columns.new.retain(|column| !field.from.contains(column));
        columns.gone.retain(|column| !old.from.contains(column));
    }
    if !columns.new.is_empty() {
        says.push(format!("new columns: {}", list(&columns.new)));
    }
    if !columns.gone.is_empty() {
        says.push(format!("columns that are gone: {}", list(&columns.gone)));
    }
    if columns.moved {
        says.push("the columns are in another order".to_owned());
    }
    for field in now.digest {
        let Some(old) = old_of(field) else { continue };
        says.extend(fresh_values(field, old, is_of_list));
        says.extend(fresh_shapes(field, old));
        if jumped((old.blank, before.rows.0), (field.blank, now.rows.0)) {
            says.push(format!(
                "{}: {} of {} cells are blank, and {} of {} were",
                field.field, field.blank, now.rows.0, old.blank, before.rows.0
            ));
        }
    }
    for (field, reading) in now.proven {
        if let Some((_, old)) = before.proven.iter().find(|(known, old)| known == field && old != reading) {
            says.push(format!("{field}: the values prove {reading}, and proved {old}"));
        }
    }
    if jumped((before.rows.1, before.rows.0), (now.rows.1, now.rows.0)) {
        says.push(format!(
            "{} of {} rows are rejected, and {} of {} were",
            now.rows.1, now.rows.0, before.rows.1, before.rows.0
        ));
    }
    says
}

/// Whether a share has grown to more than twice of what it was, and by more than five in a hundred.
fn jumped((before, of_before): (u64, u64), (now, of_now): (u64, u64)) -> bool {
    let per_thousand = |count: u64, of: u64| count.saturating_mul(1000) / of.max(1);
    let (before, now) = (per_thousand(before, of_before), per_thousand(now, of_now));
    of_before > 0 && now > before * 2 + 50
}

#[cfg(test)]
mod tests {
    use super::*;

    fn texts(texts: &[&str]) -> Vec<String> {
        texts.iter().map(|text| (*text).to_owned()).collect()
    }

    #[test]
    fn what_is_new_is_said_and_what_stayed_is_not() {
        let digest = |blank: u64, values: &[&str], shapes: &[&str]| {
            vec![FieldDigest {
                field: "queen".into(),
                from: Vec::new(),
                blank,
                values: Some(texts(values)),
                shapes: Some(texts(shapes)),
            }]
        };
        let (old_columns, columns) = (texts(&["No", "Date", "Queen"]), texts(&["Date", "No", "Colour"]));
        let (old, new) = (
            digest(10, &["W", "Y"], &["99/99/9999"]),
            digest(30, &["w", "pink", "B"], &["99/99/9999", "a", "99/99/99999"]),
        );
        let orders = |order: &str| vec![("day".to_owned(), order.to_owned())];
        let (old_orders, new_orders) = (orders("day-month-year"), orders("month-day-year"));
        let before = Run { columns: &old_columns, digest: &old, proven: &old_orders, rows: (100, 4) };
        let now = Run { columns: &columns, digest: &new, proven: &new_orders, rows: (100, 14) };
        assert_eq!(
            drift(&before, &now, &|_, value| value == "B"),
            [
                "new columns: \"Colour\"",
                "columns that are gone: \"Queen\"",
                "the columns are in another order",
                "queen: values never seen before: \"pink\"",
                "queen: values of a shape never seen before, like \"a\"",
                "queen: 30 of 100 cells are blank, and 10 of 100 were",
                "day: the values prove month-day-year, and proved day-month-year",
                "14 of 100 rows are rejected, and 4 of 100 were",
            ]
        );
        assert_eq!(drift(&before, &before, &|_, _| false), Vec::<String>::new());
        let from = |column: &str, columns: &[FieldDigest]| -> Vec<FieldDigest> {
            columns.iter().map(|field| FieldDigest { from: vec![column.into()], ..field.clone() }).collect()
        };
        let (old, new) = (from("Queen", &old), from("Colour", &old));
        let renamed = drift(
            &Run { digest: &old, ..before },
            &Run { digest: &new, ..Run { proven: &old_orders, rows: (100, 4), ..now } },
            &|_, _| false,
        );
        assert_eq!(
            renamed,
            ["queen: is from \"Colour\" now, and was from \"Queen\"", "the columns are in another order"]
        );
    }
}
