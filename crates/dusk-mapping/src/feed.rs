//! Where a field's value comes from: one column or several, put together or taken apart, another
//! file, or the mapping itself.

use std::sync::Arc;

use super::LookUp;
use dusk_description::Expression;
use dusk_files::Template;

/// What stands for the repeat's own label in the headings of columns that repeat.
pub const NUMBER_MARK: &str = "{n}";

/// Where a field's value comes from.
#[derive(Debug, Clone)]
pub enum Feed {
    /// A column.
    Column(String),
    /// A column of numbers, and the one that names the unit of each.
    InUnits(String, String),
    /// The same text in every record, with asked values in braces.
    Constant(Template),
    /// Several columns, with text between them.
    Join(Template),
    /// The first of several columns that is not blank.
    FirstOf(Vec<String>),
    /// The first, second … of those of several columns that are not blank, so that blank ones leave no gap.
    Filled {
        /// The columns, in order.
        columns: Vec<String>,
        /// Which of those that are not blank, from 1.
        nth: usize,
        /// No other field takes those behind it.
        is_last: bool,
        /// What stands between those that are left over, where the last one takes them as well.
        rest: Option<String>,
    },
    /// A number that is reckoned from those of several columns.
    WorkedOut(Arc<WorkedOut>),
    /// Several columns, those that are blank left out.
    Together(Vec<String>),
    /// A code for each column of true and false that says true.
    Flags(Vec<(String, String)>),
    /// A value of another file, found by columns of the source.
    LookUp(Arc<LookUp>),
    /// The label of the repeat that the record is of, where a row has several.
    Number,
    /// The name of the group that the row is of.
    Group,
}

impl Feed {
    /// The headings of the columns that feed it, in order.
    pub fn columns(&self) -> Vec<&str> {
        match self {
            Self::Column(name) => vec![name],
            Self::InUnits(name, unit) => vec![name, unit],
            Self::Join(template) => template.names().collect(),
            Self::WorkedOut(worked_out) => worked_out.columns.iter().map(String::as_str).collect(),
            Self::Filled { columns: names, .. } | Self::FirstOf(names) | Self::Together(names) => {
                names.iter().map(String::as_str).collect()
            }
            Self::Flags(flags) => flags.iter().map(|(name, _)| name.as_str()).collect(),
            Self::LookUp(look_up) => look_up.by.iter().map(|(name, _)| name.as_str()).collect(),
            Self::Constant(_) | Self::Number | Self::Group => Vec::new(),
        }
    }
}

/// How a number is reckoned from columns.
#[derive(Debug)]
pub struct WorkedOut {
    /// As the mapping has it.
    pub written: String,
    /// What is reckoned; its names are places in `columns`.
    pub expression: Expression,
    /// The columns, each once.
    pub columns: Vec<String>,
}

/// A row of the source that makes several records: one for each repeat of columns that repeat.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Repeat {
    /// What stands for `{n}` in the headings of each repeat.
    pub numbers: Vec<String>,
    /// Repeats are numbered 1, 2, 3 as they are met in a row, instead of by their labels.
    pub in_order: bool,
    /// The numbers of each group of fields, where groups have different ones.
    pub of_groups: Vec<(String, Vec<String>)>,
    /// The columns of these groups, each with its group's place among them.
    pub group_columns: Vec<(String, usize)>,
}

impl Repeat {
    /// What stands for `{n}` in the headings of a column.
    pub fn numbers_for(&self, heading: &str) -> &[String] {
        let group = self.group_columns.iter().find(|(column, _)| column == heading);
        group.and_then(|(_, place)| self.of_groups.get(*place)).map_or(&self.numbers, |(_, numbers)| numbers)
    }

    /// The headings that a column has in the source: one for each repeat.
    pub fn headings_of(&self, heading: &str) -> Vec<String> {
        self.numbers_for(heading).iter().map(|number| Self::heading(heading, number)).collect()
    }

    /// The heading of one repeat.
    pub fn heading(heading: &str, repeat: &str) -> String {
        heading.replace(NUMBER_MARK, repeat)
    }
}

/// What becomes of a record whose key another record has already.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum SameKey {
    /// It is rejected.
    #[default]
    Reject,
    /// It goes into the other one if it says the same in every field; otherwise it is rejected.
    Merge,
    /// The first one is kept.
    First,
    /// The last one is kept.
    Last,
    /// The one with the fewest blanks is kept, the first of several.
    Fullest,
    /// They are put together field by field; where two say different things, all of them are rejected.
    Combine,
}

impl SameKey {
    /// The words of the mapping.
    pub const WORDS: [(&'static str, Self); 6] = [
        ("reject", Self::Reject),
        ("merge", Self::Merge),
        ("first", Self::First),
        ("last", Self::Last),
        ("fullest", Self::Fullest),
        ("combine", Self::Combine),
    ];

    /// Whether all rows of a key have to be seen before the first of them is judged.
    pub fn needs_all_rows(self) -> bool {
        !matches!(self, Self::Reject | Self::Merge)
    }
}
