//! Evidence: what in the data proves a reading, and what contradicts it.

mod date_order;
mod written_date;

pub(crate) use date_order::shown;
pub use date_order::{DateOrder, DateOrderEvidence, DateOrderUndecided, OrderCount};
pub(crate) use written_date::{WrittenDate, WrittenTime};
