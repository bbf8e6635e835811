//! The vocabulary that the layers above speak: where something stands, what the data proves, what was noticed,
//! what it comes down to, and why work cannot go on.

mod cause;
mod causes;
mod claim;
mod disk_space;
mod error;
mod evidence;
mod fact;
mod finding;
mod grounds;
mod ids;
mod kind;
mod position;
mod problem;
mod undecided;
mod wording;

pub use cause::{Cause, CausePlace, ColumnCause, ColumnFact, Explains, Way, is_one_decision};
pub use causes::{Causes, KindOfField, RankedCauses};
pub use claim::{Claim, ColumnClaim};
pub use disk_space::room_on_disk;
pub use error::{Error, Refusal, Result, plain_reason};
pub use evidence::{Evidence, Example, Reading, Verdict};
pub use fact::{
    Before, Choices, CodeFact, CodeWords, DateFact, DateWanted, EarlierRecord, Fact, Fate, HeadedValue,
    HeldAt, Missing, NamedCode, NotThere, NumberFact, NumberMarks, RecordFact, RowFact, TextFact, UploadFact,
    WhyOpen,
};
pub use finding::{Fault, Finding, THE_ROW};
pub use grounds::{Grounds, Holding, Share};
pub use ids::{ById, ColumnId, FieldId, Id, Slot, SourceId};
pub use kind::{Grouping, Kind, SettledBy, Severity};
pub use position::{Line, Row};
pub use problem::{Problem, Problems};
pub use undecided::{FieldEvidence, Undecided, Unproven};
pub use wording::decided;
