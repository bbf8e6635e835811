//! What people see in the terminal, and what programs get instead.

mod batches;
mod causes;
mod crosswalks;
mod digest;
mod drafted;
mod inspection;
mod json;
mod layout;
mod life;
mod made;
mod mapped;
mod picture;
mod progress;
mod report;
mod style;
mod table;
mod target;
mod tried;
mod visible;

pub(crate) use batches::{batch_table, show_batch};
pub(crate) use crosswalks::crosswalk_table;
pub(crate) use digest::Digest;
pub(crate) use drafted::show_drafted;
pub(crate) use inspection::Look;
pub(crate) use json::{life_json, report_json};
pub(crate) use life::Life;
pub(crate) use made::Made;
pub(crate) use mapped::Mapped;
pub(crate) use picture::Picture;
pub(crate) use progress::{Bar, waiting};
pub(crate) use report::{Report, show_drift};
pub(crate) use style::failure;
pub(crate) use table::SimpleTable;
pub(crate) use target::{code_table, field_heading, field_table, hit_table};
pub(crate) use tried::Tried;
pub(crate) use visible::{shell_word, visible};
