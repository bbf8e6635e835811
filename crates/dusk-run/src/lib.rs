//! The run itself: a streaming pipeline from sources to upload files and receipt.
//!
//! ```text
//! preparing  the plan is compiled, readings are proven, corrections are found
//! running    blocks are conformed in parallel; an ordered end brings them together
//! written    the batch folder and the files in it
//! asked      explain, trial, review, settling, and the batches that were made
//! ```

mod asked;
mod preparing;
mod running;
mod written;

pub use asked::accepting::Accepting;
pub use asked::compare::{ComparedWanted, HeldComparison};
pub use asked::explain::{ExplainedRecord, Explanation, RecordBeside, explain};
pub use asked::first_rows::FirstRows;
pub use asked::history::{ASIDE, Lineage, News, PastBatch, Since, note_elsewhere, past_batches};
pub use asked::kinds::{RowsAmiss, RowsTaken};
pub use asked::leaving_out::{LeavingOut, LeftRecord};
pub use asked::listed::{FoundByKey, KeyMatch, ListedRow, key_match};
pub use asked::picture::{FieldExample, FieldShown, examples};
pub use asked::review::{Review, ReviewRow};
pub use asked::saved::{SavedMapping, learnt_headings, saved_mappings};
pub use asked::settle::{Likely, Settle};
pub use asked::showing::Thing;
pub use asked::sign_off::{SignedRecord, is_sign_off, read_sign_off, write_leaving_out, write_sign_off};
pub use asked::trial::{Trial, TrialRow, Wanted, try_rows};
pub use asked::uploaded::{FollowUp, Uploaded, write_follow_up};
pub use preparing::corrected::{CorrectionCounts, CorrectionFate, FoundCorrection, apply_corrections};
pub use preparing::held::{held_cells, read_held};
pub use preparing::job::{Demands, Job, Ready, ToldBeside};
pub use preparing::sent_before::{SentBefore, SentFate, SentRecord, WithheldCounts};
pub use running::beside::BesideCounts;
pub use running::compared::{ComparedFacts, ComparedField, ComparedKind, ComparedRecord, FieldChanges};
pub use running::field_totals::{FieldTotal, totalled};
pub use running::summary::{AgainCounts, BatchLimit, Summary, Totals};
pub use written::by_group::{GroupCause, GroupFacts, GroupRow};
pub use written::changes::ChangeKind;
pub use written::folder::{BatchFolder, next_batch};
pub use written::leftovers::{Leftover, sweep};
pub use written::pages::{BatchFacts, GroupPageMaker, PageMaker};
pub use written::receipt::{Receipt, ReceiptHeld, ReceiptList, ReceiptLoaded};
pub use written::writer::{MadeBatch, NewBatch, write_batch};

pub(crate) use asked::explain::{explained_records, named};
pub(crate) use preparing::sent_before::{Beforehand, Withheld};
pub(crate) use running::block::{Again, BlockWorker, Conformed, RowFate};
pub(crate) use running::ordered::OrderedEnd;
pub(crate) use running::sink::{Compared, NotSent, Nowhere, Place, Removal, Sent, Sink};
pub(crate) use running::value_lists::ValueLists;
pub(crate) use written::changes::ChangeCounts;
pub(crate) use written::lists::FindingsList;
pub(crate) use written::records::RecordFiles;
pub(crate) use written::upload::UploadFiles;
