//! What becomes of a batch once it is made: somebody approves it, it is delivered, the target answers, what was refused
//! is mended and sent again, and the target's own counts prove that everything arrived.
//!
//! ```text
//! events    what happened to a batch since it was made, who did it and when
//! stage     how far it has come
//! decide    somebody says that it may go, or may not
//! sent      the records that it has sent, found again by line, number or key
//! answer    what the target says of them
//! deliver   its upload files handed over, once, however often that is tried
//! confirm   the target's own counts, sums and list held against what was sent
//! numbers   the numbers that the target gave, kept beside the mapping
//! round     mappings that belong together, parents before children, and how far each has come
//! chain     what became of the records of all batches that follow one another
//! ```

mod answer;
mod chain;
mod confirm;
mod decide;
mod deliver;
mod events;
mod numbers;
mod round;
mod sent;
mod stage;

pub use answer::counts::{AnswerCounts, ToldCounts};
pub use answer::draft::draft_answer;
pub use answer::drafted::DraftedAnswer;
pub use answer::finding::{AnswerFinding, AnswerWrong};
pub use answer::kept::kept_answer;
pub use answer::line::AnswerLine;
pub use answer::read::{AnswerRead, read_answer};
pub use answer::reasons::{AnswerReason, reasons};
pub use answer::record::{Answered, Answering, take_answer};
pub use answer::told::{Told, ToldRecords};
pub use chain::{Chain, ChainCounts, SourceNow};
pub use confirm::{Against, Claims, Confirmed, confirm};
pub use decide::{Doer, approve, turn_down};
pub use deliver::carrier::{Carrier, FileToSend, Handed};
pub use deliver::drop_folder::{DropCarrier, Dropped};
pub use deliver::hand_over::{Delivering, FileDelivered, deliver, key_of};
pub use deliver::http::HttpCarrier;
pub use events::{BatchEvent, EventList, Happened, events};
pub use numbers::{NumbersKept, keep_numbers, numbers_path};
pub use round::{Round, RoundStep, StepState, step_state};
pub use sent::{SentOne, SentRecords};
pub use stage::{Stage, last_of_file, stage, upload_files};
