//! What is asked of a run, besides its batch.
//!
//! ```text
//! explain   the life of a row, step by step
//! showing   what rows show, and the few that show all of it
//! trial     the telling rows, before and after
//! compare   an export against what the target holds
//! sign_off  the workbook in which somebody says yes or no to each record
//! first_rows the few rows that are sent first
//! accepting how many rows each field of a mapping accepts
//! picture   the mapping on real rows, a value before and after
//! review    the rejected rows kept at hand, judged again after each decision
//! kinds     several kinds of row in one export, each with a mapping of its own
//! leaving_out which records to leave out where a limit is passed
//! listed    rows found again by a key, or by a line of an upload
//! uploaded  the upload files of a batch read back
//! settle    how a cause would be settled: the likely answers, and where to give them
//! history   the batches that were made, and what is new since
//! saved     the mappings of a folder: which an export fits, when each was used last
//! ```

pub(crate) mod accepting;
pub(crate) mod compare;
pub(crate) mod explain;
pub(crate) mod first_rows;
pub(crate) mod history;
pub(crate) mod kinds;
pub(crate) mod leaving_out;
pub(crate) mod listed;
pub(crate) mod picture;
pub(crate) mod review;
pub(crate) mod saved;
pub(crate) mod settle;
pub(crate) mod showing;
pub(crate) mod sign_off;
pub(crate) mod trial;
pub(crate) mod uploaded;
