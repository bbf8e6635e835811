//! The work of Dusk Button without an interface: read an export, conform it to a target's
//! template and dictionary, validate every record, and produce a batch.
//!
//! This is the front door: each layer is a crate of its own, in the order of the data, and names only
//! those above it in this table.
//!
//! | layer | what happens there |
//! |---|---|
//! | [`values`] | exact numbers, units, dates and their written forms |
//! | [`evidence`] | where something stands, what the data proves, what was noticed, why work cannot go on |
//! | [`sources`] | bytes become text, text becomes rows of cells |
//! | [`files`] | the files that a steward keeps are read and written, and everything wrong with them is said at once |
//! | [`database`] | typed tables: what they are made of, and rows put into them |
//! | [`description`] | the target: its fields, its code lists, its rules and the layout of the upload file |
//! | [`held`] | the records that the target holds: found again by their keys, compared by what they mean |
//! | [`inspecting`] | what a source is, and what has happened to its values |
//! | [`drafting`] | a description drafted from what the target's owner supplies |
//! | [`decisions`] | crosswalks and corrections |
//! | [`mapping`] | which columns feed which fields, and how; what is new since last time |
//! | [`memory`] | what a batch remembers of its records, and what of the next export is unlike it |
//! | [`proposing`] | which column may feed which field, with reasons |
//! | [`conforming`] | a record's cells become the target's fields, within their limits |
//! | [`rejects`] | rejected rows handed out and brought back |
//! | [`run`] | the run itself, from source to upload files and receipt, and what is asked of it |
//! | [`practice`] | a practice target: a stand-in that takes upload files and behaves as targets do |
//! | [`delivery`] | what becomes of a batch once it is made: approval, delivery, the target's answer, the rest, the proof |
//!
//! Nothing here prints, reads arguments or knows a clock: "today" is an input.

pub use dusk_conforming as conforming;
pub use dusk_database as database;
pub use dusk_decisions as decisions;
pub use dusk_delivery as delivery;
pub use dusk_description as description;
pub use dusk_drafting as drafting;
pub use dusk_evidence as evidence;
pub use dusk_evidence::{Error, Result};
pub use dusk_files as files;
pub use dusk_held as held;
pub use dusk_inspecting as inspecting;
pub use dusk_mapping as mapping;
pub use dusk_memory as memory;
pub use dusk_practice as practice;
pub use dusk_proposing as proposing;
pub use dusk_rejects as rejects;
pub use dusk_run as run;
pub use dusk_sources as sources;
pub use dusk_values as values;
