//! A run is prepared: everything that can be settled before the first row is settled.
//!
//! ```text
//! job       what a run is given; the plan is compiled
//! readings  how columns are to be read where the mapping does not say: what their values prove
//! gathering what the rows say about how fields are to be read
//! units     which unit numbers are in: what speaks of it, and what is open
//! unit_columns  columns beside numbers whose cells name the unit of each row's
//! attempts  work begun anew where later rows ask for more evidence
//! corrected corrections found again in the sources and put into their rows
//! earlier   what the same records had in an earlier batch
//! held      what the target holds, read from its lists
//! own_layout  a list in the target's own layout: which of its columns is which field
//! combining  rows of one key made one record, before the run
//! sent_before  what became of the records in batches before
//! notice    what is noticed before the first row
//! ```

mod attempts;
mod combining;
pub(crate) mod corrected;
pub(crate) mod earlier;
mod gathering;
pub(crate) mod held;
pub(crate) mod job;
pub(crate) mod notice;
mod own_layout;
pub(crate) mod readings;
pub(crate) mod sent_before;
mod unit_columns;
mod units;
