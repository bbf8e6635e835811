//! What the target says of a delivery, read and joined with the records that were sent.
//!
//! ```text
//! line      one line of an answer: which record, how it went, why
//! row       a row of it by its headings
//! read      an answer read as [answer] describes: a table, a JSON document, plain lines
//! document  records and counts of a JSON document
//! told      which record each line is about, and what is wrong with lines that are about none
//! finding   what is wrong with a line, in words
//! counts    the target's own counts, held against the lines
//! kept      the answer as it stays with the batch
//! record    an answer taken into a batch, together with those before it
//! reasons   records that were refused or warned about, by the target's own words
//! draft     [answer] proposed from an answer and the batch that it is about
//! drafted   what is proposed
//! draft_lines  the same for an answer in sentences
//! words     what the words of targets say of how it went
//! ```

pub(crate) mod counts;
mod document;
pub(crate) mod draft;
mod draft_lines;
pub(crate) mod drafted;
pub(crate) mod finding;
pub(crate) mod kept;
pub(crate) mod line;
pub(crate) mod read;
pub(crate) mod reasons;
pub(crate) mod record;
mod row;
pub(crate) mod told;
mod words;
