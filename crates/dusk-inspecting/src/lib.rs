//! Evidence: what in the data proves a reading, and what contradicts it.

mod agreement;
mod byte_kinds;
mod column_picture;
mod column_report;
mod damage_seen;
mod date_evidence;
mod date_shape;
mod date_signs;
mod distinct;
mod inspection;
mod looks;
mod lost_digits;
mod number_evidence;
mod plain_letters;
mod profile;
mod repeating;
mod short_years;
mod table_shape;
mod text_damage;
mod value_shape;

pub use agreement::{Agreement, Deviation, agreement_of};
pub use column_picture::{Band, Cells, ColumnPicture, SourcePicture, Spread, picture};
pub use column_report::ColumnReport;
pub use damage_seen::{Damage, DamageSeen};
pub use date_evidence::{At, DateEvidence, DatesOf, Standing};

pub use date_shape::DateShape;
pub use date_signs::DateSigns;

pub use inspection::{Inspection, OddRows, first_rows, inspect};
pub use lost_digits::{LongNumbers, digits_lost, is_power_of_ten, power_of_ten, whole_power};
pub use number_evidence::{Marks, NumberEvidence, bare_figures};
pub use plain_letters::has_plain_letters_only;
pub use profile::Counted;
pub use table_shape::NumberedRow;
pub use text_damage::{notice as notice_damage, undo_wrong_decoding};
pub use value_shape::{have_one_shape, shape_of};

/// A long value cut for a message.
fn excerpt(value: &str) -> String {
    if value.chars().count() <= 48 {
        value.to_owned()
    } else {
        value.chars().take(47).chain(['…']).collect()
    }
}
