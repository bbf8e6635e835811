//! Record files become rows of cells: each record a row, each value under its path.
//!
//! A file is read twice, record by record: once for the paths that its records have, once to write them into a temporary
//! delimited file of the program's own, as sheets are, so that everything after it works as for any other source. A
//! record takes a bounded part of the memory, however long the file is.
//!
//! ```text
//! format        what kind of record file it is
//! decoded       the file as UTF-8
//! json          JSON documents and JSON Lines
//! xml           XML documents
//! iso2709       bibliographic records, in binary form
//! tagged_lines  the same as lines of text
//! by_indicator  fields that mean different things by their indicators
//! met           what comes by of a file, and what of it is refused
//! node          one record as a tree, and the rows that it makes
//! whole_record  bibliographic records as they stand, in which fields are set or added
//! noticed       how a file is to be read, and what is noticed about it
//! chosen_list   which list is meant
//! unpack        its columns, and its rows
//! ```

mod by_indicator;
mod chosen_list;
mod decoded;
mod format;
mod iso2709;
mod json;
mod met;
mod node;
mod noticed;
mod tagged_lines;
mod unpack;
mod whole_record;
mod xml;

pub use format::{RecordFormat, format_of};
pub use noticed::{RecordChoice, RecordFacts};
pub use unpack::{Unpacked, unpack};
pub use whole_record::{FieldPart, FieldPath, NEW_LEADER, RecordBytes, WholeRecord};
