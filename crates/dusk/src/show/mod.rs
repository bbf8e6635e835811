//! What people see in the terminal, and what programs get instead.

mod answered;
mod as_file;
mod batches;
mod causes;
mod choice;
mod compared;
mod corrections;
mod crosswalks;
mod delivered;
mod digest;
mod drafted;
mod field_totals;
mod inspection;
mod json;
mod layout;
mod leaving_out;
mod life;
mod made;
mod mapped;
mod picture;
mod progress;
mod records;
mod report;
mod round;
mod saved;
mod status;
mod style;
mod table;
mod target;
mod text_table;
mod totals;
mod tried;
mod visible;

pub(crate) use answered::{AnswerShown, answer_json};
pub(crate) use as_file::FileText;
pub(crate) use batches::{AfterBatch, BatchRow, batch_table, rows_with_key, show_batch};
#[cfg(feature = "review")]
pub(crate) use causes::in_one_line;
pub(crate) use causes::{
    CausesShown, cause_label, cause_says, cause_short_label, mapping_option, settle_command,
};
pub(crate) use choice::{ANSWERS, Choice, bold, quiet};
pub(crate) use compared::{
    ComparedShown, compared_head_json, compared_record_json, field_label, shown_value,
};
pub(crate) use corrections::{changes_json, changes_table, corrections_json, corrections_table};
pub(crate) use crosswalks::crosswalk_table;
pub(crate) use delivered::{confirmed_lines, delivered_lines};
pub(crate) use digest::Digest;
pub(crate) use drafted::{show_drafted, show_question};
pub(crate) use field_totals::{field_totals, total_words};
pub(crate) use inspection::{Look, Opened};
pub(crate) use json::{life_json, report_json, totals_json};
pub(crate) use layout::{counted, cut, grouped, wrapped, wrapped_page};
pub(crate) use leaving_out::{leaving_out_json, leaving_out_lines};
pub(crate) use life::Life;
pub(crate) use made::BatchShown;
pub(crate) use mapped::Mapped;
pub(crate) use picture::Picture;
pub(crate) use progress::{Bar, waiting};
pub(crate) use records::how_read;
pub(crate) use report::{Report, show_drift};
pub(crate) use round::{Step, round_lines, round_page};
pub(crate) use saved::{SavedShown, saved_table};
pub(crate) use status::StatusShown;
pub(crate) use style::failure;
pub(crate) use table::SimpleTable;
#[cfg(feature = "review")]
pub(crate) use target::field_entry;
pub(crate) use target::{code_table, field_heading, field_table, hit_table};
pub(crate) use totals::Totals;
pub(crate) use tried::Tried;
pub(crate) use visible::{escaped_json, on_screen, shell_word, visible};
