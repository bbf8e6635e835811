//! What a value looks like to those who look for dates.

use dusk_sources::CellKind;
use dusk_values::{WrittenDate, WrittenTime};

/// What a value looks like to those who look for dates.
#[derive(Debug, Clone, Copy)]
pub(super) enum Looks {
    /// A date.
    Date(WrittenDate, WrittenTime),
    /// A whole number that may count days, or a part of a date.
    PartOrCount,
    /// Something else.
    Otherwise,
}

impl Looks {
    /// What a cell looks like.
    pub(super) fn of(cell: &str) -> Self {
        let (kind, value) = CellKind::of(cell);
        let value = value.trim();
        let dated =
            kind == CellKind::Date || value.len() >= 4 && value.bytes().any(|byte| byte.is_ascii_digit());
        if !dated || kind == CellKind::Number {
            return Self::Otherwise;
        }
        if value.bytes().all(|byte| byte.is_ascii_digit()) {
            return if value.len() <= 5 { Self::PartOrCount } else { Self::Otherwise };
        }
        match WrittenDate::read(value) {
            Some((written, time)) => Self::Date(written, time),
            None => Self::Otherwise,
        }
    }
}
