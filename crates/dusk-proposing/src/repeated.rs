//! Headings that stand several times, or differ by a number only, for fields that are told apart by their order:
//! the right eye and the left one, the reading at the start and at the end.

use super::LEAST;
use super::names::Name;
use super::weigh::Weighed;
use dusk_evidence::{ColumnId, FieldId};

/// So many columns of one heading at most are put in order.
const MOST: usize = 4;

/// The pairs of columns with one heading and of the fields that they alone come into question for, both in order.
pub(super) fn repeated(weighed: &Weighed<'_>) -> Vec<(FieldId, ColumnId)> {
    let mut pairs = Vec::new();
    let mut seen: Vec<Vec<String>> = Vec::new();
    for (_, heading) in weighed.headings.with_ids() {
        let key = heading.without_numbers();
        if key.is_empty() || seen.contains(&key) {
            continue;
        }
        let columns: Vec<ColumnId> = weighed
            .headings
            .with_ids()
            .filter(|(column, other)| other.without_numbers() == key && weighed.is_free(*column))
            .map(|(column, _)| column)
            .collect();
        seen.push(key);
        if !(2..=MOST).contains(&columns.len()) {
            continue;
        }
        let fields: Vec<FieldId> =
            weighed.open_fields().filter(|field| wants_all(weighed, *field, &columns)).collect();
        if fields.len() == columns.len() {
            pairs.extend(fields.into_iter().zip(columns));
        }
    }
    pairs
}

/// Whether these columns are as good as one another for a field, and better than all others.
fn wants_all(weighed: &Weighed<'_>, field: FieldId, columns: &[ColumnId]) -> bool {
    let pair = |column: ColumnId| weighed.pair(field, column);
    let Some(first) = columns.first().and_then(|column| pair(*column)) else { return false };
    let is_alike = |column: &ColumnId| {
        pair(*column).is_some_and(|pair| {
            pair.worth >= LEAST && pair.name == first.name && pair.contents.points == first.contents.points
        })
    };
    let is_less = |column: ColumnId| {
        columns.contains(&column) || pair(column).is_none_or(|pair| pair.worth < first.worth)
    };
    let has_number = weighed.names_of(field).iter().any(Name::has_number);
    !has_number && columns.iter().all(is_alike) && weighed.columns().all(is_less)
}
