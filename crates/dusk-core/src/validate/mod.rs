//! What the target demands of a record: limits of single values, keys, and rules between fields.

mod keys;
mod limits;
mod rule;

pub use keys::{KeyPrint, Keys};
pub(crate) use limits::check_limits;
pub use rule::{Broken, RecordShare, Rule, RuleError, RuleText, Tally};
