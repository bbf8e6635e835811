//! What a steward decided, remembered for next time.
//!
//! ```text
//! crosswalk   this source value means that code
//! correction  this cell of that row is to be read as something else
//! row_hashes  what a row is recognised by when it has moved
//! found_rows  rows looked up by their numbers or by what they hold
//! rejects     rejected rows handed out to be edited, and brought back
//! ```

mod correction;
mod crosswalk;
mod found_rows;
mod row_hashes;

pub use found_rows::{FoundRows, WantedRows, find_rows};

pub use correction::{Correction, CorrectionFile, Corrections, DOUBLE, RowHash, WHOLE_ROW, corrections_path};
pub use crosswalk::{Answer, Crosswalk, CrosswalkLine, KEEP_OUT, LEAVE_BLANK, NEW_TERM, crosswalk_path};
pub use found_rows::{ExportedRow, exported_row, is_double};
pub use row_hashes::{BEYOND, RowHashes};
