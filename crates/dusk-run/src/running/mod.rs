//! A run runs: blocks of rows are conformed in parallel, and their results come together in order.
//!
//! ```text
//! run        a whole run
//! all_rows   what is judged once all rows are known: rules over many records, files that no record names
//! beforehand what the records of a row are beside those that batches before have sent
//! beside     which held records the rows are, and how many of each kind there are
//! compared   records beside the held ones, one by one, and how often each field changes
//! field_totals  what the sent records come to, field by field
//! block      one block conformed, on a worker's thread
//! given      what a worker gave for each record
//! kept_from  why a row that is right by itself does not go in
//! ordered    the ordered end: keys, totals, and everything handed to a sink
//! exchanged  columns that a rule shows to be exchanged
//! keys_offered keys of the mapping that might let values in
//! keys_tried keys of the mapping that would let many values in
//! effects    what changed mappings would make of the values of fields, in all rows
//! row_numbers  the number of every row in a whole batch
//! rows_above what stands above the rows of a block, where columns are filled down
//! sampled    records taken into the sample that a batch remembers
//! value_lists values that the target does not hold yet, and those that were decided on
//! table      the table that is loaded, in which every record is tried
//! summary    what a run comes to
//! sink       who takes the results: a tally only, one row's findings, or a batch folder
//! ```

mod all_rows;
mod beforehand;
pub(crate) mod beside;
pub(crate) mod block;
pub(crate) mod compared;
mod effects;
pub(crate) mod exchanged;
pub(crate) mod field_totals;
pub(crate) mod given;
pub(crate) mod kept_from;
mod keys_offered;
pub(crate) mod keys_tried;
pub(crate) mod ordered;
pub(crate) mod row_numbers;
pub(crate) mod rows_above;
pub(crate) mod run;
pub(crate) mod sampled;
pub(crate) mod sink;
pub(crate) mod summary;
pub(crate) mod table;
pub(crate) mod value_lists;
