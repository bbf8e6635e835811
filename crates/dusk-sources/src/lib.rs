//! A source: bytes become text, text becomes rows of cells.
//!
//! ```text
//! survey     the bytes of a file looked over once
//! encoding   bytes → text, by a mark, by proof or by what the mapping says
//! alphabets  whether a text can be words, and which languages have its letters
//! settings   what a mapping says of how its source is read
//! settled    the encoding and the delimiter, where it says nothing: proven or asked about
//! delimiter  which character parts the cells, by proof or by what the mapping says
//! recurring  marks that nobody expects, offered where they recur on every line
//! dialect    how cells are parted and quoted
//! header     which row holds the headings, and a name of its own for each column
//! rows       text → rows of cells (RFC 4180 and its everyday variants)
//! row_cells  one row: its cells, and where it stands
//! sheets     whole sheets with the place of every cell, for what a target's owner supplies
//! columns    a few columns of a file that stands beside the work
//! position   a column of fixed-width text, as the mapping names it
//! fixed_width  fixed-width text cut into cells, and the columns that shared blanks tell
//! record_file  a file of records, where a source is one
//! offered    what the lines of a text offer where no delimiter is proven
//! packed     packed exports, and several in one place
//! across     records laid across columns → rows of cells
//! opened     a source whose reading is settled, ready to be read as often as needed
//! blocks     the file read once more, cut into blocks of whole rows
//! source_file  the file of a source, held to be the same to the end
//! patch      corrected cells put into the rows, as if the source had them
//! cell_hash  what a row is recognised by when it has moved
//! ```

mod across;
mod alphabets;
mod blocks;
mod cell_hash;
mod columns;
mod delimiter;
mod dialect;
mod encoding;
mod fixed_width;
mod header;
mod marks;
mod offered;
mod opened;
mod packed;
mod patch;
mod pipeline;
mod position;
mod record_file;
mod recurring;
mod row_cells;
mod rows;
mod settings;
mod settled;
mod sheets;
mod source_file;
mod survey;
mod walk;

pub use pipeline::{Progress, Threads, Tray, in_order};

pub use blocks::{Block, Blocks};
pub use columns::{WantedColumns, each_row, rows_where};
pub use dialect::Dialect;
pub use dusk_records::{RecordChoice, RecordFacts};
pub use encoding::{EncodingChoice, encoding_by_mark, encoding_named};
pub use header::has_no_heading;
pub use opened::Source;
pub use packed::{leads_to_a_file, sources_in};
pub use position::Position;

pub use patch::{Patch, Patches, cannot_hold};

pub use cell_hash::CellHash;
pub use delimiter::NO_DELIMITER;
pub use row_cells::{Rejoined, RowCells};
pub use rows::{RowBuffers, Rows};
pub use settings::{Known, SourceSettings};
pub use sheets::{MOST_ROWS, Sheet, corners, sheets};

pub use dusk_workbooks::{
    ABOVE_UNKNOWN, CellCheck, CellKind, CellLook, DAMAGED_RECORD, FROM_ABOVE, Limits, MOST_GROUPS, Program,
    READING_THREAD, STAYS_BLANK, SheetChoice, WorkbookFacts, group_mark, group_of, read_apart, serve,
    without_marks,
};
pub use source_file::SourceIdentity;
pub use walk::Walk;
