//! What is unlike the last batch, in words.

use crate::percent;

/// What of an export is unlike the last batch. It is no proof that something is wrong.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Unlike {
    /// There are far fewer rows.
    FewRows {
        /// How many there are, and how many there were.
        rows: [u64; 2],
    },
    /// Rows of the last batch stand in this export again, as they were.
    RowsAgain {
        /// How many of the rows that were compared, and the first of them.
        again: u64,
        /// How many were compared.
        of: u64,
        /// The first of them.
        first: Option<u64>,
    },
    /// The file is in another encoding, and has letters in which that makes a difference.
    Encoding {
        /// The one it is in, and the one it was in.
        encodings: [String; 2],
    },
    /// Two columns may be exchanged: each holds what the other held.
    Exchanged {
        /// The two fields.
        fields: [String; 2],
    },
    /// Which of two values is the smaller one has turned.
    Order {
        /// The two fields.
        fields: [String; 2],
        /// In how many of a hundred records the first has the smaller value, now and before.
        less: [u64; 2],
    },
    /// Something about the values of one field.
    Field {
        /// The field.
        field: String,
        /// What.
        what: UnlikeField,
        /// The first row that shows it.
        first: Option<u64>,
    },
}

/// What of a field's values is unlike the last batch.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum UnlikeField {
    /// So many of a hundred values are rejected, now and before.
    Wrong([u64; 2]),
    /// So many of a hundred numbers are below zero, now and before.
    Signs([u64; 2]),
    /// The number in the middle, now and before, in millionths: so much larger or smaller, and all others with it.
    Size([i64; 2]),
    /// What stands before the decimals, now and before.
    Mark([char; 2]),
    /// So many of a hundred numbers lie beyond all that there were.
    Beyond(u64),
    /// So many of a hundred days lie beyond those that were to be expected.
    DaysBeyond(u64),
    /// So many of a hundred numbers have more decimals than nearly all had.
    Decimals {
        /// How many decimals nearly all had.
        had: usize,
        /// The share, now and before.
        more: [u64; 2],
    },
    /// The days lie elsewhere, or farther apart: the middle half of them, now and before, as days from the start of
    /// 1970.
    Days([(i64, i64); 2]),
    /// Values are more or less frequent than they were, by so many of a hundred records.
    Shares(u64),
    /// So many of a hundred texts are as long as the longest, which has so many characters; so many of a hundred
    /// had more.
    Cut {
        /// The length of the longest text.
        length: i64,
        /// The share of texts as long as it.
        longest: u64,
    },
    /// So many of a hundred texts begin with 0, now and before.
    Zeros([u64; 2]),
    /// So many of a hundred texts have letters outside ASCII, now and before.
    Letters([u64; 2]),
}

impl Unlike {
    /// In a sentence.
    pub fn words(&self) -> String {
        match self {
            Self::FewRows { rows: [now, before] } => {
                format!(
                    "there are {now} rows, and the last batch had {before}: the export may be a part of it"
                )
            }
            Self::RowsAgain { again, of, first } => {
                format!(
                    "{again} of {of} rows were in the last batch already, just as they are{}",
                    row(*first)
                )
            }
            Self::Encoding { encodings: [now, before] } => {
                format!("the export is in the encoding {now}, and was in {before}")
            }
            Self::Exchanged { fields: [one, other] } => {
                format!(
                    "{one} and {other}: each has the values that the other had; their columns may be exchanged"
                )
            }
            Self::Order { fields: [one, other], less: [now, before] } => format!(
                "{one} is below {other} in {now} of 100 records, and was in {before}; their columns may be exchanged, or some values wrong"
            ),
            Self::Field { field, what, first } => format!("{field}: {}{}", what.words(), row(*first)),
        }
    }
}

/// The first row, where one is known.
fn row(first: Option<u64>) -> String {
    first.map_or_else(String::new, |row| format!("; first row {row}"))
}

impl UnlikeField {
    fn words(&self) -> String {
        match self {
            Self::Wrong([now, before]) => {
                format!("{now} of 100 values are rejected, and {before} were")
            }
            Self::Signs([now, before]) => {
                format!("{now} of 100 numbers are below zero, and {before} were; the sign may be turned")
            }
            Self::Size([now, before]) => format!(
                "the numbers are {} (the middle one is {}, and was {}); they may be in another unit",
                times(*now, *before),
                number(*now),
                number(*before)
            ),
            Self::Mark([now, before]) => {
                format!("\"{now}\" is before the decimals, and it was \"{before}\"")
            }
            Self::Beyond(share) => format!(
                "{share} of 100 numbers are beyond all that there were; they may be in another unit, or in another column"
            ),
            Self::DaysBeyond(share) => format!(
                "{share} of 100 days lie outside the time in which they lay; day and month may be turned in these rows"
            ),
            Self::Decimals { had, more: [now, before] } => format!(
                "{now} of 100 numbers have more than {had} decimals, and {before} had; they may be in another unit"
            ),
            Self::Days([now, before]) => format!(
                "half of the days lie from {} to {}, and lay from {} to {}; day and month may be turned, or the column another one",
                day(now.0),
                day(now.1),
                day(before.0),
                day(before.1)
            ),
            Self::Shares(points) => format!(
                "in {points} of 100 records the value would have been another one last time; the codes may be others"
            ),
            Self::Cut { length, longest } => format!(
                "{longest} of 100 texts have just {length} characters, none has more, and many had; they may be cut"
            ),
            Self::Zeros([now, before]) => {
                format!("{now} of 100 values begin with 0, and {before} did; zeros may be lost")
            }
            Self::Letters([now, before]) => {
                format!("{now} of 100 texts have letters outside ASCII, and {before} had")
            }
        }
    }
}

/// "about 4.5 times as large", "about a tenth as large" as a share of a hundred.
fn times(now: i64, before: i64) -> String {
    let (now, before) = (i128::from(now).abs(), i128::from(before).abs());
    let Some(tenths) = (now * 10 + before / 2).checked_div(before) else { return "others".into() };
    match tenths {
        ..10 => {
            let share = percent(u64::try_from(now).unwrap_or(0), u64::try_from(before).unwrap_or(1));
            format!("about {share} hundredths of what they were")
        }
        tenths if tenths < 100 => format!("about {}.{} times as large", tenths / 10, tenths % 10),
        tenths => format!("about {} times as large", tenths / 10),
    }
}

/// Millionths as people write numbers.
fn number(millionths: i64) -> String {
    let sign = if millionths < 0 { "-" } else { "" };
    let digits = millionths.unsigned_abs();
    let part = format!("{:06}", digits % 1_000_000);
    let part = part.trim_end_matches('0');
    let point = if part.is_empty() { "" } else { "." };
    format!("{sign}{}{point}{part}", digits / 1_000_000)
}

/// A day of so many from the start of 1970.
fn day(days: i64) -> String {
    let span = jiff::Span::new().try_days(days);
    let day = span.ok().and_then(|span| jiff::civil::date(1970, 1, 1).checked_add(span).ok());
    day.map_or_else(|| "?".to_owned(), dusk_values::shown)
}
