//! The work of Dusk Button without an interface: read an export, conform it to a target's
//! template and dictionary, validate every record, and produce a batch.
//!
//! The folders follow the data:
//!
//! | module | what happens there |
//! |---|---|
//! | [`value`] | exact numbers, units, dates and their written forms |
//! | [`files`] | the steward's own files are read, and everything wrong with them is said at once |
//! | [`source`] | bytes become text, text becomes rows of cells |
//! | [`inspect`] | evidence: what in the data proves a reading |
//! | [`target`] | the data dictionary, its code lists and the layout of the upload file |
//! | [`mapping`] | which columns feed which fields, and how |
//! | [`conform`] | a record's cells become the target's fields |
//! | [`validate`] | limits, keys and rules |
//! | [`finding`] | what was noticed, and the causes it comes down to |
//! | [`correct`] | remembered translations |
//! | [`database`] | typed tables: what they are made of |
//! | [`batch`] | the run itself, from source to upload files and receipt |
//!
//! Nothing here prints, reads arguments or knows a clock: "today" is an input.

pub mod batch;
pub mod conform;
pub mod correct;
pub mod database;
mod error;
pub mod files;
pub mod finding;
pub mod inspect;
pub mod mapping;
pub mod source;
pub mod target;
pub mod validate;
pub mod value;

pub use error::{Error, Result};
