//! Rows by group: which rows of a record hold which of its fields.

use crate::Field;
use dusk_evidence::FieldId;

/// How a record is laid out over rows: its plain fields in the first, then a row for each repeat of a group.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RowGroups {
    /// The field that takes the name of the group; blank in the first row.
    pub name: FieldId,
    /// The field that takes the number of the repeat; blank in the first row.
    pub counter: FieldId,
    /// The groups, in the order of their fields.
    pub names: Vec<String>,
}

/// The rows of a record in which a field may be filled.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum FieldRows {
    /// All of them, as the key does.
    #[default]
    Every,
    /// The first.
    Plain,
    /// Those of a group, by its place.
    Group(usize),
    /// Those of any group.
    AnyGroup,
}

/// Which row of a record one is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum RecordRow {
    /// The only one.
    #[default]
    Whole,
    /// The first, with the plain fields.
    Plain,
    /// One of a group, by its place.
    Group(usize),
}

impl RowGroups {
    /// In which rows a field may be filled.
    pub fn rows_of(&self, id: FieldId, field: &Field) -> FieldRows {
        if id == self.name || id == self.counter {
            return FieldRows::AnyGroup;
        }
        let place = |group: &String| self.names.iter().position(|name| name == group);
        match &field.in_group {
            _ if field.key => FieldRows::Every,
            None => FieldRows::Plain,
            Some(group) => place(group).map_or(FieldRows::Plain, FieldRows::Group),
        }
    }
}

impl FieldRows {
    /// Whether the field may be filled in a row.
    pub fn holds(self, row: RecordRow) -> bool {
        match (self, row) {
            (Self::Every, _) | (_, RecordRow::Whole) => true,
            (Self::Plain, RecordRow::Plain) | (Self::AnyGroup, RecordRow::Group(_)) => true,
            (Self::Group(own), RecordRow::Group(group)) => own == group,
            _ => false,
        }
    }

    /// Whether the field may be filled wherever another one may.
    pub fn are_all_in(self, others: Self) -> bool {
        self == Self::Every || self == others || self == Self::AnyGroup && matches!(others, Self::Group(_))
    }
}
