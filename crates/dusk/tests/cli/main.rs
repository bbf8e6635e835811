//! Tests that run the built program on files in a folder of their own, and check what it prints
//! and writes.

#![allow(clippy::unwrap_used, clippy::panic, clippy::indexing_slicing, reason = "a test may fail")]

mod abuse;
mod batches;
mod browser;
mod causes;
mod compares;
mod corrections;
mod crosswalks;
mod dates;
mod delivered;
mod demo;
mod desk;
mod digits;
mod docs;
mod drafts;
mod explain;
#[path = "../../src/demo/export.rs"]
mod export;
mod findings;
mod held;
mod held_shapes;
mod hostile;
mod inspect;
mod keys;
mod layers_picture;
mod layouts;
mod listed;
mod losses;
mod mappings;
mod maps;
mod months;
mod outputs;
mod owners;
mod record_files;
mod refusals;
mod rejects_book;
mod reports;
mod results;
mod reviews;
mod rows_by_group;
mod rules;
mod saved_mappings;
mod scored;
mod shapes;
mod shells;
mod sources;
mod start;
mod status;
mod steward_files;
mod target;
mod terminal;
mod totals;
mod trials;
mod units;
mod whole_records;
mod widths;
mod words;
mod workbooks;
