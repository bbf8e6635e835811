//! Rejected rows handed out to be edited in any spreadsheet program, and brought back.
//!
//! ```text
//! layout        which columns stand where, in both files alike
//! list          rejects.csv
//! workbook      rejects.xlsx
//! offers        its drop-downs
//! doubles       the earlier rows of those whose key is there already
//! read_back     an edited file of either kind
//! manner        how a program rewrote a column by itself
//! typed         what spreadsheet programs make of texts
//! whole_rows    whether a row that came back is whole
//! columns_back  what became of whole columns
//! changed_cell  a cell that somebody changed
//! compare       what was changed in it, and whether that can be taken back
//! ```

mod changed_cell;
mod columns_back;
mod compare;
mod doubles;
mod layout;
mod list;
mod manner;
mod offers;
mod read_back;
mod typed;
mod whole_rows;
mod workbook;

pub use changed_cell::ChangedCell;
pub use compare::{Compared, Comparison, compare};
pub use doubles::{EarlierPlaces, EarlierRows};
pub use layout::{RejectLayout, RejectedRow, Said};
pub use list::RejectsList;
pub use offers::{Choices, Inside, Offer};
pub use read_back::{BackRow, BroughtBack, holds_rejects, is_rejects, read_back};
pub use workbook::RejectsBook;
