//! The rows that a record is laid out over, where its target wants them by group.

use super::FieldPlan;
use dusk_description::{FieldRows, RowGroups};
use dusk_evidence::{ById, FieldId, Slot};
use dusk_mapping::{NUMBER_MARK, Repeat};

/// The rows by group of a record, compiled.
#[derive(Debug)]
pub(crate) struct PlannedGroups {
    /// The columns of plain fields that are not part of the key.
    pub(crate) plain: Vec<Slot>,
    /// The groups, in the order of the target.
    pub(crate) groups: Vec<PlannedGroup>,
}

/// One group.
#[derive(Debug)]
pub(crate) struct PlannedGroup {
    /// Its name, as rows have it.
    pub(crate) name: String,
    /// Its columns: those that repeat, where any does.
    pub(crate) columns: Vec<Slot>,
    /// Its repeats by their places among those of the mapping; the first where no column of it repeats.
    pub(crate) repeats: Vec<usize>,
}

impl PlannedGroups {
    /// The groups of a plan whose fields are compiled.
    pub(super) fn of(
        groups: &RowGroups,
        fields: &ById<FieldId, FieldPlan<'_>>,
        repeat: Option<&Repeat>,
        wanted: &ById<Slot, &str>,
    ) -> Self {
        let columns_of = |rows: FieldRows| -> Vec<Slot> {
            let fields = fields.iter().filter(|field| field.rows == rows);
            fields.flat_map(|field| field.input.columns()).copied().collect()
        };
        let heading = |slot: &Slot| wanted.get(*slot).copied().unwrap_or_default();
        let group = |(place, name): (usize, &String)| {
            let all = columns_of(FieldRows::Group(place));
            let repeated: Vec<Slot> =
                all.iter().copied().filter(|slot| heading(slot).contains(NUMBER_MARK)).collect();
            let (columns, repeats) = match repeat.filter(|_| !repeated.is_empty()) {
                None => (all, vec![0]),
                Some(repeat) => {
                    let own = repeated
                        .first()
                        .map_or(&repeat.numbers[..], |slot| repeat.numbers_for(heading(slot)));
                    let numbers = repeat.numbers.iter().enumerate();
                    let places = numbers.filter(|(_, number)| own.contains(number)).map(|(place, _)| place);
                    let places = places.collect();
                    (repeated, places)
                }
            };
            PlannedGroup { name: name.clone(), columns, repeats }
        };
        Self {
            plain: columns_of(FieldRows::Plain),
            groups: groups.names.iter().enumerate().map(group).collect(),
        }
    }
}
