//! Evidence: what in the data proves a reading, and what contradicts it.

mod damage_seen;
mod date_evidence;
mod date_order;
mod date_shape;
mod date_signs;
mod distinct;
mod evidence;
mod inspection;
mod lost_digits;
mod number_evidence;
mod text_damage;
mod profile;
mod value_shape;
mod written_date;

pub use damage_seen::{Damage, DamageSeen};
pub(crate) use date_evidence::At;
pub use date_evidence::DateEvidence;
pub use date_order::DateOrder;
pub(crate) use date_order::shown;
pub use date_shape::DateShape;
pub(crate) use date_signs::DateSigns;
pub use evidence::{Evidence, Example, Reading, Verdict};
pub use inspection::{ColumnReport, Inspection, OddRows, inspect};
pub(crate) use lost_digits::{digits_lost, is_power_of_ten, power_of_ten};
pub use number_evidence::NumberEvidence;
pub(crate) use text_damage::undo_wrong_decoding;
pub(crate) use text_damage::notice as notice_damage;
pub(crate) use number_evidence::{Marks, bare_figures};
pub use profile::Counted;
pub(crate) use value_shape::shape_of;
pub(crate) use written_date::{WrittenDate, WrittenTime, day_in_order};

/// A long value cut for a message.
fn excerpt(value: &str) -> String {
    if value.chars().count() <= 48 {
        value.to_owned()
    } else {
        value.chars().take(47).chain(['…']).collect()
    }
}
