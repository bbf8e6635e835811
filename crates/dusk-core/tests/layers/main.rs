//! Tests that need several layers: the laws, and whatever holds of a whole run.
//!
//! One of them alone: `cargo test -p dusk-core --test layers planted_damage`.

#![allow(
    clippy::unwrap_used,
    clippy::panic,
    clippy::indexing_slicing,
    clippy::string_slice,
    clippy::float_arithmetic,
    clippy::print_stdout,
    missing_docs,
    reason = "a test may fail, and some print what they measured"
)]

mod answers;
mod careful_mappings;
mod conforming;
mod corrections;
mod counter_checks;
mod dates_everywhere;
mod delivering;
mod descriptions;
mod desk;
mod drafting;
mod drawn;
mod encodings;
mod failing_disk;
mod headers;
mod held_types;
mod inspecting;
mod known_again;
mod laws;
mod likely;
mod listed_rows;
mod merging;
mod number_columns;
mod offers;
mod open_lists;
mod open_orders;
mod opening;
mod parts;
mod planning;
mod planted_causes;
mod planted_damage;
mod proposals;
mod record_bytes;
mod refreshing;
mod resaved;
mod review;
mod rows_by_group;
mod shapes;
mod splitting;
mod threads;
mod told_at_once;
mod typed_rejects;
mod upload_bytes;
