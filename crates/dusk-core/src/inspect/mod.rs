//! Evidence: what in the data proves a reading, and what contradicts it.

mod date_evidence;
mod date_order;
mod date_shape;
mod evidence;
mod number_evidence;
mod written_date;

pub use date_evidence::DateEvidence;
pub(crate) use date_evidence::{At, DateSigns};
pub use date_order::DateOrder;
pub(crate) use date_order::shown;
pub use date_shape::DateShape;
pub use evidence::{Evidence, Example, Reading, Verdict};
pub use number_evidence::NumberEvidence;
pub(crate) use number_evidence::{Marks, bare_figures};
pub(crate) use written_date::{WrittenDate, WrittenTime};
