//! Rejected rows handed out to be edited in any spreadsheet program, and brought back.
//!
//! ```text
//! layout        which columns stand where, in both files alike
//! list          rejects.csv
//! workbook      rejects.xlsx
//! read_back     an edited file of either kind
//! manner        how a program rewrote a column by itself
//! typed         what spreadsheet programs make of texts
//! columns_back  what became of whole columns
//! compare       what was changed in it, and whether that can be taken back
//! ```

mod columns_back;
mod compare;
mod layout;
mod list;
mod manner;
mod read_back;
mod typed;
mod workbook;

pub use compare::{ChangedCell, Compared, Comparison, compare};
pub use layout::{RejectLayout, RejectedRow};
pub use list::RejectsList;
pub use read_back::{BackRow, BroughtBack, holds_rejects, is_rejects, read_back};
pub use workbook::{Choices, RejectsBook};
