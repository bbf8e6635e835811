//! A record's cells become the target's fields.
//!
//! ```text
//! plan     target and mapping compiled once, everything that can be settled is settled
//! shape    how a row stands to the header: whole, split, torn, or no record
//! fit      whether a row can become records
//! changed  what was changed in a record, told apart and conformed again
//! record   the cells of one row, in the order in which fields need one another
//! stood, current  what became of the fields of the record at hand, wherever that is kept
//! raw_value, record_findings  a field's raw value from its cells; what is found in a record
//! several  a value from several cells, and one part of a cell
//! above    what stands above a blank cell
//! outcome  what goes into the conforming of a value beside it, and what comes out
//! cell     one value, step by step: put together, cleaned, converted, checked, written
//! types    what each type of field makes of a value, its limits, how it is written
//! combined  rows of one key that become one record
//! beside, beside_findings, beside_sent  what a record is beside those that the target holds; what is to be said of it;
//!          what is sent for that
//! at_once, date_at_once, taken_at_once  values that are told at once: which, and how they are taken
//! byte_classes  what the bytes of a text ask for
//! clean    text: white space, hidden characters, separate accents, wrong decoding
//! clocks   times of one clock as another shows them
//! number, date, date_part, boolean, code  values of one kind, read and written
//! date_form  a part of a date for a field that holds no date
//! memo     values met before, so that a cell costs little when it repeats
//! met      what was met in a column, to tell next month what is new
//! digits   digits that a spreadsheet program took away
//! step     what was done to a value, and on what evidence
//! translations  the crosswalk of a field, and which of its lines were used
//! value_plan  what is settled about a field's values, and what becomes of one that nothing matches
//! ```

mod above;
mod at_once;
mod beside;
mod beside_findings;
mod beside_sent;
mod boolean;
mod byte_classes;
mod cell;
mod changed;
mod clean;
mod clocks;
mod code;
mod combined;
mod current;
mod date;
mod date_at_once;
mod date_form;
mod date_part;
mod digits;
mod fit;
mod memo;
mod met;
mod number;
mod outcome;
mod plan;
mod raw_value;
mod record;
mod record_findings;
mod remembered;
mod several;
mod shape;
mod step;
mod stood;
mod taken_at_once;
mod translations;
mod types;
mod value_plan;

pub use dusk_held::{KeyHash, Keys};
pub use types::check_limits;

pub use above::{Above, AboveCells};
pub use beside::{Beside, Difference};
pub use cell::shown_source;
pub use changed::{ChangeKey, Changes, Single};
pub use combined::{Combined, CombinedRow};
pub use fit::Fit;
pub use met::{Decades, MetInField, NewlyMet, Percents};
pub use outcome::{Outcome, Told};
pub use plan::{Bound, FieldPlan, Input, Plan, PlannedRepeat, Proven};
pub use record::{Conformer, Judged, Parent};
pub use several::{JoinPiece, Several};
pub use shape::Shape;
pub use step::{Basis, BesideBasis, DateBasis, HowRead, LaidOut, Lost, Step, Taken, Trail};
