//! The run itself: a streaming pipeline from sources to upload files and receipt.
//!
//! ```text
//! corrected corrections found again in the sources and put into their rows
//! earlier   what the same records had in an earlier batch
//! job       what a run is given; the plan is compiled
//! readings  how columns are to be read where the mapping does not say: what their values prove
//! evidence  what the column of a field says about how it is read, and what it leaves open
//! notice    what is noticed before the first row
//! pipeline  blocks of rows, worked on in parallel, handed on in order
//! block     one block conformed, on a worker's thread
//! run       a whole run
//! summary   what it comes to
//! ordered   its ordered end: keys, totals, and everything handed to a sink
//! exchanged columns that a rule shows to be exchanged
//! review    the rejected rows kept at hand, judged again after each decision
//! settle    how a cause would be settled: the likely answers, and where to give them
//! sink      who takes the results: a tally only, one row's findings, or a batch folder
//! history   the batches that were made, and what is new since
//! folder    a folder that appears whole or not at all
//! output    a file of it, hashed while it is written
//! picture   the mapping on real rows, a value before and after
//! trial     the telling rows, before and after
//! upload    the upload files, split as the target demands
//! lists     findings.csv and rejects.csv
//! changes   changes.csv: every distinct change, counted in bounded memory
//! receipt   receipt.json
//! ```

mod block;
mod changes;
mod corrected;
mod earlier;
mod evidence;
mod exchanged;
mod explain;
mod folder;
mod history;
mod job;
mod lists;
mod new_values;
mod notice;
mod ordered;
mod picture;
pub(crate) mod pipeline;
mod readings;
mod receipt;
mod review;
mod run;
mod settle;
mod sheet;
mod sink;
mod summary;
mod trial;
mod upload;
mod writer;

pub use changes::ChangeKind;
pub use corrected::{CorrectionCounts, Found, FoundCorrection, apply_corrections};
pub use evidence::{FieldEvidence, Undecided};
pub use explain::{ExplainedRecord, Explanation, explain};
pub use folder::{BatchFolder, next_batch};
pub use history::{ASIDE, PastBatch, Since, last_of, made_before, past_batches};
pub use job::{Demands, Job, Ready};
pub use picture::{FieldExample, examples};
pub use pipeline::Progress;
pub use receipt::Receipt;
pub use review::{Review, ReviewRow};
pub use settle::{Likely, Settle};
pub use summary::{Summary, Totals};
pub use trial::{Thing, Trial, TrialRow, Wanted, try_rows};
pub use writer::{BatchFacts, Made, NewBatch, PageMaker, write_batch};
