//! What the commands are given that go on with a batch once it is made.

use std::path::PathBuf;

use clap::Args as ClapArgs;

use super::complete::{batches, fields_to_set};
use super::{Format, day, name_and_value};
use jiff::civil::Date;

/// Which batch, and who does something with it.
#[derive(Debug, Clone, ClapArgs)]
pub(crate) struct BatchArgs {
    /// The mapping; its batches stand in a folder "batches" beside it.
    #[arg(short, long, value_name = "FILE", default_value = "mapping.toml")]
    pub(crate) mapping: PathBuf,

    /// Who does it; your user name where it is not given.
    #[arg(long, value_name = "NAME")]
    pub(crate) by: Option<String>,

    /// The day, as yyyy-MM-dd; the moment of the machine's clock where it is not given.
    #[arg(long, value_name = "DATE", value_parser = day)]
    pub(crate) today: Option<Date>,
}

/// What `approve` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct ApproveArgs {
    /// The batch, by its name or its folder.
    #[arg(value_name = "BATCH", add = batches())]
    pub(crate) batch: String,

    /// What is to be remembered with it.
    #[arg(long, value_name = "TEXT", default_value = "")]
    pub(crate) note: String,

    #[command(flatten)]
    pub(crate) of: BatchArgs,
}

/// What `turn-down` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct TurnDownArgs {
    /// The batch, by its name or its folder.
    #[arg(value_name = "BATCH", add = batches())]
    pub(crate) batch: String,

    /// Why it may not go.
    #[arg(long, value_name = "TEXT")]
    pub(crate) why: String,

    #[command(flatten)]
    pub(crate) of: BatchArgs,
}

/// What `answer` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct AnswerArgs {
    /// The batch, by its name or its folder; with --draft the last one where only a file is named.
    #[arg(value_name = "BATCH", add = batches())]
    pub(crate) batch: String,

    /// What the target said: a delimited file, a workbook, JSON, or lines of text. Where none is named, the target is
    /// asked, or its folder of answers looked into, as [delivery] says.
    #[arg(value_name = "FILE")]
    pub(crate) file: Option<PathBuf>,

    /// Propose how such answers are read, as [answer] for target.toml; nothing is recorded.
    #[arg(long, conflicts_with_all = ["replace", "look", "upload"])]
    pub(crate) draft: bool,

    /// The upload file that the answer is about, where the batch has several and the answer does not name it.
    #[arg(long = "file", value_name = "NAME")]
    pub(crate) upload: Option<String>,

    /// Take this answer in the place of those before it.
    #[arg(long)]
    pub(crate) replace: bool,

    /// Only show what it says; nothing is recorded.
    #[arg(long)]
    pub(crate) look: bool,

    #[command(flatten)]
    pub(crate) of: BatchArgs,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: Format,
}

/// What `deliver` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct DeliverArgs {
    /// The batch, by its name or its folder.
    #[arg(value_name = "BATCH", add = batches())]
    pub(crate) batch: String,

    /// You have seen that the target has this upload file: its delivery was broken off, or you uploaded it by hand.
    #[arg(long, value_name = "FILE")]
    pub(crate) is_there: Vec<String>,

    /// You have seen that the target does not have this upload file, although its delivery was begun. It is sent again.
    #[arg(long, value_name = "FILE")]
    pub(crate) is_not_there: Vec<String>,

    #[command(flatten)]
    pub(crate) of: BatchArgs,

    /// How to print the result.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub(crate) format: Format,
}

/// What `follow-up` is given.
#[derive(Debug, ClapArgs)]
pub(crate) struct FollowUpArgs {
    /// The batch, by its name or its folder; a day, where one batch was made on it; or a value that its run was given.
    #[arg(value_name = "BATCH", add = batches())]
    pub(crate) batch: String,

    /// Set a field of all records to a value. May be given several times.
    #[arg(long = "field", value_name = "NAME=VALUE", value_parser = name_and_value, required_unless_present = "remove", add = fields_to_set())]
    pub(crate) fields: Vec<(String, String)>,

    /// Tell the target to remove the records.
    #[arg(long, conflicts_with = "fields")]
    pub(crate) remove: bool,

    #[command(flatten)]
    pub(crate) of: BatchArgs,
}
